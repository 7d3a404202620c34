"""Limbs set on the middle lines of their own strokes, to a part of a pixel.

Square across a limb, at many places along it, ink begins and ends; where it is about as wide as that limb usually is,
nothing else lies over it, and the middle between both edges is the limb's. A straight line through these middles is
where the limb lies; two lines cross in the joint.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.tracking.subjects.figure.ink import Cover

Place = tuple[float, float]
Floats = NDArray[np.float64]
Posed = tuple[Place, Place, float]
"""A limb as it is looked for: from a start to an end, and up to which share of its length."""
STATIONS = 14
FROM, SHORTEST = 0.10, 4.0
"""Along a limb, from which share of its length it is looked at; nothing shorter, px, is one."""
STEP = 0.5
WIDTHS = (0.75, 1.25)
"""A limb is seen where its ink is so many times as wide as usual."""
CLOSELY = (0.85, 1.12)
"""One that begins where other limbs do merges with them there: its ink grows wider by and by, and leans to them."""
FREE_PX, LEAST_PART = 1.5, 0.1
"""An edge is a limb's own so many px beyond which there is no ink, where so much of its width shows."""
STRAY = 2.5
"""Middles that lie farther off the line than so many times the usual are left out."""
FEWEST, SHORT_PX = 4, 10.0
TAPER_FROM = 8
"""By so many stations it is told how a limb tapers."""


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
    """What lies across a limb at several stations: middles (n, 2) px and widths px; which ``way`` the limb goes.

    ``shares`` (n,) is how far along the limb each station lies, 0 to 1.
    """

    middles: Floats
    widths: Floats
    way: Place
    shares: Floats = field(default_factory=lambda: np.zeros(0))

    def share_as_wide(self, wide: float) -> float:
        """At which share of all stations it is about so wide."""
        alike = (self.widths > WIDTHS[0] * wide) & (self.widths < WIDTHS[1] * wide)
        return float(np.count_nonzero(alike)) / STATIONS

    def with_edge(self, edge: Edge, wide: float, taper: float) -> Across:
        """The same with what an edge tells of a limb so ``wide``, that so tapers, where one alone is its own."""
        more = edge.across(wide, taper)
        return replace(
            self,
            middles=np.concatenate([self.middles, more.middles]),
            widths=np.concatenate([self.widths, more.widths]),
            shares=np.zeros(0),
        )

    @property
    def taper(self) -> float | None:
        """By which share of itself the limb grows wider from start to end, below 0 thinner; None where little shows."""
        count = len(self.shares)
        if count < TAPER_FROM:
            return None
        one, other = np.triu_indices(count, 1)
        slopes = (self.widths[other] - self.widths[one]) / (self.shares[other] - self.shares[one])
        return median(slopes) / median(self.widths)

    def straightened(self, taper: float) -> Across:
        """The same as if a limb that tapers were all along as wide as in its middle."""
        if not len(self.shares):
            return self
        return replace(self, widths=self.widths / (1 + taper * (self.shares - 0.5)))


@dataclass(frozen=True, slots=True, eq=False)
class Edge:
    """The one edge of a limb that shows where the other lies over or under something else: places (n, 2) px, the ways
    (n, 2) ``inwards`` from there, how much of the limb shows, px; which ``way`` it goes, and how far along it each
    place lies, 0 to 1.
    """

    places: Floats
    inwards: Floats
    shown: Floats
    way: Place
    shares: Floats

    def across(self, wide: float, taper: float = 0.0) -> Across:
        """What lies across a limb so ``wide`` in its middle, of which enough shows, and that so tapers."""
        enough = self.shown >= LEAST_PART * wide
        half = 0.5 * wide * (1 + taper * (self.shares - 0.5))[:, None]
        middles = (self.places + half * self.inwards)[enough]
        return Across(middles, np.full(len(middles), wide), self.way)


@dataclass(frozen=True, slots=True, eq=False)
class Looked:
    """Limbs looked at square across: (limbs * count, 2) ``stations``, the way ``square`` to the limb at each, and
    how far along that the ink nearest to it begins and ends, px; NaN where there is none. ``ways`` and ``lengths`` are
    the limbs'.
    """

    stations: Floats
    square: Floats
    low: Floats
    high: Floats
    ways: list[Place]
    lengths: list[float]
    count: int

    def across(self) -> list[Across]:
        """By limb the ink across it."""
        return self._across(np.ones(len(self.stations), np.bool_))

    def _across(self, some: NDArray[np.bool_]) -> list[Across]:
        middles = self.stations + (0.5 * (self.low + self.high))[:, None] * self.square
        widths = self.high - self.low
        each = self._each(np.isfinite(widths) & some)
        return [Across(middles[own], widths[own], way, self._shares[own % self.count]) for own, way in each]

    def alone(self, solid: Cover, origin: Place) -> list[Across]:
        """By limb the ink across it where both edges are its own: beyond them there is no other ``solid`` ink."""
        low, high = self._free(solid, origin)
        return self._across(low & high)

    def edges(self, solid: Cover, origin: Place) -> list[Edge]:
        """By limb the one edge that is its own where beyond the other there is other ``solid`` ink."""
        low, high = self._free(solid, origin)
        edge, inwards = np.where(low, self.low, self.high), np.where(low, 1.0, -1.0)[:, None] * self.square
        places = self.stations + edge[:, None] * self.square
        each = self._each(np.isfinite(edge) & (low != high))
        shown = self.high - self.low
        return [Edge(places[k], inwards[k], shown[k], way, self._shares[k % self.count]) for k, way in each]

    @property
    def _shares(self) -> Floats:
        """(count,) how far along a limb it is looked at."""
        return np.asarray(FROM + np.arange(self.count) / max(1, self.count - 1) * (1 - FROM))

    def _free(self, solid: Cover, origin: Place) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """(n,) at which stations either edge is a limb's own."""
        low, high = (
            _ink_at(solid, origin, self.stations + (edge + out * FREE_PX)[:, None] * self.square) < 0.5
            for edge, out in ((self.low, -1), (self.high, 1))
        )
        return low, high

    def _each(self, told: NDArray[np.bool_]) -> list[tuple[NDArray[np.intp], Place]]:
        """By limb the stations that tell something, and its way."""
        found = []
        for k, (way, length) in enumerate(zip(self.ways, self.lengths, strict=True)):
            own = k * self.count + np.flatnonzero(told[k * self.count : (k + 1) * self.count])
            found.append((own if length >= SHORTEST else own[:0], way))
        return found


def look_across(cover: Cover, origin: Place, limbs: Sequence[Posed], reach: float, count: int = STATIONS) -> Looked:
    """The ink across limbs, each from a start to an end (px in the frame), up to ``reach`` px to either side.

    They are looked at in ``count`` places up to some share of their length. ``cover`` is a drawing's, whose first pixel
    lies at ``origin``.
    """
    aside = np.arange(-reach, reach + STEP / 2, STEP)
    lengths = [max(1e-9, math.dist(start, end)) for start, end, _ in limbs]
    ways = [((b[0] - a[0]) / long, (b[1] - a[1]) / long) for (a, b, _), long in zip(limbs, lengths, strict=True)]
    starts, ahead = np.array([start for start, _, _ in limbs]), np.array(ways)
    tos = np.array([to for _, _, to in limbs])
    # (limbs, stations, 2) where they are looked at, and which way is square to each limb.
    along = (FROM + np.linspace(0.0, 1.0, count) * (tos[:, None] - FROM)) * np.array(lengths)[:, None]
    stations = (starts[:, None] + along[..., None] * ahead[:, None]).reshape(-1, 2)
    square = np.repeat(np.stack([-ahead[:, 1], ahead[:, 0]], axis=1), count, axis=0)
    if cover.size:
        x = ((stations[:, :1] - origin[0]) + square[:, :1] * aside).astype(np.float32)
        y = ((stations[:, 1:] - origin[1]) + square[:, 1:] * aside).astype(np.float32)
        profile = cv2.remap(cover, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
        low, high = runs(np.asarray(profile, dtype=np.float64), aside)
    else:
        low = high = np.full(len(stations), np.nan)
    return Looked(stations, square, low, high, ways, lengths, count)


def _ink_at(cover: Cover, origin: Place, places: Floats) -> Floats:
    """(n,) how much ink there is at some places (n, 2) of the frame; none where a place is not known."""
    at = (np.nan_to_num(places, nan=-1e6) - np.array(origin)).astype(np.float32)
    inked = cv2.remap(cover, at[:, :1], at[:, 1:], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    return np.asarray(inked[:, 0], dtype=np.float64)


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


def stretch(
    seen: Across, wide: float, shortest: float = SHORT_PX, *, closely: bool = False, of: int = STATIONS
) -> Stretch | None:
    """The line of a limb that is usually so ``wide``; None where fewer than the ``shortest`` px of it show alone.

    ``closely`` where it is told by what is just as wide as usual, if enough is. It was looked at in so many stations,
    ``of`` which a share tells.
    """
    told = _stretch(seen, wide, shortest, WIDTHS)
    told = told and replace(told, seen=told.seen * STATIONS / of)
    own = _stretch(seen, wide, shortest, CLOSELY) if closely and told is not None else None
    return told if told is None or own is None else replace(own, seen=told.seen)


def _stretch(seen: Across, wide: float, shortest: float, widths_in: tuple[float, float]) -> Stretch | None:
    alone = (seen.widths > widths_in[0] * wide) & (seen.widths < widths_in[1] * wide)
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
    if spread < min(2.0 * wide, shortest):
        return None
    share = len(points) / STATIONS
    return Stretch(x, y, dx, dy, share, usual, median(widths))
