"""What the brief asks of the timing: length, contacts, exposure, bounciness, weight."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from motion.checks import asked as asking
from motion.exercises.bounce.keeping import kept_at_contacts
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, surety
from motion.physics import GRAVITY

BOUNCINESS = 0.04
WEIGHT_FACTOR = 1.35
TOP_SHARE = 0.10


def check(scene: Scene, held: set[int]) -> list[Finding]:
    """Every finding about what the brief asks; drawings ``held`` in the middle of a move (frames) are told already."""
    return [*of_clip(scene), *exposure(scene, held), *bounciness(scene), *weight(scene)]


def of_clip(scene: Scene) -> list[Finding]:
    """What can be said of a clip in which nothing bounces, too."""
    return [*length(scene), *hops(scene)]


def length(scene: Scene) -> Iterator[Finding]:
    """``timing.length``: the clip is shorter or longer than asked. Measured: frames. Tolerance: none."""
    told = asking.length(scene.brief, scene.track.exposures[-1].last_frame)
    if told is not None:
        yield _whole(scene, code="timing.length", **told)


def hops(scene: Scene) -> Iterator[Finding]:
    """``timing.hops``: fewer or more contacts than asked. Measured: contacts. Tolerance: none."""
    asked, found = scene.asked.hops, len(scene.reading.contacts)
    if asked is None or found == asked:
        return
    off = abs(found - asked)
    yield _whole(
        scene,
        code="timing.hops",
        measured=float(found),
        expected=float(asked),
        tolerance=0.0,
        unit="contacts",
        times=1.0 + off,
        message=f"The ball meets the ground {found} time{'s' if found != 1 else ''}; the brief asks for {asked}.",
        advice=f"{'Add' if found < asked else 'Take away'} {off} hop{'s' if off > 1 else ''}.",
    )


def exposure(scene: Scene, held: set[int]) -> list[Finding]:
    """``timing.exposure``: drawings are not exposed as the brief asks, on ones or on twos.

    Measured: a drawing's frames. Tolerance: none. Tops (within a tenth of the height), contacts, the rest at the end,
    and the clip's first and last drawing may be exposed otherwise.
    """
    asked, steps, found = asking.exposure(scene.brief), scene.reading.steps, []
    if asked is None:
        return []
    for hop in scene.reading.hops:
        top = steps[hop.top].height
        for index in hop.air:
            step = steps[index]
            at_top = index == hop.top or step.height >= (1 - TOP_SHARE) * top
            if step.frames == asked or at_top or index in (0, len(steps) - 1) or step.frame in held:
                continue
            told = asking.exposed(scene.brief, step, asked)
            times = told.pop("times")
            found.append(
                Finding(
                    code="timing.exposure",
                    principle="timing",
                    first_frame=step.frame,
                    last_frame=step.last_frame,
                    severity=severity(times),
                    confidence=surety(scene.surety([step]), times),
                    **told,
                )
            )
    return scene.merged(found)


def bounciness(scene: Scene) -> Iterator[Finding]:
    """``timing.bounciness``: it keeps more or less speed than the brief's material.

    Measured: the middle share of its speed kept over all contacts, by the heights of the hops beside each. Expected:
    the brief's range. Tolerance: 0.04.
    """
    asked = scene.asked.restitution
    kept = [k.share for k in kept_at_contacts(scene.reading)] if asked else []
    if asked is None or not kept:
        return
    share, allowed = float(np.median(kept)), BOUNCINESS * scene.leniency
    off = max(asked[0] - share, share - asked[1])
    if off <= allowed:
        return
    word, mend = ("less", "higher") if share < asked[0] else ("more", "lower")
    yield _whole(
        scene,
        code="timing.bounciness",
        measured=share,
        expected=asked[0] if share < asked[0] else asked[1],
        tolerance=allowed,
        unit="share",
        times=off / allowed,
        message=f"At each contact the ball keeps {10 * share:.1f} tenths of its speed, {word} than the brief's "
        f"material: {10 * asked[0]:.1f} to {10 * asked[1]:.1f}.",
        advice=f"Let every hop rise {mend} after its contact, and give it the frames for that.",
    )


def weight(scene: Scene) -> Iterator[Finding]:
    """``timing.weight``: it reads too floaty or too heavy for its size.

    Measured: the clip's gravity over the real one at the ball's real size and the brief's rate. Tolerance: a factor of
    1.35 either way.
    """
    real = scene.asked.diameter_m
    if real is None or scene.gravity is None:
        return
    expected = GRAVITY * scene.reading.diameter / real / scene.brief.fps**2
    factor, allowed = scene.gravity / expected, WEIGHT_FACTOR**scene.leniency
    times = abs(math.log(factor)) / math.log(allowed)
    if times <= 1:
        return
    word, mend = ("floaty", "Take frames away from") if factor < 1 else ("heavy", "Add frames to")
    yield _whole(
        scene,
        code="timing.weight",
        measured=factor,
        expected=1.0,
        tolerance=allowed - 1,
        unit="factor",
        times=times,
        message=f"The ball reads too {word} for its size: it falls as if gravity were {factor:.1f} times the real one.",
        advice=f"{mend} every hop, in the same measure.",
    )


def _whole(
    scene: Scene,
    *,
    code: str,
    measured: float,
    expected: float,
    tolerance: float,
    unit: str,
    times: float,
    message: str,
    advice: str,
) -> Finding:
    """A finding about the whole clip."""
    return Finding(
        code=code,
        principle="timing",
        first_frame=1,
        last_frame=scene.track.exposures[-1].last_frame,
        measured=measured,
        expected=expected,
        tolerance=tolerance,
        unit=unit,
        severity=severity(times),
        confidence=surety(scene.surety(scene.reading.steps), max(1.5, times)),
        message=message,
        advice=advice,
    )
