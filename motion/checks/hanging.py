"""A ball that floats at its top."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.checks.scene import Scene
from motion.exercises.bounce.explain import Verdict
from motion.exercises.bounce.gravity import hop_height
from motion.exercises.bounce.hang import Hang
from motion.findings import Finding, severity, span, surety


def check(scene: Scene) -> Iterator[Finding]:
    """``spacing.hangs``: too many close drawings, or too long a hold, at the top.

    Measured: frames within a tenth of the top's height. Expected: what the rise and fall below call for under
    constant gravity; of a hop spaced by halves only the holds count. Tolerance: 2 frames, at least 25 %.
    """
    for verdict in scene.verdicts:
        if verdict.hangs is not None:
            yield _finding(scene, verdict, verdict.hangs)


def _finding(scene: Scene, verdict: Verdict, hang: Hang) -> Finding:
    steps = [scene.reading.steps[i] for i in hang.zone]
    first, last = steps[0].frame, steps[-1].last_frame
    allowed = hang.allowed(scene.leniency)
    top = scene.reading.steps[verdict.hop.top]
    longest = max(steps, key=lambda s: (s.frames, s is top))
    away = max(1, round(hang.extra))
    by_hold = hang.held >= hang.extra / 2
    why, advice = _by_hold(longest.drawing, longest.frames, away) if by_hold else _by_drawings(len(steps), away)
    return Finding(
        code="spacing.hangs",
        principle="spacing",
        first_frame=first,
        last_frame=last,
        measured=hang.drawn,
        expected=hang.called_for,
        tolerance=allowed,
        unit="frames",
        severity=severity(hang.extra / allowed),
        confidence=surety(scene.surety(steps), hang.extra / allowed),
        message=f"{span(first, last)}: the ball hangs at the top. It stays there for {hang.drawn:.0f} frames, where "
        f"its rise and fall call for {hang.called_for:.0f}. {why}",
        advice=advice,
        overlay=(overlay.frames(longest.frame, -away),) if by_hold else tuple(_spread(scene, verdict, hang)),
    )


def _spread(scene: Scene, verdict: Verdict, hang: Hang) -> Iterator[overlay.Mark]:
    """Which of the close drawings to take out, and where on the arc the others belong in even time.

    On the square root of its depth below the top a flight moves evenly, so the others are spread on that.
    """
    reading, air = scene.reading, verdict.hop.air
    count = max(1, len(hang.zone) - max(1, round(hang.extra / verdict.hop.usual)))
    beside = hang.zone[0] - 1, hang.zone[-1] + 1
    if not {*beside} <= {*air}:
        return
    kept = {hang.zone[round(k)] for k in np.linspace(0, len(hang.zone) - 1, count)}
    highest = hop_height(reading, verdict.hop)
    (x1, y1), (x2, y2) = reading.points(beside)
    roots = np.linspace(-math.sqrt(max(0.0, 1 - y1 / highest)), math.sqrt(max(0.0, 1 - y2 / highest)), len(kept) + 2)
    across = np.interp(roots, roots[[0, -1]], [x1, x2])
    places = iter(zip(across[1:-1], highest * (1 - roots[1:-1] ** 2), strict=True))
    for index in hang.zone:
        step = reading.steps[index]
        if index in kept:
            yield overlay.place(step, *reading.to_picture(*(float(v) for v in next(places))))
        else:
            yield overlay.frames(step.frame, -step.frames)


def _by_hold(drawing: int, frames: int, away: int) -> tuple[str, str]:
    return (
        f"That comes from a hold: drawing {drawing} stays for {frames} frames.",
        f"Take {_frames(away)} off the hold at the top.",
    )


def _by_drawings(count: int, away: int) -> tuple[str, str]:
    return (
        f"That comes from the spacing: {count} drawings lie close together.",
        f"Take out {_frames(away)} of the close drawings, and spread the others along the top of the arc.",
    )


def _frames(count: int) -> str:
    return f"{count} frame{'s' if count > 1 else ''}"
