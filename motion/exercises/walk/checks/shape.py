"""Squash and stretch of a walk: a body that keeps its size, limbs that keep their length, knees that bend one way."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.walk.checks import mend
from motion.exercises.walk.figure import SIDES, bend_of
from motion.exercises.walk.scene import Scene
from motion.findings import Finding, span

VOLUME = 0.12
BACKWARDS = 8.0


def check(scene: Scene) -> list[Finding]:
    """Every finding on shapes."""
    return [*scene.merged(list(volume(scene))), *scene.merged(list(length(scene))), *scene.merged(list(bends(scene)))]


def volume(scene: Scene) -> Iterator[Finding]:
    """``volume.changes``: the body grows or shrinks.

    Measured: its area beside the middle of all drawings, as a share of it. Tolerance: 12 %. A body cut by the edge of
    the frame is not judged.
    """
    seen = [s for s in scene.reading.steps if s.body is not None and not s.body.clipped]
    if len(seen) < 3:
        return
    usual = float(np.median([s.body.area for s in seen if s.body]))
    allowed = VOLUME * scene.leniency
    for step in seen:
        share = step.body.area / usual - 1 if step.body else 0.0
        if abs(share) <= allowed or step.body is None:
            continue
        scale = (usual / step.body.area) ** 0.5
        yield scene.finding(
            "volume.changes",
            [step],
            times=abs(share) / allowed,
            measured=share,
            expected=0.0,
            tolerance=allowed,
            unit="share",
            message=f"{span(step.frame, step.last_frame)}: the body of drawing {step.drawing} is "
            f"{100 * abs(share):.0f} % {'larger' if share > 0 else 'smaller'} than in the other drawings.",
            advice=f"Draw the body of drawing {step.drawing} as large as in the others.",
            overlay=(
                overlay.ellipse(
                    step.frame,
                    step.body.x,
                    step.body.y,
                    step.body.major * scale,
                    step.body.minor * scale,
                    step.body.angle,
                ),
            ),
        )


def length(scene: Scene) -> Iterator[Finding]:
    """``volume.length``: a limb grows or shrinks.

    Measured: thigh or shin beside its own median, as a share of it, where it shows whole. Tolerance: the larger of 8 %
    and 2 px.
    """
    for (side, index), off in sorted(scene.limbs_off.items(), key=lambda one: (one[0][1], one[0][0])):
        if index in scene.reading.swapped:
            continue
        step = scene.reading.steps[index]
        share = off.length / off.usual - 1
        allowed = abs(share) / off.times
        yield scene.finding(
            "volume.length",
            [step],
            times=off.times,
            measured=share,
            expected=0.0,
            tolerance=allowed,
            unit="share",
            part=f"{side} {off.name}",
            message=f"{span(step.frame, step.last_frame)}: the {side} {off.name} of drawing {step.drawing} is "
            f"{100 * abs(share):.0f} % {'longer' if share > 0 else 'shorter'} than in the other drawings.",
            advice=f"Draw the {side} {off.name} {off.usual:.0f} px long; here it has {off.length:.0f} px.",
            overlay=mend.leg(scene, step, side),
        )


def bends(scene: Scene) -> Iterator[Finding]:
    """``form.backwards``: a knee bends the wrong way.

    Measured: by how many degrees it bends backwards. Tolerance: 8 degrees.
    """
    allowed = BACKWARDS * scene.leniency
    for step in scene.reading.steps:
        for side in SIDES:
            hip, knee, ankle = (step.at(n) for n in ("hip", f"knee_{side}", f"ankle_{side}"))
            if not (hip and knee and ankle):
                continue
            back = -bend_of(hip, knee, ankle, scene.reading.facing)
            if back <= allowed:
                continue
            yield scene.finding(
                "form.backwards",
                [step],
                times=back / allowed,
                measured=back,
                expected=0.0,
                tolerance=allowed,
                unit="degrees",
                part=f"{side} knee",
                message=f"{span(step.frame, step.last_frame)}: the {side} knee of drawing {step.drawing} bends "
                f"backwards by {back:.0f}°.",
                advice=f"Turn the {side} knee forward in drawing {step.drawing}: knees bend the way the figure walks.",
                overlay=(overlay.point(step, *knee), *mend.leg(scene, step, side)),
            )
