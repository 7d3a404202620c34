"""Pictures as comparable light: what the eye would see differ between two of them."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture

Light = NDArray[np.uint8]
"""(height, width, 4) uint8: colour times opacity, and opacity. Fully transparent pixels are all zero, so ink
of any colour shows on transparency, white included."""


MOSTLY = 0.6


def to_light(picture: Picture) -> Light:
    """A picture with its colours multiplied by their opacity."""
    if _is_opaque(picture):
        return picture
    alpha = cv2.extractChannel(picture, 3)
    parts = [cv2.multiply(picture[..., k], alpha, scale=1 / 255) for k in range(3)]
    return np.asarray(cv2.merge([*parts, alpha]), dtype=np.uint8)


def difference(one: Light, other: Light) -> NDArray[np.uint8]:
    """(height, width) uint8: per pixel the largest difference over the channels."""
    return largest_channel(np.asarray(cv2.absdiff(one, other), dtype=np.uint8))


def largest_channel(values: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(height, width) uint8 from (height, width, 4): the largest channel per pixel."""
    box = _not_nought(values)
    if box is None:
        return np.zeros(values.shape[:2], np.uint8)
    rows, columns = box
    part = values[rows, columns]
    a, b, c, d = cv2.split(part)
    largest = cv2.max(cv2.max(a, b), cv2.max(c, d))
    if part.shape == values.shape:
        return np.asarray(largest, dtype=np.uint8)
    out = np.zeros(values.shape[:2], np.uint8)
    out[rows, columns] = largest
    return out


def _is_opaque(picture: Picture) -> bool:
    """Whether every pixel is wholly there."""
    # Four bytes at a time, which is several times quicker than looking at every fourth one.
    everywhere = np.bitwise_and.reduce(words(picture), axis=None)
    return bool(np.uint32(everywhere).tobytes()[3] == 255)


def _not_nought(values: NDArray[np.uint8]) -> tuple[slice, slice] | None:
    """Rows and columns outside of which all of (height, width, 4) is nought; None where everything is.

    Where something is in most rows, as in grainy pictures, that is everywhere: it is not worth looking closer.
    """
    told = words(values)
    rows = np.flatnonzero(told.any(axis=1))
    if not len(rows):
        return None
    if len(rows) > MOSTLY * len(told):
        return slice(None), slice(None)
    down = slice(int(rows[0]), int(rows[-1]) + 1)
    columns = np.flatnonzero(told[down].any(axis=0))
    return down, slice(int(columns[0]), int(columns[-1]) + 1)


def words(values: NDArray[np.uint8]) -> NDArray[np.uint32]:
    """(height, width) the four channels of each pixel as one number."""
    return np.ascontiguousarray(values).view(np.uint32)[..., 0]
