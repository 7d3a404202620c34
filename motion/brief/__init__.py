"""The brief of an exercise: what moves, how it should feel, and how strictly it is looked at.

* ``model``: what a brief says;
* ``reading``: the file format ``nettlecap.brief/1``, validated;
* ``upgrade``: what was stored by older versions;
* ``fields``: taking values out of JSON with complaints that name the field.
"""

from motion.brief.model import CANVAS, SCHEMA, BounceBrief, Brief, Exposure, Feel, Marking, Material, Strictness, Terms
from motion.brief.reading import from_json, from_stored, parse

__all__ = [
    "CANVAS",
    "SCHEMA",
    "BounceBrief",
    "Brief",
    "Exposure",
    "Feel",
    "Marking",
    "Material",
    "Strictness",
    "Terms",
    "from_json",
    "from_stored",
    "parse",
]
