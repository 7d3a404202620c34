"""Ellipses: fitted to outlines robustly, and what follows from one."""

from __future__ import annotations

import math
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
    def bottom(self) -> float:
        """y of the lowest point."""
        turn = math.radians(self.angle)
        return self.y + 0.5 * math.hypot(self.major * math.sin(turn), self.minor * math.cos(turn))

    def points(self, turns: NDArray[np.float64], scale: NDArray[np.float64] | float = 1.0) -> Points:
        """Points at parameter ``turns`` (radians) on the ellipse scaled about its centre."""
        along, across = 0.5 * self.major * np.cos(turns) * scale, 0.5 * self.minor * np.sin(turns) * scale
        cos, sin = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
        return np.stack([self.x + along * cos + across * sin, self.y - along * sin + across * cos], axis=-1)

    def residuals(self, points: Points) -> NDArray[np.float64]:
        """(n,) px: how far points lie outside (+) or inside (-), to first order."""
        cos, sin = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
        dx, dy = points[:, 0] - self.x, points[:, 1] - self.y
        along, across = dx * cos - dy * sin, dx * sin + dy * cos
        a, b = self.major / 2, self.minor / 2
        reach = np.sqrt((along / a) ** 2 + (across / b) ** 2)
        slope = np.sqrt((along / a**2) ** 2 + (across / b**2) ** 2) / np.maximum(reach, 1e-9)
        return np.asarray((reach - 1.0) / np.maximum(slope, 1e-9))


def axis_angle(degrees: float) -> float:
    """Any angle as that of an axis, in (-90, 90]."""
    folded = math.fmod(degrees, 180.0)
    if folded > 90.0:
        folded -= 180.0
    elif folded <= -90.0:
        folded += 180.0
    return folded


def fit(points: Points, weights: NDArray[np.float64] | None = None) -> Ellipse | None:
    """The direct least-squares ellipse through at least six points; None where there is none.

    Source: Halíř and Flusser, "Numerically stable direct least squares fitting of ellipses" (1998).
    """
    if len(points) < 6:
        return None
    middle = points.mean(axis=0)
    scale = float(np.abs(points - middle).max()) or 1.0
    x, y = ((points - middle) / scale).T
    w = np.ones(len(points)) if weights is None else weights
    quadratic = np.stack([x * x, x * y, y * y], axis=1)
    linear = np.stack([x, y, np.ones_like(x)], axis=1)
    s1, s2, s3 = ((a * w[:, None]).T @ b for a, b in ((quadratic, quadratic), (quadratic, linear), (linear, linear)))
    try:
        reduce = -np.linalg.solve(s3, s2.T)
        reduced = s1 + s2 @ reduce
        system = np.array([reduced[2] / 2, -reduced[1], reduced[0] / 2])
        _, vectors = np.linalg.eig(system)
    except np.linalg.LinAlgError:
        return None
    vectors = np.real(vectors)
    condition = 4 * vectors[0] * vectors[2] - vectors[1] ** 2
    if not np.any(condition > 0):
        return None
    a1 = vectors[:, int(np.argmax(condition))]
    return _from_conic(np.concatenate([a1, reduce @ a1]), middle, scale)


def _from_conic(conic: NDArray[np.float64], middle: NDArray[np.float64], scale: float) -> Ellipse | None:
    a, b, c, d, e, f = conic
    discriminant = b * b - 4 * a * c
    if discriminant >= -1e-12:
        return None
    cx, cy = (2 * c * d - b * e) / discriminant, (2 * a * e - b * d) / discriminant
    level = a * cx * cx + b * cx * cy + c * cy * cy + d * cx + e * cy + f
    values, vectors = np.linalg.eigh(np.array([[a, b / 2], [b / 2, c]]))
    squared = -level / values
    if np.any(squared <= 0) or not np.all(np.isfinite(squared)):
        return None
    axes = 2 * np.sqrt(squared) * scale
    long = int(np.argmax(axes))
    vx, vy = vectors[:, long]
    return Ellipse(
        x=float(cx * scale + middle[0]),
        y=float(cy * scale + middle[1]),
        major=float(axes[long]),
        minor=float(axes[1 - long]),
        angle=axis_angle(math.degrees(math.atan2(-vy, vx))),
    )


SECTORS = 6


def _steadiest(points: Points) -> Ellipse | None:
    """The fit to all points or, where they disagree, the one without a sector of them that most points agree on."""
    found = fit(points)
    if found is None or _typical_miss(found, points) <= max(0.5, 0.012 * found.minor):
        return found
    turns = np.arctan2(points[:, 1] - points[:, 1].mean(), points[:, 0] - points[:, 0].mean())
    sector = ((turns + np.pi) / (2 * np.pi) * 2 * SECTORS).astype(int)
    # Sectors overlap by half, so that a whisker on the border of two is left out whole by one.
    tries = [fit(points[(sector != k % (2 * SECTORS)) & (sector != (k + 1) % (2 * SECTORS))]) for k in range(2 * SECTORS)]
    return min((t for t in (found, *tries) if t is not None), key=lambda t: _typical_miss(t, points))


def _typical_miss(ellipse: Ellipse, points: Points) -> float:
    return float(np.median(np.abs(ellipse.residuals(points))))


def fit_robust(points: Points, rounds: int = 4) -> tuple[Ellipse, NDArray[np.float64]] | None:
    """An ellipse that the bulk of the points agree on, and each point's weight, 0 to 1; None where there is none.

    Iterated least squares with Tukey's weights; a whisker, a speed line or a line that touches the outline does
    not pull it.
    """
    found = _steadiest(points)
    if found is None:
        return None
    weights = np.ones(len(points))
    for _ in range(rounds):
        off = found.residuals(points)
        spread = max(0.25, 1.4826 * float(np.median(np.abs(off - np.median(off)))))
        weights = np.clip(1 - (off / (4.5 * spread)) ** 2, 0, None) ** 2
        better = fit(points, weights)
        if better is None:
            break
        found = better
    return found, weights
