"""Briefs that an installation stored itself: brought up to the present schema, whatever version wrote them.

What the present schema no longer knows is passed over.
"""

from __future__ import annotations

from collections.abc import Mapping

from motion.brief.model import SCHEMA
from motion.errors import BriefError, NewerDocument
from motion.stored import Document, Schema, Step

STEPS: dict[str, Step] = {}
"""For each older schema, what makes a document of the next one out of one of it, the name of the next included."""


def upgraded(document: object, steps: Mapping[str, Step] = STEPS) -> Document:
    """A stored brief in the present schema; the document given stays as it is.

    Raises BriefError for what is no brief, or one of a schema that is not known here: a newer version wrote it.
    """
    if not isinstance(document, dict):
        raise BriefError({"": "A brief is a JSON object with the key “schema”."})
    try:
        return Schema(name=SCHEMA, steps=steps).read(document)
    except NewerDocument as error:
        raise BriefError({"schema": str(error)}) from None
