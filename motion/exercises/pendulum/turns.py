"""Where a pendulum turns round: its extremes, by drawing and by time, at the clip's ends as well."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.exercises.pendulum.steps import Step

Array = NDArray[np.float64]
LEAST_TURN_DEGREES, LEAST_TURN = 1.2, 0.04
"""It has turned round where it comes back by so many degrees, and by that share of all that it swings over."""
END_TURN_DEGREES, END_TURN = 0.7, 0.012
"""... or by so much, where the clip begins or ends before it could come back farther."""
NEAR_TOP = 0.045
"""Drawings tell when it turns round that are no farther from the extreme than this share of the swing."""
SLOW = 0.6
"""A clip begins or ends at an extreme where its first or last gap is slower than this share of its fastest."""
FEW_GAPS = 5
"""Swings of so few gaps tell nothing by their speed."""
EVEN_STEPS = 0.7
"""Steps are even where the slowest is at least such a share of the fastest."""
FULL, FULL_OF_FEW = 0.9, 0.97
"""... and where it goes so much of the way that the swings next to it make likely; the second where speed tells not."""
NEAR_FRAMES = 0.6
"""A clip tells when it is at its first or last extreme where its drawing lies no more frames away from that."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Extreme:
    """Where it turns round: the step nearest to it, its angle, its time by the clock, and whether it is shown whole.

    One that the clip's beginning or end cuts is not ``whole``: how far it goes is not known. It may be ``cut`` frames
    beyond the clip, and is ``timed`` where that is so little that the clip tells when it is there.
    """

    step: int
    angle: float
    time: float
    whole: bool
    timed: bool = True
    cut: float = 0.0


def turning_points(angles: Array) -> list[int]:
    """Indices at which it turns round, its two ends left out.

    For good it turns where it comes back far enough; beside the clip's ends, where it cannot, less tells it.
    """
    if len(angles) < 3:
        return []
    far = float(np.ptp(angles))
    least, little = max(LEAST_TURN_DEGREES, LEAST_TURN * far), max(END_TURN_DEGREES, END_TURN * far)
    turns, at, way = list[int](), 0, 0
    for i in range(1, len(angles)):
        if way == 0:
            if abs(angles[i] - angles[0]) > least:
                way = 1 if angles[i] > angles[0] else -1
                at = i
            continue
        if way * (angles[i] - angles[at]) > 0:
            at = i
        elif way * (angles[at] - angles[i]) > least:
            turns.append(at)
            at, way = i, -way
    if 0 < at < len(angles) - 1 and way * (angles[at] - angles[-1]) > little:
        turns.append(at)
    first = turns[0] if turns else len(angles) - 1
    before = angles[:first]
    if len(before) > 1:
        # The clip may begin on its way to an extreme that is only a drawing or two away.
        out = int(np.argmax(before) if angles[first] < angles[0] else np.argmin(before))
        if out and abs(before[out] - before[0]) > little:
            turns.insert(0, out)
    return turns


SPIKE_STEPS, SPIKE, SPIKE_OF_USUAL = 2, 0.3, 0.4
"""There and back within so many drawings, over less than such a share of all that it swings over, ..."""


def without_spikes(turns: Sequence[int], angles: Array) -> list[int]:
    """The turns without those of a drawing that sticks out: there and back long before a swing could be over.

    ... and in less than such a share of the drawings from one turn to the next that are usual.
    """
    kept, far = list(turns), float(np.ptp(angles))
    while len(kept) > 2:
        gaps = np.diff(kept)
        short = int(np.argmin(gaps))
        usual = float(np.median(gaps))
        goes = abs(angles[kept[short + 1]] - angles[kept[short]])
        if gaps[short] > min(SPIKE_STEPS, SPIKE_OF_USUAL * usual) or goes >= SPIKE * far:
            break
        del kept[short : short + 2]
    return kept


def extremes_of(steps: Sequence[Step], turns: Sequence[int], rests: bool) -> list[Extreme]:
    if not steps:
        return []
    inner = [_turned(steps, turns, i) for i in range(len(turns))]
    first = _end(steps, inner, [e.angle for e in inner], forwards=True)
    known = [e.angle for e in ([first] if first.whole else []) + inner]
    last = _end(steps, inner, known[::-1], forwards=False)
    if rests:
        # Where it comes to rest is no extreme that it swings back from; how far that swing goes is known all the same.
        last = Extreme(step=len(steps) - 1, angle=steps[-1].angle, time=steps[-1].clock, whole=last.whole, timed=False)
    return [first, *inner, last]


def turns_in(angles: Sequence[float]) -> list[int]:
    """Indices at which angles (degrees) turn round, its two ends left out."""
    told = np.asarray(angles, dtype=np.float64)
    return without_spikes(turning_points(told), told)


def _turned(steps: Sequence[Step], turns: Sequence[int], number: int) -> Extreme:
    """An extreme inside the clip: its angle, and its time, by the drawings next to it."""
    at = turns[number]
    before = turns[number - 1] if number else 0
    after = turns[number + 1] if number + 1 < len(turns) else len(steps) - 1
    return Extreme(step=at, angle=_vertex(steps, at), time=top_time(steps, before, at, after), whole=True)


def top_time(steps: Sequence[Step], before: int, at: int, after: int) -> float:
    """When it turns round: the top of a parabola through the drawings that are nearly as far out, by the clock."""
    far = min(abs(steps[at].angle - steps[i].angle) for i in (before, after)) or 1.0
    near = [i for i in range(before, after + 1) if abs(steps[i].angle - steps[at].angle) <= NEAR_TOP * far]
    near = sorted({*near, max(before, at - 1), at, min(after, at + 1)})
    if len(near) < 3:
        return steps[at].clock
    clocks = np.array([steps[i].clock for i in near]) - steps[at].clock
    bend, slope, _ = np.polyfit(clocks, [steps[i].angle for i in near], 2)
    low, high = clocks[0], clocks[-1]
    return steps[at].clock + float(np.clip(-slope / (2 * bend), low, high)) if bend else steps[at].clock


def _vertex(steps: Sequence[Step], at: int) -> float:
    """The extreme's angle: that of its drawing, or a little more where it lies between two drawings."""
    own = steps[at]
    beside = [steps[j] for j in (at - 1, at + 1) if 0 <= j < len(steps)]
    if len(beside) < 2:
        return own.angle
    gaps = sorted(abs(own.angle - s.angle) for s in beside)
    # Evenly beside an extreme that is drawn the gaps are alike; with one that lies between two drawings one is small.
    more = max(0.0, (gaps[1] - gaps[0]) ** 2 / (8 * (gaps[0] + gaps[1]))) if sum(gaps) else 0.0
    return own.angle + math.copysign(more, own.angle - beside[0].angle)


def _end(steps: Sequence[Step], inner: Sequence[Extreme], near: Sequence[float], *, forwards: bool) -> Extreme:
    """The clip's first or last drawing, and whether it stands at an extreme; ``near`` are those next to it."""
    order = list(steps) if forwards else list(steps[::-1])
    speeds = [abs(b.angle - a.angle) / max(1, abs(b.clock - a.clock)) for a, b in itertools.pairwise(order)]
    fastest, slow = max(speeds, default=0.0), speeds[0] if speeds else 0.0
    index = 0 if forwards else len(steps) - 1
    at_extreme = slow <= SLOW * fastest and _reaches(order[0].angle, near, FULL, dies=not forwards)
    # One in even steps, or of few drawings, is slow nowhere; but one that is cut does not go all of the way.
    few = len(inner) >= 2 and len(steps) <= FEW_GAPS * (len(inner) + 1)
    even = bool(inner) and _even_at(steps, inner[0 if forwards else -1].step, forwards=forwards)
    whole = at_extreme or ((few or even) and _reaches(order[0].angle, near, FULL_OF_FEW, dies=not forwards))
    cut = _from_extreme(order, inner if forwards else inner[::-1])
    return Extreme(
        step=index,
        angle=order[0].angle,
        time=steps[index].clock,
        whole=whole,
        timed=whole and cut <= NEAR_FRAMES,
        cut=cut,
    )


def _even_at(steps: Sequence[Step], turn: int, *, forwards: bool) -> bool:
    """Whether the clip's first or last swing, from or to a turn, goes in even steps."""
    own = steps[: turn + 1] if forwards else steps[turn:]
    speeds = [abs(b.angle - a.angle) / max(1e-6, b.clock - a.clock) for a, b in itertools.pairwise(own)]
    return len(speeds) >= FEW_GAPS and min(speeds) >= EVEN_STEPS * max(speeds)


def _from_extreme(order: Sequence[Step], inner: Sequence[Extreme]) -> float:
    """How many frames the drawing at an end lies from its extreme, by its gap to the next on a sine of that swing."""
    if len(inner) < 2 or len(order) < 2:
        return 0.0
    frames = max(1e-6, abs(inner[1].time - inner[0].time))
    half = abs(inner[1].angle - inner[0].angle) / 2
    turn = math.pi * abs(order[1].clock - order[0].clock) / frames
    gap = abs(order[1].angle - order[0].angle) / max(1e-6, 2 * half * math.sin(min(turn, math.pi) / 2))
    return abs(math.asin(min(1.0, gap)) - turn / 2) * frames / math.pi


def _reaches(angle: float, near: Sequence[float], full: float, *, dies: bool) -> bool:
    """Whether the swing at an end goes as far as the swings next to it make likely."""
    if len(near) < 2:
        return True
    goes, beside = angle - near[0], near[1] - near[0]
    likely = abs(beside)
    if len(near) >= 3:
        further = abs(near[2] - near[1])
        # Towards the end each swing goes less far; one of two at the beginning may be the odd one.
        likely = likely * min(1.0, likely / max(1e-6, further)) if dies else min(likely, further)
    return goes * beside > 0 and abs(goes) >= full * likely
