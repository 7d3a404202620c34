"""A line that leaves a shape: its middle to a fraction of a pixel, and where it ends.

Looked for in how a drawing differs from what stands still, near where it is expected: across it at many stations the
middle of what differs is taken, and a straight line is laid through those robustly. So an outlined bar, a thread and a
string that scenery hides in places are all found by their middles.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.background import Background
from motion.tracking.differs import Packed
from motion.tracking.light import NOWHERE, Box, within

Place = tuple[float, float]
Values = NDArray[np.float64]
Values32 = NDArray[np.float32]

STATIONS = 48
BEYOND = 1.1
"""Lines are followed from so many radii of their shape on."""
WEDGE_DEGREES, WEDGE_STEP = 14.0, 0.2
"""So far to both sides of where it is expected a line is looked for, and how finely."""
LEAST_SEEN = 0.25
"""A line that is seen at a smaller share of its stations is none."""
ACROSS_PX, ACROSS = 9.0, 0.05
"""How far to both sides its middle is looked for: px, and a share of its length."""
ROUNDS = 6
BEYOND_END, END_PX = 0.2, 24
"""So far beyond where it is expected to end it is looked for: a share of its length, or px."""
BODY, LEAST_OUT = 0.85, 8.0
"""How a line looks is told from so much of it, where it stands out by so many levels."""
FAINT = 0.4
EDGE_LEVELS, MOSTLY = 20, 0.25
"""Levels from one pixel to the next but one that are an edge of what stands still.

A line that is beside one in more than such a share of its width is hidden there.
"""
GAP_PX, GAP = 5.0, 0.03
"""A line may be hidden on its way for so many px, or such a share of its length, and goes on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A straight line as found: a point on it, its unit direction away from the shape, and where it ends along that.

    It begins at ``start`` and ends between ``least`` and ``most``, px from the point: what is drawn behind it in its
    own colour hides where. ``seen`` is at which share of its stations it shows, ``half`` about half of its width, px.
    """

    x: float
    y: float
    dx: float
    dy: float
    start: float
    least: float
    most: float
    seen: float
    half: float

    def at(self, along: float) -> Place:
        """The point so many px along it."""
        return self.x + along * self.dx, self.y + along * self.dy

    def nearest(self, to: Place) -> float:
        """How far along it the point nearest to a place lies, px."""
        return (to[0] - self.x) * self.dx + (to[1] - self.y) * self.dy


@dataclass(frozen=True, slots=True, kw_only=True)
class Still:
    """What stands still: how bright it is, ``shade`` (height, width).

    ``edges`` (height, width) is 1 beside its edges, where pictures of drifting paper differ without telling anything;
    None where none drift.
    """

    shade: NDArray[np.uint8]
    edges: NDArray[np.uint8] | None = None

    @classmethod
    def of(cls, background: Background, *, drifts: bool) -> Still:
        """As lines are looked for before it."""
        shade = background.shade
        if not drifts:
            return cls(shade=shade)
        ranges = cv2.morphologyEx(shade, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        near = cv2.dilate((ranges > EDGE_LEVELS).astype(np.uint8), np.ones((3, 3), np.uint8))
        return cls(shade=shade, edges=np.asarray(near, dtype=np.uint8))


def find(shown: Packed, still: Still, centre: Place, radius: float, towards: Place) -> Found | None:
    """The line from a shape (``centre``, ``radius`` px) that leads about ``towards`` a place; None where none shows."""
    far = math.hypot(towards[0] - centre[0], towards[1] - centre[1])
    if far <= BEYOND * radius + 4 or shown.box == NOWHERE:
        return None
    box = _with_end(shown, centre, towards)
    differs, shade = shown.unpacked(still.shade, box)
    part = _Part(
        marks=_marks(differs, shown.threshold),
        shade=shade.astype(np.float32),
        still=still.shade[within(box)].astype(np.float32),
        edges=None if still.edges is None else still.edges[within(box)].astype(np.float32),
    )
    left, top = box[:2]
    found = _found(part, (centre[0] - left, centre[1] - top), radius, far, _way(centre, towards))
    return found and replace(found, x=found.x + left, y=found.y + top)


def _with_end(shown: Packed, centre: Place, towards: Place) -> Box:
    """What differs, and what lies about the line's end as well, as far as the frame goes."""
    (left, top, right, bottom), (height, width) = shown.box, shown.size
    far = [t + BEYOND_END * (t - c) for c, t in zip(centre, towards, strict=True)]
    x, y = (sorted((t, f)) for t, f in zip(towards, far, strict=True))
    return (
        max(0, min(left, int(x[0]) - END_PX)),
        max(0, min(top, int(y[0]) - END_PX)),
        min(width, max(right, int(x[1]) + END_PX)),
        min(height, max(bottom, int(y[1]) + END_PX)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Part:
    """A part of a picture: how surely each pixel is drawn (0 to 1), how bright it is, and what stands still there."""

    marks: Values32
    shade: Values32
    still: Values32
    edges: Values32 | None


def _way(centre: Place, towards: Place) -> float:
    return math.atan2(towards[1] - centre[1], towards[0] - centre[0])


def _found(part: _Part, centre: Place, radius: float, far: float, expected: float) -> Found | None:
    """The same in a part of the picture, in its own px; ``expected`` is the direction, radians."""
    way = _direction(part.marks, centre, BEYOND * radius + 2, far, expected)
    if way is None:
        return None
    laid = _middle(part.marks, centre, BEYOND * radius + 2, far, way)
    if laid is None:
        return None
    clear = _without_faint(part, laid, centre, BEYOND * radius + 2, far)
    if clear is not None:
        laid = _middle(clear, centre, BEYOND * radius + 2, far, way) or laid
    point, direction, seen, half = laid
    least, most = _ends(part, point, direction, BEYOND * radius + 2, far, half)
    return Found(
        x=point[0],
        y=point[1],
        dx=direction[0],
        dy=direction[1],
        start=BEYOND * radius + 2,
        least=least,
        most=most,
        seen=seen,
        half=half,
    )


def _marks(differs: NDArray[np.uint8], threshold: int) -> NDArray[np.float32]:
    """How surely something is drawn at each pixel, 0 to 1."""
    low, high = float(threshold), float(2.5 * threshold + 12)
    return np.asarray(np.clip((differs.astype(np.float32) - low) / (high - low), 0.0, 1.0), np.float32)


def _without_faint(
    part: _Part, laid: tuple[Place, Place, float, float], centre: Place, start: float, far: float
) -> Values32 | None:
    """What is drawn without what stands out far less than the line: faint copies of neighbours; None: nothing does."""
    (x, y), (dx, dy), _, half = laid
    along, across = np.linspace(start, BODY * far, STATIONS), np.arange(-half - 2, half + 2.5, 0.5)
    out = np.abs(part.shade - part.still)
    strip = _sampled(
        out, x + along[:, None] * dx - across[None, :] * dy, y + along[:, None] * dy + across[None, :] * dx
    )
    strong = float(np.median(strip.max(axis=1)))
    if strong * FAINT <= LEAST_OUT:
        return None
    faint = (part.marks > 0.5) & (out < FAINT * strong)
    # A line's own soft edges are faint, too.
    faint = cv2.morphologyEx(faint.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    return np.where(faint, np.float32(0), part.marks) if faint.any() else None


def _sampled(marks: NDArray[np.float32], x: Values, y: Values) -> Values:
    found = cv2.remap(
        marks, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT
    )
    return np.asarray(found, np.float64)


def _direction(marks: NDArray[np.float32], centre: Place, start: float, far: float, expected: float) -> float | None:
    """The direction, radians, in which most is drawn from a shape on: the middle of the wedge that it fills."""
    turns = np.arange(-WEDGE_DEGREES, WEDGE_DEGREES + WEDGE_STEP, WEDGE_STEP)
    reach = np.arange(start, max(start + 4, 0.92 * far), 2.0)
    angles = expected + np.radians(turns)[:, None]
    shown = _sampled(marks, centre[0] + reach[None, :] * np.cos(angles), centre[1] + reach[None, :] * np.sin(angles))
    strength = shown.mean(axis=1)
    best = int(np.argmax(strength))
    if strength[best] < 0.06:
        return None
    # Both edges of an outlined bar belong to it: what is half as strong beside the best, and what lies between.
    near = np.abs(turns - turns[best]) <= 6.0
    strong = np.flatnonzero(near & (strength >= 0.5 * strength[best]))
    middle = float((strength[strong] * turns[strong]).sum() / strength[strong].sum())
    return expected + math.radians(middle)


def _middle(
    marks: NDArray[np.float32], centre: Place, start: float, far: float, way: float
) -> tuple[Place, Place, float, float] | None:
    """A point, the direction, at which share it is seen, and half its width, of the line through its middles."""
    along = np.linspace(start, max(start + 4, 0.96 * far), STATIONS)
    dx, dy = math.cos(way), math.sin(way)
    offset, slope, half, seen = 0.0, 0.0, ACROSS_PX + ACROSS * far, 0.0
    for turn in range(3):
        reach = max(3.0, half if turn else ACROSS_PX + ACROSS * far)
        across = np.arange(-reach, reach + 0.5, 0.5)
        middle = offset + slope * along
        x = centre[0] + along[:, None] * dx - (middle[:, None] + across[None, :]) * dy
        y = centre[1] + along[:, None] * dy + (middle[:, None] + across[None, :]) * dx
        shown = _sampled(marks, x, y)
        weight = shown.sum(axis=1)
        usual = float(np.median(weight[weight > 0.8])) if (weight > 0.8).any() else 0.0
        good = (weight > 0.8) & (weight < 2.5 * usual + 1)
        seen = float(good.mean())
        if good.sum() < max(4, LEAST_SEEN * STATIONS):
            return None
        at = (shown[good] * across).sum(axis=1) / weight[good] + middle[good]
        offset, slope = _laid(along[good], at)
        spread = np.sqrt((shown[good] * (across - (at - middle[good])[:, None]) ** 2).sum(axis=1) / weight[good])
        half = float(np.median(spread)) * 2.2 + 2.0
    turned = math.atan(slope)
    direction = math.cos(way + turned), math.sin(way + turned)
    point = centre[0] - offset * dy, centre[1] + offset * dx
    return point, direction, seen, max(0.5, half - 2.0)


def _laid(along: Values, at: Values) -> tuple[float, float]:
    """Offset and slope of a straight line through points, robust against some that lie apart."""
    weights = np.ones_like(at)
    offset, slope = float(np.median(at)), 0.0
    for _ in range(ROUNDS):
        offset, slope = _through(along, at, weights)
        apart = np.abs(at - (offset + slope * along))
        scale = max(0.15, 1.5 * float(np.median(apart)))
        weights = 1.0 / (1.0 + (apart / scale) ** 2)
    return offset, slope


def _through(along: Values, at: Values, weights: Values) -> tuple[float, float]:
    """Offset and slope by weighted least squares."""
    total = weights.sum()
    x, y = (weights * along).sum() / total, (weights * at).sum() / total
    slope = float((weights * (along - x) * (at - y)).sum() / (weights * (along - x) ** 2).sum())
    return float(y - slope * x), slope


def _ends(part: _Part, point: Place, direction: Place, start: float, far: float, half: float) -> tuple[float, float]:
    """How far along a line it is drawn at least and at most, px, seen from its shape on.

    It is drawn where the picture looks as it does along most of the line. Where what stands still looks so too, or has
    edges on drifting paper, it may go on or not. Short stretches in which it is not drawn are passed over.
    """
    along = np.arange(start, far + max(float(END_PX), BEYOND_END * far), 0.5)
    across = np.arange(-max(1.0, half), max(1.0, half) + 0.5, 0.5)
    x = point[0] + along[:, None] * direction[0] - across[None, :] * direction[1]
    y = point[1] + along[:, None] * direction[1] + across[None, :] * direction[0]
    drawn, hidden = _drawn_at(part, x, y, along < BODY * far)
    at = np.flatnonzero(drawn)
    if not len(at):
        return start, float(along[-1])
    blank = ~drawn & ~hidden
    # How much of what lies before each station is blank, so that what is hidden is no gap.
    blanks = np.cumsum(blank) * 0.5
    stops = np.flatnonzero(np.diff(blanks[at]) > max(GAP_PX, GAP * far))
    last = int(at[stops[0]] if len(stops) else at[-1])
    beyond = np.flatnonzero(blank[last:])
    return float(along[last]), float(along[last + beyond[0]] if len(beyond) else along[-1])


def _drawn_at(
    part: _Part, x: Values, y: Values, body: NDArray[np.bool_]
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """At which stations (of n, with m places across each) a line is drawn, and at which nothing tells.

    ``body`` (n,) are those that surely lie along it: how it looks is told from them.
    """
    marks, shade, still = (_sampled(values, x, y) for values in (part.marks, part.shade, part.still))
    rows, columns = part.marks.shape
    hidden = ((x < 0) | (y < 0) | (x > columns - 1) | (y > rows - 1)).mean(axis=1) > MOSTLY
    if part.edges is not None:
        hidden |= _sampled(part.edges, x, y).mean(axis=1) > MOSTLY
    looks, stands_out = np.median(shade[body], axis=0), np.median(np.abs(shade - still)[body], axis=0)
    told = (np.median(marks[body], axis=0) > 0.5) & (stands_out > LEAST_OUT)
    # What stands out far less, on either side of all that does, is a faint copy of a neighbour.
    strong = np.flatnonzero(stands_out >= FAINT * float(stands_out.max()))
    told[: strong[0]] = told[strong[-1] + 1 :] = False
    if not told.any():
        # Told apart by its colour alone, not by how bright it is.
        return (marks.max(axis=1) > 0.5) & ~hidden, hidden
    near = 0.5 * stands_out[told]
    as_drawn = (np.abs(shade - looks)[:, told] < near).mean(axis=1) >= 0.5
    before = (np.abs(still - looks)[:, told] < near).mean(axis=1) >= 0.5
    return as_drawn & ~before & ~hidden, hidden | (as_drawn & before)
