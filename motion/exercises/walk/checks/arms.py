"""How arms swing: slowing into both extremes, and against the legs."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.checks import overlay
from motion.exercises.walk.checks import rearmed
from motion.exercises.walk.figure import SIDES, Side, swing_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Step
from motion.findings import Finding, span

EVEN, LEAST_GAPS = 0.8, 5
LEAST_SWING = 5.0
"""Arms that swing by fewer degrees either way are not judged."""
TOGETHER = 60.0
FEWEST = 6
STRAIGHTER, PHASES = 0.55, 81
"""Straight ways fit far better that miss by such a share of what a sine misses."""
LEAST_TOLD, LEAST_A_STRIDE = 12, 6
"""That is told by so many drawings, and so many a stride."""
WHOLE = 0.6
"""A swing is whole that spans such a share of what the arm spans over the clip: where two arms drawn alike are taken
for each other as they pass, one seems to turn round halfway."""
TURNS = 3.0
"""An arm has turned round where it comes back by so many degrees."""


@dataclass(frozen=True, slots=True)
class _Swing:
    """An arm on its way from one extreme to the other: its drawings and angles, degrees.

    ``straight`` where it is all that an arm does, there and back.
    """

    side: Side
    steps: tuple[Step, ...]
    angles: tuple[float, ...]
    straight: bool = False

    @property
    def evenness(self) -> float:
        """Its first and last gap over those through the middle."""
        if self.straight:
            return 1.0
        speeds = [
            abs(b - a) / max(1e-6, y.clock - x.clock)
            for (x, a), (y, b) in itertools.pairwise(zip(self.steps, self.angles, strict=True))
        ]
        middle = (len(speeds) - 1) / 2
        inner = (speeds[math.floor(middle)] + speeds[math.ceil(middle)]) / 2
        return (speeds[0] + speeds[-1]) / 2 / inner if inner else 0.0


def even(scene: Scene) -> Iterator[Finding]:
    """``spacing.even``: the arms swing in even steps, with no slowing into and out of their extremes.

    Measured: of an arm's swings of 5 gaps and more, through 0.6 and more of all that it swings through, the mean of the
    first and the last gap over that of the middle gap or two. Tolerance: at most 0.8. Of an arm that turns round
    between two drawings that tells little: it goes evenly where straight ways fit all of its angles far better than a
    sine does. Arms that swing by less than 5 degrees either way are not judged.
    """
    allowed = 1 - (1 - EVEN) / scene.leniency
    told = [s for side in SIDES for s in _even_swings(scene, side, allowed)]
    if not told:
        return
    told.sort(key=lambda s: s.steps[0].index)
    worst, sides = max(allowed + EVEN / 100, *(s.evenness for s in told)), {s.side for s in told}
    first, last = told[0].steps[0], max((s.steps[-1] for s in told), key=lambda s: s.index)
    part = "arms" if len(sides) == 2 else f"{told[0].side} arm"
    yield scene.finding(
        "spacing.even",
        [first, last],
        times=1 + 4 * (worst - allowed),
        measured=worst,
        expected=0.0,
        tolerance=allowed,
        unit="share",
        part=part,
        message=f"{span(first.frame, last.last_frame)}: the {part} {'swing' if part == 'arms' else 'swings'} in even "
        "steps. Gaps beside the extremes are as wide as those through the middle; an arm slows into an extreme and "
        "gathers speed out of it.",
        advice="Keep the drawings in which an arm turns round, put those beside them closer to them, and open the gaps "
        "through the middle.",
        overlay=tuple(mark for side in SIDES if side in sides for mark in _swung(scene, side)),
    )


def _even_swings(scene: Scene, side: Side, allowed: float) -> list[_Swing]:
    """An arm's swings that are even; all that it does as one where it goes straight all along."""
    shown = [(s, a) for s, a in _angles(scene, side, "neck", "hand") if not s.held and s.index in scene.judged]
    if _goes_straight(scene, shown):
        return [_Swing(side, tuple(s for s, _ in shown), tuple(a for _, a in shown), straight=True)]
    return [s for s in _swings(scene, side) if s.evenness > allowed]


def _goes_straight(scene: Scene, told: Sequence[tuple[Step, float]]) -> bool:
    """Whether an arm goes there and back in straight ways: they fit its angles far better than a sine."""
    stride = _stride(scene)
    if (
        stride is None
        or len(told) < LEAST_TOLD
        or len(told) < LEAST_A_STRIDE * (told[-1][0].clock - told[0][0].clock) / stride
    ):
        return False
    times, angles = np.array([s.clock / stride for s, _ in told]), np.array([a for _, a in told])
    if np.ptp(angles) < 2 * LEAST_SWING:
        return False
    straight = min(_misses(4 * np.abs((times + p) % 1.0 - 0.5) - 1, angles) for p in np.linspace(0, 1, PHASES))
    turns = 2 * math.pi * times
    sine = _misses(np.stack([np.cos(turns), np.sin(turns)], axis=1), angles)
    return straight < STRAIGHTER * sine


def _misses(waves: NDArray[np.float64], angles: NDArray[np.float64]) -> float:
    """How far angles usually lie off the best of some waves (n,) or (n, k), degrees."""
    columns = np.column_stack([np.ones(len(angles)), waves])
    fitted = columns @ np.linalg.lstsq(columns, angles, rcond=None)[0]
    return float(np.sqrt(np.mean((angles - fitted) ** 2)))


def _stride(scene: Scene) -> float | None:
    """How long two steps take, frames."""
    return 2 * float(np.mean([p.frames for p in scene.paces])) if scene.paces else None


def _swung(scene: Scene, side: Side) -> tuple[overlay.Mark, ...]:
    """An arm on a sine as wide as it swings: slow at both extremes, fast between them."""
    told, stride = _angles(scene, side, "neck", "hand"), _stride(scene)
    wave = _wave(told, stride) if stride else None
    if wave is None or stride is None or not wave:
        return ()
    angles = np.array([a for _, a in told])
    turns = 2 * math.pi * np.array([s.clock for s, _ in told]) / stride
    middle, wide = (angles.max() + angles.min()) / 2, float(np.ptp(angles)) / 2
    sine = middle + wide * np.cos(turns + np.angle(wave))
    return rearmed.turned(scene, side, [(s, float(off)) for (s, _), off in zip(told, sine - angles, strict=True)])


def opposite(scene: Scene) -> Iterator[Finding]:
    """``timing.opposite``: an arm swings with the leg of its own side.

    Measured: how far the arm's and that leg's angles are from each other in phase, degrees of a stride, over the clip.
    Tolerance: more than 60 degrees. Not judged where both sides are drawn alike, or arms swing by less than 5 degrees.
    """
    if scene.asked.sides == "same":
        return
    told = {side: off for side in SIDES if (off := _phase_beside_leg(scene, side)) is not None}
    allowed = TOGETHER / scene.leniency
    with_leg = {side: off for side, off in told.items() if off < allowed}
    if not with_leg:
        return
    least = min(with_leg.values())
    arms = "Both arms swing" if len(with_leg) == 2 else f"The {next(iter(with_leg))} arm swings"
    yield scene.whole_clip(
        "timing.opposite",
        times=1 + 3 * (allowed - least) / allowed,
        measured=least,
        expected=180.0,
        tolerance=allowed,
        unit="degrees",
        message=f"{arms} with the leg of the same side; in a walk each arm goes against its leg.",
        advice="Let the arm be in front while the leg of its side is behind: the contact drawing shows both farthest "
        "apart.",
        overlay=rearmed.rearmed(scene, with_leg, _stride(scene) or 0.0),
    )


def swings_by(scene: Scene) -> list[float]:
    """By how many degrees either way each arm swings that shows."""
    stride = _stride(scene)
    if stride is None:
        return []
    waves = [_wave(_angles(scene, side, "neck", "hand"), stride) for side in SIDES]
    return [abs(wave) for wave in waves if wave is not None]


def _angles(scene: Scene, side: Side, root: str, end: str) -> list[tuple[Step, float]]:
    """How far forward a limb points in each drawing that shows it, degrees from straight down."""
    found = []
    for step in scene.reading.steps:
        one, other = step.at(root), step.at(f"{end}_{side}")
        if one is not None and other is not None:
            found.append((step, swing_of(one, other, scene.reading.facing)))
    return found


def _swings(scene: Scene, side: Side) -> list[_Swing]:
    """An arm's whole swings, from one drawing in which it turns round to the next, all of whose drawings show it."""
    told = [(s, a) for s, a in _angles(scene, side, "neck", "hand") if not s.held]
    turns = [k for k in _turns([a for _, a in told]) if told[k + 1][0].index - told[k - 1][0].index == 2]
    least = max(2 * LEAST_SWING, WHOLE * float(np.ptp([a for _, a in told]))) if told else 0.0
    found = []
    for start, end in itertools.pairwise(turns):
        own = told[start : end + 1]
        unbroken = all(b.index == a.index + 1 for (a, _), (b, _) in itertools.pairwise(own))
        wide = abs(own[-1][1] - own[0][1]) >= least
        judged = all(s.index in scene.judged for s, _ in own)
        if unbroken and wide and judged and len(own) > LEAST_GAPS:
            found.append(_Swing(side, tuple(s for s, _ in own), tuple(a for _, a in own)))
    return found


def _turns(angles: Sequence[float]) -> list[int]:
    """Where a row of angles turns round, the first and the last not among them."""
    found, way, most = list[int](), 0.0, 0
    for index, angle in enumerate(angles):
        off = angle - angles[most]
        if way == 0.0:
            if abs(off) > TURNS:
                way, most = math.copysign(1.0, off), index
        elif off * way >= 0:
            most = index
        elif abs(off) > TURNS:
            found.append(most)
            way, most = -way, index
    return found


def _phase_beside_leg(scene: Scene, side: Side) -> float | None:
    """How far an arm is from the leg of its side in phase, 0 to 180 degrees; None where it hardly swings, or shows."""
    stride = _stride(scene)
    if stride is None:
        return None
    waves = [_wave(_angles(scene, side, *ends), stride) for ends in (("neck", "hand"), ("hip", "ankle"))]
    if waves[0] is None or waves[1] is None or abs(waves[0]) < LEAST_SWING:
        return None
    return abs(math.degrees(float(np.angle(waves[0] * np.conj(waves[1])))))


def _wave(told: Sequence[tuple[Step, float]], stride: float) -> complex | None:
    """The first harmonic over a stride of a limb's angles, degrees; None with too few drawings of it."""
    if len(told) < FEWEST or told[-1][0].clock - told[0][0].clock < 0.75 * stride:
        return None
    turns = 2 * math.pi * np.array([s.clock for s, _ in told]) / stride
    angles = np.array([a for _, a in told])
    columns = np.stack([np.ones_like(turns), np.cos(turns), np.sin(turns)], axis=1)
    _, cosine, sine = np.linalg.lstsq(columns, angles, rcond=None)[0]
    return complex(cosine, -sine)
