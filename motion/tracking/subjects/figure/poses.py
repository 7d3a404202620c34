"""Poses of two legs that a drawing's ink allows, each leg a thigh, a shin and a foot from the hip.

The ink is made small, so that a leg is some seventy px long; a leg's score says how well its middle lines lie on ink,
a pair's cost how much ink it leaves unexplained and how much it claims that is not there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.body import without_body
from motion.tracking.subjects.figure.ink import Sheet

Floats = NDArray[np.float64]
LEG_PX = 72.0
"""How long a leg is when poses are looked for."""
ORIGIN, ROWS, COLUMNS = (102.0, 36.0), 144, 205
"""Where the hip lies in the small drawing, and how large that is, px."""
FEET = np.radians(np.arange(-80.0, 51.0, 10.0))
"""Foot angles, toes up above 0."""
BACKWARDS = 0.12
"""What a knee costs that bends the wrong way."""
SAMPLES, FOOT_SAMPLES = 8, 5
TRIED, KEPT, APART_PX = 110, 14, 5.0
"""So many of the best legs get feet; of those so many are kept that lie so far from each other."""
ALONG, ABOVE = 0.8, 0.25
"""What lies at the same place beside the hip in so many drawings, and no lower than so much of a leg, is no leg."""
THINNEST = 5
"""Poses lie on a grid: drawn so wide, a small px, they meet a thin stroke beside which they lie."""
BESIDE_PX = 2.0
UNEXPLAINED, CLAIMED, OFF = 5.0, 3.5, 3.0
"""What ink costs that no leg explains, what a leg costs where there is none, and off the middle of its ink."""


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """Which legs are tried: ``thighs``, angles from straight down, forward above 0, and ``bends`` of the knee, radians.

    ``lengths`` are (thigh, shin, cost): either may be drawn shorter or longer now and then, and what that costs; of
    each thigh length only the ``likely`` ones get shins, so many of them.
    """

    thighs: Floats
    bends: Floats
    lengths: tuple[tuple[float, float, float], ...]
    likely: Mapping[float, int]


FINE = Grid(
    thighs=np.radians(np.arange(-70.0, 96.0, 4.0)),
    bends=np.radians(np.concatenate([np.arange(-60.0, -24.0, 12.0), np.arange(-24.0, 132.0, 6.0)])),
    lengths=((1.0, 1.0, 0.0), (0.84, 1.0, 0.05), (1.18, 1.0, 0.05), (1.0, 0.84, 0.05), (1.0, 1.18, 0.05)),
    likely={1.0: 20, 0.84: 9, 1.18: 9},
)
COARSE = Grid(
    thighs=np.radians(np.arange(-63.0, 90.0, 7.0)),
    bends=np.radians(np.arange(0.0, 130.0, 9.0)),
    lengths=((1.0, 1.0, 0.0),),
    likely={1.0: 12},
)
"""By it proportions are told from each other."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Build:
    """A figure's proportions in px: ``hip`` from the body's centre forward and down; limbs; how ``wide`` they are."""

    hip: tuple[float, float]
    thigh: float
    shin: float
    foot: float
    wide: float
    facing: float

    @property
    def leg(self) -> float:
        return self.thigh + self.shin

    def hip_of(self, body: Ellipse) -> tuple[float, float]:
        """Where the hip lies under a body."""
        return body.x + self.facing * self.hip[0], body.y + self.hip[1]


@dataclass(frozen=True, eq=False)
class Legs:
    """Single legs that a drawing allows: (k, 2) knees, ankles and toes from the hip in px, forward and down.

    ``scores`` (k,) from 0 to 1; ``covers`` (k, rows, columns) which pixels of the ``small`` drawing each takes.
    """

    knees: Floats
    ankles: Floats
    toes: Floats
    scores: Floats
    covers: NDArray[np.bool_]
    small: Small

    def __len__(self) -> int:
        return len(self.scores)

    @cached_property
    def pair_costs(self) -> Floats:
        """(k, k) what each pair costs, its first leg and its second."""
        # What lies a pixel or two beside a stroke is claimed for it; a limb as wide as its line fits anyway.
        reach = np.ones((5, 5) if self.small.thick == THINNEST else (3, 3), np.uint8)
        near = cv2.dilate(self.small.ink.view(np.uint8), reach) > 0
        told = self.small.ink | self.covers.any(axis=0)
        ink, near, covers = self.small.ink[told], near[told], self.covers[:, told]
        open_ink = (~covers & ink).astype(np.float32)
        claimed = (covers & ~near).astype(np.float32)
        unexplained = open_ink @ open_ink.T
        twice = claimed @ claimed.T
        single = claimed.sum(axis=1)
        excess = single[:, None] + single[None, :] - twice
        whole = max(1.0, float(covers.sum(axis=1).mean()) * 2)
        off = (1 - self.scores[:, None]) + (1 - self.scores[None, :])
        return np.asarray(UNEXPLAINED * unexplained / whole + CLAIMED * excess / whole + OFF * off, dtype=np.float64)


class Small:
    """A drawing's ink made small around its hip, forward to the right.

    Its window reaches as far behind the hip as before it, and a little above it, since legs hang.
    """

    def __init__(self, sheet: Sheet, body: Ellipse, build: Build) -> None:
        self.scale = LEG_PX / build.leg
        self.half = max(0.8, 0.5 * build.wide * self.scale)
        self.thick = max(THINNEST, round(2 * self.half + 1.5))
        self._hip = build.hip_of(body)
        self._sheet, self._facing = sheet, build.facing
        self.sides: tuple[NDArray[np.bool_], NDArray[np.bool_]] | None = None
        outside = without_body(sheet, body, 0.04 * build.leg)
        self.ink = self.ink_of(np.where(outside, sheet.solid, np.float32(0)))
        # The upper thigh may lie within the body.
        self._value = _value(self.ink_of(sheet.solid) | self._disc(body), self.half)

    def ink_of(self, cover: NDArray[np.float32]) -> NDArray[np.bool_]:
        """(rows, columns) which small pixels are ink of some cover of the same drawing."""
        s = self.scale
        centre = self._hip[0] - self._sheet.left, self._hip[1] - self._sheet.top
        way = self._facing * s
        matrix = np.array([[way, 0.0, ORIGIN[0] - way * centre[0]], [0.0, s, ORIGIN[1] - s * centre[1]]])
        blurred = cv2.blur(cover, (max(1, round(1 / s)),) * 2) if s < 0.8 else cover
        small = cv2.warpAffine(blurred, matrix, (COLUMNS, ROWS), flags=cv2.INTER_LINEAR)
        # A stroke thinner than a small pixel still is one.
        return np.asarray(small > 0.28 / max(1.0, min(3.0, 0.6 / s)))

    def drawn(self, lines: Sequence[Sequence[tuple[float, float]]]) -> NDArray[np.uint8]:
        """(rows, columns) 1 where lines through places in the frame lie, as wide as a limb."""
        found = np.zeros((ROWS, COLUMNS), np.uint8)
        for line in lines:
            away = (np.array(line) - np.array(self._hip)) * np.array([self._facing, 1.0]) * self.scale
            points = np.rint(away + np.array(ORIGIN)).astype(np.int32)
            cv2.polylines(found, [points.reshape(-1, 1, 2)], False, 1, self.thick)
        return found

    def _disc(self, body: Ellipse) -> NDArray[np.bool_]:
        """Where the body is."""
        drawn = np.zeros((ROWS, COLUMNS), np.uint8)
        x = ORIGIN[0] + self._facing * self.scale * (body.x - self._hip[0])
        y = ORIGIN[1] + self.scale * (body.y - self._hip[1])
        axes = body.major * self.scale, body.minor * self.scale
        cv2.ellipse(drawn, ((x, y), axes, -self._facing * body.angle), 1, -1)
        return drawn > 0

    def at(self, points: NDArray[np.float32]) -> NDArray[np.float32]:
        """(…,) the value at points (…, 2) from the hip, small px."""
        columns = np.clip(points[..., 0] + (ORIGIN[0] + 0.5), 0, COLUMNS - 1).astype(np.intp)
        rows = np.clip(points[..., 1] + (ORIGIN[1] + 0.5), 0, ROWS - 1).astype(np.intp)
        return np.asarray(self._value.ravel().take(rows * COLUMNS + columns))


def _value(ink: NDArray[np.bool_], half: float) -> NDArray[np.float32]:
    """1 on the middle of a limb, less towards its edge, nothing some px beside it."""
    inside = cv2.distanceTransform(ink.astype(np.uint8), cv2.DIST_L2, 3)
    outside = cv2.distanceTransform((~ink).astype(np.uint8), cv2.DIST_L2, 3)
    on = 0.65 + 0.35 * np.clip(inside / half, 0, 1)
    beside = 0.65 * np.clip(1 - outside / (BESIDE_PX + 0.5), 0, 1)
    return np.asarray(np.where(ink, on, beside), dtype=np.float32)


def _ways(angles: Floats) -> NDArray[np.float32]:
    """(…, 2) forward and down, of angles from straight down."""
    return np.stack([np.sin(angles), np.cos(angles)], axis=-1).astype(np.float32)


def going_along(smalls: Sequence[Small]) -> NDArray[np.bool_]:
    """(rows, columns) what goes with the body in nearly all drawings, above the knees: something carried, a coat."""
    along = np.zeros((ROWS, COLUMNS), np.uint16)
    for small in smalls:
        along += small.ink
    fixed = along > ALONG * len(smalls)
    fixed[round(ORIGIN[1] + ABOVE * LEG_PX) :] = False
    return fixed


def legs_of(small: Small, build: Build, grid: Grid = FINE) -> Legs:
    """Single legs that a drawing allows, best first."""
    knee, ankle, score = _bent_legs(small, build, grid)
    best = np.argpartition(-score, TRIED)[:TRIED]
    toe, foot = _feet(small, ankle[best], build)
    total = 0.82 * score[best] + 0.18 * foot
    order = _spread(knee[best], ankle[best], total, APART_PX)
    chosen = best[order]
    return Legs(
        knees=knee[chosen] / small.scale,
        ankles=ankle[chosen] / small.scale,
        toes=toe[order] / small.scale,
        scores=total[order],
        covers=_covers(small, knee[chosen], ankle[chosen], toe[order]),
        small=small,
    )


def _bent_legs(small: Small, build: Build, grid: Grid) -> tuple[Floats, Floats, Floats]:
    """(n, 2) knees and ankles from the hip in small px, and (n,) how well each leg lies on ink.

    All thighs are tried; only the likeliest of each length get shins.
    """
    thigh, shin = build.thigh * small.scale, build.shin * small.scale
    parts = ((np.arange(SAMPLES) + 0.7) / (SAMPLES - 0.3)).astype(np.float32)
    ways, back = _ways(grid.thighs), np.where(grid.bends < -0.05, BACKWARDS, 0.0)
    thighs = {}
    for a, count in grid.likely.items():
        on = _along(small.at(ways[:, None, :] * (a * thigh * parts)[None, :, None]))
        likeliest = np.argpartition(-on, count)[:count]
        thighs[a] = likeliest, on[likeliest]
    knees, ankles, scores = [], [], []
    for a, b, cost in grid.lengths:
        which, upper = thighs[a]
        at = ways[which] * np.float32(a * thigh)
        shins = _ways(grid.thighs[which][:, None] - grid.bends[None, :]) * np.float32(b * shin)
        lower = _along(small.at(at[:, None, None, :] + shins[:, :, None, :] * parts[:, None]))
        scores.append((0.5 * upper[:, None] + 0.5 * lower - cost - back).ravel())
        knees.append(np.broadcast_to(at[:, None], shins.shape).reshape(-1, 2))
        ankles.append((at[:, None] + shins).reshape(-1, 2))
    return np.concatenate(knees), np.concatenate(ankles), np.concatenate(scores)


def _along(on: NDArray[np.float32]) -> NDArray[np.float32]:
    """(…,) how well a limb lies on ink, by the values at its samples (…, n); a place without any counts most."""
    return np.asarray(on.mean(axis=-1) + 0.5 * (on.min(axis=-1) - 1))


def _spread(knees: Floats, ankles: Floats, scores: Floats, apart: float) -> NDArray[np.intp]:
    """The numbers of the best that lie so far from each better one, best first."""
    order = np.argsort(-scores, kind="stable")
    places = np.concatenate([knees, ankles], axis=1)
    free = np.ones(len(order), bool)
    kept: list[int] = []
    for number in order:
        if free[number]:
            kept.append(int(number))
            if len(kept) == KEPT:
                break
            free &= np.abs(places - places[number]).max(axis=1) >= apart
    return np.array(kept, dtype=np.intp)


def _feet(small: Small, ankles: Floats, build: Build) -> tuple[Floats, Floats]:
    """(n, 2) the toes, and (n,) how well each foot lies on ink."""
    length = build.foot * small.scale
    # The foot's middle lies a little below its ankle.
    below = np.array([0.0, 0.04 * LEG_PX], np.float32)
    ways = np.stack([np.cos(FEET), -np.sin(FEET)], axis=-1).astype(np.float32) * np.float32(length)
    parts = ((np.arange(FOOT_SAMPLES) + 1) / FOOT_SAMPLES).astype(np.float32)
    on = small.at((ankles + below)[:, None, None, :] + ways[None, :, None, :] * parts[:, None]).mean(axis=2)
    best = on.argmax(axis=1)
    return ankles + ways[best] + below, on[np.arange(len(ankles)), best]


def _covers(small: Small, knees: Floats, ankles: Floats, toes: Floats) -> NDArray[np.bool_]:
    found = np.zeros((len(knees), ROWS, COLUMNS), np.uint8)
    lines = np.stack([np.zeros_like(knees), knees, ankles, toes], axis=1) + np.array(ORIGIN)
    for image, line in zip(found, np.rint(lines).astype(np.int32), strict=True):
        cv2.polylines(image, [line.reshape(-1, 1, 2)], False, 1, small.thick)
    return found.view(np.bool_)
