"""Where what hangs in parts belongs, drawing by drawing, once its later parts come later."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from motion.checks import overlay
from motion.exercises.pendulum.parts import TAIL_PARTS, angles_of
from motion.exercises.pendulum.plan import Place, place
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.steps import Step

Floats = NDArray[np.float64]
Later = Callable[[int, float], float]
"""By how many frames a part, counted from 0, comes later than it does, on a frame."""


def marks(scene: Scene, later: Later, more: Sequence[int] = ()) -> tuple[overlay.Mark, ...]:
    """How each drawing hangs then; ``more`` are frames within and after the last one, on which it goes on moving.

    A part's angle is its own of some frames before, so that it swings as far as it did; before the clip begins it waits
    as it hangs first, in a cycle it goes as at its end.
    """
    tail = scene.asked.hangs == "tail"
    steps = list(scene.reading.steps)
    rows = angles_of(steps, tail=tail)
    if not rows or len(steps) < 2:
        return ()
    frames = np.array([s.frame for s in steps], dtype=np.float64)
    last = steps[-1]
    period = float(last.frame + last.frames - steps[0].frame) if scene.brief.loop else None
    courses = [_course(frames, np.array(row), period) for row in rows]
    found = []
    for frame, step, index in _shown(steps, more):
        turned = [
            course(frame - later(part, frame)) - row[index]
            for part, (course, row) in enumerate(zip(courses, rows, strict=True))
        ]
        found.append(overlay.hung(frame, _hung(step.points, turned, tail=tail)))
    return tuple(found)


def _shown(steps: Sequence[Step], more: Sequence[int]) -> list[tuple[int, Step, int]]:
    """Frame, drawing and index of each drawing in playing order, and of the last one on further frames."""
    own = [(s.frame, s, i) for i, s in enumerate(steps)]
    last = len(steps) - 1
    return own + [(frame, steps[last], last) for frame in more if frame > steps[last].frame]


def _course(frames: Floats, angles: Floats, period: float | None) -> Callable[[float], float]:
    """An angle by time, between drawings as smooth as they are; before the first and after the last it stays."""
    if period is not None:
        rounds = [frames + k * period for k in (-1, 0, 1)]
        curve = PchipInterpolator(np.concatenate(rounds), np.tile(angles, 3))
        return lambda time: float(curve(frames[0] + (time - frames[0]) % period))
    curve = PchipInterpolator(frames, angles)
    return lambda time: float(curve(min(max(time, frames[0]), frames[-1])))


def _hung(points: Sequence[Place], turned: Sequence[float], *, tail: bool) -> list[Place]:
    """The line with each part turned by so many degrees; a tail bends evenly in between."""
    count = len(points) - 1
    if tail:
        middles = np.clip(TAIL_PARTS * (np.arange(count) + 0.5) / count - 0.5, 0, TAIL_PARTS - 1)
        turned = [float(v) for v in np.interp(middles, np.arange(TAIL_PARTS), turned)]
    found = [points[0]]
    for (ax, ay), (bx, by), turn in zip(points, points[1:], turned, strict=False):
        at = math.degrees(math.atan2(bx - ax, by - ay)) + turn
        found.append(place(found[-1], math.hypot(bx - ax, by - ay), at))
    return found
