"""A ball that floats at its top."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from motion.checks import overlay
from motion.exercises.bounce.explain import Verdict
from motion.exercises.bounce.gravity import hop_height
from motion.exercises.bounce.hang import Hang
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety

SLOW = 0.75
"""A drawing belongs to the crowd about a top while it moves at less than this share of the hop's usual speed."""


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
    crowd = None if hang.held >= hang.extra / 2 else _crowd(scene, verdict, hang)
    if crowd is None:
        away = max(1, round(hang.extra))
        why, advice = _by_hold(longest.drawing, longest.frames, away)
        marks = [overlay.frames(longest.frame, -away)]
    else:
        why, advice = _by_drawings(len(crowd.drawings), len(crowd.drawings) - len(crowd.stay))
        marks = [*_spread(scene, verdict, crowd)]
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
        overlay=tuple(marks),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Crowd:
    """The drawings that crowd about a top (indices of steps), the two beside them, and how many of them may stay.

    ``roots`` (2,) are the square roots of the depth below the top of the two beside them, on the rise below nought: on
    that a flight moves evenly in time.
    """

    drawings: tuple[int, ...]
    beside: tuple[int, int]
    roots: tuple[float, float]
    stay: tuple[int, ...]


def _crowd(scene: Scene, verdict: Verdict, hang: Hang) -> _Crowd | None:
    """The crowd about a top, out to where the drawings go at the hop's usual speed; None where nothing does."""
    hop, steps = verdict.hop, scene.reading.steps
    highest = hop_height(scene.reading, hop)
    depth = [math.sqrt(max(0.0, 1 - steps[i].height / highest)) for i in hop.air]
    roots = np.array([-d if i < hop.top else d for d, i in zip(depth, hop.air, strict=True)])
    first, last = hop.air.index(hang.zone[0]), hop.air.index(hang.zone[-1])
    gaps = np.diff(roots)
    outside = [*gaps[: max(0, first - 1)], *gaps[last + 1 :]]
    if first == 0 or last == len(roots) - 1 or not outside:
        return None
    usual = float(max(outside))
    while first > 1 and gaps[first - 2] < SLOW * usual:
        first -= 1
    while last < len(roots) - 2 and gaps[last + 1] < SLOW * usual:
        last += 1
    count = max(1, min(round((roots[last + 1] - roots[first - 1]) / usual) - 1, last - first))
    return _Crowd(
        drawings=hop.air[first : last + 1],
        beside=(hop.air[first - 1], hop.air[last + 1]),
        roots=(float(roots[first - 1]), float(roots[last + 1])),
        stay=tuple(sorted({hop.air[round(k)] for k in np.linspace(first, last, count)})),
    )


def _spread(scene: Scene, verdict: Verdict, crowd: _Crowd) -> Iterator[overlay.Mark]:
    """Which of the close drawings to take out, and where on the arc the others belong in even time."""
    reading = scene.reading
    roots = np.linspace(*crowd.roots, len(crowd.stay) + 2)[1:-1]
    across = np.interp(roots, crowd.roots, reading.points(crowd.beside)[:, 0])
    heights = hop_height(reading, verdict.hop) * (1 - roots**2)
    places = dict(zip(crowd.stay, zip(across, heights, strict=True), strict=True))
    for index in crowd.drawings:
        step = reading.steps[index]
        if index in places:
            yield overlay.place(step, *reading.to_picture(*(float(v) for v in places[index])))
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
        f"Take out {away} of the {count} close drawings, and spread the others along the top of the arc.",
    )


def _frames(count: int) -> str:
    return f"{count} frame{'s' if count > 1 else ''}"
