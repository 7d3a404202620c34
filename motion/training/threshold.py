"""How small a fault a person sees, told from what they saw and missed; and which size to show next.

A fault's size is told in times its tolerance. How often one of that size is seen grows from chance to nearly always
along a Weibull curve over its logarithm, as for other things at the edge of being seen; where that curve lies is the
person's threshold. What is known of it is a probability for each of many thresholds, multiplied after each answer by
how likely the answer was; the next fault is as large as the threshold is on average.

After A. B. Watson and D. G. Pelli, "QUEST: a Bayesian adaptive psychometric method", Perception & Psychophysics 33,
1983; the mean instead of the mode after P. E. King-Smith et al., Vision Research 34, 1994.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Chances = NDArray[np.float64]
LEAST, MOST, STEPS = 1.0, 10.0, 101
"""Thresholds that are thought of: so many between two sizes, evenly over their logarithm."""
SMALLEST, LARGEST = 1.25, 6.0
"""What is shown is never smaller, which the checks would hardly see, nor larger, which anybody would."""
SLOPE, LAPSE = 3.5, 0.03
"""How steeply the curve rises, and how often something plain is missed all the same."""
AT_THRESHOLD = 0.75
"""A fault as large as the threshold is seen so often, chance taken out."""
BEGINS, SPREAD = 3.0, 0.9
"""What is supposed of somebody unknown: about this threshold, its logarithm (base 2) off by about so much."""


def _thresholds() -> Chances:
    return np.geomspace(LEAST, MOST, STEPS)


def _supposed() -> tuple[float, ...]:
    off = np.log2(_thresholds() / BEGINS) / SPREAD
    return _whole(np.exp(-0.5 * off**2))


def _whole(chances: Chances) -> tuple[float, ...]:
    return tuple(float(v) for v in chances / chances.sum())


@dataclass(frozen=True, slots=True)
class Threshold:
    """What is known of how small a fault of one kind a person sees: a probability for each threshold."""

    chances: tuple[float, ...] = ()

    @property
    def times(self) -> float:
        """The size, in times the tolerance, that is seen three times in four; the mean over what is thought likely."""
        return float(2 ** (self._array() @ np.log2(_thresholds())))

    @property
    def doubt(self) -> float:
        """By how much its logarithm (base 2) may be off: its standard deviation."""
        logs = np.log2(_thresholds())
        mean = float(self._array() @ logs)
        return math.sqrt(max(0.0, float(self._array() @ (logs - mean) ** 2)))

    @property
    def next_times(self) -> float:
        """How large the next fault of this kind is to be."""
        return min(LARGEST, max(SMALLEST, self.times))

    def after(self, times: float, *, seen: bool, chance: float = 0.0) -> Threshold:
        """What is known after a fault of a size was seen or missed; ``chance`` is how often a guess is right."""
        likely = seen_at(times, _thresholds(), chance)
        return Threshold(_whole(self._array() * (likely if seen else 1 - likely)))

    def to_json(self) -> list[float]:
        """As it is kept."""
        return [round(v, 6) for v in self._array()]

    @classmethod
    def from_json(cls, told: Any) -> Threshold:
        """As it was kept; what makes no sense is nobody known."""
        try:
            chances = np.array([float(v) for v in told])
        except (TypeError, ValueError):
            return cls()
        sound = len(chances) == STEPS and np.isfinite(chances).all() and (chances >= 0).all() and chances.sum() > 0
        return cls(_whole(chances)) if sound else cls()

    def _array(self) -> Chances:
        return np.array(self.chances or _supposed())


def seen_at(times: float, thresholds: Chances, chance: float = 0.0) -> Chances:
    """(n,) how often a fault of a size is told rightly by people with n thresholds, ``chance`` of them by guessing."""
    level = -math.log(1 - AT_THRESHOLD)
    seen = 1 - np.exp(-level * (times / thresholds) ** SLOPE)
    return np.asarray(chance + (1 - chance) * np.minimum(seen, 1 - LAPSE))
