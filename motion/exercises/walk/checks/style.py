"""The style that a brief asks for: rise and fall, knees, lean, arms that swing. What it excuses is taken out here."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType

import numpy as np

from motion.checks import overlay
from motion.exercises.walk.checks import arms, remade
from motion.exercises.walk.figure import SIDES, bend_of
from motion.exercises.walk.lean import lean_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Pace, Step
from motion.exercises.walk.wave import hips_wave
from motion.findings import Finding

RISE, KNEE, LEAN = 0.01, 5.0, 3.0
FEWEST = 3
EXCUSED: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {
        "rise": ("arc.flat", "timing.down_up"),
        "knees": ("spacing.pops",),
        "limp": ("timing.limps", "spacing.stride"),
        "arms": ("timing.opposite", "spacing.even"),
    }
)
"""The faults that a brief excuses, by what it says."""
ASKED: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {"rise_share": ("arc.flat",), "limp_frames": ("spacing.stride",)}
)
"""The faults that do not apply where a brief asks for that itself."""


def check(scene: Scene) -> list[Finding]:
    """Every finding about the style that the brief asks for."""
    return [*rise(scene), *knees(scene), *lean(scene), *swing(scene)]


def not_judged(scene: Scene) -> frozenset[str]:
    """The codes that the brief leaves out: excused, or replaced by what it asks for."""
    asked = [code for key, codes in ASKED.items() if getattr(scene.asked, key) is not None for code in codes]
    return frozenset([*asked, *(code for one in scene.asked.excused for code in EXCUSED[one])])


def rise(scene: Scene) -> Iterator[Finding]:
    """``arc.rise``: the body rises and falls less or more than the brief asks.

    Measured: the hips' rise and fall over the clip's mean step, as a share of the leg. Expected: the brief's range.
    Tolerance: 0.01 beyond it.
    """
    wave = hips_wave(scene.reading, scene.paces)
    if scene.asked.rise_share is None or wave is None:
        return
    leg = scene.reading.leg
    low, high = scene.asked.rise_share
    yield from _beside(
        scene,
        "arc.rise",
        (wave.rise / leg, scene.asked.rise_share, RISE),
        "share",
        f"The hips rise and fall by {wave.rise:.0f} px over a step, {100 * wave.rise / leg:.0f} % of the leg; the "
        f"brief asks for {100 * low:g} to {100 * high:g} %.",
        (
            "Let the hips sink lower after each contact, and rise higher past the passing drawing.",
            "Keep the hips more level: sink less after each contact, and rise less past the passing drawing.",
        ),
        remade.waved(scene, wave, leg * min(max(low, wave.rise / leg), high)),
    )


def knees(scene: Scene) -> Iterator[Finding]:
    """``form.bend``: knees are straighter or more bent than the brief asks.

    Measured: by how many degrees the straightest knee of a step is bent, on average. Expected: the brief's range.
    Tolerance: 5 degrees beyond it.
    """
    if scene.asked.knee_degrees is None:
        return
    straightest = [least for pace in scene.paces if (least := _straightest(scene, pace)) is not None]
    if not straightest:
        return
    bent = float(np.mean(straightest))
    low, high = scene.asked.knee_degrees
    yield from _beside(
        scene,
        "form.bend",
        (bent, scene.asked.knee_degrees, KNEE),
        "degrees",
        f"The straightest knee of a step still bends by {bent:.0f}°; the brief asks for {low:g} to {high:g}°.",
        ("Lower the hips, so that knees stay bent.", "Raise the hips, so that legs come straighter."),
    )


def _straightest(scene: Scene, pace: Pace) -> float | None:
    """By how many degrees the straightest knee of a step is bent; None where too few show."""
    bends = [b for step in scene.within(pace) for side in SIDES if (b := _bent(scene, step, side)) is not None]
    return min(bends) if len(bends) >= FEWEST else None


def _bent(scene: Scene, step: Step, side: str) -> float | None:
    hip, knee, ankle = (step.at(n) for n in ("hip", f"knee_{side}", f"ankle_{side}"))
    if hip is None or knee is None or ankle is None:
        return None
    return abs(bend_of(hip, knee, ankle, scene.reading.facing))


def lean(scene: Scene) -> Iterator[Finding]:
    """``form.lean``: body or trunk leans less or more than the brief asks.

    Measured: by how many degrees it leans forward, over the clip. Expected: the brief's range. Tolerance: 3 degrees
    beyond it. A body that is as wide as high leans no way, and is not judged.
    """
    judged = [s for s in scene.reading.steps if s.index in scene.judged]
    told = [v for s in judged if (v := lean_of(s, scene.reading.facing)) is not None]
    if scene.asked.lean_degrees is None or len(told) < FEWEST:
        return
    usual = float(np.median(told))
    low, high = scene.asked.lean_degrees
    thing = "trunk" if scene.asked.figure == "whole" else "body"
    leans = (
        f"leans {'forward' if usual > 0 else 'back'} by {abs(usual):.0f}°" if abs(usual) >= 0.5 else "stands upright"
    )
    yield from _beside(
        scene,
        "form.lean",
        (usual, scene.asked.lean_degrees, LEAN),
        "degrees",
        f"The {thing} {leans}; the brief asks for {low:g} to {high:g}° forward.",
        (f"Lean the {thing} farther forward in every drawing.", f"Lean the {thing} farther back in every drawing."),
    )


def swing(scene: Scene) -> Iterator[Finding]:
    """``timing.arms``: arms hang still that the brief asks to swing.

    Measured: by how many degrees they swing either way. Expected: that they swing. Tolerance: at least 5
    degrees.
    """
    if scene.asked.arm_swing is None or scene.asked.figure != "whole":
        return
    swings = arms.swings_by(scene)
    least = arms.LEAST_SWING / scene.leniency
    if not swings or max(swings) >= least:
        return
    yield scene.whole_clip(
        "timing.arms",
        times=1 + 3 * (least - max(swings)) / least,
        measured=max(swings),
        expected=least,
        tolerance=least,
        unit="degrees",
        message=f"The arms hang still: they swing by {max(swings):.0f}° either way. The brief asks that they swing.",
        advice="Let each arm be in front while the leg of its side is behind; the contact drawing shows both farthest "
        "apart.",
        overlay=(),
    )


def _beside(
    scene: Scene,
    code: str,
    told: tuple[float, tuple[float, float], float],
    unit: str,
    message: str,
    mends: Sequence[str],
    marks: tuple[overlay.Mark, ...] = (),
) -> Iterator[Finding]:
    """A finding where a value lies outside a range by more than a tolerance; ``mends`` is for too little, too much."""
    value, (low, high), tolerance = told
    allowed = tolerance * scene.leniency * scene.unsure
    off = max(low - value, value - high)
    if off <= allowed:
        return
    yield scene.whole_clip(
        code,
        times=off / allowed,
        measured=value,
        expected=float(low if value < low else high),
        tolerance=allowed,
        unit=unit,
        message=message,
        advice=mends[0] if value < low else mends[1],
        overlay=marks,
    )
