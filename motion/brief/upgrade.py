"""Briefs that an installation stored itself: read for ever, whatever version wrote them.

What comes from outside is read strictly. What was once taken is brought up to the present schema step by step; each
step is a pure function that stays as it is, and what the present schema no longer knows is passed over.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from motion.brief.model import SCHEMA
from motion.errors import BriefError

Document = dict[str, Any]
Step = Callable[[Document], Document]
STEPS: dict[str, Step] = {}
"""For each older schema, what makes a document of the next one out of one of it, the name of the next included."""


def upgraded(document: object, steps: Mapping[str, Step] = STEPS) -> Document:
    """A stored brief in the present schema; the document given stays as it is.

    Raises BriefError for what is no brief, or one of a schema that is not known here: a newer version wrote it.
    """
    if not isinstance(document, dict):
        raise BriefError({"": "A brief is a JSON object with the key “schema”."})
    told: Document = dict(document)
    for _ in range(len(steps) + 1):
        schema = told.get("schema")
        if schema == SCHEMA:
            return told
        if not isinstance(schema, str) or schema not in steps:
            break
        told = steps[schema](dict(told))
    raise BriefError(
        {"schema": f"This brief is written as “{told.get('schema')}”, which this version cannot read yet."}
    )
