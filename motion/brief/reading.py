"""Reading a brief file: UTF-8 JSON, only ``schema`` and ``exercise`` needed, unknown keys refused by name."""

from __future__ import annotations

import json
from typing import Any

from motion.brief.fields import Fields, is_number
from motion.brief.model import (
    ENDS,
    EXPOSURES,
    FULL_POINTS,
    LATE,
    MARKED_BY,
    MATERIALS,
    SCHEMA,
    SHOWN,
    STARTS,
    STRICTNESS_SCALE,
    BounceBrief,
    Brief,
    Feel,
    Marking,
    Terms,
)
from motion.brief.upgrade import upgraded
from motion.errors import BriefError
from motion.findings import CODES, PRINCIPLES

MAX_FPS = 120
MAX_FRAMES = 2000
MAX_SIDE = 8192
MAX_TITLE, MAX_WORDS = 120, 4000
MAX_POINTS = 100
MAX_TICKS = 400


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
    exercise = fields.choice("exercise", ("bounce",), None)
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
        "bounce": _bounce(fields.inside("bounce")),
        "guide": _feel(fields.inside("guide")) if data.get("guide") is not None else None,
        "marking": _marking(fields.inside("marking")),
        "terms": _terms(fields.inside("terms")),
    }
    fields.refuse_unknown({"schema", "exercise", *values})
    if fields.problems:
        raise BriefError(fields.problems)
    return Brief(exercise=exercise, **values)


def _bounce(fields: Fields) -> BounceBrief:
    values = {
        "material": fields.choice("material", MATERIALS, "soft"),
        "hops": fields.whole("hops", 1, 200),
        "restitution": fields.span("restitution"),
        "diameter_m": fields.number("diameter_m", 0.001, 100.0, None),
    }
    fields.refuse_unknown(values)
    return BounceBrief(**values)


def _feel(fields: Fields) -> Feel:
    plain = Feel()
    values = {
        "diameter": fields.number("diameter", 8, 2000, plain.diameter),
        "height": fields.number("height", 1, MAX_SIDE, plain.height),
        "distance": fields.number("distance", -MAX_SIDE, MAX_SIDE, plain.distance),
        "start_x": fields.number("start_x", -MAX_SIDE, 2 * MAX_SIDE, None),
        "ground_y": fields.number("ground_y", 1, MAX_SIDE, plain.ground_y),
        "start": fields.choice("start", STARTS, plain.start),
        "end": fields.choice("end", ENDS, plain.end),
        "contacts": fields.whole("contacts", 1, 30) if "contacts" in fields.data else plain.contacts,
        "keeps": fields.number("keeps", 0.1, 1.0, plain.keeps),
        "hop_s": fields.number("hop_s", 0.1, 20.0, None) if "hop_s" in fields.data else plain.hop_s,
        "stretch": fields.number("stretch", 1.0, 2.0, plain.stretch),
        "squash": fields.number("squash", 1.0, 2.5, plain.squash),
        "hang": fields.whole("hang", 0, 12) or 0,
        "ticks": _ticks(fields),
    }
    fields.refuse_unknown(values)
    return Feel(**values)


def _ticks(fields: Fields) -> tuple[tuple[int, float], ...]:
    data = fields.data.get("ticks") or {}
    sound = isinstance(data, dict) and all(
        str(k).isascii() and str(k).isdecimal() and len(str(k)) < 6 and is_number(v) and 0 < v < 1
        for k, v in data.items()
    )
    if not sound or len(data) > MAX_TICKS:
        fields.wrong("ticks", "Give drawing numbers with their places between 0 and 1.")
        return ()
    return tuple(sorted((int(k), float(v)) for k, v in data.items()))


def _marking(fields: Fields) -> Marking:
    points = fields.numbers("points", PRINCIPLES, 0, MAX_POINTS)
    weights = fields.numbers("weights", tuple(CODES), 0, 3)
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
