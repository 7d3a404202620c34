"""Squash and stretch: flatter on contact, longer along a fast path, and never more or less stuff."""

from __future__ import annotations

import math

import numpy as np

from motion.checks import overlay
from motion.exercises.bounce.checks import deforming
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety
from motion.ranks import median
from motion.tracking.ellipse import axis_angle

VOLUME, VOLUME_PX = 0.12, 1.6
FLAT = 0.88
AIRBORNE_D = 0.12
ALONG_DEGREES = 18.0


def check(scene: Scene) -> list[Finding]:
    """Every squash and stretch finding of a bounce."""
    flat = squash_in_air(scene)
    told = [i for i, s in enumerate(scene.reading.steps) if any(f.first_frame <= s.frame <= f.last_frame for f in flat)]
    return [*volume_changes(scene), *flat, *deforming.check(scene, told)]


def volume_changes(scene: Scene) -> list[Finding]:
    """``volume.changes``: the ball grows or shrinks.

    Measured: major times minor axis over the clip's middle value of it. Tolerance: 12 % either way, and 1.6 px of the
    diameter, which in a small ball is no more than a pen's width tells.
    """
    steps = [s for s in scene.reading.steps if s.whole]
    if not steps:
        return []
    usual = median(np.array([s.shape.area for s in steps]))
    allowed, px = VOLUME * scene.leniency, scene.px(0.0, VOLUME_PX)
    found = []
    for step in steps:
        share = step.shape.area / usual
        if abs(share - 1) <= allowed or abs(math.sqrt(step.shape.area) - math.sqrt(usual)) <= px:
            continue
        times = abs(share - 1) / allowed
        percent = abs(share - 1) * 100
        word, mend = ("larger", "smaller") if share > 1 else ("smaller", "larger")
        size = math.sqrt(usual)
        ratio = math.sqrt(step.shape.stretch)
        found.append(
            Finding(
                code="volume.changes",
                principle="squash_stretch",
                first_frame=step.frame,
                last_frame=step.last_frame,
                measured=share,
                expected=1.0,
                tolerance=allowed,
                unit="share",
                severity=severity(times),
                confidence=surety(scene.surety([step]), times),
                message=f"{span(step.frame, step.last_frame)}: the ball is {percent:.0f} % {word} than in the other "
                "drawings.",
                advice=f"Draw it {mend} here: as much ball as everywhere else, whatever its shape.",
                overlay=(overlay.ellipse(step.frame, step.x, step.y, size * ratio, size / ratio, step.shape.angle),),
            )
        )
    return scene.merged(found)


def squash_in_air(scene: Scene) -> list[Finding]:
    """``squash.in_air``: flattened before it touches or after it has left the ground.

    Measured: height over width of a drawing whose bottom is more than 0.12 D above the ground and whose long axis
    lies more than 18° off the path. Tolerance: 0.88. A ball rightly stretched along a flat path is not squashed, and
    of a soft one at its top it is told that it is not round there.
    """
    steps = scene.reading.steps
    elsewhere = {i for c in scene.reading.contacts for i in c.steps} | deforming.slow_tops(scene).keys()
    limit = 1 - (1 - FLAT) * scene.leniency
    found = []
    for index, step in enumerate(steps):
        flatness = step.shape.height / step.shape.width
        airborne = step.clearance > AIRBORNE_D * scene.reading.diameter * scene.leniency
        if flatness >= limit or not airborne or not step.whole or index in elsewhere:
            continue
        if _off_path(scene, index) <= ALONG_DEGREES * scene.leniency or deforming.leans(scene, index):
            continue
        times = (1 - flatness) / (1 - limit)
        found.append(
            Finding(
                code="squash.in_air",
                principle="squash_stretch",
                first_frame=step.frame,
                last_frame=step.last_frame,
                measured=flatness,
                expected=1.0,
                tolerance=1 - limit,
                unit="height/width",
                severity=severity(times),
                confidence=surety(scene.surety([step]), times),
                message=f"{span(step.frame, step.last_frame)}: the ball is flattened in the air, "
                f"{step.clearance:.0f} px above the ground. Nothing presses on it there.",
                advice="Draw it round, or long along its path; keep the flat shape for the contact.",
                overlay=(deforming.natural(scene, index),),
            )
        )
    return scene.merged(found)


def _off_path(scene: Scene, index: int) -> float:
    """Degrees between a drawing's long axis and the way it moves."""
    steps = scene.reading.steps
    before, after = steps[max(0, index - 1)], steps[min(len(steps) - 1, index + 1)]
    dx, dy = after.x - before.x, after.y - before.y
    if math.hypot(dx, dy) < 1.0:
        return 90.0
    return abs(axis_angle(steps[index].shape.angle - math.degrees(math.atan2(-dy, dx))))
