"""What carries a strand: the wide thing at its top, that is the same in all drawings but for where it is.

A hand, a block or a trolley goes along and does not turn; in its own frame the strand hangs from a point that stays.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.ink import Sheet

Floats = NDArray[np.float64]
WIDER, NARROWS = 1.6, 0.35
"""It is so many times as wide as what hangs from it; it ends where the ink is narrower than such a share of it,"""
AS_HANGS = 1.6
"""or than so many times what hangs."""
UPPER = 0.7
"""Such an upper share of it tells where it is: below, what hangs moves before it."""
MIDDLE = (0.45, 0.65)
"""What hangs is as wide as the ink is between these shares of its height."""
MOSTLY = 0.8
ABOVE, LOW = 0.25, 0.6
"""What carries it lies in such an upper share of all that is drawn; what is so much lower is a piece of it."""


@dataclass(frozen=True, slots=True)
class Base:
    """Where it is in one drawing: its middle across and its upper edge, px, and how far down it reaches."""

    x: float
    y: float
    foot: float


def usual_height(sheets: Sequence[Sheet]) -> int:
    """How high what carries the strand usually is, px; 0 where none is told."""
    high = [t[1] - t[0] for s in sheets if (t := _rows_of(s)) is not None]
    return int(np.median(high)) if high else 0


def hanging(sheet: Sheet, usual: int) -> Sheet:
    """The sheet without loose ink beside what carries the strand: what is left where that stands most of the time.

    Only where something hangs from above is anything known to be loose; what is about as high as that base ``usual``ly
    is may be the base itself, from which it has slipped.
    """
    parts = cv2.connectedComponentsWithStats((sheet.solid > 0.5).astype(np.uint8), connectivity=8)
    numbers, stats = parts[1], parts[2]
    rows = len(sheet.solid)
    top, foot = stats[:, cv2.CC_STAT_TOP], stats[:, cv2.CC_STAT_TOP] + stats[:, cv2.CC_STAT_HEIGHT]
    drawn = np.arange(len(stats)) > 0
    if not (drawn & (top < ABOVE * rows) & (foot > rows / 2)).any():
        return sheet
    loose = np.flatnonzero(drawn & (foot < ABOVE * rows) & (foot - top < LOW * usual))
    if not len(loose):
        return sheet
    kept = ~np.isin(numbers, loose)
    # What is half covered at the edges of a loose piece goes with it.
    near = cv2.dilate((~kept).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    kept &= ~(near & (sheet.solid <= 0.5))
    return replace(sheet, cover=sheet.cover * kept, solid=sheet.solid * kept)


def bases_of(sheets: Sequence[Sheet]) -> list[Base] | None:
    """The base in each drawing; None where most have none."""
    told = [_rows_of(s) for s in sheets]
    high = [t[1] - t[0] for t in told if t is not None]
    if not sheets or len(high) < MOSTLY * len(sheets):
        return None
    usual = int(np.median(high))
    tops = [t[0] if t is not None else _top(s) for s, t in zip(sheets, told, strict=True)]
    return [_placed(s, top, usual) for s, top in zip(sheets, tops, strict=True)]


def in_its_frame(sheet: Sheet, base: Base, first: Base) -> Sheet:
    """The sheet without the base, as if that were where it is in the first drawing."""
    cover, solid = sheet.cover.copy(), sheet.solid.copy()
    rows = max(0, min(len(cover), round(base.foot - sheet.top) + 1))
    cover[:rows] = solid[:rows] = 0
    moved = replace(sheet, cover=cover, solid=solid)
    return replace(moved, left=sheet.left - (base.x - first.x), top=sheet.top - (base.y - first.y))  # type: ignore[arg-type]


def _top(sheet: Sheet) -> int:
    rows = np.flatnonzero((sheet.solid > 0.5).sum(axis=1) > 2)
    return int(rows[0]) if len(rows) else 0


def _rows_of(sheet: Sheet) -> tuple[int, int] | None:
    """The first row of the base and the one after its last; None where nothing at the top is wider than what hangs."""
    counts = (sheet.solid > 0.5).sum(axis=1).astype(np.float64)
    top, rows = _top(sheet), len(counts)
    middle = counts[round(MIDDLE[0] * rows) : max(round(MIDDLE[1] * rows), round(MIDDLE[0] * rows) + 1)]
    hangs = float(np.median(middle)) if len(middle) else 0.0
    widest = 0.0
    for row in range(top, rows // 2):
        widest = max(widest, counts[row])
        narrow = max(NARROWS * widest, AS_HANGS * hangs)
        if widest > WIDER * hangs and (counts[row : row + 4] < narrow).all():
            return top, row
    return None


def _placed(sheet: Sheet, top: int, high: int) -> Base:
    """Where it is to a part of a pixel: by the middle of its ink across, and by where its upper edge is."""
    part = sheet.solid[top : top + max(2, round(UPPER * high))].astype(np.float64)
    weights = part.sum(axis=0)
    x = float((weights * np.arange(part.shape[1])).sum() / max(1e-6, weights.sum()))
    sums = sheet.solid[max(0, top - 2) : top + 4].astype(np.float64).sum(axis=1)
    most = max(1e-6, float(sums[-1]))
    # What its upper rows lack of their fill is how far below the first of them its edge is.
    edge = max(0, top - 2) + float((1 - np.minimum(1, sums / most)).sum()) - 0.5
    return Base(x + sheet.left, edge + sheet.top, top + high + sheet.top)
