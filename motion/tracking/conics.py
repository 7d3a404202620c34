"""Ellipses fitted to outlines, a whole batch of outlines at once: what takes time is to begin a step, not its length.

A robust fit is linear least squares of a conic whose two square terms add up to one, which no circle's size or place
favours: with unknowns a, b, d, e, f the conic is a x² + b xy + (1 - a) y² + d x + e y + f = 0.
Source: Rosin, "A note on the least squares fitting of ellipses" (1993).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import medians
from motion.tracking.ellipse import Ellipse, axis_angle

Values = NDArray[np.float64]
Marks = NDArray[np.bool_]
FEWEST = 6
"""An ellipse needs so many points."""
SECTORS, LEFT_OUT = 12, (2, 5)
"""An outline is tried without so many of so many sectors, ..."""
CLEARLY_OFF_PX, MOST_OFF = 1.0, 0.12
"""... where it usually misses its ellipse, or where more than such a share of it is so far off."""
SETTLED_PX = 0.01
"""A fit that moves no more than this from one round to the next is done."""


@dataclass(frozen=True, slots=True)
class Fits:
    """The ellipses through k outlines of n points; None where there is none.

    ``weights`` (k, n), 0 to 1, tell how far each point was believed, ``off`` (k, n) px how far it lies outside (+) or
    inside (-), to first order.
    """

    ellipses: Sequence[Ellipse | None]
    weights: Values
    off: Values


@dataclass(frozen=True, slots=True)
class _Terms:
    """Outlines about their own ``middle`` (k, 2), so many px as ``scale`` (k,) tells for one.

    ``rows`` (k, n, 5) are x² - y², xy, x, y, 1 of the points that are ``there`` (k, n), ``squares`` (k, n) are y².
    """

    there: Marks
    middle: Values
    scale: Values
    rows: Values
    squares: Values

    @classmethod
    def of(cls, points: Values, there: Marks) -> _Terms:
        count = np.maximum(1, there.sum(axis=1))[:, None]
        middle = np.where(there[..., None], points, 0.0).sum(axis=1) / count
        away = np.where(there[..., None], points - middle[:, None], 0.0)
        scale = np.abs(away).max(axis=(1, 2))
        scale = np.where(scale > 0, scale, 1.0)
        x, y = np.moveaxis(away / scale[:, None, None], 2, 0)
        squares = y * y
        rows = np.stack([x * x - squares, x * y, x, y, np.ones_like(x)], axis=2)
        return cls(there, middle, scale, rows, squares)

    def some(self, which: NDArray[np.intp]) -> _Terms:
        """Those of some of the outlines, by number."""
        return _Terms(self.there[which], self.middle[which], self.scale[which], self.rows[which], self.squares[which])


def fit(points: NDArray[np.floating] | NDArray[np.int32]) -> Ellipse | None:
    """The least-squares ellipse through (n, 2) points; None where there is none.

    Source: Fitzgibbon, Pilu and Fisher, "Direct least squares fitting of ellipses" (1999).
    """
    if len(points) < FEWEST:
        return None
    (x, y), (width, height), turn = cv2.fitEllipseDirect(np.asarray(points, dtype=np.float32))
    if not (math.isfinite(x + y + width + height + turn) and min(width, height) > 0):
        return None
    # The library turns the width away from level, clockwise.
    turn = -turn if width >= height else -turn - 90
    return Ellipse(x=x, y=y, major=max(width, height), minor=min(width, height), angle=axis_angle(turn))


def fit_robust(points: Values, there: Marks, rounds: int = 5) -> Fits:
    """For each of k outlines an ellipse that the bulk of its points agree on.

    ``points`` (k, n, 2) px, of which only those count that are ``there`` (k, n). Iterated least squares of the
    distances with Tukey's weights; a whisker, a speed line or a line that touches the outline does not pull it.
    """
    terms = _Terms.of(points, there)
    conics = _steadiest(terms)
    weights, before = there.astype(np.float64), np.full(there.shape, np.inf)
    which, some = np.arange(len(points)), terms
    for _ in range(rounds):
        off, steep = _distances(some, conics[which])
        moves = np.abs(off - before[which]).max(axis=1) * some.scale >= SETTLED_PX
        if not moves.any():
            break
        if not moves.all():
            which, off, steep = which[moves], off[moves], steep[moves]
            some = terms.some(which)
        before[which] = off
        middle = medians(off, some.there)[:, None]
        spread = np.maximum(0.25 / some.scale, 1.4826 * medians(np.abs(off - middle), some.there))
        weights[which] = some.there * np.maximum(1 - (off / (4.5 * spread[:, None])) ** 2, 0) ** 2
        conics[which] = _solved(some, weights[which] / steep)
    return Fits(_ellipses(terms, conics), weights, _distances(terms, conics)[0] * terms.scale[:, None])


def _solved(terms: _Terms, weights: Values) -> Values:
    """(k, 5) the conics by the points' weights (k, n); not numbers where there is none."""
    weighed = (terms.rows * weights[..., None]).transpose(0, 2, 1)
    normal, right = weighed @ terms.rows, -(weighed @ terms.squares[..., None])
    enough = (np.count_nonzero(weights, axis=1) >= FEWEST) & np.isfinite(normal).all(axis=(1, 2))
    normal[~enough], right[~enough] = np.eye(5), np.nan
    try:
        return np.asarray(np.linalg.solve(normal, right)[..., 0])
    except np.linalg.LinAlgError:
        return np.array([_solved_alone(*pair) for pair in zip(normal, right[..., 0], strict=True)])


def _solved_alone(normal: Values, right: Values) -> Values:
    try:
        return np.asarray(np.linalg.solve(normal, right))
    except np.linalg.LinAlgError:
        return np.full(5, np.nan)


def _distances(terms: _Terms, conics: Values) -> tuple[Values, Values]:
    """How far points lie off their conics to first order (Sampson), and the squared slope of the conics there."""
    a, b, d, e, _ = conics.T[..., None]
    x, y = terms.rows[..., 2], terms.rows[..., 3]
    steep = (2 * a * x + b * y + d) ** 2 + (b * x + 2 * (1 - a) * y + e) ** 2 + 1e-12
    off = ((terms.rows @ conics[..., None])[..., 0] + terms.squares) / np.sqrt(steep)
    return np.where(terms.there, off, 0.0), steep


def _steadiest(terms: _Terms) -> Values:
    """(k, 5) the conics through all points or, where they disagree, without a sector of them: what most agree on."""
    conics = _solved(terms, terms.there.astype(np.float64))
    off = np.abs(_distances(terms, conics)[0])
    missed = _typical_miss(terms, off)
    unsure = np.flatnonzero((missed > np.maximum(0.5 / terms.scale, 0.006)) | (_share_off(terms, off) > MOST_OFF))
    if not len(unsure):
        return conics
    some = terms.some(unsure)
    turns = np.arctan2(some.rows[..., 3], some.rows[..., 2])
    sector = ((turns + np.pi) / (2 * np.pi) * SECTORS).astype(int)
    for first, wide in itertools.product(range(SECTORS), LEFT_OUT):
        kept = some.there & ((sector - first) % SECTORS >= wide)
        tried = _solved(some, kept.astype(np.float64))
        found = _typical_miss(some, np.abs(_distances(some, tried)[0]))
        better = found < missed[unsure]
        conics[unsure[better]], missed[unsure[better]] = tried[better], found[better]
    return conics


def _share_off(terms: _Terms, off: Values) -> Values:
    """(k,) which share of the points lies clearly off, of those so far ``off`` (k, n)."""
    clearly = np.maximum(CLEARLY_OFF_PX / terms.scale, 0.03)[:, None]
    strays = np.count_nonzero(terms.there & ~(off <= clearly), axis=1)
    return np.asarray(strays / np.maximum(1, np.count_nonzero(terms.there, axis=1)))


def _typical_miss(terms: _Terms, off: Values) -> Values:
    """(k,) how far the points (k, n) usually lie off; endless where there is no conic."""
    missed = medians(off, terms.there)
    return np.where(np.isfinite(missed), missed, np.inf)


def _ellipses(terms: _Terms, conics: Values) -> list[Ellipse | None]:
    return [
        _from_conic(conic, middle, scale)
        for conic, middle, scale in zip(conics.tolist(), terms.middle.tolist(), terms.scale.tolist(), strict=True)
    ]


def _from_conic(conic: Sequence[float], middle: Sequence[float], scale: float) -> Ellipse | None:
    a, b, d, e, f = conic
    c = 1 - a
    discriminant = b * b - 4 * a * c
    if not discriminant < -1e-9:
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
        x=cx * scale + middle[0],
        y=cy * scale + middle[1],
        major=2 * math.sqrt(-level / lesser) * scale,
        minor=2 * math.sqrt(-level / greater) * scale,
        angle=axis_angle(-math.degrees(turn)),
    )
