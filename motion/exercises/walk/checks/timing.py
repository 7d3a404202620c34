"""Timing of a walk: steps that take as long as each other, hips that sink and rise and legs that pass at their time."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from motion.exercises.walk.checks import arms, remade
from motion.exercises.walk.checks.arcs import FLAT
from motion.exercises.walk.figure import OTHER
from motion.exercises.walk.limp import Limp
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Pace
from motion.exercises.walk.wave import hips_wave
from motion.findings import Finding, span

NONE = 0.5
"""Steps that differ by fewer frames take as long as each other."""
LOWEST, OFF_PHASE = 0.15, 0.3
PASSING, FINELY = (0.35, 0.65), 0.25
"""Between such shares of a step legs pass. A step that is told to parts of a drawing, and not by whole ones, is unsure
to such a share of what others are."""


def check(scene: Scene) -> list[Finding]:
    """Every timing finding but what the brief asks for."""
    limping = scene.limp is not None and scene.limp.shows
    passed = [] if limping else list(passing(scene))
    return [*limps(scene), *down_up(scene), *passed, *hold(scene), *arms.opposite(scene)]


def limps(scene: Scene) -> Iterator[Finding]:
    """``timing.limps``: one step takes longer than the other; or a limp that is asked for is another.

    Measured: by how many frames steps to the near foot and to the far foot differ, on average. Tolerance: the largest
    of 1 frame, 12 % of a step, and the longest exposure of a contact drawing. Where a brief asks for a limp, that much
    less or more than it asks for.
    """
    limp = scene.limp
    if limp is None:
        return
    if scene.asked.limp_frames is not None:
        yield from _limps_as_asked(scene, limp, scene.asked.limp_frames)
        return
    if not limp.shows:
        return
    longer, shorter = limp.longer, OTHER[limp.longer]
    yield scene.whole_clip(
        "timing.limps",
        times=limp.frames / limp.allowed,
        measured=limp.frames,
        expected=0.0,
        tolerance=limp.allowed,
        unit="frames",
        message=f"It limps: steps onto the {longer} foot take {max(limp.near, limp.far):.1f} frames, onto the "
        f"{shorter} foot {min(limp.near, limp.far):.1f}.",
        advice=f"Give both steps {limp.mean:.0f} frames, from contact to contact. The mended take "
        "shows the same drawings timed like that; where some are taken out, even the gaps beside them.",
        overlay=remade.retimed(scene, lambda _: limp.mean),
    )


def _limps_as_asked(scene: Scene, limp: Limp, asked: tuple[float, float]) -> Iterator[Finding]:
    """A limp beside the range of frames that the brief asks for."""
    low, high = asked
    off = max(low - limp.frames, limp.frames - high)
    if off <= limp.allowed:
        return
    little, nearest = limp.frames < low, low if limp.frames < low else high
    yield scene.whole_clip(
        "timing.limps",
        times=off / limp.allowed,
        measured=limp.frames,
        expected=float(nearest),
        tolerance=limp.allowed,
        unit="frames",
        message=f"{_how_much(limp, little)}; the brief asks for {low:g} to {high:g} frames more.",
        advice="Stay longer on the good foot, and hurry off the other."
        if little
        else "Let both steps come nearer to each other, from contact to contact.",
        overlay=remade.retimed(scene, lambda pace: limp.mean + (1 if pace.side == limp.longer else -1) * nearest / 2),
    )


def _how_much(limp: Limp, little: bool) -> str:
    if limp.frames < NONE:
        return "It does not limp: both steps take as long"
    said = f"It limps too {'little' if little else 'much'}: steps onto the {limp.longer} foot take"
    return f"{said} {limp.frames:.1f} frames more than the others"


def down_up(scene: Scene) -> Iterator[Finding]:
    """``timing.down_up``: it sinks and rises at the wrong moment.

    Measured: the phase of a step at which the hips are lowest (first harmonic), 0 to 1. Tolerance: within 0.3 of 0.15.
    A body that glides is told as that.
    """
    wave = hips_wave(scene.reading, scene.paces)
    if wave is None or wave.rise < FLAT * scene.reading.leg or wave.first < FLAT * scene.reading.leg:
        return
    off = abs((wave.lowest - LOWEST + 0.5) % 1.0 - 0.5)
    # All drawings tell it together: what single joints are off by moves it little.
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
        overlay=remade.waved(scene, wave, wave.first),
    )


def passing(scene: Scene) -> Iterator[Finding]:
    """``timing.passing``: the passing drawing comes too early or too late.

    Measured: how much of a step has gone by when the swinging ankle passes the standing one, 0 to 1. Tolerance: from
    0.35 to 0.65.
    """
    found: list[tuple[Pace, float]] = []
    allowed = (PASSING[1] - PASSING[0]) / 2 * scene.leniency
    for pace in scene.paces:
        at = passes(scene, pace)
        unsure = scene.unsure if pace.finely is None else 1 + FINELY * (scene.unsure - 1)
        if at is not None and abs(at - 0.5) > allowed * unsure:
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
            times=max(1.05, (abs(worst - 0.5) - allowed) / allowed * 3 + 1),
            measured=worst,
            expected=0.5,
            tolerance=allowed,
            unit="phase",
            message=f"{span(steps[0].frame, steps[-1].last_frame)}: the legs pass too {word}, "
            f"{100 * worst:.0f} % through the step.",
            advice=f"Let the swinging foot pass the standing one {mend}, about half-way between the contacts.",
            overlay=tuple(mark for p, _ in own for mark in remade.repassed(scene, p)),
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
            shares = [(at - since) / max(1e-6, frames) for since, frames in _lasts(scene, pace)]
            return min(shares, key=lambda share: abs(share - 0.5))
    return None


def _lasts(scene: Scene, pace: Pace) -> list[tuple[float, float]]:
    """When a step may begin, and for how many frames it may then last.

    Told from pictures, a contact may be a drawing early or late, so that a step of few of them seems longer or shorter
    than it is; when feet come near to where they land tells that finely. Where the clip ends, or starts anew, as a foot
    lands, that may be later, and the step takes as long as the others.
    """
    found = [(pace.start.time, pace.frames)]
    late = [c.time - c.nears for p in scene.paces for c in (p.start, p.end) if c.nears is not None]
    fine = [p.finely for p in scene.paces if p.finely is not None and p.finely > 0]
    if not scene.by_eye or pace.start.nears is None or not fine:
        return found
    since = pace.start.nears + float(np.median(late))
    if pace.finely is not None and pace.finely > 0:
        found.append((since, pace.finely))
    if pace.end.time >= scene.reading.steps[-1].clock:
        found.append((since, float(np.median(fine))))
    return found


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
