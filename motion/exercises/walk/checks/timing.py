"""Timing of a walk: steps that take as long as each other, hips that sink and rise and legs that pass at their time."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from motion.exercises.walk.checks import arms
from motion.exercises.walk.checks.arcs import FLAT
from motion.exercises.walk.figure import OTHER, SIDES
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Pace
from motion.exercises.walk.wave import hips_wave
from motion.findings import Finding, span

LIMPS, LIMPS_FRAMES = 0.12, 1.0
LOWEST, OFF_PHASE = 0.15, 0.3
PASSING = (0.35, 0.65)


def check(scene: Scene) -> list[Finding]:
    """Every timing finding but what the brief asks for."""
    limping = list(limps(scene))
    passed = [] if limping else list(passing(scene))
    return [*limping, *down_up(scene), *passed, *hold(scene), *arms.opposite(scene)]


def limps(scene: Scene) -> Iterator[Finding]:
    """``timing.limps``: one step takes longer than the other.

    Measured: by how many frames steps to the near foot and to the far foot differ, on average. Tolerance: the largest
    of 1 frame, 12 % of a step, and the longest exposure of a contact drawing.
    """
    lengths = {side: [p.frames for p in scene.paces if p.side == side] for side in SIDES}
    if not all(lengths.values()):
        return
    near, far = (float(np.mean(lengths[side])) for side in SIDES)
    contacts = [scene.reading.steps[c.index] for c in scene.reading.contacts]
    longest = max((s.frames - s.held for s in contacts), default=1)
    allowed = max(LIMPS_FRAMES, LIMPS * (near + far) / 2, float(longest)) * scene.leniency
    if abs(near - far) <= allowed or not _also_finely(scene, near - far):
        return
    longer, shorter = ("near", "far") if near > far else ("far", "near")
    yield scene.whole_clip(
        "timing.limps",
        times=abs(near - far) / allowed,
        measured=abs(near - far),
        expected=0.0,
        tolerance=allowed,
        unit="frames",
        message=f"It limps: steps onto the {longer} foot take {max(near, far):.1f} frames, onto the {shorter} foot "
        f"{min(near, far):.1f}.",
        advice=f"Give both steps {(near + far) / 2:.0f} frames, from contact to contact.",
        overlay=(),
    )


def _also_finely(scene: Scene, off: float) -> bool:
    """Whether feet also come near to where they land at such different times: a contact may be told a drawing early."""
    finely = {side: [v for p in scene.paces if p.side == side and (v := p.finely) is not None] for side in SIDES}
    if not all(finely.values()):
        return True
    near, far = (float(np.mean(finely[side])) for side in SIDES)
    return (near - far) * off > 0 and abs(near - far) > 0.6 * abs(off)


def down_up(scene: Scene) -> Iterator[Finding]:
    """``timing.down_up``: it sinks and rises at the wrong moment.

    Measured: the phase of a step at which the hips are lowest (first harmonic), 0 to 1. Tolerance: within 0.3 of 0.15.
    A body that glides is told as that.
    """
    wave = hips_wave(scene.reading, scene.paces)
    if wave is None or wave.rise < FLAT * scene.reading.leg or wave.first < FLAT * scene.reading.leg:
        return
    off = abs((wave.lowest - LOWEST + 0.5) % 1.0 - 0.5)
    allowed = OFF_PHASE * min(1.6, scene.leniency)
    if off <= allowed:
        return
    yield scene.whole_clip(
        "timing.down_up",
        times=max(1.1, 1 + 3 * (off - allowed) / allowed),
        measured=wave.lowest,
        expected=LOWEST,
        tolerance=allowed,
        unit="phase",
        message=f"The body is lowest {100 * wave.lowest:.0f} % through the step, where it should be rising; it belongs "
        "down just after the contact.",
        advice="Let the hips sink in the drawings after the contact, and be highest after the passing drawing.",
        overlay=(),
    )


def passing(scene: Scene) -> Iterator[Finding]:
    """``timing.passing``: the passing drawing comes too early or too late.

    Measured: how much of a step has gone by when the swinging ankle passes the standing one, 0 to 1. Tolerance: from
    0.35 to 0.65.
    """
    low, high = (0.5 + (p - 0.5) * scene.leniency for p in PASSING)
    found: list[tuple[Pace, float]] = []
    for pace in scene.paces:
        at = passes(scene, pace)
        if at is not None and not low <= at <= high:
            found.append((pace, at))
    for way in (-1, 1):
        own = [(p, at) for p, at in found if (at - 0.5) * way > 0]
        if not own:
            continue
        worst = max(own, key=lambda one: abs(one[1] - 0.5))[1]
        steps = [s for p, _ in own for s in scene.within(p)]
        word, mend = ("early", "later") if way < 0 else ("late", "sooner")
        yield scene.finding(
            "timing.passing",
            [steps[0], steps[-1]],
            times=max(1.05, (abs(worst - 0.5) - (high - 0.5)) / (high - 0.5) * 3 + 1),
            measured=worst,
            expected=0.5,
            tolerance=(high - 0.5),
            unit="phase",
            message=f"{span(steps[0].frame, steps[-1].last_frame)}: the legs pass too {word}, "
            f"{100 * worst:.0f} % through the step.",
            advice=f"Let the swinging foot pass the standing one {mend}, about half-way between the contacts.",
            overlay=(),
        )


def passes(scene: Scene, pace: Pace) -> float | None:
    """How much of a step has gone by when its swinging ankle passes the standing one; None where that does not show."""
    facing, swinging = scene.reading.facing, pace.side
    told = []
    for step in scene.steps_between(pace.start.time, pace.end.time):
        one, other = step.at(f"ankle_{swinging}"), step.at(f"ankle_{OTHER[swinging]}")
        if one is not None and other is not None:
            told.append((step.clock, facing * (one[0] - other[0])))
    for (t0, a), (t1, b) in itertools.pairwise(told):
        if a < 0 <= b:
            at = t0 + (t1 - t0) * -a / (b - a)
            return (at - pace.start.time) / max(1e-6, pace.frames)
    return None


def hold(scene: Scene) -> Iterator[Finding]:
    """``timing.hold``: a drawing is held in the middle of a step.

    Measured: for how many frames it shows, beside its neighbours. Tolerance: 1 frame more than they do.
    """
    steps = scene.reading.steps
    for step in steps[1:-1]:
        usual = step.frames - step.held
        if step.held <= scene.leniency or step.index not in scene.judged:
            continue
        yield scene.finding(
            "timing.hold",
            [step],
            times=step.held / scene.leniency,
            measured=float(step.frames),
            expected=float(usual),
            tolerance=float(scene.leniency),
            unit="frames",
            message=f"{span(step.frame, step.last_frame)}: drawing {step.drawing} is held for {step.frames} frames; "
            f"those beside it show for {usual}.",
            advice=f"Take {step.held} frame{'s' if step.held > 1 else ''} from drawing {step.drawing}: a hold in the "
            "middle of a step stops the walk.",
            overlay=({"kind": "frames", "frame": step.frame, "change": -step.held},),
        )
