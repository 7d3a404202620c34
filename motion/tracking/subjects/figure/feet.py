"""Feet told from the lower edge of their outline: heel, toe, and how low they reach."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.ink import Cover
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.sole import FEWEST, past_ends, sole_in

Place = tuple[float, float]
Mask = NDArray[np.bool_]
FINE = 4
"""Outlines are followed in pictures made so many times as large."""
ABOVE, REACH = 0.05, 0.50
"""Of the leg: how far above the ankle, and how far from it, a foot's ink may lie."""
SOLES, ABOUT = 1.25, 0.10
"""Nor does it lie farther from the ankle than so many soles and so much of the leg."""
NEAR = 0.09
"""Ink so near the ankle, as a share of the leg, is the foot's."""
SHIN = 0.8
"""Above the ankle what lies so many of its widths beside a shin's middle line is the shin's."""
AS_WHOLE, UNDER = 0.12, 0.9
"""Parts of a foot on both sides of what lies over it are one whose sole is as long as usual, to such a share, and of
which so much shows or lies under that."""
END_HIGH = 0.06
"""How far a foot reaches past heel and toe is looked up to so much of the leg above the sole."""
SLIVER_PX, MOSTLY_THICK = 3, 0.75
"""What is not so many px thick, where most of a foot is, may be left of a ground."""
INKED, UP_PX = 0.5, 1.5
"""A pixel is inked of which so much is; whether a sole lies on ink is looked so many px above it."""
TOGETHER = 5
"""Ink that lies no farther apart, px, hangs together: a drawn ground may hide a part of a foot that goes through it."""


@dataclass(frozen=True, slots=True)
class Foot:
    """Heel and toe on the sole (px in the frame), and the y of the lowest point of the outline.

    ``touches`` where the other foot's ink hangs together with it; ``beyond`` is how far the outline reaches past heel
    and toe, px: a round end does.
    """

    heel: Place
    toe: Place
    low: float
    touches: bool = False
    beyond: tuple[float, float] = (0.0, 0.0)

    @property
    def length(self) -> float:
        """From heel to toe, px."""
        return math.dist(self.heel, self.toe)

    def ended(self, beyond: tuple[float, float]) -> Foot:
        """The same with heel and toe so far within the ends of its outline."""
        (ux, uy), back, on = self._along, self.beyond[0] - beyond[0], self.beyond[1] - beyond[1]
        heel = self.heel[0] - back * ux, self.heel[1] - back * uy
        return replace(self, heel=heel, toe=(self.toe[0] + on * ux, self.toe[1] + on * uy), beyond=beyond)

    def from_end(self, end: Literal["heel", "toe"], length: float, beyond: tuple[float, float]) -> Foot:
        """The same as long as feet are, from the end that shows, so far within the end of its outline."""
        (ux, uy), told = self._along, self.ended(beyond)
        if end == "heel":
            return replace(told, toe=(told.heel[0] + length * ux, told.heel[1] + length * uy))
        return replace(told, heel=(told.toe[0] - length * ux, told.toe[1] - length * uy))

    def seen_from(self, point: Place, above: Place) -> Place:
        """A point as it lies along the sole from its middle, and above it: on the side of the point ``above``."""
        (x, y), (ux, uy) = self._middle, self._along
        dx, dy = point[0] - x, point[1] - y
        return dx * ux + dy * uy, self._side(above) * (dx * uy - dy * ux)

    def placed(self, along: float, high: float, above: Place) -> Place:
        """The place in the frame so far along the sole from its middle, and so high above it."""
        (x, y), (ux, uy) = self._middle, self._along
        high *= self._side(above)
        return x + along * ux + high * uy, y + along * uy - high * ux

    @property
    def _middle(self) -> Place:
        return (self.heel[0] + self.toe[0]) / 2, (self.heel[1] + self.toe[1]) / 2

    @property
    def _along(self) -> Place:
        length = max(1e-6, self.length)
        return (self.toe[0] - self.heel[0]) / length, (self.toe[1] - self.heel[1]) / length

    def _side(self, above: Place) -> float:
        ux, uy = self._along
        return 1.0 if (above[0] - self.heel[0]) * uy - (above[1] - self.heel[1]) * ux >= 0 else -1.0


def foot_of(
    cover: Cover,
    origin: Place,
    knee: Place,
    ankle: Place,
    beside: NDArray[np.float64],
    build: Build,
    over: Cover | None = None,
) -> Foot | None:
    """The foot below an ankle (px in the frame), of a side's own ``cover``; None where no sole can be told.

    A foot of a thin stroke has a sole as well: the lower edge of that stroke. The other foot lies about at the
    places ``beside`` it (n, 2). With all ink given as what may lie ``over`` it, a foot is told that shows on both sides
    of the other leg, if its sole is as long as usual and goes on behind that all along.
    """
    length = max(1e-6, math.hypot(ankle[0] - knee[0], ankle[1] - knee[1]))
    way = np.array([(ankle[0] - knee[0]) / length, (ankle[1] - knee[1]) / length])
    reach = min(REACH * build.leg, SOLES * build.foot + ABOUT * build.leg)
    part, left, top = _around(cover, origin, ankle, reach)
    if part.size == 0:
        return None
    own = _own(part, (left, top), ankle, way, reach, build)
    if over is None:
        return _foot_in(own, way, beside, build)
    solid = _around(over, origin, ankle, reach)[0] > INKED
    found = _foot_in(replace(own, joined=own.joined | (solid & own.near)), way, beside, build)
    if found is None or abs(found.length / build.foot - 1) > AS_WHOLE:
        return None
    return found if lies_on(solid, found, (left, top)) else None


def _foot_in(own: _Own, way: NDArray[np.float64], beside: NDArray[np.float64], build: Build) -> Foot | None:
    """The foot that hangs together around an ankle."""
    marked = _hanging_together(own)
    if marked is None:
        return None
    part, (left, top) = own.part, own.corner
    touches = _lies_at(marked, beside - np.array([left, top]))
    part, marked, left, top = _close_to(part, marked, left, top)
    soft = np.where(cv2.dilate(marked.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0, part, np.float32(0))
    fine = cv2.resize(soft, None, fx=FINE, fy=FINE, interpolation=cv2.INTER_LINEAR)
    outlines, _ = cv2.findContours((fine > 0.5).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not outlines:
        return None
    # Pixel centres are whole numbers in both: the middle of the first of FINE fine ones lies before that of the pixel.
    points = np.concatenate(outlines)[:, 0].astype(np.float64)
    points = (points + 0.5) / FINE - 0.5 + np.array([left, top])
    if len(points) < FEWEST:
        return None
    sole = sole_in(points, way, build.foot)
    if sole is None:
        return None
    one, other = sole
    heel, toe = (one, other) if build.facing * (other[0] - one[0]) > 0 else (other, one)
    # The outline runs through the middles of its fine pixels, half of one within the edge.
    edge = 0.5 / FINE
    low = float(points[:, 1].max()) + edge
    beyond = past_ends(points, np.array(heel), np.array(toe), END_HIGH * build.leg)
    return Foot((heel[0], heel[1] + edge), (toe[0], toe[1] + edge), low, touches, beyond)


def lies_on(solid: Mask, foot: Foot, corner: Place) -> bool:
    """Whether a sole has ink all along, its own or another leg's."""
    ends = np.array([foot.heel, foot.toe]) - np.array(corner)
    shares = np.linspace(0.0, 1.0, max(2, round(foot.length)))[:, None]
    columns, rows = np.rint(ends[0] + shares * (ends[1] - ends[0]) - np.array([0.0, UP_PX])).astype(np.intp).T
    inside = (columns >= 0) & (rows >= 0) & (columns < solid.shape[1]) & (rows < solid.shape[0])
    return int(np.count_nonzero(solid[rows[inside], columns[inside]])) >= UNDER * len(shares)


def _lies_at(marked: Mask, places: NDArray[np.float64]) -> bool:
    """Whether most of some places (n, 2) are marked."""
    columns, rows = np.rint(places).astype(np.intp).T
    inside = (columns >= 0) & (rows >= 0) & (columns < marked.shape[1]) & (rows < marked.shape[0])
    return 2 * int(np.count_nonzero(marked[rows[inside], columns[inside]])) > len(places)


def _around(cover: Cover, origin: Place, ankle: Place, reach: float) -> tuple[Cover, int, int]:
    """The cover around an ankle, and where that begins in the frame."""
    x, y = ankle[0] - origin[0], ankle[1] - origin[1]
    left, top = max(0, math.floor(x - reach)), max(0, math.floor(y - reach))
    right, bottom = math.ceil(x + reach) + 1, math.ceil(y + reach) + 1
    part = cover[top : max(0, bottom), left : max(0, right)]
    return part, left + round(origin[0]), top + round(origin[1])


def _close_to(part: Cover, marked: Mask, left: int, top: int) -> tuple[Cover, Mask, int, int]:
    """What lies close to the marked pixels, and where that begins in the frame."""
    x, y, wide, tall = cv2.boundingRect(marked.view(np.uint8))
    x0, y0 = max(0, x - 2), max(0, y - 2)
    window = np.s_[y0 : y + tall + 2, x0 : x + wide + 2]
    return part[window], marked[window], left + x0, top + y0


@dataclass(frozen=True, slots=True)
class _Own:
    """The ink around an ankle that may be its foot's.

    ``part`` is a side's own ink around it, which begins at the ``corner``; ``near`` are the pixels that are in reach
    and not the shin's, ``around`` of these the ones around the ankle; what is ``joined`` hangs together.
    """

    part: Cover
    corner: tuple[int, int]
    near: Mask
    around: Mask
    joined: Mask


def _own(
    part: Cover, corner: tuple[int, int], ankle: Place, way: NDArray[np.float64], reach: float, build: Build
) -> _Own:
    dx, dy = np.arange(part.shape[1]) + (corner[0] - ankle[0]), np.arange(part.shape[0])[:, None] + corner[1] - ankle[1]
    far = dx * dx + dy * dy
    above, beside = dx * way[0] + dy * way[1] < -ABOVE * build.leg, np.abs(dx * way[1] - dy * way[0])
    near = ~(above & (beside < SHIN * build.wide + 2)) & (far < reach * reach)
    inked = near & (part > INKED)
    return _Own(part, corner, near, inked & (far < (NEAR * build.leg) ** 2), inked)


def _hanging_together(own: _Own) -> Mask | None:
    """Which pixels are the foot's: those around the ankle that hang together with what is there."""
    if not own.around.any():
        return None
    joined = cv2.dilate(own.joined.astype(np.uint8), np.ones((TOGETHER, TOGETHER), np.uint8))
    parts = cv2.connectedComponents(joined)[1]
    most = np.bincount(parts[own.around]).argmax()
    return _without_slivers(np.asarray(own.near & (own.part > INKED) & (parts == most)))


def _without_slivers(marked: Mask) -> Mask:
    """A foot that is thick without lines so thin beside it that they can be what was left of a ground."""
    thick = cv2.morphologyEx(marked.view(np.uint8), cv2.MORPH_OPEN, np.ones((SLIVER_PX, 1), np.uint8))
    if np.count_nonzero(thick) < MOSTLY_THICK * np.count_nonzero(marked):
        return marked
    return np.asarray(marked & (cv2.dilate(thick, np.ones((3, 3), np.uint8)) > 0))
