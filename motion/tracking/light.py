"""Pictures as comparable light: what the eye would see differ between two of them."""

from __future__ import annotations

from functools import reduce

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture

Light = NDArray[np.uint8]
"""(height, width, 4) uint8: colour times opacity, and opacity. Fully transparent pixels are all zero, so ink
of any colour shows on transparency, white included."""

Box = tuple[int, int, int, int]
"""Left, top, right and bottom in px, the latter two outside of it."""
NOWHERE: Box = (0, 0, 0, 0)
EDGE_PX = 8
"""What is drawn fades into what is behind it over less than this."""
SPECK_PX, SPECK = 8, 6
"""In a square of so many px, so many of them are a speck of grain, or of what a codec leaves, and no drawing."""
WORDS = {1: np.uint8, 2: np.uint16, 4: np.uint32}
"""What holds so many channels."""


def to_light(picture: Picture) -> Light:
    """A picture with its colours multiplied by their opacity."""
    if is_opaque(picture):
        return picture
    alpha = cv2.extractChannel(picture, 3)
    parts = [cv2.multiply(picture[..., k], alpha, scale=1 / 255) for k in range(3)]
    return np.asarray(cv2.merge([*parts, alpha]), dtype=np.uint8)


def difference(one: Light, other: Light) -> NDArray[np.uint8]:
    """(height, width) uint8: per pixel the largest difference over the channels."""
    return largest_channel(np.asarray(cv2.absdiff(one, other), dtype=np.uint8))


def largest_channel(values: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(height, width) uint8 from (height, width, channels): the largest channel per pixel."""
    if values.shape[2] == 1:
        return values[..., 0]
    return np.asarray(reduce(cv2.max, cv2.split(values)), dtype=np.uint8)


def where_unequal(one: Light, other: Light) -> Box:
    """The smallest box outside of which two pictures are equal."""
    # Four bytes at a time, of which a bit tells all that is asked here.
    return where((words(one) != words(other)).view(np.uint8))


def where_over(off: NDArray[np.uint8], levels: float) -> Box:
    """The smallest box outside of which (height, width) reaches no more than so much."""
    return where(over(off, levels))


def where_drawn(off: NDArray[np.uint8], levels: float) -> Box:
    """The box, with room for soft edges around it, in which (height, width) reaches more on more than specks."""
    return where_marked(over(off, levels), SPECK_PX, EDGE_PX)


def where_marked(marks: NDArray[np.uint8], square: int, room: int) -> Box:
    """The box, with so much room around it, in which a ``square`` has marks (255) on more of it than specks have."""
    height, width = marks.shape
    share = shrunk(marks, square)
    left, top, right, bottom = (square * v for v in where(over(share, 255 * SPECK / SPECK_PX**2)))
    if right == 0:
        return NOWHERE
    return max(0, left - room), max(0, top - room), min(width, right + room), min(height, bottom + room)


def shrunk(off: NDArray[np.uint8], by: int) -> NDArray[np.uint8]:
    """The means of squares of ``by`` px, a power of two; those that reach beyond the edges count nought there."""
    # By halves, which takes a tenth of the time of one step.
    while by > 1:
        height, width = off.shape[:2]
        if height % 2 or width % 2:
            off = np.asarray(cv2.copyMakeBorder(off, 0, height % 2, 0, width % 2, cv2.BORDER_CONSTANT), dtype=np.uint8)
        size = ((width + 1) // 2, (height + 1) // 2)
        off = np.asarray(cv2.resize(off, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
        by //= 2
    return off


def over(off: NDArray[np.uint8], levels: float) -> NDArray[np.uint8]:
    """255 where it is over so many levels, else 0."""
    return np.asarray(cv2.threshold(off, int(levels), 255, cv2.THRESH_BINARY)[1], dtype=np.uint8)


def where(marks: NDArray[np.uint8]) -> Box:
    """The smallest box outside of which (height, width) is nought."""
    left, top, width, height = cv2.boundingRect(marks)
    return left, top, left + width, top + height


def is_opaque(picture: Picture) -> bool:
    """Whether every pixel is wholly there."""
    # Four bytes at a time, which is several times quicker than looking at every fourth one.
    everywhere = np.bitwise_and.reduce(words(picture), axis=None)
    return bool(np.uint32(everywhere).tobytes()[3] == 255)


def around(one: Box, other: Box) -> Box:
    """The smallest box that holds two."""
    if NOWHERE in (one, other):
        return other if one == NOWHERE else one
    left, top, right, bottom = (*map(min, one[:2], other[:2]), *map(max, one[2:], other[2:]))
    return left, top, right, bottom


def common(one: Box, other: Box) -> Box:
    """What two boxes share; NOWHERE where that is nothing."""
    left, top, right, bottom = (*map(max, one[:2], other[:2]), *map(min, one[2:], other[2:]))
    return (left, top, right, bottom) if left < right and top < bottom else NOWHERE


def within(box: Box) -> tuple[slice, slice]:
    """The rows and columns of a box."""
    left, top, right, bottom = box
    return slice(top, bottom), slice(left, right)


def words(values: NDArray[np.uint8]) -> NDArray[np.unsignedinteger]:
    """(height, width) all channels of each pixel (1, 2 or 4 of them) as one number."""
    whole = np.ascontiguousarray(values)
    return whole.view(WORDS[whole.shape[2]])[..., 0]


def sheet_of(light: Light, step: int = 4) -> Light:
    """A picture of the same size in the colour that most pixels have, told by every so many in every so many rows."""
    few = np.ascontiguousarray(light[::step, ::step].reshape(-1, 4))
    red, green, blue, opacity = (few >> 3).T.astype(np.intp)
    keys = red + 32 * green + 1024 * blue + 32768 * (opacity > 15)
    colour = np.median(few[keys == np.bincount(keys).argmax()], axis=0).astype(np.uint8)
    return np.full(light.shape[:2], colour.view(np.uint32)[0]).view(np.uint8).reshape(light.shape)
