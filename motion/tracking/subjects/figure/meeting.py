"""Where a hip lies by all that leads to it: the trunk's middle line, the thighs', and how far it is from the knees.

Each of them may be wrong in a drawing, where something else lies over it or where that is the student's fault. So they
are weighed against each other, and what lies far off counts little: iterated least squares with Geman and McClure's
weights.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from motion.tracking.subjects.figure.poses import Build

Place = tuple[float, float]
BESIDE_PX, ALONG = 1.8, 0.03
"""A trunk tells to so many px where the hip is beside its line, and to so much of the leg where it is along it."""
LINE_PX, LENGTH = 0.9, 0.012
"""Thighs tell to so many px where it is beside their lines, and to so much of the leg how far from their knees."""
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
    at = np.array(guess)
    for _ in range(ROUNDS):
        told = lines
        if knees:
            away = at - np.array(knees)
            far = np.maximum(1e-6, np.hypot(away[:, 0], away[:, 1]))
            ways = away / far[:, None]
            # To first order: as far from the knee, along the way there, as a thigh is long.
            reach = np.sum(ways * np.array(knees), axis=1) + build.thigh
            circles = np.column_stack([ways, reach, np.full(len(knees), LENGTH * build.leg)])
            told = np.concatenate([lines, circles])
        off = (told[:, :2] @ at - told[:, 2]) / told[:, 3]
        weights = 1 / (1 + (off / 2.5) ** 2) ** 2 / told[:, 3] ** 2
        normal = (weights[:, None] * told[:, :2]).T @ told[:, :2] + 1e-9 * np.eye(2)
        new = np.linalg.solve(normal, told[:, :2].T @ (weights * told[:, 2]))
        moved = math.dist(new, at)
        at = new
        if moved < SETTLED:
            break
    return float(at[0]), float(at[1])
