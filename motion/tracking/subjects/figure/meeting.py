"""Where a hip lies by all that leads to it: the trunk's middle line, the thighs', and how far it is from the knees.

Each of them may be wrong in a drawing, where something else lies over it or where that is the student's fault. So they
are weighed against each other, and what lies far off counts little: iterated least squares with Geman and McClure's
weights.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.poses import Build

Place = tuple[float, float]
Floats = NDArray[np.float64]
BESIDE_PX, ALONG = 1.8, 0.03
"""A trunk tells to so many px where the hip is beside its line, and to so much of the leg where it is along it."""
LINE_PX, LENGTH = 0.9, 0.012
"""Thighs tell to so many px where it is beside their lines, and to so much of the leg how far from their knees."""
STRAY, CROSS = 2.5, 0.2
"""What lies off by so many times that counts little; lines cross that turn by so much (sine)."""
ROUNDS, SETTLED = 15, 0.02


def meeting(
    guess: Place,
    axis: Place,
    thighs: Sequence[tuple[float, float, float, float]],
    knees: Sequence[Place],
    build: Build,
) -> Place:
    """The hip, px. ``guess`` is the trunk's lower end and ``axis`` its direction; ``thighs`` are points and directions.

    The lines of thighs and the ``knees`` are those that show.
    """
    rows: list[tuple[float, float, float, float]] = [
        (-axis[1], axis[0], -axis[1] * guess[0] + axis[0] * guess[1], BESIDE_PX),
        (axis[0], axis[1], axis[0] * guess[0] + axis[1] * guess[1], ALONG * build.leg),
        *((-dy, dx, -dy * x + dx * y, LINE_PX) for x, y, dx, dy in thighs),
    ]
    lines = np.array(rows)
    starts = [np.array(guess)]
    if len(thighs) == 2:
        crossing, turn = _least(lines[2:], np.ones(2)), abs(float(np.linalg.det(lines[2:, :2])))
        starts += [crossing] if turn > CROSS else []
    found = [_settled(start, lines, np.array(knees).reshape(-1, 2), build) for start in starts]
    at, _ = min(found, key=lambda one: one[1])
    return float(at[0]), float(at[1])


def _settled(at: Floats, lines: Floats, knees: Floats, build: Build) -> tuple[Floats, float]:
    """Where it settles from a place on, and how far off all is there."""
    for _ in range(ROUNDS):
        told = _told(at, lines, knees, build)
        new = _least(told, _weights(at, told))
        moved = float(np.hypot(*(new - at)))
        at = new
        if moved < SETTLED:
            break
    told = _told(at, lines, knees, build)
    off = _off(at, told) ** 2
    return at, float(np.sum(off / (1 + off)))


def _told(at: Floats, lines: Floats, knees: Floats, build: Build) -> Floats:
    """(n, 4) directions, how far along them, and to how many px that is told: lines, and to first order circles."""
    if not len(knees):
        return lines
    away = at - knees
    ways = away / np.maximum(1e-6, np.hypot(away[:, 0], away[:, 1]))[:, None]
    # As far from the knee, along the way there, as a thigh is long.
    reach = np.sum(ways * knees, axis=1) + build.thigh
    circles = np.column_stack([ways, reach, np.full(len(knees), LENGTH * build.leg)])
    return np.concatenate([lines, circles])


def _off(at: Floats, told: Floats) -> Floats:
    return np.asarray((told[:, :2] @ at - told[:, 2]) / told[:, 3] / STRAY)


def _weights(at: Floats, told: Floats) -> Floats:
    return np.asarray(1 / (1 + _off(at, told) ** 2) ** 2 / told[:, 3] ** 2)


def _least(told: Floats, weights: Floats) -> Floats:
    normal = (weights[:, None] * told[:, :2]).T @ told[:, :2] + 1e-9 * np.eye(2)
    return np.asarray(np.linalg.solve(normal, told[:, :2].T @ (weights * told[:, 2])))
