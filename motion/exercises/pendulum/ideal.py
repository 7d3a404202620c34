"""The ideal swing: a weight on a line under gravity, slowed evenly as it goes.

θ'' = −ω² sin θ − c θ', with ω² = g / L: the equation of a pendulum with linear damping, solved step by step. Time is
told in swings' own units (ω = 1) and stretched afterwards, so that one solution serves every length and rate.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from motion.physics import GRAVITY

STEP = 0.02
"""Of the solution, in units of 1 / ω: a hundredth of the time in which it swings a third of a swing."""
MOST_SWINGS = 120
REFINED = 4


@dataclass(frozen=True, slots=True)
class Motion:
    """Angles from the rest line (radians) at even times (units of 1 / ω), and the times of the extremes."""

    times: NDArray[np.float64]
    angles: NDArray[np.float64]
    extremes: tuple[float, ...]

    def angle(self, time: float) -> float:
        """The angle at a time, radians; before its beginning the first, after its end the last."""
        return float(np.interp(time, self.times, self.angles))


@lru_cache(maxsize=64)
def motion(amplitude: float, keeps: float, swings: int) -> Motion:
    """So many swings from an extreme at ``amplitude`` (radians), each keeping a share of the angle before."""
    damping = -2 * math.log(keeps) / math.pi if keeps < 1 else 0.0
    solved = _solve(amplitude, damping, swings)
    for _ in range(REFINED if damping else 0):
        # At large angles a swing takes longer, and loses more: the damping follows what it really keeps.
        kept = abs(solved.angle(solved.extremes[1]) / amplitude)
        damping *= math.log(keeps) / math.log(kept)
        solved = _solve(amplitude, damping, swings)
    return solved


def _solve(amplitude: float, damping: float, swings: int) -> Motion:
    angle, speed, time = amplitude, 0.0, 0.0
    angles, times, extremes = [amplitude], [0.0], [0.0]
    while len(extremes) <= swings:
        angle, after = _step(angle, speed, damping)
        time += STEP
        if speed * after < 0:
            extremes.append(time - STEP + STEP * speed / (speed - after))
        speed = after
        angles.append(angle)
        times.append(time)
    return Motion(np.array(times), np.array(angles), tuple(extremes))


def _step(angle: float, speed: float, damping: float) -> tuple[float, float]:
    """One step of Runge and Kutta's fourth order."""
    half = STEP / 2
    a1, s1 = speed, -math.sin(angle) - damping * speed
    a2, s2 = speed + half * s1, -math.sin(angle + half * a1) - damping * (speed + half * s1)
    a3, s3 = speed + half * s2, -math.sin(angle + half * a2) - damping * (speed + half * s2)
    a4, s4 = speed + STEP * s3, -math.sin(angle + STEP * a3) - damping * (speed + STEP * s3)
    return angle + STEP / 6 * (a1 + 2 * a2 + 2 * a3 + a4), speed + STEP / 6 * (s1 + 2 * s2 + 2 * s3 + s4)


def swing_frames(length_px: float, px_per_m: float, fps: float, amplitude: float, gravity: float = GRAVITY) -> float:
    """Frames from one extreme to the next of a pendulum of that length at that angle (radians), without damping.

    T / 2 = π sqrt(L / g), longer at large angles by the exact factor 1 / agm(1, cos(A / 2)).
    """
    seconds = math.pi * math.sqrt(length_px / px_per_m / gravity)
    return seconds * fps / _agm(1.0, math.cos(amplitude / 2))


def _agm(one: float, other: float) -> float:
    while abs(one - other) > 1e-12:
        one, other = (one + other) / 2, math.sqrt(one * other)
    return one
