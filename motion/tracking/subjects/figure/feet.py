"""Feet told from the lower edge of their outline: heel, toe, and how low they reach."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.ink import Cover
from motion.tracking.subjects.figure.poses import Build

Place = tuple[float, float]
Mask = NDArray[np.bool_]
FEWEST = 8
"""No sole is told from fewer points of an outline."""
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
    return found if _lies_on(solid, found, (left, top)) else None


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
    sole = _sole(points, way, build.foot)
    if sole is None:
        return None
    one, other = sole
    heel, toe = (one, other) if build.facing * (other[0] - one[0]) > 0 else (other, one)
    # The outline runs through the middles of its fine pixels, half of one within the edge.
    edge = 0.5 / FINE
    low = float(points[:, 1].max()) + edge
    beyond = _beyond(points, np.array(heel), np.array(toe), END_HIGH * build.leg)
    return Foot((heel[0], heel[1] + edge), (toe[0], toe[1] + edge), low, touches, beyond)


def _beyond(points: NDArray[np.float64], heel: NDArray[np.float64], toe: NDArray[np.float64], high: float) -> Place:
    """How far an outline reaches past heel and toe, up to so ``high`` above the sole."""
    length = max(1e-6, float(np.hypot(*(toe - heel))))
    along, above = _seen_from(points, heel, (toe - heel) / length, points.mean(axis=0))
    ends = along[above < high]
    return (-float(ends.min()), float(ends.max()) - length) if len(ends) else (0.0, 0.0)


def _lies_on(solid: Mask, foot: Foot, corner: tuple[int, int]) -> bool:
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


def _sole(points: NDArray[np.float64], way: NDArray[np.float64], usual: float) -> tuple[Place, Place] | None:
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
