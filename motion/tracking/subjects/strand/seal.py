"""Outlined strands whose outline is open near the root: what it encloses is found as if it were closed there.

Near the root ink lies on the same pixels in every drawing and is taken for what stands still, so that the outline of a
hollow strand ends before it closes. A disc about the place from which it hangs closes it, just as large as it takes.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure import ink
from motion.tracking.subjects.figure.ink import GAP_PX, Sheet

Mask = NDArray[np.bool_]
Place = tuple[float, float]
RADII = (8, 12, 17, 23, 30, 38, 48, 60, 75)
"""Discs that are tried, px."""
MORE, ALL = 1.06, 0.98
"""A strand is hollow where closing it makes its area so many times as large; the disc is the least that gives nearly as
much as any."""
CLOSED = 0.9
"""A drawing's outline is closed where it encloses such a share of what it usually does."""
TRIED = 8


def radius_of(sheets: Sequence[Sheet], root: Place) -> int:
    """How large a disc about the root closes most outlines, px; 0 where they are closed, or there are none."""
    some = sheets[:: max(1, len(sheets) // TRIED)]
    before = [max(1, int(np.count_nonzero(enclosed(s.inked)))) for s in some]
    grown = np.array([[_area(s, root, r) / own for r in RADII] for s, own in zip(some, before, strict=True)])
    usual = np.median(grown, axis=0)
    if float(usual.max()) < MORE:
        return 0
    return next(r for r, g in zip(RADII, usual, strict=True) if g >= ALL * float(usual.max()))


def without(sheet: Sheet, root: Place, radius: int, area: float) -> tuple[Sheet, int]:
    """The sheet with nothing in the disc, and with what its outline encloses; and how large that disc is, px.

    Where it encloses far less than its usual ``area`` (px²) a larger disc is tried.
    """
    for tried in (radius, *(r for r in RADII if r > radius)):
        if _area(sheet, root, tried) >= CLOSED * area:
            break
    else:
        tried = radius
    disc = _disc(sheet, root, tried)
    cover = np.where(disc, np.float32(0), sheet.cover)
    solid = np.maximum(cover, _closed(sheet, root, tried).astype(np.float32))
    return Sheet(sheet.left, sheet.top, cover, solid, sheet.colour), tried


def usual_area(sheets: Sequence[Sheet], root: Place, radius: int) -> float:
    """How much the outlines enclose that such a disc closes, px², in the middle of all."""
    return float(np.median([_area(s, root, radius) for s in sheets]))


def enclosed(marked: Mask) -> Mask:
    """Ink with everything that it encloses, be that as narrow as the gaps that are closed in an outline."""
    plain = cv2.copyMakeBorder(marked.view(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT)
    cv2.floodFill(plain, None, (0, 0), 2)
    return np.asarray(ink.whole(marked) | (plain[1:-1, 1:-1] != 2))


def _closed(sheet: Sheet, root: Place, radius: int) -> Mask:
    """What a drawing's outline encloses, closed by a disc about the root; without that disc."""
    disc = _disc(sheet, root, radius)
    marked = (sheet.inked | disc).view(np.uint8)
    around = cv2.copyMakeBorder(marked, GAP_PX, GAP_PX, GAP_PX, GAP_PX, cv2.BORDER_CONSTANT)
    gapless = cv2.morphologyEx(around, cv2.MORPH_CLOSE, np.ones((GAP_PX, GAP_PX), np.uint8))
    cv2.floodFill(gapless, None, (0, 0), 2)
    return np.asarray((gapless[GAP_PX:-GAP_PX, GAP_PX:-GAP_PX] != 2) & ~disc)


def _area(sheet: Sheet, root: Place, radius: int) -> int:
    """How much it encloses then, px²; what it has in the disc counts as well."""
    return int(np.count_nonzero(_closed(sheet, root, radius) | _disc(sheet, root, radius) & sheet.inked))


def _disc(sheet: Sheet, root: Place, radius: int) -> Mask:
    found = np.zeros(sheet.cover.shape, np.uint8)
    cv2.circle(found, (round(root[0] - sheet.left), round(root[1] - sheet.top)), radius, 1, -1)
    return found > 0
