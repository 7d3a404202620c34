"""Plants a fault in the plan of any exercise, by the exercise's own generator."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any, cast

import numpy as np

from motion.plan import Plan
from motion.synth.bounce import faults as bounce
from motion.synth.pendulum import faults as pendulum
from motion.synth.walk import faults as walk

BY_EXERCISE: dict[str, Mapping[str, Callable[[Any, np.random.Generator, float], Any]]] = {
    "bounce": bounce.FAULTS,
    "pendulum": pendulum.FAULTS,
    "walk": walk.FAULTS,
}


def codes(exercise: str) -> tuple[str, ...]:
    """The faults that can be planted; those that only a brief asks for are not among them."""
    return tuple(BY_EXERCISE[exercise])


def put(exercise: str, plan: Plan, index: int, x: float, y: float) -> Plan | None:
    """The plan with what moves put at ``x``, ``y`` px in one drawing (from 0); None where it is no single shape."""
    own = cast("Any", plan.poses[index])
    if exercise == "walk" or (exercise == "pendulum" and own.joints):
        return None
    there = replace(own, x=x, y=y)
    if exercise == "pendulum":
        there = replace(there, hangs_at=math.degrees(math.atan2(x - own.top[0], y - own.top[1])))
    poses = tuple(there if i == index else pose for i, pose in enumerate(plan.poses))
    changed: Plan = replace(cast("Any", plan), poses=poses)
    return changed


def planted(exercise: str, code: str, plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The plan with a fault at so many times its tolerance; None where it has no room for it."""
    told = BY_EXERCISE[exercise][code](plan, rng, times)
    wrong: Plan | None = told[0] if isinstance(told, tuple) else told
    return wrong
