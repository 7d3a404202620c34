"""Outlines of the shapes that limbs, links and tails are drawn as: corners of polygons, px."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Outline = NDArray[np.float64]
"""(n, 2) corners of a polygon, x and y in px."""
Place = tuple[float, float]

CORNERS = 20
"""Of a round end."""


def capsule(one: Place, other: Place, wide: float, narrow: float | None = None) -> Outline:
    """A straight part with round ends, so wide at its first end and as wide, or narrower, at its other."""
    ends = wide / 2, (wide if narrow is None else narrow) / 2
    turn = math.atan2(other[1] - one[1], other[0] - one[0])
    half = np.linspace(0.5 * math.pi, 1.5 * math.pi, CORNERS)
    first = [(one[0] + ends[0] * math.cos(turn + a), one[1] + ends[0] * math.sin(turn + a)) for a in half]
    last = [
        (other[0] + ends[1] * math.cos(turn + a + math.pi), other[1] + ends[1] * math.sin(turn + a + math.pi))
        for a in half
    ]
    return np.array([*first, *last])


def ribbon(points: Sequence[Place], wide: float, thin: float) -> Outline:
    """A bending part along a middle line, with round ends, that grows evenly from ``wide`` to ``thin``."""
    along = np.asarray(points, dtype=np.float64)
    halves = np.linspace(wide, thin, len(along)) / 2
    ways = np.gradient(along, axis=0)
    ways /= np.maximum(np.hypot(ways[:, 0], ways[:, 1]), 1e-9)[:, None]
    across = np.stack([-ways[:, 1], ways[:, 0]], axis=1) * halves[:, None]
    return np.concatenate(
        [
            along + across,
            _end(along[-1], ways[-1], halves[-1]),
            (along - across)[::-1],
            _end(along[0], -ways[0], halves[0]),
        ]
    )


def _end(at: NDArray[np.float64], way: NDArray[np.float64], half: float) -> Outline:
    """The half round at an end towards which ``way`` leads, from its left side to its right."""
    turns = math.atan2(way[1], way[0]) + np.linspace(0.5 * math.pi, -0.5 * math.pi, CORNERS)
    return np.asarray(at + half * np.stack([np.cos(turns), np.sin(turns)], axis=1))
