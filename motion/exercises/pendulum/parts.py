"""What hangs, told part by part: each part's angle over the clip, and by how much it comes after the one above.

A chain's parts are its links; a tail's are four of equal length, each told by its chord.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.pendulum.reading import Reading
from motion.exercises.pendulum.steps import Step
from motion.exercises.pendulum.turns import top_time, turns_in

TAIL_PARTS = 4
FEWEST = 2
"""By so many extremes at least a part's drag is told."""
STILL_DEGREES, STILL_PX, MOST_STILL_DEGREES = 1.0, 2.0, 3.0
LATEST = 0.5
"""An extreme belongs to one of the part above that lies no more than such a share of a swing away."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Drag:
    """By how many frames a part, counted from 1, comes after the one above: the mean over the extremes of both."""

    part: int
    frames: float


def angles_of(steps: Sequence[Step], *, tail: bool) -> list[list[float]]:
    """Each part's angles from straight down (degrees, to the right), one a drawing; none where it has no parts."""
    if not steps or any(len(s.points) != len(steps[0].points) for s in steps) or len(steps[0].points) < 3:
        return []
    rows = []
    for step in steps:
        points = step.points[:: (len(step.points) - 1) // TAIL_PARTS] if tail else step.points
        ways = [(b[0] - a[0], b[1] - a[1]) for a, b in itertools.pairwise(points)]
        rows.append([math.degrees(math.atan2(dx, dy)) for dx, dy in ways])
    unwrapped = np.degrees(np.unwrap(np.radians(rows), axis=0))
    return [[float(v) for v in column] for column in unwrapped.T]


def drags(reading: Reading, *, tail: bool, cycle: bool = False, share: float = 1.0) -> list[Drag]:
    """By how much each part but the first comes after the one above, where enough extremes tell.

    A ``cycle`` is read twice over, so that what turns round at its seam tells as well. Extremes of the part above after
    a ``share`` of the time in which it moves do not count.
    """
    moving = list(reading.steps[: len(reading.steps) - reading.resting])
    counts_until = moving[0].clock + share * (moving[-1].clock - moving[0].clock) if moving else 0.0
    if cycle and moving:
        period = moving[-1].clock + moving[-1].frames - moving[0].clock
        moving += [replace(s, clock=s.clock + period) for s in moving]
    rows = angles_of(moving, tail=tail)
    times = [_extremes([replace(s, angle=a) for s, a in zip(moving, row, strict=True)]) for row in rows]
    swing = float(np.median([s.frames for s in reading.swings])) if reading.swings else 0.0
    found = []
    for part, (above, own) in enumerate(itertools.pairwise(times), start=2):
        late = []
        for time, way in above:
            if share < 1 and time > counts_until:
                continue
            near = [t - time for t, w in own if w == way and abs(t - time) <= LATEST * swing]
            if near:
                late.append(min(near, key=abs))
        if len(late) >= FEWEST:
            found.append(Drag(part=part, frames=float(np.mean(late))))
    return found


def turns_of(reading: Reading, row: Sequence[float]) -> list[int]:
    """The indices of the drawings in which a part turns round, by its angles; where all lies still it turns no more."""
    moving = len(reading.steps) - reading.resting
    return turns_in(row[:moving])


def at_rest(reading: Reading, *, tail: bool) -> list[float]:
    """When each part comes to where it stays in the end, to 1 degree or 2 px, by frames; none where it has no parts.

    Between the last drawing that is farther off and the next it is told by how far off both are.
    """
    steps, found = reading.steps, list[float]()
    rows = angles_of(steps, tail=tail)
    near = max((_near(steps[-1], part, tail=tail) for part in range(len(rows))), default=STILL_DEGREES)
    for row in rows:
        off = [abs(angle - row[-1]) for angle in row]
        moves = [k for k, far in enumerate(off) if far > near]
        found.append(_comes_near(steps, off, moves[-1], near) if moves else float(steps[0].frame))
    return found


def _near(step: Step, part: int, *, tail: bool) -> float:
    """Within how many degrees a part lies still; the same for all, so that those that move as one rest as one."""
    each = (len(step.points) - 1) // TAIL_PARTS if tail else 1
    long = math.dist(step.points[part * each], step.points[(part + 1) * each])
    return min(MOST_STILL_DEGREES, max(STILL_DEGREES, math.degrees(STILL_PX / max(1.0, long))))


def _comes_near(steps: Sequence[Step], off: Sequence[float], last: int, near: float) -> float:
    """When it comes near, after the last drawing in which it is farther off."""
    before, after = steps[last].frame, steps[last + 1].frame
    return before + (after - before) * (off[last] - near) / (off[last] - off[last + 1])


def _extremes(steps: Sequence[Step]) -> list[tuple[float, int]]:
    """When a part turns round, by the clock, and to which side: 1 to the right, -1 to the left."""
    turns = turns_in([s.angle for s in steps])
    found = []
    for k, at in enumerate(turns):
        before, after = turns[k - 1] if k else 0, turns[k + 1] if k + 1 < len(turns) else len(steps) - 1
        way = 1 if steps[at].angle > (steps[before].angle + steps[after].angle) / 2 else -1
        found.append((top_time(steps, before, at, after), way))
    return found
