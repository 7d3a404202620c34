"""How far body or trunk leans."""

from __future__ import annotations

import math

from motion.exercises.walk.steps import Step

LONG = 0.88
"""A body leans one way or the other where it is so much narrower than long."""


def lean_of(step: Step, facing: float) -> float | None:
    """How far forward the trunk of a drawing leans, or its body's long axis, degrees; None where that does not show."""
    hip, neck, body = step.at("hip"), step.at("neck"), step.body
    if hip is not None and neck is not None and hip != neck:
        return math.degrees(math.atan2(facing * (neck[0] - hip[0]), hip[1] - neck[1]))
    if body is None or body.clipped or body.minor > LONG * body.major or (step.figure and "neck" in step.figure.points):
        return None
    return facing * ((90.0 - body.angle + 90.0) % 180.0 - 90.0)
