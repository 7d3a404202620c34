"""Where each value of the brief's form stands in a brief file, there and back."""

from __future__ import annotations

from typing import Any

import motion.brief
from motion.findings import CODES, PRINCIPLES

FEEL = (
    "diameter",
    "height",
    "distance",
    "start_x",
    "start",
    "end",
    "contacts",
    "keeps",
    "hop_s",
    "stretch",
    "squash",
    "hang",
    "ticks",
)


def weight_field(code: str) -> str:
    """The form field of a fault's weight."""
    return f"weight_{code.replace('.', '__')}"


KEYS: dict[str, str] = {
    "title": "title",
    "words": "words",
    "fps": "fps",
    "exposure": "exposure",
    "frames_min": "frames.min",
    "frames_max": "frames.max",
    "loop": "loop",
    "canvas_width": "canvas.width",
    "canvas_height": "canvas.height",
    "strictness": "strictness",
    "material": "bounce.material",
    "hops": "bounce.hops",
    "diameter_m": "bounce.diameter_m",
    "takes": "terms.takes",
    "late": "terms.late",
    "own_checks": "terms.own_checks",
    "guide": "terms.guide",
    "guide_after": "terms.guide_after",
    "marked_by": "terms.marked_by",
    "ground": "guide.ground_y",
    **{name: f"guide.{name}" for name in FEEL},
    **{f"points_{p}": f"marking.points.{p}" for p in PRINCIPLES},
}
"""Form field to dotted key, for all that are the same in both."""

COMPLAINTS: dict[str, str] = {
    **{key: field for field, key in KEYS.items()},
    **{f"marking.weights.{code}": weight_field(code) for code in CODES},
    "frames": "frames_min",
    "canvas": "canvas_width",
    "ground_y": "ground",
    "bounce.restitution": "restitution_low",
    "terms.late_cost": "late_cost",
}
"""Beside which field a complaint of the core about a key stands."""


def to_file(values: dict[str, Any]) -> dict[str, Any]:
    """The brief file's object of a form's values. What could not be read as a value is left out."""
    file: dict[str, Any] = {"schema": motion.brief.SCHEMA, "exercise": "bounce"}
    for field, key in KEYS.items():
        if field in values:
            _put(file, key, values[field])
    for pair in ("frames", "canvas"):
        if not any(v is not None for v in file.get(pair, {}).values()):
            file[pair] = None
    low, high = values.get("restitution_low"), values.get("restitution_high")
    file.setdefault("bounce", {})["restitution"] = None if low is None and high is None else [low, high]
    file["ground_y"] = values.get("ground") if values.get("ground_fixed") else None
    if values.get("late_cost") is not None:
        _put(file, "terms.late_cost", values["late_cost"] / 100)
    weights = {code: values.get(weight_field(code)) for code in CODES}
    file.setdefault("marking", {})["weights"] = {
        code: float(w) for code, w in weights.items() if w not in (None, "", "1")
    }
    if not values.get("with_guide"):
        file["guide"] = None
    return file


def _put(file: dict[str, Any], key: str, value: Any) -> None:
    *path, last = key.split(".")
    for part in path:
        file = file.setdefault(part, {})
    file[last] = value


def from_core(core: motion.brief.Brief) -> dict[str, Any]:
    """The form's values for a brief."""
    file = core.to_json()
    plain = motion.brief.Feel()
    if core.guide is None:
        file["guide"] = {name: getattr(plain, name) for name in (*FEEL, "ground_y")} | {"ticks": {}}
    low, high = core.bounce.restitution or (None, None)
    weights = dict(core.marking.weights)
    return {
        **{field: _get(file, key) for field, key in KEYS.items()},
        "with_guide": core.guide is not None,
        "ground": core.ground_y if core.ground_y is not None else _get(file, "guide.ground_y"),
        "ground_fixed": core.ground_y is not None,
        "restitution_low": low,
        "restitution_high": high,
        "late_cost": round(100 * core.terms.late_cost, 4),
        **{weight_field(code): f"{weights.get(code, 1.0):g}" for code in CODES},
    }


def _get(file: dict[str, Any], key: str) -> Any:
    value: Any = file
    for part in key.split("."):
        value = value.get(part) if isinstance(value, dict) else None
    return value
