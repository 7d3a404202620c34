"""Links keep their lengths, and a tail its whole length."""

from __future__ import annotations

import itertools
import math

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.steps import Step
from motion.findings import Finding, span

LENGTH, LENGTH_PX = 0.06, 2.0


def lengths(scene: Scene) -> list[Finding]:
    """A link, or a tail's whole length, off its own middle one, as a share. Tolerance: the larger of 6 % and 2 px."""
    steps = [s for s in scene.reading.steps if len(s.points) > 2 and not s.shape.clipped]
    if len(steps) < 3:
        return []
    tail = scene.asked.hangs == "tail"
    told = np.array([_parts(s, whole=tail) for s in steps if len(s.points) == len(steps[0].points)])
    if len(told) != len(steps):
        return []
    usual = np.median(told, axis=0)
    least = LENGTH_PX * max(1.0, scene.width / 960)
    allowed = np.maximum(LENGTH, least / np.maximum(1e-9, usual)) * scene.leniency
    off = told / usual - 1
    # A slipped pivot is no wrong length.
    slipped = [math.dist(s.top, (scene.reading.pivot.x, scene.reading.pivot.y)) > scene.slip for s in steps]
    off[slipped] = 0.0
    found = []
    for step, own in zip(steps, off, strict=True):
        times = np.abs(own) / allowed
        part = int(times.argmax())
        if times[part] <= 1:
            continue
        what = "tail" if tail else f"link {part + 1}"
        found.append(
            scene.finding(
                "volume.length",
                [step],
                times=float(times[part]),
                measured=float(own[part]),
                expected=0.0,
                tolerance=float(allowed[part]),
                unit="share",
                message=f"{span(step.frame, step.last_frame)}: the {what} of drawing {step.drawing} is "
                f"{100 * abs(own[part]):.0f} % {'longer' if own[part] > 0 else 'shorter'} than in the others.",
                advice=f"Draw it {usual[part]:.0f} px long, as in the other drawings.",
                overlay=(overlay.path(step, step.points if tail else step.points[part : part + 2]),),
                **({} if tail else {"part": what}),
            )
        )
    return scene.merged(found)


def _parts(step: Step, *, whole: bool) -> list[float]:
    """How long each part is, px; one that has come apart from where it itself begins."""
    parts = [math.dist(step.apart.get(k, a), b) for k, (a, b) in enumerate(itertools.pairwise(step.points))]
    return [sum(parts)] if whole else parts
