"""Reading a brief file: UTF-8 JSON, only ``schema`` and ``exercise`` needed, unknown keys refused by name."""

from __future__ import annotations

import json
from typing import Any

from motion.brief import declare
from motion.brief.fields import Fields
from motion.brief.limits import MAX_FPS, MAX_FRAMES, MAX_POINTS, MAX_SIDE, MAX_TITLE, MAX_WORDS
from motion.brief.model import (
    EXERCISES,
    EXPOSURES,
    FULL_POINTS,
    LATE,
    MARKED_BY,
    SCHEMA,
    SHOWN,
    STRICTNESS_SCALE,
    Brief,
    Marking,
    Terms,
)
from motion.brief.upgrade import upgraded
from motion.catalogue import PRINCIPLES, faults
from motion.errors import BriefError


def parse(text: str | bytes) -> Brief:
    """Read a brief file. Raises BriefError for anything that is not a sound brief."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BriefError({"": f"The brief is not valid JSON ({error})."}) from error
    return from_json(data)


def from_json(data: object) -> Brief:
    """Validate the JSON object of a brief. Raises BriefError with every problem, by field."""
    if not isinstance(data, dict):
        raise BriefError({"": "A brief is a JSON object with the key “schema”."})
    return _from_fields(Fields(data))


def from_stored(data: object) -> Brief:
    """A brief that was taken once, by this version or an older one.

    Keys that are no longer known are passed over. Raises BriefError as ``upgraded`` does, and for a value that is none
    any more.
    """
    return _from_fields(Fields(upgraded(data), lenient=True))


def _from_fields(fields: Fields) -> Brief:
    data = fields.data
    if data.get("schema") != SCHEMA:
        fields.wrong("schema", f"This must be “{SCHEMA}”.")
    exercise = fields.choice("exercise", tuple(EXERCISES), None)
    if exercise is None:
        raise BriefError(fields.problems)
    asked, ideal = EXERCISES[exercise]
    values: dict[str, Any] = {
        "title": fields.text("title", MAX_TITLE),
        "words": fields.text("words", MAX_WORDS),
        "fps": fields.number("fps", 1.0, MAX_FPS, 24.0),
        "exposure": fields.choice("exposure", EXPOSURES, "free"),
        "frames": fields.pair("frames", ("min", "max"), 1, MAX_FRAMES, ordered=True),
        "loop": fields.flag("loop"),
        "canvas": fields.pair("canvas", ("width", "height"), 16, MAX_SIDE, ordered=False),
        "strictness": fields.choice("strictness", tuple(STRICTNESS_SCALE), "standard"),
        "ground_y": fields.number("ground_y", 0.0, MAX_SIDE, None),
        "asked": declare.read(asked, fields.inside(exercise)),
        "guide": declare.read(ideal, fields.inside("guide")) if data.get("guide") is not None else None,
        "marking": _marking(fields.inside("marking"), exercise),
        "terms": _terms(fields.inside("terms")),
    }
    for key, sentence in values["asked"].contradictions().items():
        fields.wrong(f"{exercise}.{key}", sentence)
    fields.refuse_unknown({"schema", "exercise", exercise, *values} - {"asked"})
    if fields.problems:
        raise BriefError(fields.problems)
    return Brief(**values)


def _marking(fields: Fields, exercise: str) -> Marking:
    points = fields.numbers("points", PRINCIPLES, 0, MAX_POINTS)
    weights = fields.numbers("weights", tuple(faults(exercise)), 0, 3)
    fields.refuse_unknown(("points", "weights"))
    whole = {p: points.get(p, 0.0) for p in PRINCIPLES} if points else dict.fromkeys(PRINCIPLES, FULL_POINTS)
    return Marking(points=tuple(whole.items()), weights=tuple((k, v) for k, v in weights.items() if v != 1))


def _terms(fields: Fields) -> Terms:
    plain = Terms()
    own = fields.whole("own_checks", 0, 99) if "own_checks" in fields.data else plain.own_checks
    values: dict[str, Any] = {
        "takes": fields.whole("takes", 1, 99),
        "late": fields.choice("late", LATE, plain.late),
        "late_cost": fields.number("late_cost", 0.0, 1.0, plain.late_cost),
        "own_checks": own,
        "guide": fields.choice("guide", SHOWN, plain.guide),
        "guide_after": fields.choice("guide_after", SHOWN, plain.guide_after),
        "marked_by": fields.choice("marked_by", MARKED_BY, plain.marked_by),
    }
    fields.refuse_unknown(values)
    return Terms(**values)
