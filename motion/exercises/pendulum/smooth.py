"""Where a drawing would lie between its own neighbours: along the arc by several kinds of good spacing, and off it.

A drawing is asked against the nearest of what its neighbours make likely: a curve through two of them on each side, a
sine of its swing, gravity's own, and halves. So every kind of good spacing passes, and what none explains does not.
One that lies wrong is put in its place before the others are asked again, so that it bends no neighbour.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from motion.exercises.pendulum.reading import Reading, Swing
from motion.exercises.pendulum.steps import Step

JUMP, JUMP_R, JUMP_PX = 0.18, 0.02, 2.0
"""A drawing is off along its arc by more than this share of the local gap, of the line's length, or px."""
OFF_R, OFF_PX = 0.03, 2.0
"""... and off the arc by more than this share of the line's length, or px."""
BESIDE = 3
"""An arc's length is that of so many neighbours on each side."""
MOST_OFF = 12
MIXED = (0.6, 2 / 3, 0.8, 6 / 7)
"""Shares of the way where two gaps of a row of halves, or of even steps, come before one."""
EASED = 0.4
"""Into its rest, the last gap is at most such a share of the way of the last two."""
COARSE, TWICE = 5, 1.5
"""A swing of so few gaps is even by halves; in others the gap before the last two is so many times as wide."""
SAME_SHARE = 0.08
"""Swings are spaced alike where a drawing's share of its way differs by no more from one to the other."""
SAME_WAY = 0.04
"""One goes as the others where each of its drawings but the one asked has gone as much of the whole way, to so much."""
LAST_ALIKE = 0.65
"""By halves the last gap into an extreme is at least such a share of the one before."""
GOES_ON = 1.2
"""A row of halves goes on where the gap after the small one is no more than so many times as wide."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Off:
    """How far a drawing lies from its place: along the arc (px, positive where it is too far along) and off it (px).

    ``angle`` and ``length`` are its place, ``along_allowed`` and ``across_allowed`` the tolerances, px.
    """

    along: float
    across: float
    angle: float
    length: float
    along_allowed: float
    across_allowed: float

    @property
    def along_times(self) -> float:
        return abs(self.along) / self.along_allowed

    @property
    def across_times(self) -> float:
        return abs(self.across) / self.across_allowed


def off_place(reading: Reading, leniency: float, width: int) -> dict[int, Off]:
    """Each drawing, by index, that does not lie where its neighbours lead, gravest first found."""
    steps, found = list(reading.steps), dict[int, Off]()
    for _ in range(MOST_OFF):
        asked = {i: _off(reading, steps, i, leniency, width) for i in range(len(steps)) if i not in found}
        wrong = {i: o for i, o in asked.items() if o is not None and max(o.along_times, o.across_times) > 1}
        if not wrong:
            break
        worst = max(wrong, key=lambda i: max(wrong[i].along_times, wrong[i].across_times))
        found[worst] = wrong[worst]
        own = wrong[worst]
        angle = own.angle if own.along_times > 1 else steps[worst].angle
        length = own.length if own.across_times > 1 else steps[worst].length
        steps[worst] = replace(steps[worst], angle=angle, length=length)
    return found


def _off(reading: Reading, steps: Sequence[Step], index: int, leniency: float, width: int) -> Off | None:
    least = max(1.0, width / 960)
    length = _length_beside(steps, index)
    step = steps[index]
    across_allowed = max(OFF_R * reading.length, OFF_PX * least) * leniency
    along, angle, allowed = 0.0, step.angle, max(JUMP_R * reading.length, JUMP_PX * least) * leniency
    places = _places(reading, steps, index)
    if places:
        gap = _local_gap(steps, index) * math.radians(1) * reading.length
        allowed = max(JUMP * gap, JUMP_R * reading.length, JUMP_PX * least) * leniency
        angle = min(places, key=lambda a: abs(a - step.angle))
        way = steps[min(index + 1, len(steps) - 1)].angle - steps[max(0, index - 1)].angle
        along = math.radians(step.angle - angle) * reading.length * (math.copysign(1.0, way) if way else 1.0)
    across = step.length - length if length is not None else 0.0
    return Off(
        along=along,
        across=across,
        angle=angle,
        length=step.length if length is None else length,
        along_allowed=allowed,
        across_allowed=across_allowed,
    )


def _length_beside(steps: Sequence[Step], index: int) -> float | None:
    """The median length of three neighbours on each side."""
    near = [steps[j].length for j in range(max(0, index - BESIDE), min(len(steps), index + BESIDE + 1)) if j != index]
    return float(np.median(near)) if len(near) >= 2 else None


def _local_gap(steps: Sequence[Step], index: int) -> float:
    """The smaller of the two gaps beside a drawing, degrees."""
    gaps = [abs(steps[index].angle - steps[j].angle) for j in (index - 1, index + 1) if 0 <= j < len(steps)]
    return min(gaps, default=0.0)


def _places(reading: Reading, steps: Sequence[Step], index: int) -> list[float]:
    """Angles at which good spacing may have a drawing; none at the ends, where nothing leads to it, and at rest."""
    resting = len(steps) - reading.resting
    if index in (0, len(steps) - 1) or index >= resting:
        return []
    before, after = steps[index - 1], steps[index + 1]
    if before.angle == after.angle:
        return []
    swing = next((s for s in reading.swings if s.start.step < index < s.end.step), None)
    usual = _usual(reading, steps, swing, index) if swing is not None else None
    if usual is not None:
        return [before.angle + usual * (after.angle - before.angle)]
    shares = (*_halves(reading, steps, index), *_mixed(before, steps[index]))
    places = [before.angle + share * (after.angle - before.angle) for share in shares]
    if index + 1 == resting:
        places.append(_eased(before, steps[index], after))
    places += _curves(steps, index, resting)
    if swing is not None:
        places += _sines(steps, index, swing)
    elif any(e.step == index for e in reading.extremes):
        return _at_extreme(reading, steps, index, places)
    return places


def _halves(reading: Reading, steps: Sequence[Step], index: int) -> list[float]:
    """Shares of the way by halves: the middle, and a gap that is half of the other where the row goes on so."""
    whole = abs(steps[index + 1].angle - steps[index - 1].angle)
    turns = {e.step for e in reading.extremes}
    beyond = [abs(steps[j].angle - steps[j + k].angle) for j, k in ((index - 1, -1), (index + 1, 1))
              if j not in turns and 0 <= j + k < len(steps)]  # fmt: skip
    swing = next((s for s in reading.swings if index in s.steps), None)
    coarse = swing is None or len(swing.steps) - 1 <= COARSE
    # The last two gaps beside an extreme are alike by halves; the one before them is about twice as wide.
    alike = coarse or not turns & {index - 1, index + 1} or max(beyond, default=whole) >= TWICE * whole / 2
    shares = [1 / 2] if alike else []
    if not may_be_halved(reading):
        return shares
    for share, near, far in ((2 / 3, index + 1, index + 2), (1 / 3, index - 1, index - 2)):
        less = whole / 3
        on = abs(steps[far].angle - steps[near].angle) if 0 <= far < len(steps) else 0.0
        if near in turns or on <= GOES_ON * less:
            shares.append(share)
    return shares


def _usual(reading: Reading, steps: Sequence[Step], own: Swing, index: int) -> float | None:
    """By halves: the share of its way at which two or more other swings agree that the drawing lies.

    Then no other row excuses it. A swing that goes otherwise from end to end has another fault, and no such drawing.
    """
    if (last_gaps(reading) or 0.0) < LAST_ALIKE:
        return None
    others = _as_elsewhere(reading, own, index)
    if len(others) < 2 or max(others) - min(others) > SAME_SHARE:
        return None
    return float(np.median(others)) if _goes_as_others(reading, steps, own, index) else None


def _goes_as_others(reading: Reading, steps: Sequence[Step], own: Swing, index: int) -> bool:
    """Whether all other drawings of a swing lie, from its start to its end, where those of the other swings lie."""
    alike = [s for s in reading.swings if s.whole and s.number != own.number and len(s.steps) == len(own.steps)]
    usual = np.median([_way_gone(reading.steps, swing) for swing in alike], axis=0)
    off = np.abs(_way_gone(steps, own) - usual)
    off[index - own.steps[0]] = 0
    return bool(off.max() <= SAME_WAY)


def _way_gone(steps: Sequence[Step], swing: Swing) -> NDArray[np.float64]:
    """(n,) which share of the way from a swing's first drawing to its last each of its drawings has gone."""
    angles = np.array([steps[i].angle for i in swing.steps])
    return np.asarray((angles - angles[0]) / (angles[-1] - angles[0] or 1.0))


def _as_elsewhere(reading: Reading, own: Swing, index: int) -> list[float]:
    """Shares of the way at which the drawing of the same number lies in other swings of as many drawings."""
    steps, number, found = reading.steps, index - own.steps[0], list[float]()
    if not 0 < number < len(own.steps) - 1:
        return found
    for swing in reading.swings:
        if swing.number == own.number or not swing.whole or len(swing.steps) != len(own.steps):
            continue
        before, at, after = (steps[swing.steps[0] + number + k].angle for k in (-1, 0, 1))
        if before != after:
            found.append((at - before) / (after - before))
    return found


def may_be_halved(reading: Reading) -> bool:
    """Whether the clip may be spaced by halves, as far as can be told."""
    last = last_gaps(reading)
    return last is None or last >= LAST_ALIKE


@lru_cache(maxsize=8)
def last_gaps(reading: Reading) -> float | None:
    """The last gap into an extreme over the one before it, usually: alike by halves.

    By gravity and by a sine it is a third, or half of it. Drawings exposed unalike do not tell: None.
    """
    steps, ratios = reading.steps, list[float]()
    for extreme in reading.extremes:
        for way in (-1, 1):
            last, before = extreme.step + way, extreme.step + 2 * way
            if not 0 <= before < len(steps) or not 0 <= last < len(steps):
                continue
            if len({steps[i].frames for i in (last, before)}) > 1:
                return None
            gaps = [abs(steps[a].angle - steps[b].angle) for a, b in ((extreme.step, last), (last, before))]
            ratios.append(gaps[0] / max(1e-6, gaps[1]))
    return float(np.median(ratios)) if ratios else None


def _mixed(before: Step, own: Step) -> tuple[float, ...]:
    """By halves, where one of two drawings shows for twice as long: an in-between is left out, and time passes."""
    if before.frames == 2 * own.frames:
        return MIXED
    return tuple(1 - share for share in MIXED) if own.frames == 2 * before.frames else ()


def _eased(before: Step, own: Step, rest: Step) -> float:
    """Into its rest a drawing may be anywhere on the last part of the way."""
    way = rest.angle - before.angle
    share = (own.angle - before.angle) / way
    return own.angle if 1 - EASED <= share <= 1 else before.angle + (1 - EASED) * way


def _curves(steps: Sequence[Step], index: int, end: int) -> list[float]:
    """Smooth curves in time through two neighbours on each side, and through three on one."""
    found = []
    for offsets in ((-2, -1, 1, 2), (-1, 1, 2), (-2, -1, 1)):
        near = [index + o for o in offsets]
        if near[0] < 0 or near[-1] >= end:
            continue
        clocks = [steps[j].clock - steps[index].clock for j in near]
        if len(set(clocks)) < len(near):
            continue
        values = [steps[j].angle for j in near]
        found.append(_through(clocks, values))
    return found


def _through(clocks: Sequence[float], values: Sequence[float]) -> float:
    """What the polynomial through values at different times is worth at time nought (Lagrange's form)."""
    return math.fsum(
        value * math.prod(other / (other - own) for j, other in enumerate(clocks) if j != i)
        for i, (own, value) in enumerate(zip(clocks, values, strict=True))
    )


def _sines(steps: Sequence[Step], index: int, swing: Swing) -> list[float]:
    """A sine from extreme to extreme, at the time that the neighbours on the same sine would give the drawing."""
    half = (swing.end.angle - swing.start.angle) / 2
    if abs(half) < 1e-6:
        return []
    phases = [_phase(steps[j].angle, swing.middle, half) for j in (index - 1, index + 1)]
    share = (steps[index].clock - steps[index - 1].clock) / max(1e-6, steps[index + 1].clock - steps[index - 1].clock)
    phase = phases[0] + share * (phases[1] - phases[0])
    return [swing.middle - half * math.cos(phase)]


def _phase(angle: float, middle: float, half: float) -> float:
    return math.acos(max(-1.0, min(1.0, -(angle - middle) / half)))


def _at_extreme(reading: Reading, steps: Sequence[Step], index: int, places: list[float]) -> list[float]:
    """A drawing at an extreme may stand anywhere from its farther neighbour on to where its swing could turn round.

    It slows into the extreme and gathers speed out of it, so that neither gap beside it is wider than the one beyond.
    """
    own = steps[index]
    outward = math.copysign(1.0, own.angle - reading.middle)
    near = max(steps[index - 1].angle * outward, steps[index + 1].angle * outward)
    limits = []
    for beside, beyond in ((index - 1, index - 2), (index + 1, index + 2)):
        if 0 <= beyond < len(steps):
            speed = abs(steps[beside].angle - steps[beyond].angle) / max(1e-6, abs(_apart(steps, beside, beyond)))
            limits.append(steps[beside].angle * outward + speed * abs(_apart(steps, index, beside)))
    reach = max(near, min(limits, default=near))
    if near <= own.angle * outward <= reach:
        return [own.angle]
    return [outward * near, outward * reach, *places]


def _apart(steps: Sequence[Step], one: int, other: int) -> float:
    """Frames from one drawing to another, by the clock."""
    return steps[other].clock - steps[one].clock
