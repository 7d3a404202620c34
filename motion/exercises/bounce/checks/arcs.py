"""Arcs: the shape of the path, whatever the time."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from motion.checks import overlay
from motion.exercises.bounce.checks import arc_shape
from motion.exercises.bounce.checks.spacing import stands_out
from motion.exercises.bounce.gravity import hop_height
from motion.exercises.bounce.keeping import has_top
from motion.exercises.bounce.scene import Scene
from motion.exercises.bounce.smooth import Misfit
from motion.findings import Finding, severity, span, surety

TOPS = 0.1


def check(scene: Scene) -> list[Finding]:
    """Every arc finding of a bounce; bounces in place have no arcs."""
    if scene.reading.in_place:
        return []
    found = [
        off_path(scene, index, misfit)
        for verdict in scene.verdicts
        for index, misfit in verdict.off.items()
        if misfit.arc_ratio > 1 and stands_out(misfit.across, misfit.along)
    ]
    return [*found, *rising_tops(scene), *arc_shape.check(scene)]


def rising_tops(scene: Scene) -> Iterator[Finding]:
    """``arc.rising_tops``: a later top stands higher than the one before.

    Measured: by how much, px. Tolerance: 0.1 D. A first hop that begins in full flight has no top to compare with.
    """
    allowed = TOPS * scene.reading.diameter * scene.leniency
    hops = scene.reading.hops
    for one, other in itertools.pairwise(hops):
        if one.end is None or one.end is not other.start or not all(has_top(scene.reading, h) for h in (one, other)):
            continue
        before, after = (scene.reading.steps[h.top] for h in (one, other))
        off = min(after.height, hop_height(scene.reading, other)) - max(before.height, hop_height(scene.reading, one))
        if off <= allowed or any(h.top in v.off for h in (one, other) for v in scene.verdicts):
            continue
        yield Finding(
            code="arc.rising_tops",
            principle="arcs",
            first_frame=after.frame,
            last_frame=after.last_frame,
            measured=off,
            expected=0.0,
            tolerance=allowed,
            unit="px",
            severity=severity(off / allowed),
            confidence=surety(scene.surety([before, after]), off / allowed),
            message=f"{span(after.frame, after.last_frame)}: this top stands {off:.0f} px higher than the one before. "
            "A ball loses height at each contact.",
            advice=f"Lower this arc until its top is below the one on frame {before.frame}.",
            overlay=(overlay.place(after, after.x, after.y + off + allowed),),
        )


def off_path(scene: Scene, index: int, misfit: Misfit) -> Finding:
    """``arc.off_path``: a drawing lies beside the path its neighbours make.

    Measured: its distance across that path, px. Tolerance: 0.07 D, at least 2 px.
    """
    step = scene.reading.steps[index]
    x, y = scene.reading.to_picture(float(misfit.place[0]), float(misfit.place[1]))
    off = abs(misfit.across)
    side = _side(step.x - x, step.y - y)
    return Finding(
        code="arc.off_path",
        principle="arcs",
        first_frame=step.frame,
        last_frame=step.last_frame,
        measured=off,
        expected=0.0,
        tolerance=misfit.tolerance_across,
        unit="px",
        severity=severity(misfit.arc_ratio),
        confidence=surety(scene.surety([step]), misfit.arc_ratio),
        message=f"{span(step.frame, step.last_frame)}: drawing {step.drawing} lies {off:.0f} px {side} the arc "
        "that the drawings beside it make.",
        advice=f"Move drawing {step.drawing} {off:.0f} px back onto the arc.",
        overlay=(
            overlay.path(step, _arc(scene, index, (x, y))),
            overlay.place(step, x, y),
        ),
    )


def _side(dx: float, dy: float) -> str:
    if abs(dy) >= abs(dx):
        return "above" if dy < 0 else "below"
    return "to the left of" if dx < 0 else "to the right of"


def _arc(scene: Scene, index: int, place: tuple[float, float]) -> list[tuple[float, float]]:
    """The neighbours' path through the place where the drawing belongs."""
    steps = scene.reading.steps
    before = [(s.x, s.y) for s in steps[max(0, index - 2) : index]]
    after = [(s.x, s.y) for s in steps[index + 1 : index + 3]]
    return [*before, place, *after]
