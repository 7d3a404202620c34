"""A track told as steps, extremes and swings: what a marker reads out of a pendulum before judging it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.pendulum.steps import Step, clocked, resting_of, steps_of, usual_of
from motion.exercises.pendulum.turns import Extreme, extremes_of, turning_points, without_spikes
from motion.track import Pivot, Track

SETTLING_DEGREES = 8.0
"""A swing with an extreme under this angle is settling."""
CENTRED = 0.06
"""Swings whose middle is off the rest line by less than this share of their angle swing around it."""
EVENLY = 0.05
"""Extremes die away evenly that lie within such a share of where they would."""
FEWEST_STEPS = 5
LEAST_SWING_DEGREES = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Swing:
    """From one extreme to the next; ``number`` counts from 1. ``steps`` are indices, both extremes among them."""

    number: int
    start: Extreme
    end: Extreme
    steps: range

    @property
    def whole(self) -> bool:
        """Whether the clip shows it from extreme to extreme."""
        return self.start.whole and self.end.whole

    @property
    def timed(self) -> bool:
        """Whether the clip tells how long it takes."""
        return self.start.timed and self.end.timed

    @property
    def frames(self) -> float:
        """How long it takes, holds at its extremes left out."""
        return self.end.time - self.start.time

    @property
    def degrees(self) -> float:
        """How far it goes."""
        return abs(self.end.angle - self.start.angle)

    @property
    def middle(self) -> float:
        """The angle midway between its extremes."""
        return (self.start.angle + self.end.angle) / 2


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """A pendulum as read. ``length`` is its line's, px; ``middle`` the angle around which it is judged: its
    rest line's, or ``centre`` where it swings around another.

    ``resting`` is how many of the last steps lie still.
    """

    steps: tuple[Step, ...]
    pivot: Pivot
    length: float
    size: float
    amplitude: float
    middle: float
    centre: float
    extremes: tuple[Extreme, ...]
    swings: tuple[Swing, ...]
    resting: int
    usual: int

    def settles(self, swing: Swing) -> bool:
        """Whether a swing is so small that it only settles, or is driven: both are judged by single drawings alone."""
        if self.steps[swing.start.step].frame < self.driven:
            return True
        return min(abs(e.angle - self.middle) for e in (swing.start, swing.end)) < SETTLING_DEGREES

    @property
    def settled(self) -> bool:
        """Whether the last extreme before its end was so small that it only settled there."""
        return len(self.extremes) > 1 and abs(self.extremes[-2].angle - self.middle) < SETTLING_DEGREES

    @property
    def judged(self) -> list[Swing]:
        """Whole swings that do not only settle."""
        return [s for s in self.swings if s.whole and not self.settles(s)]

    def place(self, angle: float, length: float | None = None) -> tuple[float, float]:
        """The point (px) at an angle from the rest line and a length from the pivot."""
        turn = math.radians(angle + self.rest)
        far = self.length if length is None else length
        return self.pivot.x + far * math.sin(turn), self.pivot.y + far * math.cos(turn)

    rest: float = 0.0
    """How far the rest line leans, degrees."""
    driven: float = 0.0
    """Until this frame what carries it drives it."""


def read(track: Track, rest_angle: float, driven: float = 0.0) -> Reading | None:
    """The pendulum of a track; None where too little was found, or nothing swings.

    Until the frame ``driven`` what carries it drives it: how far it goes until then tells nothing of its own swing.
    """
    pivot = track.pivot
    if pivot is None:
        return None
    steps = steps_of(track, pivot, rest_angle)
    if len(steps) < FEWEST_STEPS:
        return None
    angles = np.array([s.angle for s in steps])
    if np.ptp(angles) < LEAST_SWING_DEGREES:
        return None
    usual = usual_of(steps)
    resting = resting_of(steps, usual)
    turns = without_spikes(turning_points(angles[: len(angles) - resting]), angles)
    steps = clocked(steps, turns, usual)
    moving = steps[: len(steps) - resting]
    extremes = [
        replace(e, whole=e.whole and steps[e.step].frame >= driven) for e in extremes_of(moving, turns, resting > 0)
    ]
    whole = [e for e in extremes if e.whole] or extremes
    middle = _middle([e.angle for e in whole])
    reach = float(np.median([abs(e.angle - middle) for e in whole])) if whole else float(np.ptp(angles) / 2)
    shapes = [s.shape for s in steps if not s.shape.clipped] or [s.shape for s in steps]
    return Reading(
        steps=tuple(steps),
        pivot=pivot,
        length=float(np.median([s.length for s in steps])),
        size=float(np.median([math.sqrt(s.area) for s in shapes])),
        amplitude=reach,
        # One that is not told as lopsided is judged from its rest line.
        middle=middle if abs(middle) > CENTRED * reach else 0.0,
        centre=middle,
        extremes=tuple(extremes),
        swings=tuple(_swings(extremes)),
        resting=resting,
        usual=usual,
        rest=rest_angle,
        driven=driven,
    )


def _middle(angles: Sequence[float]) -> float:
    """The angle around which it swings, dying away taken out.

    Extremes a, b, c that each keep the same share of the angle lie around (a c − b²) / (a + c − 2 b).
    """
    if len(angles) < 3:
        return float(np.mean(angles)) if len(angles) == 2 else 0.0
    if _dies_evenly(angles):
        return 0.0
    triples = zip(angles, angles[1:], angles[2:], strict=False)
    # Extremes that do not turn round, at a clip's cut ends, lie around nothing.
    found = [(a * c - b * b) / (a + c - 2 * b) for a, b, c in triples if (b - a) * (c - b) < 0]
    return float(np.median(found)) if found else 0.0


def _dies_evenly(angles: Sequence[float]) -> bool:
    """Whether extremes, all but one of them at most, die away evenly from side to side of the rest line.

    One that is odd would pull the middle of those about it to its side.
    """
    if len(angles) < 4 or any(a * b >= 0 for a, b in itertools.pairwise(angles)):
        return False
    numbers, logs = np.arange(len(angles), dtype=float), np.log(np.abs(angles))
    for out in range(len(angles)):
        kept = numbers != out
        fit = np.polyfit(numbers[kept], logs[kept], 1)
        if float(np.abs(np.polyval(fit, numbers[kept]) - logs[kept]).max()) <= EVENLY:
            return True
    return False


def _swings(extremes: Sequence[Extreme]) -> list[Swing]:
    return [
        Swing(number=n, start=a, end=b, steps=range(a.step, b.step + 1))
        for n, (a, b) in enumerate(itertools.pairwise(extremes), start=1)
        if b.step > a.step
    ]
