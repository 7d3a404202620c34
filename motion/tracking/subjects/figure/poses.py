"""Poses of two legs that a drawing's ink allows, each leg a thigh, a shin and a foot from the hip.

The ink is made small, so that a leg is some seventy px long; a leg's score says how well its middle lines lie on ink,
a pair's cost how much ink it leaves unexplained and how much it claims that is not there.
"""

from __future__ import annotations

import math
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
THIGHS = np.radians(np.arange(-70.0, 96.0, 4.0))
"""Thigh angles from straight down, forward above 0."""
BENDS = np.radians(np.concatenate([np.arange(-24.0, 0.0, 6.0), np.arange(0.0, 132.0, 6.0)]))
LENGTHS = ((1.0, 1.0, 0.0), (0.84, 1.0, 0.05), (1.18, 1.0, 0.05), (1.0, 0.84, 0.05), (1.0, 1.18, 0.05))
"""Thigh and shin may be drawn shorter or longer now and then; what that costs."""
FEET = np.radians(np.arange(-80.0, 51.0, 10.0))
"""Foot angles, toes up above 0."""
BACKWARDS = 0.12
"""What a knee costs that bends the wrong way."""
SAMPLES, FOOT_SAMPLES = 8, 5
TRIED, KEPT, APART_PX = 110, 14, 5.0
"""So many of the best legs get feet; of those so many are kept that lie so far from each other."""
BESIDE_PX = 2.0
UNEXPLAINED, CLAIMED, OFF = 5.0, 3.5, 3.0
"""What ink costs that no leg explains, what a leg costs where there is none, and off the middle of its ink."""


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

    ``scores`` (k,) from 0 to 1; ``covers`` (k, pixels) which of the drawing's small pixels each takes; ``ink``
    (pixels,) which are ink.
    """

    knees: Floats
    ankles: Floats
    toes: Floats
    scores: Floats
    covers: NDArray[np.bool_]
    ink: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.scores)

    @cached_property
    def pair_costs(self) -> Floats:
        """(k, k) what each pair costs, its first leg and its second."""
        ink, covers = self.ink, self.covers
        open_ink = (~covers & ink).astype(np.float32)
        claimed = (covers & ~ink).astype(np.float32)
        unexplained = open_ink @ open_ink.T
        twice = claimed @ claimed.T
        single = claimed.sum(axis=1)
        excess = single[:, None] + single[None, :] - twice
        whole = max(1.0, float(covers.sum(axis=1).mean()) * 2)
        off = (1 - self.scores[:, None]) + (1 - self.scores[None, :])
        return np.asarray(UNEXPLAINED * unexplained / whole + CLAIMED * excess / whole + OFF * off, dtype=np.float64)


class Small:
    """A drawing's ink made small around its hip, forward to the right."""

    def __init__(self, sheet: Sheet, body: Ellipse, build: Build) -> None:
        self.scale = LEG_PX / build.leg
        self.reach = round(LEG_PX * 1.5)
        self._hip = build.hip_of(body)
        legs = np.where(without_body(sheet, body, 0.04 * build.leg), sheet.solid, np.float32(0))
        self.ink = self._shrunk(legs, sheet, build.facing) > 0.28
        # The upper thigh may lie within the body.
        ink_or_body = self._shrunk(sheet.solid, sheet, build.facing) > 0.28
        self.half = max(0.8, 0.5 * build.wide * self.scale)
        self.value = _value(ink_or_body | self._disc(body, build), self.half)

    def ink_of(self, cover: NDArray[np.float32], sheet: Sheet, facing: float) -> NDArray[np.bool_]:
        """(pixels,) which small pixels are ink of some cover of the same drawing."""
        return np.asarray((self._shrunk(cover, sheet, facing) > 0.28).reshape(-1))

    def _shrunk(self, cover: NDArray[np.float32], sheet: Sheet, facing: float) -> NDArray[np.float32]:
        """(2 reach, 2 reach) the ink from ``reach`` behind the hip and a third of that above it."""
        size, s = 2 * self.reach, self.scale
        centre = self._hip[0] - sheet.left, self._hip[1] - sheet.top
        matrix = np.array(
            [
                [facing * s, 0.0, self.reach - facing * s * centre[0]],
                [0.0, s, self.reach / 3 - s * centre[1]],
            ]
        )
        blurred = cv2.blur(cover, (max(1, round(1 / s)),) * 2) if s < 0.8 else cover
        small = cv2.warpAffine(blurred, matrix, (size, size), flags=cv2.INTER_LINEAR)
        # A stroke thinner than a small pixel still is one.
        return np.asarray(small * max(1.0, min(3.0, 0.6 / s)), dtype=np.float32)

    def _disc(self, body: Ellipse, build: Build) -> NDArray[np.bool_]:
        """Where the body is."""
        rows, columns = np.ogrid[: 2 * self.reach, : 2 * self.reach]
        dx = (columns - self.reach) / self.scale * build.facing + self._hip[0] - body.x
        dy = (rows - self.reach / 3) / self.scale + self._hip[1] - body.y
        turn = math.radians(body.angle)
        along, aside = dx * math.cos(turn) - dy * math.sin(turn), dx * math.sin(turn) + dy * math.cos(turn)
        return np.asarray((along / (body.major / 2)) ** 2 + (aside / (body.minor / 2)) ** 2 <= 1.0)

    def at(self, points: Floats) -> NDArray[np.float32]:
        """(…,) the value at points (…, 2) from the hip, small px."""
        size = 2 * self.reach - 1
        columns = np.clip(np.rint(points[..., 0] + self.reach), 0, size).astype(np.intp)
        rows = np.clip(np.rint(points[..., 1] + self.reach / 3), 0, size).astype(np.intp)
        return np.asarray(self.value[rows, columns])


def _value(ink: NDArray[np.bool_], half: float) -> NDArray[np.float32]:
    """1 on the middle of a limb, less towards its edge, nothing some px beside it."""
    inside = cv2.distanceTransform(ink.astype(np.uint8), cv2.DIST_L2, 3)
    outside = cv2.distanceTransform((~ink).astype(np.uint8), cv2.DIST_L2, 3)
    on = 0.65 + 0.35 * np.clip(inside / half, 0, 1)
    beside = 0.65 * np.clip(1 - outside / (BESIDE_PX + 0.5), 0, 1)
    return np.asarray(np.where(ink, on, beside), dtype=np.float32)


def _ways(angles: Floats) -> Floats:
    """(…, 2) forward and down, of angles from straight down."""
    return np.stack([np.sin(angles), np.cos(angles)], axis=-1)


def legs_of(sheet: Sheet, body: Ellipse, build: Build) -> Legs:
    """Single legs that a drawing allows, best first."""
    small = Small(sheet, body, build)
    thigh, shin = build.thigh * small.scale, build.shin * small.scale
    parts = (np.arange(SAMPLES) + 0.7) / (SAMPLES - 0.3)
    knees, ankles, scores = [], [], []
    ways = _ways(THIGHS)
    shins = _ways(THIGHS[:, None] - BENDS[None, :])
    plain = {}
    for a, b, cost in LENGTHS:
        if a not in plain:
            on = small.at(ways[:, None, :] * (a * thigh * parts)[None, :, None])
            plain[a] = on.mean(axis=1) + 0.5 * (on.min(axis=1) - 1)
        at = ways * a * thigh
        along = at[:, None, None, :] + shins[:, :, None, :] * (b * shin * parts)[None, None, :, None]
        on = small.at(along)
        lower = on.mean(axis=2) + 0.5 * (on.min(axis=2) - 1)
        score = 0.5 * plain[a][:, None] + 0.5 * lower - cost - np.where(BENDS < -0.05, BACKWARDS, 0.0)[None, :]
        knees.append(np.broadcast_to(at[:, None], shins.shape).reshape(-1, 2))
        ankles.append((at[:, None] + shins * b * shin).reshape(-1, 2))
        scores.append(score.reshape(-1))
    knee, ankle, score = np.concatenate(knees), np.concatenate(ankles), np.concatenate(scores)
    best = np.argpartition(-score, TRIED)[:TRIED]
    toe, foot = _feet(small, ankle[best], build)
    total = 0.82 * score[best] + 0.18 * foot
    order = _spread(knee[best], ankle[best], total, np.arange(len(best)), APART_PX)[:KEPT]
    chosen = best[order]
    covers = _covers(small, knee[chosen], ankle[chosen], toe[order])
    return Legs(
        knees=knee[chosen] / small.scale,
        ankles=ankle[chosen] / small.scale,
        toes=toe[order] / small.scale,
        scores=total[order],
        covers=covers,
        ink=small.ink.reshape(-1),
    )


def _spread(knees: Floats, ankles: Floats, scores: Floats, numbers: NDArray[np.intp], apart: float) -> NDArray[np.intp]:
    """The numbers of the best that lie so far from each better one, best first."""
    order = np.argsort(-scores, kind="stable")
    places = np.concatenate([knees, ankles], axis=1)[order]
    kept: list[int] = []
    for i in range(len(order)):
        off = np.abs(places[kept] - places[i]).reshape(len(kept), 4).max(axis=1) if kept else np.array([np.inf])
        if off.min() >= apart:
            kept.append(i)
    return numbers[order[kept]]


def _feet(small: Small, ankles: Floats, build: Build) -> tuple[Floats, Floats]:
    """(n, 2) the toes, and (n,) how well each foot lies on ink."""
    length = build.foot * small.scale
    ways = np.stack([np.cos(FEET), -np.sin(FEET)], axis=-1)
    parts = (np.arange(FOOT_SAMPLES) + 1) / FOOT_SAMPLES
    along = ankles[:, None, None, :] + ways[None, :, None, :] * (length * parts)[None, None, :, None]
    # The foot's middle lies a little below its ankle.
    along[..., 1] += 0.04 * LEG_PX
    on = small.at(along).mean(axis=2)
    best = on.argmax(axis=1)
    numbers = np.arange(len(ankles))
    return ankles + ways[best] * length + np.array([0.0, 0.04 * LEG_PX]), on[numbers, best].astype(np.float64)


def _covers(small: Small, knees: Floats, ankles: Floats, toes: Floats) -> NDArray[np.bool_]:
    size, thick = 2 * small.reach, max(2, round(2 * small.half + 1.5))
    found = np.zeros((len(knees), size, size), np.uint8)
    origin = np.array([small.reach, small.reach / 3])
    for image, *points in zip(found, knees, ankles, toes, strict=True):
        line = np.rint(np.array([(0.0, 0.0), *points]) + origin).astype(np.int32)
        cv2.polylines(image, [line.reshape(-1, 1, 2)], False, 1, thick)
    return np.asarray(found.reshape(len(knees), -1) > 0)
