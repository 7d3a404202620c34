"""Spacing: how far apart neighbouring drawings lie along the path."""

from __future__ import annotations

import numpy as np

from motion.checks import overlay
from motion.exercises.bounce.checks import hanging, stopping
from motion.exercises.bounce.explain import Verdict
from motion.exercises.bounce.patterns import Pattern
from motion.exercises.bounce.scene import Scene
from motion.exercises.bounce.smooth import Misfit
from motion.findings import Finding, severity, span, surety

_SIDES = {"rise": "on the way up", "fall": "on the way down"}


def check(scene: Scene) -> list[Finding]:
    """Every spacing finding of a bounce."""
    found = []
    for verdict in scene.verdicts:
        found += [_pattern(scene, verdict, p) for p in verdict.patterns]
        found += [
            jump(scene, index, misfit, verdict)
            for index, misfit in verdict.off.items()
            if misfit.jump_ratio > 1 and stands_out(misfit.along, misfit.across)
        ]
    return [*found, *hanging.check(scene), *stopping.check(scene)]


def stands_out(part: float, other: float) -> bool:
    """Whether one part of a misplacement is a fault of its own and not a slant of the other."""
    return abs(part) >= 0.4 * abs(other)


def jump(scene: Scene, index: int, misfit: Misfit, verdict: Verdict) -> Finding:
    """``spacing.jump``: one drawing sits too far along or too far back between its neighbours.

    Measured: the part along the path of its distance to the smooth motion of its neighbours, px. Tolerance: 18 %
    of the smaller gap beside its place, at least 0.05 D.
    """
    step = scene.reading.steps[index]
    forwards = misfit.along > 0
    x, y = scene.reading.to_picture(float(misfit.place[0]), float(misfit.place[1]))
    way, back = ("too far along", "back") if forwards else ("too far back", "on")
    return Finding(
        code="spacing.jump",
        principle="spacing",
        first_frame=step.frame,
        last_frame=step.last_frame,
        measured=abs(misfit.along),
        expected=0.0,
        tolerance=misfit.tolerance_along,
        unit="px",
        severity=severity(misfit.jump_ratio),
        confidence=surety(scene.surety([step]), misfit.jump_ratio),
        message=(
            f"{span(step.frame, step.last_frame)}: drawing {step.drawing} sits {abs(misfit.along):.0f} px {way} "
            "between its neighbours, so the ball jerks here."
        ),
        advice=f"Move drawing {step.drawing} {abs(misfit.along):.0f} px {back} along the path.",
        overlay=(
            overlay.place(step, x, y),
            overlay.gap(step, step.x, step.y, x, y),
        ),
    )


def _pattern(scene: Scene, verdict: Verdict, pattern: Pattern) -> Finding:
    steps = [scene.reading.steps[verdict.hop.air[i]] for i in pattern.run]
    first, last = steps[0].frame, steps[-1].last_frame
    say = {"even": _even_words, "faster_rising": _faster_words, "slower_falling": _slower_words}[pattern.kind]
    message, advice = say(span(first, last), pattern)
    return Finding(
        code=f"spacing.{pattern.kind}",
        principle="spacing",
        first_frame=first,
        last_frame=last,
        measured=pattern.measured,
        expected=1.0 if pattern.kind == "even" else 0.0,
        tolerance=pattern.tolerance,
        unit="share",
        severity=severity(pattern.times_tolerance),
        confidence=surety(scene.surety(steps), pattern.times_tolerance),
        message=message,
        advice=advice,
        overlay=_where_they_belong(scene, verdict, pattern),
    )


def _even_words(frames: str, pattern: Pattern) -> tuple[str, str]:
    """``spacing.even``: a rise or fall moves in even steps.

    Measured: acceleration along the path over what the side's height and duration call for. Tolerance: under 0.40 is
    even.
    """
    usual = float(np.mean(pattern.gaps))
    towards = "slowing towards the top" if pattern.side == "rise" else "gathering speed towards the ground"
    message = (
        f"{frames}: {_SIDES[pattern.side]} the ball moves in even steps of about {usual:.0f} px, without {towards}."
    )
    advice = (
        f"Keep the end drawings. Put the ones between closer together near the top: gaps of {_list(pattern.wanted)} px."
    )
    return message, advice


def _faster_words(frames: str, pattern: Pattern) -> tuple[str, str]:
    """``spacing.faster_rising``: after leaving the ground the ball gains speed.

    Measured: growth of speed over the first half of the rise, a share of it. Tolerance: 0.12.
    """
    message = (
        f"{frames}: the ball speeds up after it leaves the ground. Gaps go {_list(pattern.gaps)} px; "
        "they should shrink towards the top."
    )
    return message, f"Move the first drawings of the rise up, so that the gaps go {_list(pattern.wanted)} px."


def _slower_words(frames: str, pattern: Pattern) -> tuple[str, str]:
    """``spacing.slower_falling``: the ball brakes before it lands.

    Measured: loss of speed over the last half of the fall, a share of it. Tolerance: 0.12.
    """
    message = (
        f"{frames}: the ball brakes before it lands. Gaps go {_list(pattern.gaps)} px; "
        "they should grow all the way down."
    )
    return message, f"Move the last drawings of the fall up, so that the gaps go {_list(pattern.wanted)} px."


def _list(values: np.ndarray) -> str:
    shown = [f"{v:.0f}" for v in values]
    return ", ".join(shown[:8]) + (", …" if len(shown) > 8 else "")


def _where_they_belong(scene: Scene, verdict: Verdict, pattern: Pattern) -> tuple[dict[str, object], ...]:
    """The places of a side's drawings if it followed its own height and duration."""
    reading, hop = scene.reading, verdict.hop
    points = reading.points(tuple(hop.air[i] for i in pattern.run))
    clock = hop.clock[list(pattern.run)]
    top = 0 if pattern.side == "fall" else len(points) - 1
    until = abs((hop.span if pattern.side == "fall" else 0.0) - clock[top])
    across = np.polyfit(clock, points[:, 0], 1)
    marks: list[dict[str, object]] = []
    for i, place in enumerate(points):
        part = abs(clock[i] - clock[top]) / until if until else 0.0
        x, y = reading.to_picture(float(np.polyval(across, clock[i])), float(points[top, 1] * (1 - part**2)))
        step = reading.steps[hop.air[pattern.run[i]]]
        if np.hypot(x - place[0], y - step.y) > 1.0:
            marks.append(overlay.place(step, x, y))
    return tuple(marks)
