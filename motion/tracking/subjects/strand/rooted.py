"""The background without what hangs there: around its root a strand covers the same pixels in every drawing.

What stands still shows it there, and with that its colour on pixels beside, which it covers now and then. Both are told
anew, from paper around them.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.background import Background, Covered
from motion.tracking.light import difference, sheet_of

Mask = NDArray[np.bool_]
PLAIN = 0.5
"""Only on paper that takes so much of the picture what is drawn stands out by its colour."""
LEAST_PX = 12
"""What is left of a strand is larger than this (px, at half size), or no matter."""
GRAIN = 3
LARGEST = 0.06
"""No strand leaves so large a share of the picture to what stands still."""


def covered(background: Background) -> Covered | None:
    """Where something that hangs is in front in all drawings, or nearly all; None: nowhere.

    ``background`` is what stands still as long as that is not known.
    """
    changes = background.changes
    if changes is None or not changes.any():
        return None
    small = np.ascontiguousarray(background.light[::2, ::2][: changes.shape[0], : changes.shape[1]])
    drawn = difference(small, sheet_of(small, 2)) > background.threshold
    if drawn.mean() > 1 - PLAIN:
        return None
    # A codec's grain along the edges of what stands still is no piece of a strand.
    changed = cv2.morphologyEx((drawn & changes).astype(np.uint8), cv2.MORPH_OPEN, np.ones((GRAIN, GRAIN), np.uint8))
    left = _chief(changed > 0)
    if left is None or left.mean() > LARGEST:
        return None
    own = cv2.dilate((left | drawn & _hull(left)).astype(np.uint8), np.ones((3, 3), np.uint8))
    return Covered(np.asarray(own > 0))


def _chief(marked: Mask) -> Mask | None:
    """The largest part of what is left where something moves, with those beside it; None where that is next to none."""
    near = cv2.dilate(marked.astype(np.uint8), np.ones((9, 9), np.uint8))
    parts = cv2.connectedComponents(near, connectivity=8)[1]
    sizes = np.bincount(parts[marked], minlength=1)
    sizes[0] = 0
    if sizes.max() < LEAST_PX:
        return None
    return np.asarray(marked & (parts == sizes.argmax()))


def _hull(left: Mask) -> Mask:
    """All that lies between parts of it: what is always covered; what it hangs from lies beyond."""
    rows, columns = np.nonzero(left)
    corners = cv2.convexHull(np.stack([columns, rows], axis=1).astype(np.int32))
    found = np.zeros(left.shape, np.uint8)
    cv2.fillConvexPoly(found, corners, 1)
    return np.asarray(found > 0)
