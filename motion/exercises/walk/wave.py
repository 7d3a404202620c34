"""The hips' rise and fall over a clip's mean step."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.exercises.walk.reading import Reading
from motion.exercises.walk.steps import Pace

Floats = NDArray[np.float64]
FEWEST = 5
ROUNDS, STRAY, LEAST_PX = 4, 3.0, 0.3
"""How often it is fitted anew; what lies off by so many times the usual, and by so many px, counts half."""


@dataclass(frozen=True, slots=True)
class Wave:
    """By how many px the hips rise and fall over a step, and at which phase (0 to 1) they are lowest.

    ``first`` is how much of that is the first harmonic's, px.
    """

    rise: float
    lowest: float
    first: float

    def height(self, phase: float) -> float:
        """Above the middle, px, by the first harmonic."""
        return -0.5 * self.first * math.cos(2 * math.pi * (phase - self.lowest))


def _robust(rows: Floats, heights: Floats) -> Floats:
    """Least squares in which a hip that lies off what the others say counts little (Geman and McClure's weights)."""
    fitted = np.linalg.lstsq(rows, heights, rcond=None)[0]
    for _ in range(ROUNDS):
        off = heights - rows @ fitted
        spread = max(LEAST_PX, STRAY * float(np.median(np.abs(off))))
        weights = 1 / (1 + (off / spread) ** 2)
        fitted = np.linalg.lstsq(rows * weights[:, None], heights * weights, rcond=None)[0]
    return np.asarray(fitted, dtype=np.float64)


def hips_wave(reading: Reading, paces: Sequence[Pace]) -> Wave | None:
    """Fitted to all drawings of these steps: a drift, and two harmonics of a step; None with too few drawings."""
    numbers = {p.number for p in paces}
    told = []
    for step in reading.steps:
        known, hip = reading.phase(step.index), step.at("hip")
        if hip is None and not reading.told and step.body is not None:
            hip = (step.body.x, step.body.y)
        if known is not None and hip is not None and known[0] in numbers:
            told.append((known[1], step.clock, reading.height(hip)))
    if len(told) < FEWEST:
        return None
    phases, clocks, heights = np.array(told).T
    turns = 2 * math.pi * phases
    columns = [np.ones_like(turns), clocks - clocks.mean(), np.cos(turns), np.sin(turns)]
    if len(told) >= 2 * FEWEST:
        columns += [np.cos(2 * turns), np.sin(2 * turns)]
    fitted = _robust(np.stack(columns, axis=1), heights)
    fine = np.linspace(0, 2 * math.pi, 73)
    wave = fitted[2] * np.cos(fine) + fitted[3] * np.sin(fine)
    if len(fitted) > 4:
        wave = wave + fitted[4] * np.cos(2 * fine) + fitted[5] * np.sin(2 * fine)
    lowest = (math.atan2(fitted[3], fitted[2]) / (2 * math.pi) + 0.5) % 1.0
    return Wave(float(np.ptp(wave)), lowest, 2 * math.hypot(fitted[2], fitted[3]))
