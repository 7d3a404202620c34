"""Where a strand's own upper end is in each drawing, against where it hangs in most: one that has slipped off.

Beside the root that is by how far its first part passes; along it, by how much sooner or later its ink ends than in the
others. What it hangs from, and rounded ends, cut all of them alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.strand.drawing import Place, Seen
from motion.tracking.subjects.strand.middle import STEP

Floats = NDArray[np.float64]
FROM, TO, FARTHER, FEWEST = 0.03, 0.16, 0.19, 4
"""Between these shares of its length its first part tells how it goes on to the root; farther, where less shows."""
BEYOND = 0.16
"""Its ink ends no farther beyond the root than such a share of its length."""
LEADS = 0.45
"""It tells nothing where so much of it shows alone, as a share of how far its middle is from the root."""
GAP_PX, BENDS_PX = 3, 5.0
LEAST, LEAST_PX = 0.6 * 0.02, 0.6 * 2.0
"""A slip is told from such a share of the strand's length, and so many px: somewhat less than what is judged."""
SHORT, SHORT_PX = 0.6, 8.0
"""Their ink ends no farther before the root: such a share of how wide they are, and so many px."""
ROUNDS, ASIDE, ASIDE_PX = 3, 2.5, 1.0
"""A station is beside the others by so many times as much as half of them are, and by so many px."""
ALIKE_PX = 4.0
"""Ink that ends within so many px of where the others end may go on behind what all of them cover."""
LOOSE = 4.0
MOST, BEYOND_MOST = 85, 1.5
"""It is so many times as far off as others usually are, and as so many of 100 are at most: by how it swings the hook
hides more of it, or less."""


def slips_of(told: Sequence[Seen], root: Place) -> list[Place]:
    """By how many px each drawing's own upper end lies off the root; (0, 0) where it hangs from there."""
    ends = np.array([_own_end(one, root) or (np.nan, np.nan, np.nan) for one in told])
    if not len(ends) or np.isnan(ends).all():
        return [(0.0, 0.0)] * len(told)
    seen, farthest = ends[:, :2], ends[:, 2]
    middle = np.nanmedian(seen, axis=0)
    off = seen - middle
    wide = float(np.median([np.nanmedian(s.middle.widths) for s in told if s.middle is not None]))
    # Where the others seem to end it covers what they cover; its own end is beyond.
    under = (np.abs(off[:, 1]) < ALIKE_PX) & (farthest > seen[:, 1] + ALIKE_PX)
    off[under, 1] = (farthest - middle[1])[under]
    if middle[1] < -(SHORT * wide + SHORT_PX):
        # Most are not seen up to where they hang: that one goes on farther tells nothing.
        off[:, 1] = 0.0
    usual, most = np.nanmedian(np.abs(off), axis=0), np.nanpercentile(np.abs(off), MOST, axis=0)
    reach = float(np.median([np.hypot(*(np.array(s.middle.tip) - root)) for s in told if s.middle is not None]))
    least = np.maximum(max(LEAST * reach, LEAST_PX), np.maximum(LOOSE * usual, BEYOND_MOST * most))
    # What is off by little is measured no better than that; what is off by much, as it is.
    slid = np.where(np.abs(off) > least, off, 0.0)
    # They end half their width beyond the root, be that seen or not; one that has slipped is seen to its own end.
    hidden = max(0.0, wide / 2 - middle[1])
    slid[:, 1] = np.where(np.abs(slid[:, 1]) > hidden, slid[:, 1] - hidden, np.minimum(0.0, slid[:, 1]))
    return [_slip(one, root, way) for one, way in zip(told, np.nan_to_num(slid), strict=True)]


def without(one: Seen, slip: Place) -> None:
    """Put a drawing where it would hang from the root."""
    dx, dy = slip
    one.slip = slip
    one.sheet = replace(one.sheet, left=one.sheet.left - dx, top=one.sheet.top - dy)  # type: ignore[arg-type]
    if one.middle is not None:
        tip = one.middle.tip[0] - dx, one.middle.tip[1] - dy
        one.middle = replace(one.middle, points=one.middle.points - np.array(slip), tip=tip)
    if one.weight is not None:
        one.weight = replace(one.weight, x=one.weight.x - dx, y=one.weight.y - dy)


def _way(one: Seen, root: Place) -> tuple[Floats, Floats] | None:
    """A point of the first part, px, and its direction towards the root; None where too little of it shows."""
    if one.middle is None:
        return None
    points = one.middle.points
    first = round(FROM * len(points))
    for share in (TO, FARTHER):
        last = max(round(share * len(points)), first + FEWEST)
        near = points[first:last][one.middle.told[first:last]]
        if len(near) >= FEWEST:
            break
    else:
        return None
    middle, way = _straight(near)
    if float(np.ptp((near - middle) @ way)) < LEADS * float(np.hypot(*(np.array(root) - middle))):
        return None
    return middle, way if float(way @ (points[0] - middle)) >= 0 else -way


def _straight(points: Floats) -> tuple[Floats, Floats]:
    """The middle of points (n, 2) and the direction in which they lie, but for those that lie beside the others."""
    middle, way = points.mean(axis=0), np.zeros(2)
    for _ in range(ROUNDS):
        way = np.linalg.svd(points - middle)[2][0]
        off = np.abs((points - middle) @ np.array([-way[1], way[0]]))
        points = points[off <= max(ASIDE_PX, ASIDE * float(np.median(off)))]
        middle = points.mean(axis=0)
    return middle, way


def _own_end(one: Seen, root: Place) -> tuple[float, float, float] | None:
    """How far the first part passes the root (px, to its left), and how far beyond it its ink ends, and ends at last.

    Ink that all drawings cover alike is not seen: it may go on behind that.
    """
    told = _way(one, root)
    if told is None or one.middle is None:
        return None
    middle, way = told
    away = np.array(root) - middle
    passes = float(way[0] * away[1] - way[1] * away[0])
    to_root = float(way @ away)
    if one.open_px:
        # Its outline is closed by a disc about the root: where it ends does not show.
        return passes, 0.0, 0.0
    steps = np.arange(0.0, to_root + BEYOND * STEP * len(one.middle.points), 0.5)
    # A thin one that bends leaves its straight way by more than half its width.
    aside = np.linspace(-1, 1, 5)[:, None] * max(1.0, BENDS_PX - 0.5 * float(np.nanmedian(one.middle.widths)))
    x = (middle[0] + steps * way[0] - aside * way[1] - one.sheet.left).astype(np.float32)
    y = (middle[1] + steps * way[1] + aside * way[0] - one.sheet.top).astype(np.float32)
    ink = cv2.remap(one.sheet.solid, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT).max(axis=0)
    gone = np.convolve(ink < 0.5, np.ones(2 * GAP_PX), "valid") == 2 * GAP_PX
    ends = int(np.argmax(gone)) if gone.any() else len(steps) - 1
    last = int(np.flatnonzero(ink >= 0.5)[-1]) + 1 if (ink >= 0.5).any() else 0
    return passes, float(steps[ends]) - to_root, float(steps[min(max(last, ends), len(steps) - 1)]) - to_root


def _slip(one: Seen, root: Place, off: Floats) -> Place:
    told = _way(one, root) if off.any() else None
    if told is None:
        return 0.0, 0.0
    way = told[1]
    # To the left of its way is the way turned by a right angle.
    beside = np.array([way[1], -way[0]])
    x, y = off[0] * beside + off[1] * way
    return float(x), float(y)
