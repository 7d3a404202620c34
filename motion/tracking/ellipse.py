"""Ellipses: fitted to outlines robustly, and what follows from one."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median

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
        along, across = 0.5 * self.major * np.cos(turns), 0.5 * self.minor * np.sin(turns)
        cos, sin = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
        found = np.empty((*turns.shape, 2))
        found[..., 0], found[..., 1] = along * cos + across * sin, across * cos - along * sin
        return found

    def points(self, turns: NDArray[np.float64], scale: NDArray[np.float64] | float = 1.0) -> Points:
        """Points at parameter ``turns`` (radians) on the ellipse scaled about its centre."""
        return np.asarray(np.array([self.x, self.y]) + self.arms(turns) * np.asarray(scale)[..., None])

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
    """The least-squares ellipse through at least six points; None where there is none.

    Linear least squares of a conic whose two square terms add up to one, which no circle's size or place favours.
    Source: Rosin, "A note on the least squares fitting of ellipses" (1993).
    """
    frame = _frame(points)
    if frame is None:
        return None
    middle, scale, terms = frame
    conic = _solve(terms, np.ones(len(points)) if weights is None else weights)
    return None if conic is None else _from_conic(conic, middle, scale)


_Terms = tuple[NDArray[np.float64], NDArray[np.float64]]
"""For n points (x, y): the (n, 5) rows x² - y², xy, x, y, 1, and (n,) y²; with unknowns a, b, d, e, f they are
the conic a x² + b xy + (1 - a) y² + d x + e y + f = 0."""


def _frame(points: Points) -> tuple[NDArray[np.float64], float, _Terms] | None:
    """Middle, scale and terms of points; None with fewer than six."""
    if len(points) < 6:
        return None
    middle = points.mean(axis=0)
    scale = float(np.abs(points - middle).max()) or 1.0
    x, y = ((points - middle) / scale).T
    rows = np.empty((len(points), 5))
    rows[:, 0], rows[:, 1], rows[:, 2], rows[:, 3], rows[:, 4] = x * x - y * y, x * y, x, y, 1.0
    return middle, scale, (rows, y * y)


def _solve(terms: _Terms, weights: NDArray[np.float64]) -> NDArray[np.float64] | None:
    rows, squares = terms
    weighed = (rows * weights[:, None]).T
    solved, conic = cv2.solve(weighed @ rows, -(weighed @ squares)[:, None], flags=cv2.DECOMP_LU)
    return np.asarray(conic[:, 0], dtype=np.float64) if solved else None


def _distances(terms: _Terms, conic: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How far points lie off a conic to first order (Sampson), and the squared slope of the conic there."""
    rows, squares = terms
    a, b, d, e, _ = conic
    x, y = rows[:, 2], rows[:, 3]
    steep = (2 * a * x + b * y + d) ** 2 + (b * x + 2 * (1 - a) * y + e) ** 2 + 1e-12
    return (rows @ conic + squares) / np.sqrt(steep), steep


def _from_conic(conic: NDArray[np.float64], middle: NDArray[np.float64], scale: float) -> Ellipse | None:
    a, b, d, e, f = (float(v) for v in conic)
    c = 1 - a
    discriminant = b * b - 4 * a * c
    if discriminant >= -1e-9:
        return None
    cx, cy = (2 * c * d - b * e) / discriminant, (2 * a * e - b * d) / discriminant
    level = a * cx * cx + b * cx * cy + c * cy * cy + d * cx + e * cy + f
    # The eigenvalues of the quadratic part; the lesser one belongs to the long axis.
    half = 0.5 * math.hypot(a - c, b)
    lesser, greater = 0.5 - half, 0.5 + half
    if lesser <= 0 or level >= 0:
        return None
    turn = 0.5 * math.atan2(-b, c - a)
    return Ellipse(
        x=cx * scale + float(middle[0]),
        y=cy * scale + float(middle[1]),
        major=2 * math.sqrt(-level / lesser) * scale,
        minor=2 * math.sqrt(-level / greater) * scale,
        angle=axis_angle(-math.degrees(turn)),
    )


SECTORS = 6
SETTLED_PX = 0.01
"""A fit that moves no more than this from one round to the next is done."""


def fit_robust(points: Points, rounds: int = 5) -> tuple[Ellipse, NDArray[np.float64]] | None:
    """An ellipse that the bulk of the points agree on, and each point's weight, 0 to 1; None where there is none.

    Iterated least squares of the distances with Tukey's weights; a whisker, a speed line or a line that touches
    the outline does not pull it.
    """
    frame = _frame(points)
    if frame is None:
        return None
    middle, scale, terms = frame
    conic = _steadiest(terms, scale)
    weights = np.ones(len(points))
    before = np.full(len(points), np.inf)
    for _ in range(rounds):
        if conic is None:
            return None
        off, steep = _distances(terms, conic)
        if np.abs(off - before).max() < SETTLED_PX / scale:
            break
        before = off
        spread = max(0.25 / scale, 1.4826 * median(np.abs(off - median(off))))
        weights = np.maximum(1 - (off / (4.5 * spread)) ** 2, 0) ** 2
        conic = _solve(terms, weights / steep)
    found = None if conic is None else _from_conic(conic, middle, scale)
    return None if found is None else (found, weights)


def _steadiest(terms: _Terms, scale: float) -> NDArray[np.float64] | None:
    """The conic through all points or, where they disagree, the one without a sector of them that most agree on."""
    count = len(terms[0])
    everyone = np.ones(count)
    conic = _solve(terms, everyone)
    if conic is None or _typical_miss(terms, conic) <= max(0.5 / scale, 0.006):
        return conic
    turns = np.arctan2(terms[0][:, 3], terms[0][:, 2])
    sector = ((turns + np.pi) / (2 * np.pi) * 2 * SECTORS).astype(int)
    # Sectors overlap by half, so that a whisker on the border of two is left out whole by one.
    without = [(sector != k) & (sector != (k + 1) % (2 * SECTORS)) for k in range(2 * SECTORS)]
    tries = [conic, *(_solve(terms, kept.astype(np.float64)) for kept in without)]
    return min((t for t in tries if t is not None), key=lambda t: _typical_miss(terms, t))


def _typical_miss(terms: _Terms, conic: NDArray[np.float64]) -> float:
    return median(np.abs(_distances(terms, conic)[0]))
