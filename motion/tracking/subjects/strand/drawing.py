"""A drawing of a strand on its way from ink to points: closed, walked from the root, led from there to its end."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import ink
from motion.tracking.subjects.figure.ink import Inked, Sheet
from motion.tracking.subjects.strand import seal
from motion.tracking.subjects.strand.middle import STEP, Middle, middle_of
from motion.tracking.subjects.strand.polyline import along, placed
from motion.tracking.subjects.strand.topology import Ways, ways_through
from motion.tracking.subjects.strand.weight import LAST, weight_of

Floats = NDArray[np.float64]
Place = tuple[float, float]
TAIL_POINTS = 9
BEFORE, BEFORE_PX = 1.04, 3.0
"""The middle line ends before it enters a weight: so many of its radii from its middle, and so many px."""


@dataclass(slots=True)
class Seen:
    """A drawing on its way from ink to points; nothing of it is seen ``open_px`` about where it hangs.

    ``slip`` is how far its upper end lies off the root, px; all else is told as if it hung from there.
    """

    sheet: Sheet
    ways: Ways
    middle: Middle | None = None
    weight: Ellipse | None = None
    line: Floats | None = None
    open_px: int = 0
    slip: Place = (0.0, 0.0)


def seen_of(kept: Inked) -> Seen | None:
    """What is kept of a drawing, as a net of ink; None where there is next to none."""
    sheet = ink.sheet_of(kept)
    if sheet.empty:
        return None
    filled = seal.enclosed(sheet.inked)
    solid = np.maximum(sheet.cover, filled.astype(np.float32))
    ways = ways_through(filled)
    return None if ways is None else Seen(Sheet(sheet.left, sheet.top, sheet.cover, solid, sheet.colour), ways)


def closed(one: Seen, root: Place, radius: int, area: float) -> bool:
    """Close a drawing's outline near the root; False where nothing is left of it."""
    one.sheet, one.open_px = seal.without(one.sheet, root, radius, area)
    ways = ways_through(one.sheet.solid > 0.5)
    if ways is None:
        return False
    one.ways = ways
    return True


def follow(one: Seen, start: Place) -> None:
    """Its middle line from the root on, and its weight."""
    sheet, ways = one.sheet, one.ways
    origin = float(sheet.left), float(sheet.top)
    far = ways.far_from(ways.nearest((start[0] - sheet.left, start[1] - sheet.top)))
    one.middle = middle_of(sheet.solid, origin, ways, far)
    if one.middle is None:
        return
    if one.open_px:
        # Where its edges are cut by that disc its middle is none.
        away = np.hypot(*(one.middle.points - np.array(start)).T)
        one.middle.told[:] &= away > one.open_px + 0.25 * np.nan_to_num(one.middle.widths) + 2
        if not one.middle.told.any():
            one.middle = None
            return
    usual = 0.5 * float(np.nanmedian(one.middle.widths))
    height, width = sheet.cover.shape
    late = np.zeros((height, width), np.uint8)
    last = np.flatnonzero(far >= (1 - LAST) * float(far[np.isfinite(far)].max()))
    columns, rows = (np.rint(ways.pixels[last, axis]).astype(np.intp) for axis in (0, 1))
    late[np.clip(rows, 0, height - 1), np.clip(columns, 0, width - 1)] = 1
    late = np.asarray(cv2.dilate(late, np.ones((3, 3), np.uint8)), dtype=np.uint8)
    one.weight = weight_of(sheet.cover, sheet.solid > 0.5, (sheet.left, sheet.top), usual, late > 0)


def near_root(one: Seen, share: float, but_px: float) -> Floats:
    """What of its middle line, up to a share of it less some px, tells where the root is."""
    if one.middle is None:
        return np.zeros((0, 2))
    points = one.middle.points
    count = max(6, round(share * len(points) - but_px / STEP))
    # The very first stations may be cut by what it hangs from, or by its own rounding.
    skip = 2
    return points[skip:count][one.middle.told[skip:count]]


def from_root(one: Seen, root: Place) -> Floats:
    """(n, 2) its middle line from the root to its end: the weight's middle, else the tip of its ink."""
    if one.middle is None:
        return np.zeros((0, 2))
    points = one.middle.points
    away = np.hypot(*(points - np.array(root)).T)
    wide = float(np.nanmedian(one.middle.widths))
    inner = np.arange(len(points)) >= int(away[: max(2, len(points) // 2)].argmin()) + 1
    inner &= away > 0.5 * wide
    end = one.middle.tip
    if one.weight is not None:
        end = one.weight.x, one.weight.y
        within = np.hypot(*(points - np.array(end)).T) <= BEFORE * one.weight.major / 2 + BEFORE_PX
        inner &= ~np.logical_or.accumulate(within)
    else:
        inner &= np.hypot(*(points - np.array(end)).T) > 0.6 * wide
    return np.concatenate([[root], points[inner & one.middle.told], [end]])


def tail_points(one: Seen) -> tuple[Place, ...]:
    """Nine points at equal distances along its middle line."""
    if one.line is None:
        return ()
    told = placed(one.line, np.linspace(0, along(one.line)[-1], TAIL_POINTS))
    return tuple((float(x), float(y)) for x, y in told)


def sure(one: Seen) -> float:
    """How surely it was found: by how much of its middle line shows both edges."""
    told = 0.0 if one.middle is None else float(one.middle.told.mean())
    return round(min(0.98, 0.4 + 0.58 * math.sqrt(told)), 3)
