"""Timing: how many frames a stretch of the path takes."""

from __future__ import annotations

import math

from motion.checks import overlay
from motion.exercises.bounce.checks import as_asked, rhythm, seam
from motion.exercises.bounce.gravity import hop_duration, hop_height, is_counted, maybe_held
from motion.exercises.bounce.hops import LEAST_HOP_D, Hop
from motion.exercises.bounce.ideal import hop_frames
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety

HOP_FRAMES = 1.2
HOP_SHARE = 0.12
HOLD_FRAMES = 1
TOP_SHARE = 0.10
FEW_DRAWINGS, FEWEST_FLOWN = 5, 3
CROWDING = 1.5
"""A crowd of drawings at the top makes a hop up to so many times as long as the time about its top."""


def check(scene: Scene) -> list[Finding]:
    """Every timing finding of a bounce."""
    found = []
    for number in scene.reading.hops:
        found += hold(scene, number)
        finding = hop(scene, number)
        if finding is not None:
            found.append(finding)
    held = {f.first_frame for f in found if f.code == "timing.hold"}
    return [*found, *rhythm.check(scene), *as_asked.check(scene, held), *seam.check(scene)]


def hop(scene: Scene, judged: Hop) -> Finding | None:
    """``timing.hop``: a hop takes too many or too few frames for its height.

    Measured: frames from contact to contact, holds taken out. Expected: what its height calls for,
    sqrt(8 h / g), with the gravity on which the clip's hops agree. Tolerance: 12 %, at least 1.2 frames.
    """
    duration = hop_duration(scene.reading, judged)
    height = hop_height(scene.reading, judged)
    if not judged.whole or duration is None or scene.gravity is None:
        return None
    if height < _least_told(scene, judged):
        return None
    wanted = hop_frames(height, scene.gravity)
    allowed = max(HOP_FRAMES, HOP_SHARE * wanted) * scene.leniency
    off = _off_for_sure(scene, judged, duration - wanted)
    if abs(off) <= allowed or _voters(scene) < 2:
        return None
    steps = [scene.reading.steps[i] for i in judged.air]
    first, last = steps[0].frame, steps[-1].last_frame
    many = "too slow" if off > 0 else "too quick"
    mend = "Take away" if off > 0 else "Add"
    count = max(1, round(abs(off)))
    return Finding(
        code="timing.hop",
        principle="timing",
        first_frame=first,
        last_frame=last,
        measured=duration,
        expected=wanted,
        tolerance=allowed,
        unit="frames",
        severity=severity(abs(off) / allowed),
        confidence=surety(scene.surety(steps), abs(off) / allowed),
        message=f"{span(first, last)}: this hop is {many} for its height. It takes {duration:.1f} frames; beside the "
        f"other hops it should take {wanted:.1f}.",
        advice=f"{mend} {count} frame{'s' if count > 1 else ''}, or make the hop {'higher' if off > 0 else 'lower'}.",
        overlay=(overlay.frames(first, -round(off)),),
    )


def _least_told(scene: Scene, judged: Hop) -> float:
    """The height, px, from which a hop's duration is judged: a low one only where its drawings tell its flight."""
    flown = len(judged.air) >= FEWEST_FLOWN and not is_counted(scene.reading, judged)
    return (1 if flown else 2) * LEAST_HOP_D * scene.reading.diameter


def _off_for_sure(scene: Scene, judged: Hop, off: float) -> float:
    """Frames by which a hop is off, less what else explains of it and less what counting leaves open."""
    hangs = next((v.hangs for v in scene.verdicts if v.hop is judged), None)
    if off > 0 and hangs:
        # Drawings that crowd about a top, which ``spacing.hangs`` tells, slow those beside it too.
        off = max(0.0, off - CROWDING * max(0.0, hangs.extra - hangs.held))
    if is_counted(scene.reading, judged):
        off = math.copysign(max(0.0, abs(off) - _slack(scene, judged)), off)
    if off < 0:
        # Two equal drawings about the top read as one that is held, but their time is the hop's own; and where only a
        # count tells, no hold does for sure.
        off = min(0.0, off + max(maybe_held(scene.reading, judged), judged.held[judged.air.index(judged.top)]))
    return off


def _slack(scene: Scene, judged: Hop) -> float:
    """How far a duration counted from drawing to drawing may be off, frames.

    Both contacts may lie up to half an exposure away from theirs. The more drawings in the air, the seldomer is that
    so at both ends; with two or one, or where all hops are counted, nothing but the count tells the duration.
    """
    share = 0.5 if len(judged.air) >= FEW_DRAWINGS else 0.75 if len(judged.air) >= 3 else 1.0
    return (1.0 if scene.reading.by_halves else share) * judged.usual


def _voters(scene: Scene) -> int:
    """How many hops tell the clip's gravity: those cut off do where they are flown, not where they are counted."""
    told = [h for h in scene.reading.hops if hop_duration(scene.reading, h) is not None]
    return sum(h.whole or not is_counted(scene.reading, h) for h in told)


def hold(scene: Scene, judged: Hop) -> list[Finding]:
    """``timing.hold``: a drawing is held in the middle of a move, longer than its neighbours.

    Measured: its exposure in frames. Expected: the exposure usual in this hop. Tolerance: 1 frame. Drawings at the
    top (within a tenth of its height), contacts, and the clip's first and last drawing may be held.
    """
    steps = scene.reading.steps
    top = steps[judged.top].height
    allowed = HOLD_FRAMES * scene.leniency
    found = []
    for index, extra in zip(judged.air, judged.held, strict=True):
        step = steps[index]
        at_top = index == judged.top or step.height >= (1 - TOP_SHARE) * top or _shows_the_turn(scene, judged, index)
        if extra <= allowed or at_top or index in (0, len(steps) - 1) or _for_a_contact(judged, index):
            continue
        found.append(
            Finding(
                code="timing.hold",
                principle="timing",
                first_frame=step.frame,
                last_frame=step.last_frame,
                measured=float(step.frames),
                expected=float(judged.usual),
                tolerance=allowed,
                unit="frames",
                severity=severity(extra / allowed),
                confidence=surety(scene.surety([step]), extra / allowed),
                message=f"{span(step.frame, step.last_frame)}: drawing {step.drawing} is held for {step.frames} frames "
                f"in the middle of the move; its neighbours for {judged.usual}. The ball stops in the air.",
                advice=f"Take {extra} frame{'s' if extra > 1 else ''} off drawing {step.drawing}.",
                overlay=(overlay.frames(step.frame, -extra),),
            )
        )
    return found


def _shows_the_turn(scene: Scene, judged: Hop, index: int) -> bool:
    """Whether a drawing beside the highest, the next in height, shows while the ball turns at its top."""
    steps, place = scene.reading.steps, judged.air.index(index)
    other = [steps[i].height for i in judged.air if i not in (index, judged.top)]
    if abs(index - judged.top) != 1 or not judged.whole or steps[index].height < max(other, default=0.0):
        return False
    middle = (judged.span + sum(judged.held)) / 2
    return bool(judged.frames_clock[place] <= middle <= judged.frames_clock[place] + steps[index].frames)


def _for_a_contact(judged: Hop, index: int) -> bool:
    """Whether a drawing is held in place of a contact that was left out, which is that fault and no other."""
    before, after = judged.start, judged.end
    return bool(
        (before and before.missed and index == before.after) or (after and after.missed and index == after.before)
    )
