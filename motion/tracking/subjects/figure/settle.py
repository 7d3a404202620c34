"""Limbs set on the middle lines of their own strokes, to a part of a pixel.

Square across a limb, at many places along it, ink begins and ends; where it is about as wide as that limb usually is,
nothing else lies over it, and the middle between both edges is the limb's. A straight line through these middles is
where the limb lies; two lines cross in the joint.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.tracking.subjects.figure.ink import Cover

Place = tuple[float, float]
Floats = NDArray[np.float64]
STATIONS = 14
PARTS = np.arange(STATIONS) / (STATIONS - 1)
FROM, SHORTEST = 0.10, 4.0
"""Along a limb, from which share of its length it is looked at; nothing shorter, px, is one."""
STEP = 0.5
WIDTHS = (0.75, 1.25)
"""A limb is seen where its ink is so many times as wide as usual."""
STRAY = 2.5
"""Middles that lie farther off the line than so many times the usual are left out."""
FEWEST = 4


@dataclass(frozen=True, slots=True)
class Stretch:
    """A straight line through a limb's middles: a point and a unit direction, from its upper end to its lower one.

    ``seen`` is the share of it that shows by itself, ``off`` by how much its middles lie off it, px; ``wide`` how wide
    its ink is there.
    """

    x: float
    y: float
    dx: float
    dy: float
    seen: float
    off: float
    wide: float

    def beside(self, point: Place) -> float:
        """How far a point lies to the side of it, px."""
        return self.dx * (point[1] - self.y) - self.dy * (point[0] - self.x)

    def nearest(self, point: Place) -> Place:
        """The point on it nearest to another."""
        along = self.dx * (point[0] - self.x) + self.dy * (point[1] - self.y)
        return self.x + along * self.dx, self.y + along * self.dy

    def crossing(self, other: Stretch) -> Place | None:
        """Where it crosses another one; None where they go nearly the same way."""
        turn = self.dx * other.dy - self.dy * other.dx
        if abs(turn) < 0.17:
            return None
        away = (other.x - self.x, other.y - self.y)
        along = (away[0] * other.dy - away[1] * other.dx) / turn
        return self.x + along * self.dx, self.y + along * self.dy


@dataclass(frozen=True, slots=True, eq=False)
class Across:
    """What lies across a limb at several stations: middles (n, 2) px and widths px; which ``way`` the limb goes."""

    middles: Floats
    widths: Floats
    way: Place


def across(cover: Cover, origin: Place, limbs: Sequence[tuple[Place, Place, float]], reach: float) -> list[Across]:
    """The ink across limbs, each from a start to an end (px in the frame), up to ``reach`` px to either side.

    They are looked at up to some share of their length. ``cover`` is a drawing's, whose first pixel lies at ``origin``.
    Stations with no ink near a limb are left out.
    """
    aside = np.arange(-reach, reach + STEP / 2, STEP)
    lengths = [max(1e-9, math.dist(start, end)) for start, end, _ in limbs]
    ways = [((b[0] - a[0]) / long, (b[1] - a[1]) / long) for (a, b, _), long in zip(limbs, lengths, strict=True)]
    starts, ahead = np.array([start for start, _, _ in limbs]), np.array(ways)
    tos = np.array([to for _, _, to in limbs])
    # (limbs, stations, 2) where they are looked at, and which way is square to each limb.
    along = (FROM + PARTS * (tos[:, None] - FROM)) * np.array(lengths)[:, None]
    stations = (starts[:, None] + along[..., None] * ahead[:, None]).reshape(-1, 2)
    square = np.repeat(np.stack([-ahead[:, 1], ahead[:, 0]], axis=1), STATIONS, axis=0)
    if cover.size:
        x = ((stations[:, :1] - origin[0]) + square[:, :1] * aside).astype(np.float32)
        y = ((stations[:, 1:] - origin[1]) + square[:, 1:] * aside).astype(np.float32)
        profile = cv2.remap(cover, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
        low, high = runs(np.asarray(profile, dtype=np.float64), aside)
    else:
        low = high = np.full(len(stations), np.nan)
    middles, widths, told = stations + (0.5 * (low + high))[:, None] * square, high - low, np.isfinite(low)
    found = []
    for k, (way, length) in enumerate(zip(ways, lengths, strict=True)):
        own = np.s_[k * STATIONS : (k + 1) * STATIONS]
        shows = told[own] & (length >= SHORTEST)
        found.append(Across(middles[own][shows], widths[own][shows], way))
    return found


def runs(profile: Floats, aside: Floats) -> tuple[Floats, Floats]:
    """(n,) where the ink nearest to the middle begins and ends across each station; NaN where there is none."""
    count, size = profile.shape
    over = profile > 0.5
    rows, places = np.arange(count), np.arange(size)
    nearest = np.where(over, np.abs(aside), np.inf).argmin(axis=1)
    before = np.maximum.accumulate(np.where(over, -1, places), axis=1)[rows, nearest]
    after = np.minimum.accumulate(np.where(over, size, places)[:, ::-1], axis=1)[:, ::-1][rows, nearest]
    told = over.any(axis=1) & (before >= 0) & (after < size)
    low, high = np.full(count, np.nan), np.full(count, np.nan)
    low[told] = _edge(profile[told], aside, before[told], before[told] + 1)
    high[told] = _edge(profile[told], aside, after[told], after[told] - 1)
    return low, high


def _edge(profile: Floats, aside: Floats, outside: NDArray[np.intp], inside: NDArray[np.intp]) -> Floats:
    """(n,) where ink covers half, between a place of each row that is outside and one that is inside."""
    rows = np.arange(len(profile))
    out, within = profile[rows, outside], profile[rows, inside]
    share = (0.5 - out) / np.maximum(1e-9, within - out)
    return np.asarray(aside[outside] + share * (aside[inside] - aside[outside]))


def stretch(seen: Across, wide: float) -> Stretch | None:
    """The line of a limb that is usually so ``wide``; None where too little of it shows by itself."""
    alone = (seen.widths > WIDTHS[0] * wide) & (seen.widths < WIDTHS[1] * wide)
    points, widths = seen.middles[alone], seen.widths[alone]
    for _ in range(3):
        if len(points) < FEWEST:
            return None
        x, y, dx, dy = (
            float(v) for v in cv2.fitLine(points.astype(np.float32), cv2.DIST_L2, 0, 0.01, 0.01).ravel()[[2, 3, 0, 1]]
        )
        off = np.abs(dx * (points[:, 1] - y) - dy * (points[:, 0] - x))
        usual = max(0.35, float(np.sort(off)[len(off) // 2]))
        near = off <= STRAY * usual
        if near.all():
            break
        points, widths = points[near], widths[near]
    if len(points) < FEWEST:
        return None
    if dx * seen.way[0] + dy * seen.way[1] < 0:
        dx, dy = -dx, -dy
    spread = float(np.ptp(points @ np.array([dx, dy])))
    if spread < 2.0 * wide and spread < 10.0:
        return None
    share = len(points) / STATIONS
    return Stretch(x, y, dx, dy, share, usual, median(widths))
