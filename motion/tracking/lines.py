"""The lines that are drawn in what stands still, told only where somebody asks."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.light import Light, difference, words

SHRINK = 4
"""Thin lines vanish when pictures are shrunk to this part of their size."""
ROW = 256
"""So many points are asked for in a row."""


@dataclass(frozen=True, slots=True, eq=False)
class Lines:
    """By how much pixels stand out from what is around them: the background, and that ``without`` them, small.

    Those that stand out by no more than ``least`` levels do not.
    """

    light: Light
    without: Light
    least: int = 0

    @classmethod
    def of(cls, light: Light) -> Lines:
        """Those of a background."""
        return cls(light, _without_lines(light))

    def over(self, levels: int) -> Lines:
        """Those of them that stand out by more than so many levels."""
        return replace(self, least=levels)

    def at(self, points: NDArray[np.floating]) -> NDArray[np.uint8]:
        """By how many levels the pixels nearest to points (..., 2) stand out; nought outside of the frame."""
        height, width = self.light.shape[:2]
        x, y = points[..., 0], points[..., 1]
        inside = (x >= -0.5) & (y >= -0.5) & (x <= width - 0.5) & (y <= height - 0.5)
        return np.where(inside, self.at_or_beside(points), np.uint8(0))

    def at_or_beside(self, points: NDArray[np.floating]) -> NDArray[np.uint8]:
        """The same, outside of the frame of the pixels at its edge."""
        height, width = self.light.shape[:2]
        count = points[..., 0].size
        # As a picture with rows of some length, for which this is quickest, and of a size that the library takes.
        columns, rows = (
            np.resize(np.rint(points[..., k]).clip(0, most - 1).astype(np.int32), (max(1, -(-count // ROW)), ROW))
            for k, most in ((0, width), (1, height))
        )
        seen = words(self.light).reshape(-1)[rows * width + columns].view(np.uint8).reshape(*rows.shape, 4)
        off = difference(seen, self._around(columns, rows)).reshape(-1)[:count].reshape(points.shape[:-1])
        return off if self.least == 0 else np.where(off > self.least, off, np.uint8(0))

    def _around(self, columns: NDArray[np.int32], rows: NDArray[np.int32]) -> Light:
        """What is around pixels (m, n)."""
        (height, width), (low, narrow) = self.light.shape[:2], self.without.shape[:2]
        x, y = (
            (at.astype(np.float32) + np.float32(0.5)) * np.float32(scale) - np.float32(0.5)
            for at, scale in ((columns, narrow / width), (rows, low / height))
        )
        found = cv2.remap(self.without, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(found, dtype=np.uint8)

    def whole_without(self) -> Light:
        """All of the background without them."""
        height, width = self.light.shape[:2]
        return np.asarray(cv2.resize(self.without, (width, height), interpolation=cv2.INTER_LINEAR), dtype=np.uint8)


def _without_lines(light: Light) -> Light:
    """A small picture of a background without its lines: shrunk, they vanish when its middle values are taken."""
    height, width = light.shape[:2]
    # By halves, which takes a fraction of the time of one step.
    half = cv2.resize(light, (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    small = cv2.resize(half, (width // SHRINK, height // SHRINK), interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.medianBlur(small, 5), dtype=np.uint8)
