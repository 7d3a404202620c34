"""A guide that was left switched on: a path, or shapes, drawn behind the subject along the way that it takes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from motion.track import Ground, Shape
from motion.tracking.background import Background
from motion.tracking.ellipse import Ellipse, arms_of
from motion.tracking.lines import Lines

LEAST_WAY_PX, STEP_PX = 3.0, 6.0
"""Drawings that lie nearer to each other tell no way; along it, it is looked for in such steps."""
NEAR_PX, ASIDE_PX = 5, 14
"""The path must show within so many px of the subject's way, and not as far aside, where it would be scenery."""
LEAST_LEVELS = 10.0
SHOWN = 0.45
"""Which share of the subject's way, or of its drawings, must show it."""
FEWEST_POINTS, FEWEST_SHAPES = 20, 4
ON_RING, BESIDE_RING = (0.93, 0.97, 1.0, 1.03), (0.8, 1.15)
"""Where, in radii, a shape's outline would be, and where not."""
TURNS = 40
"""In so many places around."""
RING_SHOWN = 0.6
"""Which part of a shape's outline must show."""
CLEAR_OF_GROUND_D = 0.7
"""Ink nearer to the ground than so many sizes is the ground's."""


def shows(background: Background, shapes: Sequence[Shape | None], ground: Ground | None) -> bool:
    """Whether a path or the drawings' shapes are drawn in the background; ``shapes`` are in playing order."""
    known = [s for s in shapes if s is not None and not s.clipped and s.confidence > 0.5]
    if len(known) < FEWEST_SHAPES:
        return False
    size = float(np.median([np.sqrt(s.area) for s in known]))
    aloft = [s for s in known if ground is None or ground.y_at(s.x) - s.y > CLEAR_OF_GROUND_D * size]
    least = max(LEAST_LEVELS, 2.0 * background.noise)
    return _shows_path(background.lines, aloft, least) or _shows_shapes(background.lines, aloft, least)


def _shows_path(lines: Lines, shapes: Sequence[Shape], least: float) -> bool:
    points, aside = _way(shapes)
    if len(points) < FEWEST_POINTS:
        return False
    reach = np.arange(-ASIDE_PX, ASIDE_PX + 1)
    found = lines.at(points[:, None] + reach[:, None] * aside[:, None])
    on = found[:, np.abs(reach) <= NEAR_PX].max(axis=1).astype(np.int16)
    beside = np.sort(found[:, np.abs(reach) > NEAR_PX + 2], axis=1)
    usual = beside[:, beside.shape[1] // 2].astype(np.int16)
    return float(np.mean((on > least) & (on > 2 * usual + 4))) > SHOWN


def _way(shapes: Sequence[Shape]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points (n, 2) along the subject's way from drawing to drawing, and the directions (n, 2) across it."""
    if len(shapes) < 2:
        return np.empty((0, 2)), np.empty((0, 2))
    places, longest = np.array([[s.x, s.y] for s in shapes]), np.array([s.major for s in shapes[:-1]])
    ways = np.diff(places, axis=0)
    far = np.hypot(*ways.T)
    told = (far > LEAST_WAY_PX) & (far < 3 * longest)
    counts = np.ceil(far[told] / STEP_PX).astype(np.intp)
    number = np.repeat(np.flatnonzero(told), counts)
    step = np.arange(len(number)) - np.repeat(np.cumsum(counts) - counts, counts)
    along = ways[number] / far[number][:, None]
    return places[number] + (STEP_PX * step)[:, None] * along, along[:, ::-1] * np.array([-1.0, 1.0])


def _shows_shapes(lines: Lines, shapes: Sequence[Shape], least: float) -> bool:
    if len(shapes) < FEWEST_SHAPES:
        return False
    rings = [Ellipse(x=s.x, y=s.y, major=s.major, minor=s.minor, angle=s.angle) for s in shapes]
    middles = np.array([[s.x, s.y] for s in shapes])[:, None, None]
    arms = arms_of(rings, np.linspace(0, 2 * np.pi, TURNS, endpoint=False))
    # (shapes, turns, radii)
    found = lines.at(middles + arms[:, :, None] * np.array([*ON_RING, *BESIDE_RING])[:, None]).astype(np.int16)
    on, beside = found[..., : len(ON_RING)].max(axis=2), found[..., len(ON_RING) :].max(axis=2)
    shown = ((on > least) & (on > beside + 4)).mean(axis=1)
    return float(np.mean(shown > RING_SHOWN)) > SHOWN
