"""A weight at the end of a strand: what is much thicker than the strand there, as an ellipse."""

from __future__ import annotations

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
    marked = filled.astype(np.uint8)
    depth = cv2.distanceTransform(marked, cv2.DIST_L2, 5)
    last = np.where(late, depth, 0.0)
    at = int(last.argmax())
    y, x = divmod(at, last.shape[1])
    radius = float(last[y, x])
    if radius < max(THICKER * usual_half, usual_half + THICKER_PX):
        return None
    thin = max(OPENED * radius, 0.5 * (usual_half + radius))
    core = depth > thin
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, 5)
    opened = ((away < thin) & filled).astype(np.uint8)
    labels = cv2.connectedComponents(opened, connectivity=4)[1]
    part = (labels == labels[y, x]).astype(np.uint8)
    near = cv2.dilate(part, np.ones((3, 3), np.uint8)) > 0
    soft = np.where(part > 0, np.float32(1), np.where(near, np.minimum(cover, 1), np.float32(0)))
    return of_moments(cv2.moments(np.asarray(soft, dtype=np.float32)), *origin)
