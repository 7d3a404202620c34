"""Pictures as comparable light: what the eye would see differ between two of them."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture

Light = NDArray[np.uint8]
"""(height, width, 4) uint8: colour times opacity, and opacity. Fully transparent pixels are all zero, so ink
of any colour shows on transparency, white included."""


def to_light(picture: Picture) -> Light:
    """A picture with its colours multiplied by their opacity."""
    alpha = cv2.extractChannel(picture, 3)
    if alpha.min() == 255:
        return picture
    parts = [cv2.multiply(picture[..., k], alpha, scale=1 / 255) for k in range(3)]
    return np.asarray(cv2.merge([*parts, alpha]), dtype=np.uint8)


def difference(one: Light, other: Light) -> NDArray[np.uint8]:
    """(height, width) uint8: per pixel the largest difference over the channels."""
    return largest_channel(np.asarray(cv2.absdiff(one, other), dtype=np.uint8))


def largest_channel(values: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(height, width) uint8 from (height, width, 4): the largest channel per pixel."""
    a, b, c, d = cv2.split(values)
    return np.asarray(cv2.max(cv2.max(a, b), cv2.max(c, d)), dtype=np.uint8)
