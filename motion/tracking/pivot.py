"""The point around which something swings: by the circle of its places, and by where its lines cross."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.line import Found

Place = tuple[float, float]
Values = NDArray[np.float64]
TRIED = 200
ROUNDS = 12
NEAR_PX, NEAR = 2.5, 0.015
"""A place lies on a circle that passes so near: px, or a share of how far the places reach."""
LEAST_APART = 0.05
"""Lines whose directions (radians) hardly differ tell no crossing."""


def of_places(places: Sequence[Place], size: float) -> tuple[float, float, float] | None:
    """The circle (x, y, radius) on which most places lie, its middle above them; None where they make no arc.

    Circles through three places far apart are tried, the one with most others on it is fitted to those.
    """
    points = np.array(places, dtype=np.float64)
    if len(points) < 4:
        return None
    chance = np.random.default_rng(0)
    tries = itertools.combinations(range(len(points)), 3) if len(points) <= 11 else _some(len(points), chance)
    best, most = None, 0.0
    for three in tries:
        circle = _through(points[list(three)])
        if circle is None or not _plausible(circle, points, size):
            continue
        apart = np.abs(np.hypot(points[:, 0] - circle[0], points[:, 1] - circle[1]) - circle[2])
        # By the reach of the places and not by the radius, or a giant's circle would pass near all of them.
        allowed = max(NEAR_PX, NEAR * float(np.ptp(points, axis=0).max()))
        score = float(np.clip(1 - (apart / allowed) ** 2, 0, None).sum())
        if score > most:
            best, most = circle, score
    if best is None:
        return None
    fitted = _fitted(points, best)
    return fitted if _plausible(fitted, points, size) else best


def _some(count: int, chance: np.random.Generator) -> list[tuple[int, ...]]:
    return [tuple(sorted(chance.choice(count, 3, replace=False).tolist())) for _ in range(TRIED)]


def _plausible(circle: tuple[float, float, float], points: Values, size: float) -> bool:
    """Whether it hangs: its middle above most places, the line longer than half of the weight and no giant's."""
    reach = float(np.ptp(points, axis=0).max())
    return bool(circle[1] < np.median(points[:, 1]) and 0.5 * size < circle[2] < 12 * max(reach, size))


def _through(three: Values) -> tuple[float, float, float] | None:
    (ax, ay), (bx, by), (cx, cy) = three
    twice = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    if abs(twice) < 1e-6:
        return None
    a, b, c = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    x = (a * (by - cy) + b * (cy - ay) + c * (ay - by)) / twice
    y = (a * (cx - bx) + b * (ax - cx) + c * (bx - ax)) / twice
    return float(x), float(y), float(math.hypot(ax - x, ay - y))


def _fitted(points: Values, circle: tuple[float, float, float]) -> tuple[float, float, float]:
    """The circle through places by least squares (Gauss and Newton), those that lie apart weighing less."""
    x, y, r = circle
    for _ in range(ROUNDS):
        away = np.hypot(points[:, 0] - x, points[:, 1] - y)
        off = away - r
        scale = max(0.3, 1.5 * float(np.median(np.abs(off))))
        weight = 1 / (1 + (off / scale) ** 2)
        slopes = np.stack([(x - points[:, 0]) / away, (y - points[:, 1]) / away, -np.ones_like(away)], axis=1)
        step, *_ = np.linalg.lstsq(slopes * weight[:, None], -off * weight, rcond=None)
        x, y, r = x + float(step[0]), y + float(step[1]), r + float(step[2])
    return x, y, r


def of_lines(lines: Sequence[Found]) -> Place | None:
    """Where most lines cross, px; None where they are too few, or all go the same way."""
    if len(lines) < 3:
        return None
    turns = np.array([math.atan2(line.dy, line.dx) for line in lines])
    if np.ptp(np.unwrap(turns)) < LEAST_APART:
        return None
    normals = np.array([(-line.dy, line.dx) for line in lines])
    offsets = np.array([-line.dy * line.x + line.dx * line.y for line in lines])
    weights = np.array([line.seen for line in lines])
    found = np.zeros(2)
    for _ in range(ROUNDS):
        found = np.linalg.lstsq(normals * weights[:, None], offsets * weights, rcond=None)[0]
        apart = np.abs(normals @ found - offsets)
        scale = max(0.3, 1.5 * float(np.median(apart)))
        weights = np.array([line.seen for line in lines]) / (1 + (apart / scale) ** 2)
    return float(found[0]), float(found[1])
