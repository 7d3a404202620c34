"""How a picture of drifting paper lies."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """How a picture lies against frame 1: ``x``, ``y`` px, and turned by ``turn`` degrees about the frame's middle."""

    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0

    def matrix(self, width: int, height: int) -> NDArray[np.float64]:
        """(2, 3): from a place in frame 1 to the place in this picture that shows it."""
        cos, sin = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        cx, cy = (width - 1) / 2, (height - 1) / 2
        return np.array([[cos, sin, cx - cos * cx - sin * cy + self.x], [-sin, cos, cy + sin * cx - cos * cy + self.y]])

    def farthest(self, width: int, height: int) -> float:
        """The largest displacement anywhere in the frame, px."""
        corners = np.array([[0, 0], [width - 1, 0], [0, height - 1], [width - 1, height - 1]], dtype=np.float64)
        moved = corners @ self.matrix(width, height)[:, :2].T + self.matrix(width, height)[:, 2]
        return float(np.hypot(*(moved - corners).T).max())


STILL = Shift()
