"""Ellipses, and what follows from one."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
"""(n, 2) float64: x, y in px, y down."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ellipse:
    """Centre in px, full axes in px, and the long axis' angle by the package's convention."""

    x: float
    y: float
    major: float
    minor: float
    angle: float

    @property
    def half_width(self) -> float:
        """How far it reaches to either side."""
        turn = math.radians(self.angle)
        return 0.5 * math.hypot(self.major * math.cos(turn), self.minor * math.sin(turn))

    @property
    def half_height(self) -> float:
        """How far it reaches up and down."""
        turn = math.radians(self.angle)
        return 0.5 * math.hypot(self.major * math.sin(turn), self.minor * math.cos(turn))

    @property
    def bottom(self) -> float:
        """Y of the lowest point."""
        return self.y + self.half_height

    def arms(self, turns: NDArray[np.float64]) -> Points:
        """From the centre to the ellipse at parameter ``turns`` (radians)."""
        return np.asarray(arms_of([self], turns)[0])

    def points(self, turns: NDArray[np.float64], scale: NDArray[np.float64] | float = 1.0) -> Points:
        """Points at parameter ``turns`` (radians) on the ellipse scaled about its centre."""
        return np.asarray(np.array([self.x, self.y]) + self.arms(turns) * np.asarray(scale)[..., None])

    def residuals(self, points: Points) -> NDArray[np.float64]:
        """(n,) px: how far points lie outside (+) or inside (-), to first order."""
        cos, sin = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
        a, b = self.major / 2, self.minor / 2
        # Along and across the long axis, in shares of the half axes.
        shares = (points - np.array([self.x, self.y])) @ np.array([[cos / a, sin / b], [-sin / a, cos / b]])
        reach = np.maximum(np.hypot(shares[:, 0], shares[:, 1]), 1e-9)
        steep = np.maximum(np.hypot(shares[:, 0] / a, shares[:, 1] / b), reach / a)
        return np.asarray((reach - 1.0) * reach / steep)


def arms_of(shapes: Sequence[Ellipse], turns: NDArray[np.float64]) -> NDArray[np.float64]:
    """(k, ..., 2): from the centres of k ellipses to them at parameters ``turns`` (...), radians."""
    across = (-1,) + (1,) * turns.ndim
    a, b = (0.5 * np.array([axes]).reshape(across) for axes in ([s.major for s in shapes], [s.minor for s in shapes]))
    angles = np.radians([s.angle for s in shapes]).reshape(across)
    along, aside, cos, sin = a * np.cos(turns), b * np.sin(turns), np.cos(angles), np.sin(angles)
    return np.stack([along * cos + aside * sin, aside * cos - along * sin], axis=-1)


def axis_angle(degrees: float) -> float:
    """Any angle as that of an axis, in (-90, 90]."""
    folded = math.fmod(degrees, 180.0)
    if folded > 90.0:
        folded -= 180.0
    elif folded <= -90.0:
        folded += 180.0
    return folded


def of_moments(moments: Mapping[str, float], left: float, top: float) -> Ellipse:
    """The ellipse whose moments, as OpenCV tells them, a weighted picture has that begins at ``left``, ``top`` px."""
    whole = moments["m00"]
    xx, yy, xy = (moments[k] / whole for k in ("mu20", "mu02", "mu11"))
    apart = math.hypot(xx - yy, 2 * xy)
    return Ellipse(
        x=moments["m10"] / whole + left,
        y=moments["m01"] / whole + top,
        major=4 * math.sqrt((xx + yy + apart) / 2),
        minor=4 * math.sqrt(max(1e-9, (xx + yy - apart) / 2)),
        angle=axis_angle(-0.5 * math.degrees(math.atan2(2 * xy, xx - yy))),
    )
