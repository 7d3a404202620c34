"""The line hangs from its pivot."""

from __future__ import annotations

import math

from motion.checks import overlay
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding, span

SLIPS_R, SLIPS_PX = 0.02, 2.0


def check(scene: Scene) -> list[Finding]:
    """``contact.pivot``: it slips off its hook.

    Measured: how far the upper end of the line is from the pivot, px. Tolerance: the larger of 0.02 of the line's
    length and 2 px.
    """
    pivot, allowed = scene.reading.pivot, scene.px(SLIPS_R, SLIPS_PX)
    found = []
    for step in scene.reading.steps:
        off = math.hypot(step.top[0] - pivot.x, step.top[1] - pivot.y)
        if off <= allowed:
            continue
        found.append(
            scene.finding(
                "contact.pivot",
                [step],
                times=off / allowed,
                measured=off,
                expected=0.0,
                tolerance=allowed,
                unit="px",
                message=f"{span(step.frame, step.last_frame)}: the line slips off its hook; its upper end is "
                f"{off:.0f} px away from where it hangs in the others.",
                advice=f"Move the line of drawing {step.drawing} so that it begins at the pivot.",
                overlay=(overlay.gap(step, step.top[0], step.top[1], pivot.x, pivot.y),),
            )
        )
    return scene.merged(found)
