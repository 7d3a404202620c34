"""Timing of a pendulum: every swing takes as long, dies away evenly, and nothing is held on its way."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.reading import SETTLING_DEGREES, Extreme, Swing
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding, span

SWING, SWING_FRAMES = 0.10, 1.0
RHYTHM = 0.12
HELD = 1
NEAR_EXTREME = 0.10
FEWEST = 3


def check(scene: Scene) -> list[Finding]:
    """Every timing finding that no brief has to ask for."""
    holds = list(held(scene))
    return [*swings(scene, holds), *rhythm(scene), *scene.merged(holds)]


def swings(scene: Scene, holds: list[Finding]) -> Iterator[Finding]:
    """``timing.swing``: a swing takes longer or shorter than the others.

    Measured: its frames from extreme to extreme, holds left out, corrected for how far it goes. Expected: the middle
    one of the clip's. Tolerance: the larger of 1 frame and 10 %.
    """
    judged = [s for s in scene.reading.judged if s.timed]
    if len(judged) < FEWEST:
        return
    usual = float(np.median([_small(s) for s in judged]))
    for swing in judged:
        # A hold on its way is told as such, and is not told again as a swing that takes too long.
        steps = scene.steps_of(swing)
        waits = sum(
            (h.measured or 0.0) - (h.expected or 0.0)
            for h in holds
            if steps[0].frame < h.first_frame and h.last_frame < steps[-1].frame
        )
        frames, expected = swing.frames - waits, usual * _longer(swing)
        off = frames - expected
        allowed = max(SWING_FRAMES, SWING * expected) * scene.leniency
        if abs(off) <= allowed:
            continue
        word, mend = ("slow", "Take") if off > 0 else ("quick", "Add")
        count = max(1, round(abs(off)))
        middle = min(steps, key=lambda s: abs(s.angle - swing.middle))
        away = "away from" if off > 0 else "to"
        yield scene.finding(
            "timing.swing",
            steps,
            times=abs(off) / allowed,
            measured=frames,
            expected=expected,
            tolerance=allowed,
            unit="frames",
            message=f"{span(steps[0].frame, steps[-1].last_frame)}: swing {swing.number} takes {frames:.0f} frames; "
            f"the others take {expected:.0f}, so it reads too {word}. A pendulum keeps its time.",
            advice=f"{mend} {count} frame{'s' if count > 1 else ''} {away} it: {'fewer' if off > 0 else 'more'} "
            "drawings, the largest gap still through the middle.",
            overlay=(overlay.frames(middle.frame, -min(count, middle.frames) if off > 0 else count),),
        )


def _longer(swing: Swing) -> float:
    """How much longer a swing takes for going far: 1 + A² / 16, A in radians."""
    return 1 + math.radians(swing.degrees / 2) ** 2 / 16


def _small(swing: Swing) -> float:
    """How long a swing would take if it went only a little way."""
    return swing.frames / _longer(swing)


def kept(scene: Scene) -> list[tuple[Extreme, float]]:
    """Each extreme with the share of the angle that is kept from the one before, from the swings' own middle."""
    reading, found = scene.reading, []
    for one, other in zip(reading.extremes, reading.extremes[1:], strict=False):
        before, after = (abs(e.angle - reading.middle) for e in (one, other))
        if one.whole and other.whole and min(before, after) >= SETTLING_DEGREES:
            found.append((other, after / before))
    return found


def rhythm(scene: Scene) -> Iterator[Finding]:
    """``timing.rhythm``: it dies away unevenly.

    Measured: the share of the angle kept from one extreme to the next. Expected: the middle one of the clip's.
    Tolerance: 0.12.
    """
    shares = kept(scene)
    if len(shares) < FEWEST:
        return
    usual, allowed = float(np.median([s for _, s in shares])), RHYTHM * scene.leniency
    for extreme, share in shares:
        off = share - usual
        if abs(off) <= allowed or _told_as_rising(scene, extreme):
            continue
        if _after_odd(scene, shares, extreme, usual, allowed):
            continue
        at = scene.reading.steps[extreme.step]
        word, mend = ("less", "farther") if off < 0 else ("more", "less far")
        before = share and abs(extreme.angle - scene.reading.middle) / share
        belongs = scene.reading.middle + math.copysign(before * usual, extreme.angle - scene.reading.middle)
        yield scene.finding(
            "timing.rhythm",
            [at],
            times=abs(off) / allowed,
            measured=share,
            expected=usual,
            tolerance=allowed,
            unit="share",
            message=f"{span(at.frame, at.last_frame)}: from the last extreme it keeps {100 * share:.0f} % of its "
            f"angle, {word} than the {100 * usual:.0f} % of the other swings. It dies away unevenly.",
            advice=f"Let it swing {mend} here, so that each extreme keeps about {100 * usual:.0f} % of the one before.",
            overlay=(overlay.place(at, *scene.reading.place(belongs)),),
        )


def _told_as_rising(scene: Scene, extreme: Extreme) -> bool:
    """Whether an extreme goes past the one before: that is told as a swing that rises."""
    from motion.exercises.pendulum.checks.arcs import rising_swings

    at = scene.reading.steps[extreme.step]
    return any(f.first_frame == at.frame for f in rising_swings(scene))


def _after_odd(
    scene: Scene, shares: list[tuple[Extreme, float]], extreme: Extreme, usual: float, allowed: float
) -> bool:
    """Whether the extreme before is the odd one: then this share is off the other way, and two keep as much as usual."""
    index = next(i for i, (e, _) in enumerate(shares) if e is extreme)
    if index == 0:
        return False
    before, own = shares[index - 1][1], shares[index][1]
    opposite = (before - usual) * (own - usual) < 0
    return opposite and abs(before - usual) > allowed and abs(math.sqrt(before * own) - usual) <= allowed


def held(scene: Scene) -> Iterator[Finding]:
    """``timing.hold``: a drawing is held in the middle of a swing, longer than its neighbours.

    Measured: its frames. Expected: as many as the clip's drawings usually have. Tolerance: 1 frame. Drawings within a
    tenth of an extreme, and the end, may be held.
    """
    reading = scene.reading
    steps, allowed = reading.steps, HELD * scene.leniency
    for index in range(1, len(steps) - max(1, reading.resting)):
        step = steps[index]
        if _near_extreme(scene, index):
            continue
        usual = max(reading.usual, min(steps[index - 1].frames, steps[index + 1].frames))
        more = step.frames - usual
        if more <= allowed or not _waits(scene, index):
            continue
        yield scene.finding(
            "timing.hold",
            [step],
            times=more / allowed,
            measured=float(step.frames),
            expected=float(usual),
            tolerance=float(allowed),
            unit="frames",
            message=f"{span(step.frame, step.last_frame)}: drawing {step.drawing} is held for {step.frames} frames in "
            "the middle of a swing.",
            advice=f"Take {more} frame{'s' if more > 1 else ''} of this hold away, or draw in-betweens for them.",
            overlay=(overlay.frames(step.frame, -more),),
        )


def _near_extreme(scene: Scene, index: int) -> bool:
    reading = scene.reading
    angle = reading.steps[index].angle - reading.middle
    for extreme in reading.extremes:
        far = extreme.angle - reading.middle
        if extreme.step == index or (angle * far > 0 and abs(angle) >= (1 - NEAR_EXTREME) * abs(far)):
            return True
    return False


def _waits(scene: Scene, index: int) -> bool:
    """Whether the time for which a drawing shows is more than its gap to the next, at its swing's speed, calls for."""
    steps = scene.reading.steps
    gap = abs(steps[index + 1].angle - steps[index].angle)
    before = abs(steps[index].angle - steps[index - 1].angle) / steps[index - 1].frames
    after = (
        abs(steps[index + 2].angle - steps[index + 1].angle) / steps[index + 1].frames
        if index + 2 < len(steps)
        else before
    )
    speed = min(before, after) if min(before, after) > 0 else max(before, after)
    return gap < 0.75 * steps[index].frames * speed
