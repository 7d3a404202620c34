"""A guide that was left switched on: a path, or shapes, drawn behind the ball along the way that it takes."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.background import Background
from motion.tracking.ellipse import Ellipse
from motion.tracking.track import Ground, Shape

STEP_PX = 3.0
NEAR_PX, ASIDE_PX = 5, 14
"""The path must show within so many px of the ball's way, and not as far aside, where it would be scenery."""
LEAST_LEVELS = 10.0
SHOWN = 0.45
"""Which share of the ball's way, or of its drawings, must show it."""
FEWEST_POINTS, FEWEST_SHAPES = 40, 4
ON_RING, BESIDE_RING = (0.93, 0.97, 1.0, 1.03), (0.8, 1.15)
"""Where, in radii, a shape's outline would be, and where not."""
RING_SHOWN = 0.6
"""Which part of a shape's outline must show."""
CLEAR_OF_GROUND_D = 0.7
"""Ink nearer to the ground than so many diameters is the ground's."""


def shows(background: Background, shapes: Sequence[Shape | None], ground: Ground | None) -> bool:
    """Whether a path or the drawings' shapes are drawn in the background; ``shapes`` are in playing order."""
    known = [s for s in shapes if s is not None and not s.clipped and s.confidence > 0.5]
    if len(known) < FEWEST_SHAPES:
        return False
    ink = background.ink
    size = float(np.median([np.sqrt(s.area) for s in known]))
    aloft = [s for s in known if ground is None or ground.y_at(s.x) - s.y > CLEAR_OF_GROUND_D * size]
    least = max(LEAST_LEVELS, 2.0 * background.noise)
    return _shows_path(ink, aloft, least) or _shows_shapes(ink, aloft, least)


def _shows_path(ink: NDArray[np.uint8], shapes: Sequence[Shape], least: float) -> bool:
    points, aside = _way(shapes)
    if len(points) < FEWEST_POINTS:
        return False
    reach = np.arange(-ASIDE_PX, ASIDE_PX + 1)
    places = (points[:, None, :] + reach[None, :, None] * aside[:, None, :]).astype(np.float32)
    found = _values(ink, places)
    near = np.abs(reach) <= NEAR_PX
    on = found[:, near].max(axis=1)
    beside = np.median(found[:, np.abs(reach) > NEAR_PX + 2], axis=1)
    return float(np.mean((on > least) & (on > 2 * beside + 4))) > SHOWN


def _way(shapes: Sequence[Shape]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points (n, 2) along the ball's way from drawing to drawing, and the directions (n, 2) across it."""
    points, aside = [], []
    for one, other in itertools.pairwise(shapes):
        way = np.array([other.x - one.x, other.y - one.y])
        far = float(np.hypot(*way))
        if not STEP_PX < far < 3 * one.major:
            continue
        parts = np.arange(0.0, far, STEP_PX) / far
        points.append(np.array([one.x, one.y]) + parts[:, None] * way)
        aside.append(np.tile(np.array([-way[1], way[0]]) / far, (len(parts), 1)))
    if not points:
        return np.empty((0, 2)), np.empty((0, 2))
    return np.concatenate(points), np.concatenate(aside)


def _shows_shapes(ink: NDArray[np.uint8], shapes: Sequence[Shape], least: float) -> bool:
    if len(shapes) < FEWEST_SHAPES:
        return False
    rings = [Ellipse(x=s.x, y=s.y, major=s.major, minor=s.minor, angle=s.angle) for s in shapes]
    turns, scales = np.linspace(0, 2 * np.pi, 72, endpoint=False)[:, None], np.array([*ON_RING, *BESIDE_RING])
    # All in one picture's columns, a shape below the other.
    found = _values(ink, np.concatenate([r.points(turns, scales[None, :]) for r in rings]))
    on, beside = found[:, : len(ON_RING)].max(axis=1), found[:, len(ON_RING) :].max(axis=1)
    shown = ((on > least) & (on > beside + 4)).reshape(len(rings), -1).mean(axis=1)
    return float(np.mean(shown > RING_SHOWN)) > SHOWN


def _values(ink: NDArray[np.uint8], places: NDArray[np.floating]) -> NDArray[np.float64]:
    x, y = places[..., 0].astype(np.float32), places[..., 1].astype(np.float32)
    return np.asarray(cv2.remap(ink, x, y, cv2.INTER_LINEAR, borderValue=0), dtype=np.float64)
