"""The brief of an exercise: what moves, how it should feel, and how strictly it is looked at.

* ``model``: what a brief says; ``bounce``, ``pendulum``, ``walk``: what each exercise adds to it;
* ``declare``: parameters declared once, for file, form, documents and editor;
* ``reading``: the file format ``nettlecap.brief/1``, validated;
* ``upgrade``: what was stored by older versions;
* ``fields``: taking values out of JSON with complaints that name the field.
"""

from motion.brief.bounce import BounceBrief, Feel, Material
from motion.brief.model import CANVAS, EXERCISES, SCHEMA, Asked, Brief, Exposure, Ideal, Marking, Strictness, Terms
from motion.brief.pendulum import PendulumBrief, Swing
from motion.brief.reading import from_json, from_stored, parse
from motion.brief.walk import Stride, WalkBrief

__all__ = [
    "CANVAS",
    "EXERCISES",
    "SCHEMA",
    "Asked",
    "BounceBrief",
    "Brief",
    "Exposure",
    "Feel",
    "Ideal",
    "Marking",
    "Material",
    "PendulumBrief",
    "Strictness",
    "Stride",
    "Swing",
    "Terms",
    "WalkBrief",
    "from_json",
    "from_stored",
    "parse",
]
