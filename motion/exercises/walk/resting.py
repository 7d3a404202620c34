"""Standing starts and stops: which steps of a walk lead out of rest, or into it, and are not judged as steps."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from motion.exercises.walk.steps import Pace, Step

AT_REST = 0.3
"""In place the figure stands still where its hips and feet go by less than such a share of its usual pace."""
SETS_OUT, LOOKED_AT = 0.45, 4
"""Across, it sets out where its hips go by less than such a share of it in the first drawings; so it comes to rest."""
HALF_STEP = 0.75
"""A step that is shorter than such a share of the usual one leads out of standing, or draws the other foot up."""


def without_rests(
    paces: Sequence[Pace], steps: Sequence[Step], facing: float, speed: float, *, across: bool
) -> tuple[Pace, ...]:
    """The steps, those out of rest and into it marked as not judged."""
    found = list(paces)
    rests = _sets_out if across else _stands
    for own, order in ((steps, found), (steps[::-1], found[::-1])):
        if not rests(own, facing, speed):
            continue
        for number in {pace.number for pace in order[: 1 + _is_half(order)]}:
            found[number - 1] = replace(found[number - 1], judged=False)
    return tuple(found)


def _is_half(paces: Sequence[Pace]) -> bool:
    """Whether the first of some steps is a short one, by which the pace has not been reached yet."""
    lengths = [p.length for p in paces if p.length is not None]
    if not paces or paces[0].length is None or len(lengths) < 3:
        return False
    return paces[0].length < HALF_STEP * float(np.median(lengths))


def _sets_out(steps: Sequence[Step], facing: float, speed: float) -> bool:
    """Whether the hips hardly go across at first."""
    hips = [(s.clock, at[0]) for s in steps[:LOOKED_AT] if (at := s.at("hip")) is not None]
    if len(hips) < 2 or hips[-1][0] == hips[0][0]:
        return False
    return facing * (hips[-1][1] - hips[0][1]) / (hips[-1][0] - hips[0][0]) < SETS_OUT * speed


def _stands(steps: Sequence[Step], facing: float, speed: float) -> bool:
    """Whether neither hips nor feet go at anything like the walk's pace at first; both feet must show."""
    moves: dict[str, list[float]] = {"hip": [], "ankle_near": [], "ankle_far": []}
    for one, other in itertools.pairwise(steps[:3]):
        for name, own in moves.items():
            a, b = one.at(name), other.at(name)
            if a and b and other.clock != one.clock:
                own.append(abs((b[0] - a[0]) / (other.clock - one.clock)))
    feet = moves["ankle_near"] and moves["ankle_far"]
    return bool(feet) and max(v for own in moves.values() for v in own) < AT_REST * speed
