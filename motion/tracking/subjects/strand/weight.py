"""A weight at the end of a strand: what is much thicker than the strand there, as an ellipse."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse, of_moments
from motion.tracking.subjects.figure.ink import Cover

Mask = NDArray[np.bool_]
THICKER, THICKER_PX = 1.4, 3.0
"""A weight is so many times as thick as the strand usually is, and by so many px."""
OPENED = 0.7
"""The strand is taken off by what is so much thinner than the weight, or half way between both where it is thick."""
LAST = 0.45
"""It lies in the last such share of the way along the ink."""


def weight_of(cover: Cover, filled: Mask, origin: tuple[int, int], usual_half: float, late: Mask) -> Ellipse | None:
    """The weight in a drawing; None where there is none. ``late`` tells where the last part of the strand's ink is."""
    depth = cv2.distanceTransform(filled.view(np.uint8), cv2.DIST_L2, 5)
    last = np.where(late, depth, 0.0)
    at = int(last.argmax())
    y, x = divmod(at, last.shape[1])
    radius = float(last[y, x])
    if radius < max(THICKER * usual_half, usual_half + THICKER_PX):
        return None
    thin = max(OPENED * radius, 0.5 * (usual_half + radius))
    window, at_left, at_top = _about(depth > thin, thin)
    core, around = (depth > thin)[window], filled[window]
    away = cv2.distanceTransform((~core).view(np.uint8), cv2.DIST_L2, 5)
    labels = cv2.connectedComponents(((away < thin) & around).view(np.uint8), connectivity=4)[1]
    part = np.asarray(labels == labels[y - at_top, x - at_left])
    near = cv2.dilate(part.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
    soft = np.where(part, np.float32(1), np.where(near, np.minimum(cover[window], 1), np.float32(0)))
    return of_moments(cv2.moments(np.asarray(soft, dtype=np.float32)), origin[0] + at_left, origin[1] + at_top)


def _about(core: Mask, reach: float) -> tuple[tuple[slice, slice], int, int]:
    """The rows and columns that are no farther than ``reach`` px from a core, and the first column and row of them."""
    left, top, wide, tall = cv2.boundingRect(core.view(np.uint8))
    room = math.ceil(reach) + 2
    first_x, first_y = max(0, left - room), max(0, top - room)
    return np.s_[first_y : top + tall + room, first_x : left + wide + room], first_x, first_y
