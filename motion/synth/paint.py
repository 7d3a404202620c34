"""Painting with exact coverage: polygons on a canvas of floats, premultiplied, 0 to 255."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

Canvas = NDArray[np.float32]
"""(height, width, 4) float32, 0 to 255, colours multiplied by their opacity."""
Outline = NDArray[np.float64]
"""(n, 2) corners of a polygon, x and y in px."""

FINE = 4
"""Supersampling per axis."""


class Window:
    """A square part of the canvas in which polygons are painted with exact coverage.

    ``opacity`` makes everything that is painted through it fainter.
    """

    def __init__(self, canvas: Canvas, left: int, top: int, side: int, opacity: float = 1.0) -> None:
        height, width = canvas.shape[:2]
        self.left, self.top, self.side, self.opacity = left, top, side, opacity
        self.x0, self.x1 = max(0, left), min(width, left + side)
        self.y0, self.y1 = max(0, top), min(height, top + side)
        self.empty = self.x0 >= self.x1 or self.y0 >= self.y1
        self.canvas = canvas

    def paint(self, outline: Outline, colour: tuple[int, ...], hole: Outline | None = None) -> None:
        """Fill a polygon, but for a hole in it."""
        if self.empty:
            return
        cover = self.cover(outline)
        if hole is not None:
            cover = np.clip(cover - self.cover(hole), 0, 1)
        self.paint_cover(cover, colour)

    def paint_cover(self, cover: NDArray[np.float64], colour: tuple[int, ...]) -> None:
        """Paint where ``cover`` (side, side), 0 to 1, says."""
        if self.empty:
            return
        part = cover[self.y0 - self.top : self.y1 - self.top, self.x0 - self.left : self.x1 - self.left]
        lay(self.canvas[self.y0 : self.y1, self.x0 : self.x1], part * self.opacity, colour)

    def cover(self, outline: Outline) -> NDArray[np.float64]:
        """(side, side) which part of each pixel a polygon covers."""
        return self.union([outline])

    def union(self, outlines: Sequence[Outline]) -> NDArray[np.float64]:
        """(side, side) which part of each pixel several polygons cover together."""
        fine = np.zeros((self.side * FINE, self.side * FINE), np.uint8)
        # Pixel centres are whole numbers; the fine grid's origin is the window's outer corner.
        for outline in outlines:
            local = (outline - np.array([self.left, self.top]) + 0.5) * FINE - 0.5
            cv2.fillPoly(fine, [np.round(local * 256).astype(np.int32)], 255, lineType=cv2.LINE_8, shift=8)
        small = cv2.resize(fine, (self.side, self.side), interpolation=cv2.INTER_AREA)
        return np.asarray(small, dtype=np.float64) / 255.0


def lay(canvas: Canvas, cover: NDArray[np.float64], colour: tuple[int, ...]) -> None:
    """Lay a colour over a canvas where ``cover`` (height, width), 0 to 1, says."""
    over = cover[..., None]
    canvas *= 1 - over
    canvas += over * np.array([*colour, 255.0])


def stroke(canvas: Canvas, points: Outline, colour: tuple[int, ...], width: float, opacity: float = 1.0) -> None:
    """Draw a smooth line through points, some px wide."""
    shift = 4
    cover = np.zeros((canvas.shape[0] * 2, canvas.shape[1] * 2), np.uint8)
    fixed = np.round(((points + 0.5) * 2 - 0.5) * (1 << shift)).astype(np.int32)
    cv2.polylines(cover, [fixed.reshape(-1, 1, 2)], False, 255, max(1, round(2 * width)), cv2.LINE_AA, shift)
    small = cv2.resize(cover, (canvas.shape[1], canvas.shape[0]), interpolation=cv2.INTER_AREA)
    lay(canvas, small.astype(np.float64) / 255.0 * opacity, colour)
