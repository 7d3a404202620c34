"""Timing of a pendulum: every swing takes as long, dies away evenly, and nothing is held on its way."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.checks.arcs import rising_swings
from motion.exercises.pendulum.checks.spacing import is_even, off_middle
from motion.exercises.pendulum.reading import SETTLING_DEGREES, Swing
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.steps import held_for, waits
from motion.exercises.pendulum.turns import Extreme
from motion.findings import Finding, span

SWING, SWING_FRAMES = 0.10, 1.0
RHYTHM = 0.12
HELD = 1
FEWEST = 3


def check(scene: Scene) -> list[Finding]:
    """Every timing finding that no brief has to ask for."""
    holds = list(held(scene))
    if scene.jointed:
        # Links that hang freely quicken and slow each other; nor does what they keep go evenly.
        return [*(swings(scene) if scene.drags else ()), *scene.merged(holds)]
    return [*swings(scene), *rhythm(scene), *scene.merged(holds)]


def swings(scene: Scene) -> Iterator[Finding]:
    """``timing.swing``: a swing takes longer or shorter than the others.

    Measured: its frames from extreme to extreme, holds left out, corrected for how far it goes. Expected: the middle
    one of the clip's. Tolerance: the larger of 1 frame and 10 %.
    """
    # Parts that are let go together follow one after the other: the end's first swing is longer by as much.
    judged = [s for s in scene.reading.judged if s.timed and not (scene.jointed and s.start.step == 0)]
    if len(judged) < FEWEST:
        return
    usual = float(np.median([_small(s) for s in judged]))
    beside_odd = {number + k for number in _odd(scene) for k in (-1, 0, 1)}
    off = {s.number: s.frames - usual * _longer(s) for s in judged if s.number not in beside_odd}
    for swing in judged:
        expected = usual * _longer(swing)
        allowed = max(SWING_FRAMES, SWING * expected) * scene.leniency
        own = off.get(swing.number, 0.0)
        # Where one extreme is told too early or too late, its two swings are off either way: the graver one is told.
        beside = max((abs(off.get(swing.number + k, 0.0)) for k in (-1, 1) if own * off.get(swing.number + k, 0.0) < 0),
                     default=0.0)  # fmt: skip
        if abs(own) <= allowed or beside > abs(own):
            continue
        yield _of_swing(scene, swing, own, expected, allowed)


def _of_swing(scene: Scene, swing: Swing, off: float, expected: float, allowed: float) -> Finding:
    steps, count = scene.steps_of(swing), max(1, round(abs(off)))
    middle = min(steps, key=lambda s: abs(s.angle - swing.middle))
    word = "slow" if off > 0 else "quick"
    mend = ("Take", "away from", "fewer") if off > 0 else ("Add", "to", "more")
    return scene.finding(
        "timing.swing",
        steps,
        times=abs(off) / allowed,
        measured=expected + off,
        expected=expected,
        tolerance=allowed,
        unit="frames",
        message=f"{span(steps[0].frame, steps[-1].last_frame)}: swing {swing.number} takes {expected + off:.0f} "
        f"frames; the others take {expected:.0f}, so it reads too {word}. A pendulum keeps its time.",
        advice=f"{mend[0]} {count} frame{'s' if count > 1 else ''} {mend[1]} it: {mend[2]} drawings, the largest gap "
        "still through the middle.",
        overlay=(overlay.frames(middle.frame, -min(count, middle.frames) if off > 0 else count),),
    )


def _odd(scene: Scene) -> set[int]:
    """The swings, by number, spaced so that their extremes do not tell when they turn round.

    In even steps, or slow on one side.
    """
    even = {s.number for s in scene.reading.swings if is_even(scene, s)}
    return even | {s.number for s in scene.reading.judged if any(off_middle(scene, s))}


def _longer(swing: Swing) -> float:
    """How much longer a swing takes for going far: 1 + A² / 16, A in radians."""
    return 1 + math.radians(swing.degrees / 2) ** 2 / 16


def _small(swing: Swing) -> float:
    """How long a swing would take if it went only a little way."""
    return swing.frames / _longer(swing)


def kept(scene: Scene, middle: float | None = None) -> list[tuple[Extreme, float]]:
    """Each extreme with the share of the angle that is kept from the one before, from the swings' own middle."""
    reading, found = scene.reading, []
    around = reading.middle if middle is None else middle
    # A cycle's last drawing stands one step before an extreme.
    extremes = reading.extremes[:-1] if scene.brief.loop else reading.extremes
    for one, other in itertools.pairwise(extremes):
        before, after = (abs(e.angle - around) for e in (one, other))
        if one.whole and other.whole and min(before, after) >= SETTLING_DEGREES:
            found.append((other, after / before))
    return found


def _as_usual(scene: Scene) -> list[tuple[Extreme, float, float]]:
    """Each extreme with what is kept, and what usually is: from the rest line, or the swings' own middle.

    Whichever makes less of the clip odd: a swing that loses too much puts the middle of those about it off as well.
    What is told as a swing that rises is left out.
    """
    ways, rising = [], _risen(scene)
    for middle in (0.0, scene.reading.centre):
        shares = [(e, share) for e, share in kept(scene, middle) if e.step not in rising]
        usual = float(np.median([share for _, share in shares])) if shares else 0.0
        ways.append([(extreme, share, usual) for extreme, share in shares])
    return min(ways, key=lambda told: sum(abs(share - usual) for _, share, usual in told))


def rhythm(scene: Scene) -> Iterator[Finding]:
    """``timing.rhythm``: it dies away unevenly.

    Measured: the share of the angle kept from one extreme to the next. Expected: the middle one of the clip's.
    Tolerance: 0.12.
    """
    shares = _as_usual(scene)
    if len(shares) < FEWEST:
        return
    allowed = RHYTHM * scene.leniency
    for index, (extreme, share, usual) in enumerate(shares):
        off = share - usual
        if abs(off) <= allowed:
            continue
        if index and _after_odd(shares[index - 1], shares[index], allowed):
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


def _risen(scene: Scene) -> set[int]:
    """Steps of the extremes that are told as rising past those before, and of the one after each."""
    frames = {f.first_frame for f in rising_swings(scene)}
    whole = [e.step for e in scene.reading.extremes if e.whole]
    risen = [scene.reading.steps[step].frame in frames for step in whole]
    return {step for i, step in enumerate(whole) if any(risen[max(0, i - 1) : i + 1])}


def _after_odd(before: tuple[Extreme, float, float], own: tuple[Extreme, float, float], allowed: float) -> bool:
    """Whether the extreme before is the odd one: this share is off the other way, and both together are as usual."""
    one, two = before[1] - before[2], own[1] - own[2]
    return one * two < 0 and abs(one) > allowed and abs(math.sqrt(before[1] * own[1]) - own[2]) <= allowed


def held(scene: Scene) -> Iterator[Finding]:
    """``timing.hold``: a drawing is held in the middle of a swing, longer than its neighbours.

    Measured: its frames. Expected: as many as the clip's drawings usually have. Tolerance: 1 frame. Drawings within a
    tenth of an extreme, and the end, may be held.
    """
    reading = scene.reading
    steps, allowed = reading.steps, HELD * scene.leniency
    for index in range(1, len(steps) - max(1, reading.resting)):
        step = steps[index]
        if scene.near_extreme(index):
            continue
        more = held_for(steps, index, reading.usual)
        usual = step.frames - more
        if more <= allowed or not waits(steps, index, reading.usual):
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
