"""Plants a fault in the plan of any exercise, by the exercise's own generator."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, cast

import numpy as np

from motion.plan import Plan
from motion.synth.bounce import drilled as drilled_bounce
from motion.synth.bounce import faults as bounce
from motion.synth.pendulum import drilled as drilled_pendulum
from motion.synth.pendulum import faults as pendulum
from motion.synth.walk import drilled as drilled_walk
from motion.synth.walk import faults as walk

BY_EXERCISE: dict[str, Mapping[str, Callable[[Any, np.random.Generator, float], Any]]] = {
    "bounce": bounce.FAULTS,
    "pendulum": pendulum.FAULTS,
    "walk": walk.FAULTS,
}
DRILLED: dict[str, Any] = {"bounce": drilled_bounce, "pendulum": drilled_pendulum, "walk": drilled_walk}


def codes(exercise: str) -> tuple[str, ...]:
    """The faults that can be planted; those that only a brief asks for are not among them."""
    return tuple(BY_EXERCISE[exercise])


def drilled(exercise: str) -> tuple[str, ...]:
    """The faults that a drill can ask about: those for which some motion to start from has room."""
    return tuple(code for code in codes(exercise) if code not in DRILLED[exercise].NO_ROOM)


def left_out(exercise: str) -> tuple[str, ...]:
    """The motions to start from, by key, that drills do not show."""
    keys: tuple[str, ...] = DRILLED[exercise].LEFT_OUT
    return keys


def unfit(exercise: str) -> tuple[str, ...]:
    """Looks in which pictures seldom tell all of a motion of that exercise."""
    looks: tuple[str, ...] = DRILLED[exercise].UNFIT
    return looks


def one_shape(exercise: str) -> bool:
    """Whether what moves in an exercise may be a single shape, which can be put elsewhere."""
    shaped: bool = DRILLED[exercise].ONE_SHAPE
    return shaped


def put(exercise: str, plan: Plan, index: int, x: float, y: float) -> Plan | None:
    """The plan with what moves put at ``x``, ``y`` px in one drawing (from 0); None where it is no single shape."""
    changed: Plan | None = DRILLED[exercise].put(cast("Any", plan), index, x, y)
    return changed


def planted(exercise: str, code: str, plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The plan with a fault at so many times its tolerance; None where it has no room for it."""
    told = BY_EXERCISE[exercise][code](plan, rng, times)
    wrong: Plan | None = told[0] if isinstance(told, tuple) else told
    return wrong
