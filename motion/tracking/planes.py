"""Pictures as video codecs hold them: where two of them differ, and their colours where these are asked for."""

from __future__ import annotations

import cv2
import numpy as np

from motion.clip import Plane, Planes
from motion.tracking.light import EDGE_PX, SPECK_PX, Box, Light, over, shrunk, where_marked

SHARE = 0.9
"""Where a plane differs by so much of what it would for a level of grey, or of colour, a colour may differ by one."""
LUMA, CHROMA = SHARE * 219 / 255, SHARE * 0.5
"""Levels of a plane for one of a colour."""
USUAL_HEIGHT = 720
"""Rows of a picture that is not large."""


def coloured(planes: Planes) -> Light:
    """All of a picture in colours."""
    height, width = planes.luma.shape
    packed = np.empty((height * 3 // 2, width), np.uint8)
    packed[:height] = planes.luma
    below = packed[height:].reshape(2, *planes.blue.shape)
    below[0], below[1] = planes.blue, planes.red
    if planes.full:
        packed[:height] = cv2.LUT(packed[:height], _NARROWED[0])
        packed[height:] = cv2.LUT(packed[height:], _NARROWED[1])
    return np.asarray(cv2.cvtColor(packed, cv2.COLOR_YUV2RGBA_I420), dtype=np.uint8)


def part(planes: Planes, box: Box) -> Light:
    """What lies within a box, in colours."""
    left, top, right, bottom = box
    even = (left // 2 * 2, top // 2 * 2, right + right % 2, bottom + bottom % 2)
    found = coloured(_cut(planes, even))
    return found[top - even[1] : bottom - even[1], left - even[0] : right - even[0]]


def fewer(planes: Planes, step: int) -> Light:
    """The colours of every so many pixels of every so many rows; ``step`` is even."""
    half = step // 2
    few = [planes.luma[::step, ::step], planes.red[::half, ::half], planes.blue[::half, ::half]]
    if not planes.full:
        tables = (_WIDENED[0], _WIDENED[1], _WIDENED[1])
        few = [np.asarray(cv2.LUT(v, t), dtype=np.uint8) for v, t in zip(few, tables, strict=True)]
    colours = cv2.cvtColor(cv2.merge(few), cv2.COLOR_YCrCb2RGB)
    return np.asarray(cv2.cvtColor(colours, cv2.COLOR_RGB2RGBA), dtype=np.uint8)


def halved(luma: Plane) -> Plane:
    """(height / 2, width / 2) a picture's luma at the size of its colours."""
    height, width = luma.shape
    return np.asarray(cv2.resize(luma, (width // 2, height // 2), interpolation=cv2.INTER_AREA), dtype=np.uint8)


def where(one: Planes, other: Planes, levels: float) -> Box:
    """The box outside of which no colour of two pictures differs by so many levels, but in specks.

    Around what differs there is room for soft edges.
    """
    height, width = one.luma.shape
    # Every other row is enough, of large pictures every fourth: nothing that is drawn is thinner.
    step = 2 * max(1, round(height / USUAL_HEIGHT))
    rows = np.s_[::step]
    luma = over(_off(one.luma[rows], other.luma[rows]), LUMA * levels)
    chroma = cv2.max(_off(one.blue[rows], other.blue[rows]), _off(one.red[rows], other.red[rows]))
    # Squares of two of the luma's marks are as one of the chroma's.
    marks = cv2.max(shrunk(luma, 2), over(np.asarray(chroma, dtype=np.uint8), CHROMA * levels))
    left, top, right, bottom = where_marked(np.asarray(marks, dtype=np.uint8), SPECK_PX // 2, EDGE_PX // 2)
    return 2 * left, 2 * step * top, min(width, 2 * right), min(height, 2 * step * bottom)


def _off(one: Plane, other: Plane) -> Plane:
    return np.asarray(cv2.absdiff(one, other), dtype=np.uint8)


def _cut(planes: Planes, box: Box) -> Planes:
    left, top, right, bottom = box
    half = np.s_[top // 2 : bottom // 2, left // 2 : right // 2]
    return Planes(
        luma=planes.luma[top:bottom, left:right], blue=planes.blue[half], red=planes.red[half], full=planes.full
    )


def _tables(luma: tuple[float, float], chroma: float) -> tuple[Plane, Plane]:
    """Luma as ``luma`` times it plus an offset, chroma stretched about its middle; (256,) each."""
    levels = np.arange(256, dtype=np.float64)
    stretched = (luma[0] * levels + luma[1], 128 + chroma * (levels - 128))
    return tuple(np.clip(np.round(s), 0, 255).astype(np.uint8) for s in stretched)  # type: ignore[return-value]


_NARROWED = _tables((219 / 255, 16.0), 224 / 255)
_WIDENED = _tables((255 / 219, -16 * 255 / 219), 255 / 224)
