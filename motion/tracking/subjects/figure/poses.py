"""Poses of two legs that a drawing's ink allows, each leg a thigh, a shin and a foot from the hip.

Two arms are posed in the same way: from the neck, with an upper arm, a forearm and no foot, the elbow bent forward.

The ink is made small, so that a leg is some seventy px long; a leg's score says how well its middle lines lie on ink,
a pair's cost how much ink it leaves unexplained and how much it claims that is not there.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.ink import Sheet

Floats = NDArray[np.float64]
Bits = NDArray[np.uint64]
LEG_PX = 54.0
"""How long a leg is when poses are looked for."""
ORIGIN, ROWS, COLUMNS = (80.0, 28.0), 112, 160
"""Where the hip lies in the small drawing, and how large that is, px: a multiple of 64 pixels."""
BODY_GROWN = 0.04
"""What lies so much of a leg outside the body is the body's."""
FEET = np.radians(np.arange(-80.0, 51.0, 10.0))
"""Foot angles, toes up above 0."""
BACKWARDS = 0.12
"""What a knee costs that bends the wrong way."""
SAMPLES, FOOT_SAMPLES = 8, 5
KEPT, APART_PX = 14, 4.0
"""So many of the best legs are kept that lie so far from each other."""
ANKLE_HIGH = 0.065
"""The middle of a foot lies so much of a leg below its ankle."""
ALONG, ABOVE = 0.8, 0.25
"""What lies at the same place beside the hip in so many drawings, and no lower than so much of a leg, is no leg."""
THINNEST = 5
"""Poses lie on a grid: drawn so wide, a small px, they meet a thin stroke beside which they lie."""
EDGE, BESIDE_PX = 0.65, 2.0
"""What a place on the very edge of a limb is worth, beside 1 on its middle, and how far beside it one still is."""
UNEXPLAINED, CLAIMED, OFF = 5.0, 3.5, 3.0
"""What ink costs that no leg explains, what a leg costs where there is none, and off the middle of its ink."""


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """Which legs are tried: ``thighs``, angles from straight down, forward above 0, and ``bends`` of the knee, radians.

    ``lengths`` are (thigh, shin, cost): either may be drawn shorter or longer now and then, and what that costs; of
    each thigh length only the ``likely`` ones get shins, so many of them, and of all legs so many get ``feet``.
    ``bent`` is 1 where the joint between them bends back as knees do, -1 where it bends forward as elbows do.
    """

    thighs: Floats
    bends: Floats
    lengths: tuple[tuple[float, float, float], ...]
    likely: Mapping[float, int]
    feet: int
    bent: float = 1.0


FINE = Grid(
    thighs=np.radians(np.arange(-70.0, 96.0, 4.0)),
    bends=np.radians(np.concatenate([np.arange(-60.0, -24.0, 12.0), np.arange(-24.0, 132.0, 6.0)])),
    lengths=((1.0, 1.0, 0.0), (0.84, 1.0, 0.05), (1.18, 1.0, 0.05), (1.0, 0.84, 0.05), (1.0, 1.18, 0.05)),
    likely={1.0: 20, 0.84: 9, 1.18: 9},
    feet=90,
)
COARSE = Grid(
    thighs=np.radians(np.arange(-63.0, 90.0, 7.0)),
    bends=np.radians(np.arange(0.0, 130.0, 9.0)),
    lengths=((1.0, 1.0, 0.0),),
    likely={1.0: 12},
    feet=45,
)
"""By it proportions are told from each other."""
ARMS = Grid(
    thighs=np.radians(np.arange(-80.0, 101.0, 5.0)),
    bends=-np.radians(np.concatenate([np.arange(-60.0, 0.0, 12.0), np.arange(0.0, 132.0, 7.0)])),
    lengths=((1.0, 1.0, 0.0), (0.82, 1.0, 0.05), (1.2, 1.0, 0.05), (1.0, 0.82, 0.05), (1.0, 1.2, 0.05)),
    likely={1.0: 20, 0.82: 9, 1.2: 9},
    feet=90,
    bent=-1.0,
)
COARSE_ARMS = replace(
    ARMS, thighs=ARMS.thighs[::2], bends=ARMS.bends[5::2], lengths=((1.0, 1.0, 0.0),), likely={1.0: 12}, feet=45
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Build:
    """A figure's proportions in px: ``hip`` from the body's centre forward and down; limbs; how ``wide`` they are.

    ``tilt`` is how a long body usually lies, degrees: what hangs on it turns with it. None where it is too round to
    tell. Of arms the ``hip`` is the neck, the thigh the upper arm, the shin the forearm; the ``foot`` is nought.
    """

    hip: tuple[float, float]
    thigh: float
    shin: float
    foot: float
    wide: float
    facing: float
    tilt: float | None = None

    @property
    def leg(self) -> float:
        return self.thigh + self.shin

    def hip_of(self, body: Ellipse) -> tuple[float, float]:
        """Where the hip lies under a body."""
        x, y = self._turned(body, self.facing * self.hip[0], self.hip[1], 1.0)
        return body.x + x, body.y + y

    def on_body(self, body: Ellipse, at: tuple[float, float]) -> tuple[float, float]:
        """A place from the body's centre, forward and down as the body usually lies."""
        x, y = self._turned(body, at[0] - body.x, at[1] - body.y, -1.0)
        return self.facing * x, y

    def way_on_body(self, body: Ellipse, way: tuple[float, float]) -> tuple[float, float]:
        """A direction, forward and down as the body usually lies."""
        x, y = self._turned(body, *way, -1.0)
        return self.facing * x, y

    def _turned(self, body: Ellipse, x: float, y: float, sign: float) -> tuple[float, float]:
        if self.tilt is None:
            return x, y
        turn = sign * math.radians((body.angle - self.tilt + 90.0) % 180.0 - 90.0)
        return x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)


@dataclass(frozen=True, eq=False)
class Legs:
    """Single legs that a drawing allows: (k, 2) knees, ankles and toes from the hip in px, forward and down.

    ``scores`` (k,) from 0 to 1; ``covers`` (k, bits) which pixels of the ``small`` drawing each takes.
    """

    knees: Floats
    ankles: Floats
    toes: Floats
    scores: Floats
    covers: Bits
    small: Small

    def __len__(self) -> int:
        return len(self.scores)

    def with_others(self, others: Legs) -> Legs:
        """These and those of the same drawing that were looked for in other ink, which is judged by these ones'."""
        return Legs(
            knees=np.concatenate([self.knees, others.knees]),
            ankles=np.concatenate([self.ankles, others.ankles]),
            toes=np.concatenate([self.toes, others.toes]),
            scores=np.concatenate([self.scores, others.scores]),
            covers=np.concatenate([self.covers, others.covers]),
            small=self.small,
        )

    @cached_property
    def pair_costs(self) -> Floats:
        """(k, k) what each pair costs, its first leg and its second."""
        near = bits(self.small.around(self.small.ink) | self.small.covered)
        # Ink that no leg takes at all costs every pair the same.
        ink = bits(self.small.ink) & np.bitwise_or.reduce(self.covers, axis=0)
        open_ink, claimed = ink & ~self.covers, self.covers & ~near
        unexplained = count(open_ink[:, None] & open_ink[None])
        excess = count(claimed[:, None] | claimed[None])
        whole = max(1.0, 2 * float(count(self.covers).mean()))
        off = (1 - self.scores[:, None]) + (1 - self.scores[None, :])
        missed = UNEXPLAINED * self.small.worth * unexplained
        return np.asarray(missed / whole + CLAIMED * excess / whole + OFF * off, dtype=np.float64)

    def share_off(self, own: NDArray[np.bool_], either: NDArray[np.bool_]) -> Floats:
        """(k,) which share of those pixels of ``either`` kind that a leg takes is not its ``own`` (rows, columns)."""
        taken = self.covers & bits(either)
        return np.asarray(count(taken & ~bits(own)) / np.maximum(1, count(taken)))

    def share_within(self, marked: NDArray[np.bool_]) -> Floats:
        """(k,) which share of what a leg takes lies in what is ``marked`` (rows, columns)."""
        return np.asarray(count(self.covers & bits(marked)) / np.maximum(1, count(self.covers)))


def bits(marked: NDArray[np.bool_]) -> Bits:
    """(..., bits) some small pictures (..., rows, columns), 64 pixels a number."""
    packed = np.packbits(marked.reshape(*marked.shape[:-2], -1), axis=-1)
    return np.asarray(np.ascontiguousarray(packed).view(np.uint64))


def count(marked: Bits) -> Floats:
    """(...) how many pixels some small pictures (..., bits) have."""
    return np.asarray(np.bitwise_count(marked).sum(axis=-1, dtype=np.uint32), dtype=np.float64)


class Small:
    """A drawing's ink made small around its hip, forward to the right.

    Its window reaches as far behind the hip as before it, and a little above it, since legs hang.
    """

    def __init__(self, sheet: Sheet, body: Ellipse, build: Build, besides: Sequence[Ellipse] = ()) -> None:
        """``besides`` the body some other things, a head, are no limbs."""
        self.scale = LEG_PX / build.leg
        self.half = max(0.8, 0.5 * build.wide * self.scale)
        self.thick = max(THINNEST, round(2 * self.half + 1.5))
        self._hip = build.hip_of(body)
        self._sheet, self._facing = sheet, build.facing
        self.sides: tuple[NDArray[np.bool_], NDArray[np.bool_]] | None = None
        self.solid = solid = self.ink_of(sheet.solid)
        self.covered = np.zeros((ROWS, COLUMNS), bool)
        """Where something else is drawn over which a limb may lie."""
        self.over: NDArray[np.bool_] | None = None
        """Where a limb is drawn over the body."""
        self.worth = 1.0
        """What a pixel of ink that nothing explains counts, beside one that is claimed and not there."""
        self.hidden = self._disc(body)
        self.ink = solid & ~self._disc(body, BODY_GROWN * build.leg)
        for other in besides:
            self.ink &= ~self._disc(other, BODY_GROWN * build.leg)
        # The upper thigh may lie within the body.
        self._value = _value(solid | self.hidden, self.half)

    def around(self, marked: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """What lies a pixel or two beside a stroke is claimed for it; a limb as wide as its line fits anyway."""
        reach = np.ones((5, 5) if self.thick == THINNEST else (3, 3), np.uint8)
        return np.asarray(cv2.dilate(marked.view(np.uint8), reach) > 0)

    def dim(self, marked: NDArray[np.bool_], share: float) -> None:
        """Let ink count for so much less where something else is drawn, too."""
        self._value[marked] *= np.float32(share)

    def count_thin(self, wide: float) -> None:
        """Let all of a limb count that is thin, px: it has fewer pixels than a pose takes, which is drawn wider.

        Else one that may lie unseen in something else costs less than one that shows.
        """
        self.worth = self.thick / max(1.0, wide * self.scale)

    def show_over(self, marked: NDArray[np.bool_]) -> None:
        """Take what is ``marked`` for a limb's ink of its own, though the body lies behind it."""
        self.over = marked
        self.ink |= marked & self.solid
        self.hidden &= ~marked
        self._value[marked] = _value(marked, self.half)[marked]

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

    def drawn(self, lines: Sequence[Sequence[tuple[float, float]]], wide: float | None = None) -> NDArray[np.uint8]:
        """(rows, columns) 1 where lines through places in the frame lie, as wide as a limb or so ``wide``, px."""
        way = np.array([self._facing, 1.0])
        return self.drawn_from_root([(np.array(line) - np.array(self._hip)) * way for line in lines], wide)

    def drawn_from_root(self, lines: Sequence[Floats], wide: float | None = None) -> NDArray[np.uint8]:
        """The same of lines (n, 2) from where the limbs hang, px, forward and down."""
        thick = self.thick if wide is None else max(THINNEST, round(wide * self.scale + 1.5))
        found = np.zeros((ROWS, COLUMNS), np.uint8)
        for line in lines:
            away = line * self.scale
            points = np.rint(away + np.array(ORIGIN)).astype(np.int32)
            cv2.polylines(found, [points.reshape(-1, 1, 2)], False, 1, thick)
        return found

    def _disc(self, body: Ellipse, grown: float = 0.0) -> NDArray[np.bool_]:
        """Where the body is, that being grown by some px."""
        drawn = np.zeros((ROWS, COLUMNS), np.uint8)
        x = ORIGIN[0] + self._facing * self.scale * (body.x - self._hip[0])
        y = ORIGIN[1] + self.scale * (body.y - self._hip[1])
        axes = (body.major + 2 * grown) * self.scale, (body.minor + 2 * grown) * self.scale
        cv2.ellipse(drawn, ((x, y), axes, -self._facing * body.angle), 1, -1)
        return drawn > 0

    @cached_property
    def values(self) -> NDArray[np.float32]:
        """(rows * columns,) how well each small pixel is on the middle of ink."""
        return np.ascontiguousarray(self._value).reshape(-1)


def _pixels(points: NDArray[np.floating]) -> NDArray[np.intp]:
    """(...) the numbers, row by row, of the small pixels at points (..., 2) from the hip."""
    columns = np.clip(points[..., 0] + (ORIGIN[0] + 0.5), 0, COLUMNS - 1).astype(np.intp)
    rows = np.clip(points[..., 1] + (ORIGIN[1] + 0.5), 0, ROWS - 1).astype(np.intp)
    return np.asarray(rows * COLUMNS + columns)


def _value(ink: NDArray[np.bool_], half: float) -> NDArray[np.float32]:
    """1 on the middle of a limb, less towards its edge, nothing some px beside it."""
    inside, outside = (
        np.asarray(cv2.distanceTransform(own.view(np.uint8), cv2.DIST_L2, 3), dtype=np.float32) for own in (ink, ~ink)
    )
    # In place: this is done for every guess of the proportions in every drawing.
    np.minimum(inside, np.float32(half), out=inside)
    inside *= np.float32((1 - EDGE) / half)
    outside *= np.float32(-EDGE / (BESIDE_PX + 0.5))
    outside += np.float32(EDGE)
    np.maximum(outside, np.float32(0), out=outside)
    outside += inside
    return outside


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


class Search:
    """The legs of a build that are tried in every drawing, all that is the same in each worked out once."""

    def __init__(self, build: Build, grid: Grid = FINE) -> None:
        self._build, self._grid = build, grid
        scale = LEG_PX / build.leg
        parts = ((np.arange(SAMPLES, dtype=np.float32) + 0.7) / np.float32(SAMPLES - 0.3))[:, None, None]
        ways = _ways(grid.thighs)
        self._thighs = {a: ways * np.float32(a * build.thigh * scale) for a in grid.likely}
        self._on_thighs = {a: _pixels(parts * knees) for a, knees in self._thighs.items()}
        bent = _ways(grid.thighs[:, None] - grid.bends[None, :])
        self._shins = {b: bent * np.float32(b * build.shin * scale) for _, b, _ in grid.lengths}
        self._on_shins = {
            (a, b): _pixels(self._thighs[a][:, None] + parts[..., None] * self._shins[b]) for a, b, _ in grid.lengths
        }
        self._back = np.where(grid.bent * grid.bends < -0.05, BACKWARDS, 0.0)

    def legs_of(self, small: Small) -> Legs:
        """Single legs that a drawing allows, best first."""
        knee, ankle, score = self._bent_legs(small)
        best = np.argpartition(-score, self._grid.feet)[: self._grid.feet]
        toe, total = ankle[best], score[best]
        if self._build.foot:
            toe, foot = _feet(small, ankle[best], self._build)
            total = 0.82 * total + 0.18 * foot
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

    def _bent_legs(self, small: Small) -> tuple[Floats, Floats, Floats]:
        """(n, 2) knees and ankles from the hip in small px, and (n,) how well each leg lies on ink.

        All thighs are tried; only the likeliest of each length get shins.
        """
        uppers = {}
        for a, count in self._grid.likely.items():
            on = _along(small.values.take(self._on_thighs[a]))
            likeliest = np.argpartition(-on, count)[:count]
            uppers[a] = likeliest, on[likeliest]
        knees, ankles, scores = [], [], []
        for a, b, cost in self._grid.lengths:
            which, upper = uppers[a]
            at, shins = self._thighs[a][which], self._shins[b][which]
            lower = _along(small.values.take(self._on_shins[a, b][:, which]))
            scores.append((0.5 * upper[:, None] + 0.5 * lower - cost - self._back).ravel())
            knees.append(np.broadcast_to(at[:, None], shins.shape).reshape(-1, 2))
            ankles.append((at[:, None] + shins).reshape(-1, 2))
        return np.concatenate(knees), np.concatenate(ankles), np.concatenate(scores)


def _along(on: NDArray[np.float32]) -> NDArray[np.float32]:
    """(...) how well a limb lies on ink, by the values at its samples (n, ...); a place without any counts most."""
    return np.asarray(on.mean(axis=0) + 0.5 * (on.min(axis=0) - 1))


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
    below = np.array([0.0, ANKLE_HIGH * LEG_PX], np.float32)
    ways = np.stack([np.cos(FEET), -np.sin(FEET)], axis=-1).astype(np.float32) * np.float32(length)
    parts = ((np.arange(FOOT_SAMPLES) + 1) / FOOT_SAMPLES).astype(np.float32)[:, None, None, None]
    on = small.values.take(_pixels((ankles + below)[:, None] + parts * ways)).mean(axis=0)
    best = on.argmax(axis=1)
    return ankles + ways[best] + below, on[np.arange(len(ankles)), best]


def _covers(small: Small, knees: Floats, ankles: Floats, toes: Floats) -> Bits:
    found = np.zeros((len(knees), ROWS, COLUMNS), np.uint8)
    lines = np.stack([np.zeros_like(knees), knees, ankles, toes], axis=1) + np.array(ORIGIN)
    for image, line in zip(found, np.rint(lines).astype(np.int32), strict=True):
        cv2.polylines(image, [line.reshape(-1, 1, 2)], False, 1, small.thick)
    return bits(found.view(np.bool_))
