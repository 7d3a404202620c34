"""The sole of a foot in its outline: the straight part that looks away from the shin, and where it bends up."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

Place = tuple[float, float]
FEWEST = 8
"""No sole is told from fewer points of an outline."""
ONE_EDGE, BENT_EDGE = math.radians(9.0), (math.radians(13.0), math.radians(18.0))
"""Edges of the outline's hull that turn by less are one: a round end bends the sole's own no further. Where that is not
as long as a sole, and these come nearer to it, they are it: a shaky line, or a ground over its lower edge, broke it."""
AS_LONG = 0.07
"""As long as a sole is what differs from it by no more than such a share."""
LEAVES_PX = 0.75
"""A sole has bent up where its outline lies so far off it."""
DRAWN, MOSTLY_DRAWN, HOLLOW = 0.75, 0.5, 0.08
"""An outline runs along so much of a sole that is broken; and along so much of any, if that may be hollow by so much of
its length."""
ENDS_BEND, OFF_SOLE_PX = 0.12, 1.5
"""A sole's line is laid through its outline but for such a share at either end, where that may bend up, and through
nothing that lies so far off it."""
DOWNWARD = 0.25
"""The sole looks away from the shin: the cosine between both is at least this."""


def sole_in(points: NDArray[np.float64], way: NDArray[np.float64], usual: float) -> tuple[Place, Place] | None:
    """The ends of the longest straight part of the outline's hull that looks away from the shin.

    Straight is what turns least, and as much as gives a sole of the ``usual`` length, px.
    """
    hull = cv2.convexHull(points.astype(np.float32), clockwise=True)[:, 0].astype(np.float64)
    if len(hull) < 3:
        return None
    middle, faces = hull.mean(axis=0), _away_from_shin(hull, way)
    if not len(faces):
        return None

    def laid(bend: float) -> tuple[Place, Place]:
        first, last = _longest(hull, faces, bend)
        return _ends(points, hull[first], hull[last], middle)

    def off(sole: tuple[Place, Place]) -> float:
        return abs(math.dist(*sole) / usual - 1)

    sole = laid(ONE_EDGE)
    # A hull also spans what lies between a foot and something else. Soles may be hollow, but no such span is one.
    may_be = [sole] if _drawn(points, sole, middle, HOLLOW * math.dist(*sole)) >= MOSTLY_DRAWN else []
    if not may_be or off(sole) > AS_LONG:
        may_be += [own for bend in BENT_EDGE if _drawn(points, own := laid(bend), middle, 0.0) >= DRAWN]
    return min(may_be, key=off, default=None)


def _drawn(
    points: NDArray[np.float64], sole: tuple[Place, Place], within: NDArray[np.float64], hollow_px: float
) -> float:
    """Along which share of a sole an outline runs, which may be hollow by so many px."""
    start, length = np.array(sole[0]), max(1e-6, math.dist(*sole))
    along, high = _seen_from(points, start, (np.array(sole[1]) - start) / length, within)
    near = along[(high < max(OFF_SOLE_PX, hollow_px)) & (along > 0) & (along < length)]
    return len(np.unique(near.astype(np.intp))) / length


def _away_from_shin(hull: NDArray[np.float64], way: NDArray[np.float64]) -> NDArray[np.intp]:
    """Which edges of a hull look the way that the shin goes."""
    edges = _edges(hull)
    lengths = np.hypot(edges[:, 0], edges[:, 1])
    outward = np.stack([edges[:, 1], -edges[:, 0]], axis=1)
    sign = np.sign(np.sum(outward * (hull + edges / 2 - hull.mean(axis=0)), axis=1))
    outward = outward * sign[:, None] / np.maximum(lengths, 1e-9)[:, None]
    return np.flatnonzero((outward @ way >= DOWNWARD) & (lengths >= 1.0))


def _edges(hull: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 2) from each corner of a hull to the next."""
    return np.concatenate([hull[1:], hull[:1]]) - hull


def _longest(hull: NDArray[np.float64], faces: NDArray[np.intp], bend: float) -> tuple[int, int]:
    """The corners between which the longest straight part of a hull lies that has one of some ``faces`` in it.

    Straight are edges next to each other, all within so small a ``bend`` (radians) of that face's direction.
    """
    edges, count = _edges(hull), len(hull)
    lengths, angles = np.hypot(edges[:, 0], edges[:, 1]), np.arctan2(edges[:, 1], edges[:, 0])
    # (faces, edges) each hull as it goes on from a face.
    around = (faces[:, None] + np.arange(count)) % count
    turned = np.abs((angles[around] - angles[faces][:, None] + math.pi) % (2 * math.pi) - math.pi)
    alike = turned < bend
    onwards = np.logical_and.accumulate(alike, axis=1)
    backwards = np.logical_and.accumulate(alike[:, ::-1], axis=1)[:, ::-1] & ~onwards
    best = int(np.sum(lengths[around] * (onwards | backwards), axis=1).argmax())
    first = int(faces[best]) - int(np.count_nonzero(backwards[best]))
    last = int(faces[best]) + int(np.count_nonzero(onwards[best]))
    return first % count, last % count


def _ends(
    points: NDArray[np.float64], one: NDArray[np.float64], other: NDArray[np.float64], within: NDArray[np.float64]
) -> tuple[Place, Place]:
    """Where a straight sole, roughly from one place to another, begins to bend up at either end.

    A round end leaves the sole by a height that grows with the square of the way from there: from how far the outline
    reaches at one height, and at four times that, the place follows, for a corner as well.
    """
    length = max(1e-6, float(np.hypot(*(other - one))))
    way = (other - one) / length
    along, high = _seen_from(points, one, way, within)
    inner = (along > ENDS_BEND * length) & (along < (1 - ENDS_BEND) * length) & (high < OFF_SOLE_PX)
    if np.count_nonzero(inner) >= FEWEST:
        slope, start = _line_through(along[inner], high[inner])
        up = _upwards(one, way, within)
        one, way = one + start * up, (way + slope * up) / math.hypot(1.0, slope)
        along, high = _seen_from(points, one, way, within)
    reaches = [np.concatenate([along[high < h], [0.0]]) for h in (LEAVES_PX, 4 * LEAVES_PX)]
    first = 2 * float(reaches[0].min()) - float(reaches[1].min())
    last = 2 * float(reaches[0].max()) - float(reaches[1].max())
    (ax, ay), (bx, by) = one + first * way, one + last * way
    return (float(ax), float(ay)), (float(bx), float(by))


def past_ends(
    points: NDArray[np.float64], heel: NDArray[np.float64], toe: NDArray[np.float64], high: float
) -> tuple[float, float]:
    """How far an outline reaches past heel and toe, up to so ``high`` above the sole."""
    length = max(1e-6, float(np.hypot(*(toe - heel))))
    along, above = _seen_from(points, heel, (toe - heel) / length, points.mean(axis=0))
    ends = along[above < high]
    return (-float(ends.min()), float(ends.max()) - length) if len(ends) else (0.0, 0.0)


def _line_through(along: NDArray[np.float64], high: NDArray[np.float64]) -> tuple[float, float]:
    """The slope of the line by least squares, and how high it is at its start."""
    middle, height = along.mean(), high.mean()
    slope = float((along - middle) @ (high - height) / max(1e-9, (along - middle) @ (along - middle)))
    return slope, float(height - slope * middle)


def _seen_from(
    points: NDArray[np.float64], start: NDArray[np.float64], way: NDArray[np.float64], within: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How far some points (n, 2) lie along a way from its start, and above it on the side of ``within``."""
    up = _upwards(start, way, within)
    dx, dy = points[:, 0] - start[0], points[:, 1] - start[1]
    return way[0] * dx + way[1] * dy, up[0] * dx + up[1] * dy


def _upwards(start: NDArray[np.float64], way: NDArray[np.float64], within: NDArray[np.float64]) -> NDArray[np.float64]:
    up = np.array([way[1], -way[0]])
    return up if (within - start) @ up >= 0 else -up
