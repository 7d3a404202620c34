"""Where each value of the brief's form stands in a brief file, there and back."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import motion.brief
from motion.brief.declare import Declared, declared_of
from motion.catalogue import PRINCIPLES, faults
from motion.exercises import EXERCISES

COMMON: dict[str, str] = {
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
    "takes": "terms.takes",
    "late": "terms.late",
    "own_checks": "terms.own_checks",
    "guide": "terms.guide",
    "guide_after": "terms.guide_after",
    "marked_by": "terms.marked_by",
    **{f"points_{p}": f"marking.points.{p}" for p in PRINCIPLES},
}
"""Form field to dotted key, for all that every exercise has and that are the same in both."""
SPAN = ("low", "high")
PARTED = ("span", "several")
"""Kinds of parameters that have several fields in the form."""


def weight_field(code: str) -> str:
    """The form field of a fault's weight."""
    return f"weight_{code.replace('.', '__')}"


def choice_field(name: str, value: str) -> str:
    """The form field of one of several values."""
    return f"{name}_{value}"


def parameters(exercise: str) -> Iterator[tuple[str, str, Declared, Any]]:
    """Form field, dotted key, declaration and default of what an exercise adds to a brief, in order."""
    asked, ideal = motion.brief.EXERCISES[exercise]
    for name, declared, default in declared_of(asked):
        yield name, f"{exercise}.{name}", declared, default
    for name, declared, default in declared_of(ideal):
        yield name, f"guide.{name}", declared, default


@lru_cache(maxsize=8)
def keys(exercise: str) -> dict[str, str]:
    """Form field to dotted key for a brief of an exercise, for all that are the same in both."""
    own = {name: key for name, key, declared, _ in parameters(exercise) if declared.kind not in PARTED}
    return {**COMMON, **own}


@lru_cache(maxsize=8)
def complaints(exercise: str) -> dict[str, str]:
    """Beside which field a complaint of the core about a key stands."""
    spans = {key: f"{name}_{SPAN[0]}" for name, key, declared, _ in parameters(exercise) if declared.kind == "span"}
    several = {
        key: choice_field(name, declared.choices[0][0])
        for name, key, declared, _ in parameters(exercise)
        if declared.kind == "several"
    }
    return {
        **{key: field for field, key in keys(exercise).items()},
        **{f"marking.weights.{code}": weight_field(code) for code in faults(exercise)},
        **spans,
        **several,
        "frames": "frames_min",
        "canvas": "canvas_width",
        "ground_y": "ground_y",
        "terms.late_cost": "late_cost",
    }


def to_file(exercise: str, values: dict[str, Any]) -> dict[str, Any]:
    """The brief file's object of a form's values. What could not be read as a value is left out."""
    file: dict[str, Any] = {"schema": motion.brief.SCHEMA, "exercise": exercise, exercise: {}}
    for field, key in keys(exercise).items():
        if field in values:
            _put(file, key, values[field])
    for pair in ("frames", "canvas"):
        if not any(v is not None for v in file.get(pair, {}).values()):
            file[pair] = None
    for name, key, declared, _ in parameters(exercise):
        if declared.kind == "span":
            ends = [values.get(f"{name}_{end}") for end in SPAN]
            _put(file, key, None if ends == [None, None] else ends)
        elif declared.kind == "several":
            _put(file, key, [one for one, _ in declared.choices if values.get(choice_field(name, one))])
    file["ground_y"] = values.get("ground_y") if values.get("ground_fixed") else None
    if values.get("late_cost") is not None:
        _put(file, "terms.late_cost", values["late_cost"] / 100)
    weights = {code: values.get(weight_field(code)) for code in faults(exercise)}
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
    exercise = core.exercise
    file = core.to_json()
    if core.guide is None:
        plain = motion.brief.Brief(asked=core.asked, guide=EXERCISES[exercise].guided.blank)
        file["guide"] = plain.to_json()["guide"]
    weights = dict(core.marking.weights)
    values = {field: _get(file, key) for field, key in keys(exercise).items()}
    for name, key, declared, _ in parameters(exercise):
        if declared.kind == "span":
            low, high = _get(file, key) or (None, None)
            values |= {f"{name}_{SPAN[0]}": low, f"{name}_{SPAN[1]}": high}
        elif declared.kind == "several":
            chosen = _get(file, key) or ()
            values |= {choice_field(name, one): one in chosen for one, _ in declared.choices}
    if core.ground_y is not None:
        values["ground_y"] = core.ground_y
    return {
        **values,
        "with_guide": core.guide is not None,
        "ground_fixed": core.ground_y is not None,
        "late_cost": round(100 * core.terms.late_cost, 4),
        **{weight_field(code): f"{weights.get(code, 1.0):g}" for code in faults(exercise)},
    }


def _get(file: dict[str, Any], key: str) -> Any:
    value: Any = file
    for part in key.split("."):
        value = value.get(part) if isinstance(value, dict) else None
    return value
