"""A track told as steps: each drawing in playing order, its angle, and which of them are held or lie still."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from motion.track import Pivot, Shape, Track

CALLED_FOR = 0.75
"""A drawing waits whose gap to the next is less than this share of what its time calls for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """A drawing in playing order: its exposure, its angle from the rest line (degrees, to the right), and its length.

    ``top`` is where its line's upper end is drawn, ``points`` those of its line from there to the end, ``apart`` where
    what hangs at some of them begins, if not there; ``clock`` its first frame without the frames by which extremes are
    held longer.
    """

    drawing: int
    frame: int
    frames: int
    clock: float
    angle: float
    length: float
    top: tuple[float, float]
    shape: Shape
    points: tuple[tuple[float, float], ...] = ()
    apart: Mapping[int, tuple[float, float]] = field(default_factory=dict)

    @property
    def last_frame(self) -> int:
        return self.frame + self.frames - 1

    @property
    def x(self) -> float:
        return self.shape.x

    @property
    def y(self) -> float:
        return self.shape.y


def steps_of(track: Track, pivot: Pivot, rest_angle: float) -> list[Step]:
    lines, found = track.lines("line"), list[Step]()
    for exposure in track.exposures:
        shape = track.shape_of(exposure.drawing)
        if shape is None:
            continue
        dx, dy = shape.x - pivot.x, shape.y - pivot.y
        line = lines[exposure.drawing - 1] if lines else None
        found.append(
            Step(
                drawing=exposure.drawing,
                frame=exposure.first_frame,
                frames=exposure.frames,
                clock=float(exposure.first_frame),
                angle=math.degrees(math.atan2(dx, dy)) - rest_angle,
                length=math.hypot(dx, dy),
                top=line.points[0] if line else (pivot.x, pivot.y),
                shape=shape,
                points=line.points if line else (),
                apart=line.apart if line else {},
            )
        )
    return found


def usual_of(steps: Sequence[Step]) -> int:
    """For how many frames most drawings show."""
    counts = np.bincount([s.frames for s in steps])
    return int(np.argmax(counts))


STILL_DEGREES, STILL_PX = 0.4, 1.2
LONG_REST = 2
"""So many frames more than usual the last drawing stays where the pendulum has come to rest."""
LONG_REST_OF_MANY = 6
UNSTEADY_DEGREES, UNSTEADY_REST, NEAR_REST = 0.8, 8, 0.15
"""A rest of many drawings by an unsteady hand: so far about their middle, and for so many frames.

Their middle lies near the rest line, at no more than such a share of how far it swings.
"""


def resting_of(steps: Sequence[Step], usual: int) -> int:
    """How many of the last steps lie still; the first of them is the one at which it has come to rest."""
    last = steps[-1]
    still = max(STILL_DEGREES, math.degrees(STILL_PX / last.length))
    count = 1
    while count < len(steps) and abs(steps[-1 - count].angle - last.angle) <= still:
        count += 1
    # Several drawings that are nearly alike may be those about an extreme; those at rest go on for longer.
    if _frames_of(steps, count) >= (usual + LONG_REST if count == 1 else max(LONG_REST_OF_MANY, usual + LONG_REST)):
        return count
    count = 1
    while count < len(steps) and _unsteady([s.angle for s in steps[-1 - count :]]):
        count += 1
    reach = max(abs(s.angle) for s in steps)
    if abs(float(np.median([s.angle for s in steps[-count:]]))) > NEAR_REST * reach:
        # So slow it is at an extreme, too.
        return 0
    return count if _frames_of(steps, count) >= max(UNSTEADY_REST, 2 * (usual + LONG_REST)) else 0


def _frames_of(steps: Sequence[Step], count: int) -> int:
    return steps[-1].last_frame - steps[-count].frame + 1


def _unsteady(angles: Sequence[float]) -> bool:
    """Whether angles lie about one place, as the drawings of a hand that means the same place do."""
    middle = float(np.median(angles))
    return max(abs(a - middle) for a in angles) <= UNSTEADY_DEGREES


def clocked(steps: Sequence[Step], turns: Sequence[int], usual: int) -> list[Step]:
    """The steps by a clock that leaves out the frames by which drawings are held longer than their motion needs."""
    held, found = 0.0, list[Step]()
    # An unsteady hand may let the drawing beside the one that is held reach a little farther.
    at = {0} | {t + k for t in turns for k in (-1, 0, 1)}
    for i, step in enumerate(steps):
        found.append(replace(step, clock=step.frame - held))
        if i + 1 < len(steps):
            if i in at:
                beside = [steps[j].frames for j in (i - 1, i + 1) if 0 <= j < len(steps)]
                held += max(0, step.frames - max(usual, *beside))
            elif waits(steps, i, usual):
                held += held_for(steps, i, usual)
    return found


def held_for(steps: Sequence[Step], index: int, usual: int) -> int:
    """By how many frames a drawing shows longer than its neighbours, and than most."""
    beside = [steps[j].frames for j in (index - 1, index + 1) if 0 <= j < len(steps)]
    return max(0, steps[index].frames - max(usual, min(beside, default=usual)))


def waits(steps: Sequence[Step], index: int, usual: int) -> bool:
    """Whether a drawing shows longer than its way to the next, at the speed of the drawings beside it, calls for."""
    if not 0 < index < len(steps) - 1 or held_for(steps, index, usual) <= 0:
        return False
    speeds = [
        abs(steps[j + 1].angle - steps[j].angle) / steps[j].frames
        for j in (index - 1, index + 1)
        if 0 <= j < len(steps) - 1
    ]
    gap = abs(steps[index + 1].angle - steps[index].angle)
    return gap < CALLED_FOR * steps[index].frames * min(s for s in speeds)
