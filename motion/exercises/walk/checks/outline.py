"""What the outline alone tells of a walk whose joints could not be told: ground, rise and fall, pace, holds."""

from __future__ import annotations

from collections.abc import Iterator

from motion.checks import overlay
from motion.exercises.walk.checks.arcs import FLAT
from motion.exercises.walk.checks.contact import ALOFT, GAP, LEAST_PX, THROUGH
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.soles import lowest_height
from motion.exercises.walk.wave import hips_wave
from motion.findings import Finding, span


def check(scene: Scene) -> list[Finding]:
    """Every finding that needs no joints."""
    return [*scene.merged(list(feet(scene))), *glides(scene)]


def feet(scene: Scene) -> Iterator[Finding]:
    """The lowest point of each drawing, which must rest on the ground: one foot always stands."""
    reading = scene.reading
    for step in reading.steps:
        if step.figure is None or step.figure.low is None or step.figure.span is None:
            continue
        x, high = sum(step.figure.span) / 2, lowest_height(step.figure, reading.ground) or 0.0
        code, allowed = ("contact.gap", GAP) if high > 0 else ("contact.through", THROUGH)
        most = scene.px(allowed, LEAST_PX)
        if abs(high) <= most:
            continue
        code = "contact.airborne" if high > ALOFT * reading.leg else code
        said = "hangs above" if high > 0 else "goes into"
        mend = "Lower" if high > 0 else "Raise"
        yield scene.finding(
            code,
            [step],
            times=abs(high) / most,
            measured=abs(high),
            expected=0.0,
            tolerance=most,
            unit="px",
            message=f"{span(step.frame, step.last_frame)}: the figure {said} the ground by {abs(high):.0f} px.",
            advice=f"{mend} the standing foot in drawing {step.drawing} by {abs(high):.0f} px.",
            overlay=(overlay.gap(step, x, step.figure.low, x, step.figure.low + high),),
        )


def glides(scene: Scene) -> Iterator[Finding]:
    """The rise and fall of the body's middle, where steps are told by how far the legs are apart."""
    wave = hips_wave(scene.reading, scene.paces)
    if wave is None or wave.rise >= FLAT * scene.reading.leg / max(scene.leniency, 1e-6):
        return
    share = wave.rise / scene.reading.leg
    yield scene.whole_clip(
        "arc.flat",
        times=1 + 3 * (FLAT - share) / FLAT,
        measured=share,
        expected=FLAT,
        tolerance=FLAT,
        unit="share",
        message=f"The body glides: over a step it rises and falls by {wave.rise:.1f} px, hardly to be seen.",
        advice="Let the hips sink after each contact, and rise past the passing drawing.",
        overlay=(),
    )
