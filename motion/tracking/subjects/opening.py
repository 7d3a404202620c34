"""What is left of a shape once all thinner than a disc was taken off: a body without limbs, a weight without its line.

By how far each pixel is from the edge, and from what is left then: as a disc of any size does, in the same time.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]
Window = tuple[slice, slice]


def opened(marked: Mask, depth: NDArray[np.float32], reach: float) -> tuple[Mask, Window]:
    """What is left of the shape, within the rows and columns that hold all of it; both empty where nothing is.

    ``marked`` (height, width) is the shape, ``depth`` how far each of its pixels is from its edge, px; the disc has a
    radius of ``reach`` px.
    """
    core = depth > reach
    left, top, wide, tall = cv2.boundingRect(core.view(np.uint8))
    if not wide:
        return np.zeros((0, 0), bool), np.s_[0:0, 0:0]
    room = math.ceil(reach) + 2
    window = np.s_[max(0, top - room) : top + tall + room, max(0, left - room) : left + wide + room]
    away = cv2.distanceTransform((~core[window]).view(np.uint8), cv2.DIST_L2, 5)
    return np.asarray((away < reach) & marked[window]), window


def part_at(marked: Mask, place: tuple[int, int]) -> Mask | None:
    """The part of a shape that holds a ``place``, its row and column; None where that is no part of it."""
    row, column = place
    if not (0 <= row < marked.shape[0] and 0 <= column < marked.shape[1] and marked[row, column]):
        return None
    parts = cv2.connectedComponents(marked.view(np.uint8), connectivity=4)[1]
    return np.asarray(parts == parts[row, column])


def around(part: Mask) -> Mask:
    """A part with the pixels next to it, on which its soft edge lies."""
    return np.asarray(cv2.dilate(part.view(np.uint8), np.ones((3, 3), np.uint8)) > 0)
