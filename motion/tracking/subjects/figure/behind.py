"""The background without a figure that hardly leaves its place.

The body of one that walks in place covers the same pixels in every drawing, so that what stands still shows it. It is
told from scenery by what moves around it: the rise and fall of its outline, or the legs that hang on it.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.background import Background, Covered
from motion.tracking.light import Light, difference, largest_channel, sheet_of

Mask = NDArray[np.bool_]
CLOSES = 5
"""Gaps up to so many px (at half size) in the ring of what moves around a body are closed."""
ACROSS_SHARE = 0.45
"""What fills so much of a row, all across, is a ground or a floor, and no part of the figure."""
SLOPES = np.tan(np.radians(np.arange(-12.0, 12.5, 0.5)))
"""A ground may slope by so much."""
STRIP = 8
"""Rows that slope are followed from strip to strip of so many columns."""
PLAIN = 0.5
"""Where the sheet's own colour takes so much of the picture, what is drawn on it stands out by its colour."""
FEET = 0.8
"""From this share of the height of what moves downwards there are feet, which leave no place for long, and a ground."""
HIPS = 0.3
"""Below the body legs are in front nearly all the time for so much of its height."""
BARE = 0.004
"""Paper with less scenery on it is as good as bare."""
WITHIN, AROUND = 0.95, 0.5
"""What is drawn is the figure's where so much of it, or of what lies around it, moves."""
TOP = 0.35
"""What ends in this upper share of what moves may sit on top of it."""
LEAST_PX = 24
"""What is drawn smaller than this (at half size) is grain, or no matter."""
LARGEST = 0.25
"""No figure leaves so large a share of the picture to what stands still."""


def covered(background: Background) -> Covered | None:
    """Where the figure is in front in all drawings, with what moves beside it; None: nowhere.

    ``background`` is what stands still as long as that is not known.
    """
    changes = background.changes
    if changes is None or not changes.any():
        return None
    small = np.ascontiguousarray(background.light[::2, ::2][: changes.shape[0], : changes.shape[1]])
    drawn = difference(small, sheet_of(small, 2)) > background.threshold
    changes = changes & _chief(drawn | changes, changes)
    ring = cv2.morphologyEx(changes.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((CLOSES, CLOSES), np.uint8))
    inside = _holes(np.asarray(ring, dtype=np.uint8)) & drawn
    ground = _all_across(drawn)
    scenery = drawn & ~changes & ~inside & ~ground
    plain = 1 - drawn.mean() > PLAIN and scenery.mean() < BARE
    moves = np.flatnonzero(changes.any(axis=1))
    feet = int(moves[0] + FEET * (moves[-1] - moves[0]))
    own = _ends_above(inside, feet) | _left_behind(_parts(small, drawn & ~ground, background.threshold), changes, feet)
    own[feet:] = False
    if own.mean() > LARGEST or not (own.any() or plain):
        return None
    own = np.asarray(cv2.dilate(own.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)
    # Around the body its outline moves a little; below it, before scenery, legs show now and then what is behind.
    rows = np.flatnonzero(_large(own).any(axis=1))
    beside = np.asarray(changes).copy()
    beside[feet if plain else int(rows[-1] + HIPS * (rows[-1] - rows[0])) :] = False
    # On bare paper nothing is behind feet but that, though one or the other of them always stands there; a ground that
    # slopes crosses rows that have paper at both ends.
    bare = changes if (ground[:, 0] == ground[:, -1]).all() else changes & ~ground
    return Covered(np.asarray(own | beside), own, np.asarray(bare) if plain else None, columns=True)


def _chief(shown: Mask, changes: Mask) -> Mask:
    """What hangs together with most of what moves: a peg hole by itself is no part of a figure, nor a codec's grain."""
    parts = cv2.connectedComponents(shown.astype(np.uint8), connectivity=8)[1]
    return np.asarray(parts == np.bincount(parts[changes]).argmax())


def _ends_above(inside: Mask, row: int) -> Mask:
    """Those parts that end above a row: what stands on the ground is scenery, around which a codec's grain may move."""
    parts = cv2.connectedComponents(inside.astype(np.uint8), connectivity=4)[1]
    standing = np.unique(parts[row:])
    return np.asarray(inside & ~np.isin(parts, standing[standing > 0]))


def _holes(ring: NDArray[np.uint8]) -> Mask:
    """What lies enclosed."""
    outside = np.pad(ring, 1)
    filled = outside.copy()
    cv2.floodFill(filled, None, (0, 0), 1)
    return np.asarray((filled == 0)[1:-1, 1:-1])


def _all_across(drawn: Mask) -> Mask:
    """Where a ground or a floor fills rows all across, level or sloping, and what is next to them."""
    height, width = drawn.shape
    strips = np.add.reduceat(drawn, np.arange(0, width, STRIP), axis=1, dtype=np.float32)
    strips /= np.diff(np.append(np.arange(0, width, STRIP), width)).astype(np.float32)
    middles = np.arange(strips.shape[1]) * STRIP + STRIP / 2 - width / 2
    rows, best, filled = np.arange(height)[:, None], 0.0, np.zeros(drawn.shape, np.uint8)
    where, strip = np.nonzero(strips)
    shares = strips[where, strip] / strips.shape[1]
    # The level first: of slopes that fill as much it is the likeliest.
    for slope in sorted(SLOPES, key=abs):
        # Rows below or above the picture, in which some strips lie, count as none.
        at = np.clip(where - np.rint(slope * middles).astype(np.intp)[strip], -1, height) + 1
        across = np.bincount(at, weights=shares, minlength=height + 2)[1:-1]
        if across.max() > max(ACROSS_SHARE, best * 1.05):
            best = float(across.max())
            down = np.rint(slope * (np.arange(width) - width / 2)).astype(np.intp)
            back = rows - down
            own = (across > ACROSS_SHARE)[back.clip(0, height - 1)] & (back >= 0) & (back < height)
            filled = own.astype(np.uint8)
    return np.asarray(cv2.dilate(filled, np.ones((5, 1), np.uint8)) > 0)


def _sits_on_top(part: Mask, changes: Mask) -> bool:
    """Whether a part ends where what moves begins, and lies over it from side to side."""
    rows, columns = (np.flatnonzero(changes.any(axis=axis)) for axis in (1, 0))
    own_rows, own_columns = (np.flatnonzero(part.any(axis=axis)) for axis in (1, 0))
    tall = rows[-1] - rows[0]
    within = columns[0] <= own_columns[0] and own_columns[-1] <= columns[-1]
    return bool(within and own_rows[0] < rows[0] and own_rows[-1] < rows[0] + TOP * tall)


def _large(own: Mask) -> Mask:
    """What of it hangs together in parts that are more than grain; all of it where none is."""
    count, parts, about, _ = cv2.connectedComponentsWithStats(own.view(np.uint8), connectivity=8)
    large = [n for n in range(1, count) if about[n, cv2.CC_STAT_AREA] >= LEAST_PX]
    return np.isin(parts, large) if large else own


def _parts(small: Light, drawn: Mask, threshold: int) -> NDArray[np.int32]:
    """(height, width) the number of the part of one colour that each drawn pixel belongs to; 0 where nothing is."""
    edges = largest_channel(
        np.asarray(cv2.morphologyEx(small, cv2.MORPH_GRADIENT, np.ones((2, 2), np.uint8)), np.uint8)
    )
    count, parts = cv2.connectedComponents((drawn & (edges <= threshold)).astype(np.uint8), connectivity=4)
    # What lies on an edge goes with what is beside it.
    widened = cv2.dilate(parts.astype(np.float32), np.ones((3, 3), np.uint8)).astype(np.int32)
    found = np.where(parts > 0, parts, widened)
    alone = cv2.connectedComponents((drawn & (found == 0)).astype(np.uint8), connectivity=8)[1]
    return np.asarray(np.where(drawn, np.where(found > 0, found, np.where(alone > 0, alone + count, 0)), 0), np.int32)


def _left_behind(parts: NDArray[np.int32], changes: Mask, feet: int) -> Mask:
    """What is drawn where something moves, or with that nearly all around: the figure's own, left to what stands still.

    What reaches down to the ``feet`` stands there, though a codec's grain may move all around it.

    Scenery goes on beyond where the figure does. What sits on top of all that moves, and is no wider, is a body that
    neither rises nor falls.
    """
    count = int(parts.max()) + 1
    sizes = np.bincount(parts.reshape(-1), minlength=count)
    within = np.bincount(parts[changes], minlength=count) / np.maximum(1, sizes)
    stands = {int(n) for n in np.unique(parts[feet:])}
    own = {int(n) for n in np.flatnonzero(within > WITHIN)} - {0} - stands
    kernel = np.ones((3, 3), np.uint8)
    for number in np.flatnonzero((sizes >= LEAST_PX) & (within > 0) & (within <= WITHIN)):
        part = parts == number
        around = (cv2.dilate(part.astype(np.uint8), kernel) > 0) & ~part
        enclosed = int(number) not in stands and float(np.mean(changes[around])) > AROUND
        if number and (enclosed or _sits_on_top(part, changes)):
            own.add(int(number))
    return np.isin(parts, sorted(own))
