"""Arcs of a walk: hips that rise and fall in a wave, and feet that swing on a curve."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.walk.checks import remade
from motion.exercises.walk.checks.spacing import led, whole
from motion.exercises.walk.checks.words import part_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.smooth import Off
from motion.exercises.walk.wave import hips_wave
from motion.findings import Finding, span

FLAT, SEEMS, FEWEST = 0.015, 1.25, 10
"""How little hips rise and fall that glide; so many times as much by eye. Without steps so many drawings tell it."""
RISES = 0.04
"""Share of the leg by which hips rise and fall in an everyday walk."""


def check(scene: Scene) -> list[Finding]:
    """Every arc finding."""
    found = [off_path(scene, off) for off in single(scene)]
    return [*scene.merged(found), *flat(scene)]


def single(scene: Scene) -> list[Off]:
    """What is off across its path, but for what another fault explains."""
    found = []
    for (name, index), off in sorted(scene.off.items(), key=lambda one: (one[0][1], one[0][0])):
        if off.across_times < off.along_times or off.across_times <= 1 or index in scene.reading.swapped:
            continue
        hips = scene.off.get(("hip", index))
        if name != "hip" and ((hips is not None and whole(hips, off)) or scene.explained(name, index)):
            continue
        found.append(off)
    return found


def off_path(scene: Scene, off: Off) -> Finding:
    """``arc.off_path``: one drawing of hips, head, a hand or a swinging foot lies beside its arc.

    Measured: the part across its path of its distance to the smooth motion of its neighbours, less what it does at that
    phase of the other steps, px. Tolerance: the larger of 0.025 of the leg and 2 px; twice that where no other step
    shows what it does at that phase. Told from pictures, a foot whose heel and toe hide must be off by one and a half
    times that.
    """
    step = scene.reading.steps[off.index]
    side, back = ("above", "down") if off.across > 0 else ("below", "up")
    part = part_of(off.name)
    lie = "lie" if part == "hips" else "lies"
    return scene.finding(
        "arc.off_path",
        [step],
        times=off.across_times,
        measured=abs(off.across),
        expected=0.0,
        tolerance=off.across_allowed,
        unit="px",
        part=part,
        message=f"{span(step.frame, step.last_frame)}: the {part} of drawing {step.drawing} {lie} "
        f"{abs(off.across):.0f} px {side} the arc that the drawings beside make.",
        advice=f"Move the {part} in drawing {step.drawing} {abs(off.across):.0f} px {back}.",
        overlay=(overlay.point(step, *off.belongs), *led(scene, off)),
    )


def flat(scene: Scene) -> Iterator[Finding]:
    """``arc.flat``: the body glides, without rise and fall.

    Measured: the hips' rise and fall over the clip's mean step, as a share of the leg. Tolerance: at least 0.015. Told
    from pictures hips seem to rise and fall a little that do not.
    """
    wave = hips_wave(scene.reading, scene.paces)
    rise = level(scene) if wave is None else wave.rise
    if rise is None:
        return
    share, allowed = rise / scene.reading.leg, FLAT / max(scene.leniency, 1e-6)
    if share >= allowed * (SEEMS if scene.by_eye else 1.0):
        return
    yield scene.whole_clip(
        "arc.flat",
        times=1 + 3 * max(0.0, allowed - share) / allowed,
        measured=share,
        expected=allowed,
        tolerance=allowed,
        unit="share",
        message=f"The body glides: over a step the hips rise and fall by {rise:.1f} px, hardly to be seen.",
        advice="Let the hips sink after each contact, and rise past the passing drawing.",
        overlay=() if wave is None else remade.waved(scene, wave, RISES * scene.reading.leg),
    )


def level(scene: Scene) -> float | None:
    """How far nearly all hips rise and fall beside one line, px, where no steps tell; None with too few drawings."""
    told = [(s.clock, scene.reading.height(hip)) for s in scene.reading.steps if (hip := s.at("hip")) is not None]
    if scene.reading.paces or len(told) < FEWEST:
        return None
    clocks, heights = np.array(told).T
    slope, start = np.polyfit(clocks, heights, 1)
    low, high = np.percentile(heights - slope * clocks - start, [10, 90])
    return float(high - low)
