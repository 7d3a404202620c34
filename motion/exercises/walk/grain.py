"""How far what pictures tell may be off by itself: told from how a clip's own measures scatter.

Thick limbs that cross, outlines and a codec's grain make a joint uncertain by some px, in one clip more than in
another. Where measures that should be alike scatter, one of them counts only where it leaves the others.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

TIMES, MOST = 4.0, 1.6
"""What lies within so many deviations of the others tells nothing; nor does that widen a tolerance more than so many
times, so that what is plainly wrong is found in any clip."""
FEWEST = 6
SIGMA, ROUND_SIGMA = 1.4826, 0.85
"""The deviation from the middle distance of single numbers, and of places in the plane, normally distributed."""
SAME_MOMENT = 0.08
"""Drawings of other steps that lie so near in phase show the same moment."""
AS_FAR = 0.5
"""What is off to the same side, by so much of it, at the same moment of another step is the walk's own, or is how its
pictures tell it: no drawing's fault."""


def widened(tolerance: float, measures: Sequence[float]) -> float:
    """A tolerance for one of several measures that should be alike, as wide as these scatter."""
    if len(measures) < FEWEST:
        return tolerance
    values = np.asarray(measures, dtype=np.float64)
    return _within(tolerance, SIGMA * float(np.median(np.abs(values - np.median(values)))))


def widened_by(tolerance: float, distances: Sequence[float]) -> float:
    """The same of how far places lie from where they belong, px."""
    return tolerance if len(distances) < FEWEST else _within(tolerance, ROUND_SIGMA * float(np.median(distances)))


def _within(tolerance: float, deviation: float) -> float:
    return min(MOST * tolerance, max(tolerance, TIMES * deviation))
