"""Which leg is which by tone or colour, where the two sides are drawn differently."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.ink import Cover, Mask, Sheet
from motion.tracking.subjects.figure.poses import Build, Floats

LEAST_APART = 20.0
"""Levels by which the colours of both legs differ at least, where they are drawn in two."""
STEADY = 0.35
"""From drawing to drawing that difference stays the same to such a share of it."""
FEWEST, FEWEST_PIXELS = 3, 12
ON_TOP = 0.62
"""The tone that shows in so large a share of where legs cross is the near one's."""


@dataclass(frozen=True, slots=True, eq=False)
class Tones:
    """The colours (3,) of the near and of the far leg."""

    near: Floats
    far: Floats

    def nearness(self, colours: NDArray[np.uint8]) -> NDArray[np.float32]:
        """(…,) from 1 where a colour (…, 3) is the near leg's to -1 where it is the far one's."""
        way = self.near - self.far
        middle, half = (self.near + self.far) / 2, float(way @ way) / 2
        told = colours.astype(np.float32) @ way.astype(np.float32) - np.float32(middle @ way)
        return np.asarray(np.clip(told / half, -1, 1), dtype=np.float32)

    def covers(self, sheet: Sheet) -> tuple[Cover, Cover]:
        """A drawing's cover by near ink, and by far ink.

        At its edge ink fades into the paper and its colour tells little, as does what outlines enclose: there the
        nearest full ink tells.
        """
        full = sheet.cover > 0.85
        if not full.any():
            return sheet.solid, sheet.solid
        is_near = self.nearness(sheet.colour[full]) > 0
        to_near, to_far = (_to(full, own) for own in (is_near, ~is_near))
        nothing = np.float32(0)
        nearer = to_near <= to_far
        return np.where(nearer, sheet.solid, nothing), np.where(nearer, nothing, sheet.solid)


def _to(full: Mask, own: NDArray[np.bool_]) -> NDArray[np.float32]:
    """(height, width) how far it is to those of the full pixels that are some side's ``own``."""
    others = np.ones(full.shape, np.uint8)
    others[full] = ~own
    if not own.any():
        return np.full(full.shape, np.inf, np.float32)
    return np.asarray(cv2.distanceTransform(others, cv2.DIST_L2, 3), dtype=np.float32)


def legs_drawn(sheet: Sheet, build: Build, hip: tuple[float, float], places: Floats) -> tuple[Mask, Mask]:
    """Where two legs lie in a drawing, each a thick line; ``places`` (8,) knees and ankles from the hip in legs."""
    drawn = []
    for k in (0, 4):
        points = places[k : k + 4].reshape(2, 2) * build.leg * np.array([build.facing, 1.0])
        line = np.concatenate([np.zeros((1, 2)), points]) + np.array(hip) - np.array([sheet.left, sheet.top])
        image = np.zeros(sheet.cover.shape, np.uint8)
        cv2.polylines(image, [np.rint(line).astype(np.int32).reshape(-1, 1, 2)], False, 1, max(2, round(build.wide)))
        drawn.append(image > 0)
    return drawn[0], drawn[1]


@dataclass(frozen=True, slots=True, eq=False)
class Shown:
    """The colours that a drawing's two legs show where each is alone, and those where they cross (n, 3)."""

    first: Floats
    second: Floats
    crossing: NDArray[np.uint8]


def shown(sheet: Sheet, one: Mask, other: Mask, outside: Mask) -> Shown | None:
    """What a drawing's legs show outside of the body; None where too little of either is alone."""
    ink = (sheet.cover > 0.85) & outside
    first, second = one & ~other & ink, other & ~one & ink
    if min(np.count_nonzero(first), np.count_nonzero(second)) < FEWEST_PIXELS:
        return None
    colours = [sheet.colour[part].astype(np.float64).mean(axis=0) for part in (first, second)]
    return Shown(colours[0], colours[1], sheet.colour[one & other & ink])


def tones_of(drawings: Sequence[Shown], paper: Floats) -> Tones | None:
    """The tones of both sides over a clip; None where they are drawn alike. ``paper`` (3,) lies behind."""
    if len(drawings) < FEWEST:
        return None
    apart = np.array([s.first - s.second for s in drawings])
    # Which leg came first may differ from drawing to drawing: its direction tells, not its sign.
    way = np.linalg.svd(apart, full_matrices=False)[2][0]
    along = apart @ way
    usual = float(np.median(np.abs(along)))
    if usual < LEAST_APART or float(np.median(np.abs(np.abs(along) - usual))) > STEADY * usual:
        return None
    one = np.median([s.first if a > 0 else s.second for s, a in zip(drawings, along, strict=True)], axis=0)
    other = np.median([s.second if a > 0 else s.first for s, a in zip(drawings, along, strict=True)], axis=0)
    told = Tones(near=one, far=other)
    return told if _is_near(told, drawings, paper) else Tones(near=other, far=one)


def _is_near(tones: Tones, drawings: Sequence[Shown], paper: Floats) -> bool:
    """Whether what is called near is: it lies over the other one, or stands out more from the paper."""
    crossing = [s.crossing for s in drawings if len(s.crossing)]
    if crossing:
        near = tones.nearness(np.concatenate(crossing))
        clear = np.abs(near) > 0.5
        if np.count_nonzero(clear) >= FEWEST_PIXELS:
            share = float(np.mean(near[clear] > 0))
            if not 1 - ON_TOP <= share <= ON_TOP:
                return share > 0.5
    stands_out = [float(np.abs(c - paper).max()) for c in (tones.near, tones.far)]
    return stands_out[0] >= stands_out[1]
