"""The line hangs from its pivot, and each link from the one above."""

from __future__ import annotations

import math

from motion.checks import overlay
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding, span


def check(scene: Scene) -> list[Finding]:
    """Every contact finding."""
    return [*pivot(scene), *joint(scene)]


def pivot(scene: Scene) -> list[Finding]:
    """``contact.pivot``: it slips off its hook.

    Measured: how far the upper end of the line is from the pivot, px. Tolerance: the larger of 0.02 of the line's
    length and 2 px.
    """
    hook, allowed = scene.reading.pivot, scene.slip
    what = {"bob": "the line", "chain": "the chain", "tail": "it"}[scene.asked.hangs]
    hangs_from = "its hook" if scene.carry is None else "what carries it"
    found = []
    for step in scene.reading.steps:
        off = math.hypot(step.top[0] - hook.x, step.top[1] - hook.y)
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
                message=f"{span(step.frame, step.last_frame)}: {what} slips off {hangs_from}; its upper end is "
                f"{off:.0f} px away from where it hangs in the others.",
                advice=f"Move the line of drawing {step.drawing} so that it begins at the pivot.",
                overlay=(overlay.gap(step, step.top[0], step.top[1], hook.x, hook.y),),
            )
        )
    return scene.merged(found)


def joint(scene: Scene) -> list[Finding]:
    """``contact.joint``: a link comes apart from the one above.

    Measured: how far the ends of two links that hang together are apart, px; what round ends hide is not seen.
    Tolerance: the larger of 0.02 of the length from the pivot to the end and 2 px.
    """
    allowed = scene.slip
    found = []
    for step in scene.reading.steps:
        for number, begins in sorted(step.apart.items()):
            off = math.dist(step.points[number], begins)
            if off <= allowed:
                continue
            moved = step.points[number][0] - begins[0], step.points[number][1] - begins[1]
            below = [(x + moved[0], y + moved[1]) for x, y in step.points[number + 1 :]]
            found.append(
                scene.finding(
                    "contact.joint",
                    [step],
                    times=off / allowed,
                    measured=off,
                    expected=0.0,
                    tolerance=allowed,
                    unit="px",
                    message=f"{span(step.frame, step.last_frame)}: link {number + 1} of drawing {step.drawing} comes "
                    f"apart from the one above; their ends are {off:.0f} px apart.",
                    advice=f"Move link {number + 1}, with what hangs from it, to where link {number} ends.",
                    overlay=(
                        overlay.gap(step, *step.points[number], *begins),
                        overlay.hung(step.frame, [*step.points[: number + 1], *below]),
                    ),
                    part=f"link {number + 1}",
                )
            )
    return scene.merged(found)
