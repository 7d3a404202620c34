"""A ground that is not drawn: the line on which the soles stand, which may slope."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from motion.exercises.walk.figure import SIDES
from motion.track import Figure, Ground

STEEPEST, STEPS = 0.2, 161
"""Slopes, down to the right above 0, that are tried: so steep, and so many."""
FEWEST = 6
NEAR = 0.04
"""A sole that lies farther off the line than so much of a leg tells no more about it."""
BETTER, LEAST_SLOPE = 0.6, 0.012
"""A slope is believed that leaves so much of what a level leaves, and is so steep."""
STANDS = 0.012
"""Soles so near to the line, in shares of the leg, stand on it: by them it is set."""

Floats = NDArray[np.float64]


def standing_line(level: Ground, figures: Sequence[Figure | None], leg: float) -> Ground:
    """The ``level`` at which what stands lies lowest, or the slope on which soles stand in most drawings.

    One foot stands in nearly every drawing of a walk, so that on the right slope the lowest of all soles is always as
    low; on any other it rises and falls with each step.
    """
    seen = [f for f in figures if f is not None]
    soles = [told for f in seen if (told := _soles(f)) is not None]
    if len(soles) < FEWEST:
        # Where joints do not tell it is the lowest of the ink, somewhere between the feet.
        soles = [np.array([[sum(f.span) / 2, f.low]]) for f in seen if f.low is not None and f.span is not None]
    if len(soles) < FEWEST or float(np.ptp([own[0, 0] for own in soles])) < leg / 2:
        return level
    slopes = np.linspace(-STEEPEST, STEEPEST, STEPS)
    off = [_off(soles, float(slope), leg) for slope in slopes]
    best = float(slopes[int(np.argmin(off))])
    if abs(best) < LEAST_SLOPE or min(off) > BETTER * _off(soles, 0.0, leg):
        return level
    slope, at_left = _through(soles, best, leg)
    return replace(level, y_left=at_left, y_right=at_left + slope * (level.width - 1))


def _soles(figure: Figure) -> Floats | None:
    """(k, 2) heels and toes of both feet; None where not all of them show, since the standing one may be hidden."""
    places = [figure.at(f"{end}_{side}") for end, side in itertools.product(("heel", "toe"), SIDES)]
    shown = [p for p in places if p is not None]
    return np.array(shown) if len(shown) == len(places) else None


def _lowest(soles: Sequence[Floats], slope: float) -> Floats:
    """(n,) how low the lowest sole of each drawing is, seen along a slope, px."""
    return np.array([float(np.max(own[:, 1] - slope * own[:, 0])) for own in soles])


def _off(soles: Sequence[Floats], slope: float, leg: float) -> float:
    """How far the lowest soles lie off one line of a slope, in legs, where what lies far off counts as near."""
    low = _lowest(soles, slope)
    return float(np.mean(np.minimum(np.abs(low - np.median(low)) / leg, NEAR)))


def _through(soles: Sequence[Floats], slope: float, leg: float) -> tuple[float, float]:
    """The line through all soles that stand near it: its slope, and its y at the left edge."""
    at = float(np.median(_lowest(soles, slope)))
    points = np.concatenate(soles)
    for _ in range(3):
        near = np.abs(points[:, 1] - slope * points[:, 0] - at) < STANDS * leg
        if np.count_nonzero(near) < FEWEST or float(np.ptp(points[near, 0])) < leg / 2:
            break
        fitted, level = np.polyfit(points[near, 0], points[near, 1], 1)
        slope, at = float(fitted), float(level)
    return slope, at
