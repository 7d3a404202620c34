"""What carries a pendulum, as the guide has it: how its base goes along a level way, and how that drives the swing.

θ'' = −sin θ − c θ' − (a / L) cos θ in units of 1 / ω: the equation of a pendulum with linear damping whose pivot is
pushed along a level line with the acceleration a; solved step by step (Runge and Kutta, fourth order).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from motion.exercises.pendulum.ideal import STEP, Motion

FINE = 40
"""Halvings by which a time is found."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Carriage:
    """A base that goes ``px`` to the right (below 0 to the left) in so many ``frames``, and then stands.

    It gathers speed over the share ``eases`` of that time, as the rising half of a cosine wave, and slows down over as
    much; between, it goes evenly. Times are in frames from when it starts.
    """

    px: float
    frames: float
    eases: float

    @property
    def fastest(self) -> float:
        """Its greatest speed over its mean speed."""
        return 1 / (1 - self.eases)

    @property
    def up_to_speed(self) -> float:
        """The share of its way on which it gathers speed."""
        return self.fastest * self.eases / 2

    def at(self, time: float) -> float:
        """How far it has gone, px."""
        u = min(1.0, max(0.0, time / self.frames))
        if u > 0.5:
            return self.px * (1 - self._risen(1 - u))
        return self.px * self._risen(u)

    def push(self, time: float) -> float:
        """Its acceleration, px a frame a frame."""
        u = time / self.frames
        if not 0 < u < 1:
            return 0.0
        near, way = (u, 1.0) if u <= 0.5 else (1 - u, -1.0)
        if near >= self.eases:
            return 0.0
        rise = self.fastest * math.pi / (2 * self.eases) * math.sin(math.pi * near / self.eases)
        return way * rise * self.px / self.frames**2

    def when(self, gone: float) -> float:
        """The time at which it has gone so far (px), between its start and its stop."""
        low, high = 0.0, self.frames
        for _ in range(FINE):
            middle = (low + high) / 2
            low, high = (middle, high) if abs(self.at(middle)) < abs(gone) else (low, middle)
        return (low + high) / 2

    def _risen(self, u: float) -> float:
        """The share of its way that is gone after a share of its time, in the first half of both."""
        if u >= self.eases:
            return self.fastest * (u - self.eases / 2)
        return self.fastest * (u / 2 - self.eases / (2 * math.pi) * math.sin(math.pi * u / self.eases))


def easing(up_to_speed: float) -> float:
    """The share of its time in which a base gathers speed that does so on such a share (0 to 0.5) of its way."""
    return 2 * up_to_speed / (1 + 2 * up_to_speed)


@lru_cache(maxsize=64)
def driven(carriage: Carriage, length: float, swing_frames: float, keeps: float, swings: int) -> Motion:
    """What hangs ``length`` px below a base: still until that starts, until ``swings`` extremes after it stops.

    Times are in frames; the extremes told are those after the stop.
    """
    per = swing_frames / math.pi
    damping = -2 * math.log(keeps) / math.pi if keeps < 1 else 0.0
    step, stops = STEP * per, carriage.frames
    angle, speed, time = 0.0, 0.0, 0.0
    angles, times, extremes = [0.0], [0.0], list[float]()

    def fall(angle: float, speed: float, time: float) -> tuple[float, float]:
        pushed = carriage.push(time) * per**2 / length
        return speed, -math.sin(angle) - damping * speed - pushed * math.cos(angle)

    while len(extremes) < swings and time < stops + (swings + 3) * 2 * swing_frames:
        half = STEP / 2
        a1, s1 = fall(angle, speed, time)
        a2, s2 = fall(angle + half * a1, speed + half * s1, time + step / 2)
        a3, s3 = fall(angle + half * a2, speed + half * s2, time + step / 2)
        a4, s4 = fall(angle + STEP * a3, speed + STEP * s3, time + step)
        angle += STEP / 6 * (a1 + 2 * a2 + 2 * a3 + a4)
        after = speed + STEP / 6 * (s1 + 2 * s2 + 2 * s3 + s4)
        if speed * after < 0 and time >= stops:
            extremes.append(time + step * speed / (speed - after))
        speed, time = after, time + step
        angles.append(angle)
        times.append(time)
    return Motion(np.array(times), np.array(angles), tuple(extremes))
