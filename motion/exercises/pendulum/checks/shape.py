"""The weight keeps its size."""

from __future__ import annotations

import math

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding, span

VOLUME, VOLUME_PX = 0.12, 1.0


def check(scene: Scene) -> list[Finding]:
    """``volume.changes``: the weight grows or shrinks.

    Measured: its area off the middle one of all drawings, as a share. Tolerance: 12 %, where it is off across by
    more than 1 px as well.
    """
    steps = [s for s in scene.reading.steps if not s.shape.clipped and not s.shape.bare]
    if len(steps) < 3:
        return []
    usual = float(np.median([s.shape.area for s in steps]))
    allowed = VOLUME * scene.leniency
    least = VOLUME_PX * max(1.0, scene.width / 960) * scene.leniency
    found = []
    for step in steps:
        off = step.shape.area / usual - 1
        if abs(off) <= allowed or abs(math.sqrt(step.shape.area) - math.sqrt(usual)) <= least:
            continue
        scale = math.sqrt(usual / step.shape.area)
        shape = step.shape
        found.append(
            scene.finding(
                "volume.changes",
                [step],
                times=abs(off) / allowed,
                measured=off,
                expected=0.0,
                tolerance=allowed,
                unit="share",
                message=f"{span(step.frame, step.last_frame)}: the weight of drawing {step.drawing} is "
                f"{100 * abs(off):.0f} % {'larger' if off > 0 else 'smaller'} than in the others.",
                advice=f"Draw it {math.sqrt(usual):.0f} px across, as in the other drawings.",
                overlay=(
                    overlay.ellipse(
                        step.frame, shape.x, shape.y, shape.major * scale, shape.minor * scale, shape.angle
                    ),
                ),
            )
        )
    return scene.merged(found)
