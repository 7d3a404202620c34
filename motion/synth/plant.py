"""Plants a fault in the plan of any exercise, by the exercise's own generator."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

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


def planted(exercise: str, code: str, plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The plan with a fault at so many times its tolerance; None where it has no room for it."""
    told = BY_EXERCISE[exercise][code](plan, rng, times)
    wrong: Plan | None = told[0] if isinstance(told, tuple) else told
    return wrong
