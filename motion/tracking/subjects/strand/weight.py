"""A weight at the end of a strand: what is much thicker than the strand there, as an ellipse."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse, of_moments
from motion.tracking.subjects import opening
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
    depth = np.asarray(cv2.distanceTransform(filled.view(np.uint8), cv2.DIST_L2, 5), dtype=np.float32)
    last = np.where(late, depth, 0.0)
    at = int(last.argmax())
    y, x = divmod(at, last.shape[1])
    radius = float(last[y, x])
    if radius < max(THICKER * usual_half, usual_half + THICKER_PX):
        return None
    thin = max(OPENED * radius, 0.5 * (usual_half + radius))
    opened, window = opening.opened(filled, depth, thin)
    at_left, at_top = window[1].start, window[0].start
    part = opening.part_at(opened, (y - at_top, x - at_left))
    if part is None:
        return None
    near = np.where(opening.around(part), np.minimum(cover[window], 1), np.float32(0))
    soft = np.where(part, np.float32(1), near)
    return of_moments(cv2.moments(np.asarray(soft, dtype=np.float32)), origin[0] + at_left, origin[1] + at_top)
