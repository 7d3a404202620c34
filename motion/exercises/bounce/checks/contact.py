"""Contact: the drawing in which the ball touches."""

from __future__ import annotations

from motion.checks import overlay
from motion.exercises.bounce.checks import touching
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.hops import Step
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety

GAP_D = 0.04
GAP_PX = 2.0
# So many touching drawings in a row are a roll or a rest, not one contact.
RESTING = 4
# A level inferred from hand-drawn turns is only as sure as the hand.
INFERRED = 1.4


def check(scene: Scene) -> list[Finding]:
    """Every contact finding of a bounce."""
    found = []
    for contact in scene.reading.contacts:
        finding = missed(scene, contact) if contact.missed else gap(scene, contact) or through(scene, contact)
        if finding is not None:
            found.append(finding)
    return [*found, *touching.check(scene)]


def gap(scene: Scene, contact: Contact) -> Finding | None:
    """``contact.gap``: the contact drawing hangs above the ground.

    Measured: its bottom above the ground, px; of several contact drawings the lowest counts. Tolerance: 0.04 D, at
    least 2 px; 1.4 times that where the ground is not drawn but told from the turns.
    """
    steps = [scene.reading.steps[i] for i in contact.steps]
    # Where the ball begins to roll or rest, it is the landing that must touch.
    landing = contact.lands_first or len(steps) >= RESTING
    lowest = steps[0] if landing else min(steps, key=lambda s: s.clearance)
    allowed = _allowed(scene)
    if lowest.clearance <= allowed:
        return None
    return _finding(
        scene,
        "contact.gap",
        [lowest],
        lowest.clearance,
        allowed,
        f"{span(lowest.frame, lowest.last_frame)} should be the contact, but the ball hangs "
        f"{lowest.clearance:.1f} px above the ground.",
        f"Lower drawing {lowest.drawing} by {lowest.clearance:.0f} px, until its edge rests on the ground line.",
    )


def through(scene: Scene, contact: Contact) -> Finding | None:
    """``contact.through``: the drawing goes into the ground.

    Measured: its bottom below the ground, px. Tolerance: 0.04 D, at least 2 px; 1.4 times that
    where the ground is not drawn but told from the turns.
    """
    steps = [scene.reading.steps[i] for i in contact.steps]
    allowed = _allowed(scene)
    sunk = [s for s in steps if -s.clearance > allowed]
    if not sunk:
        return None
    deepest = min(sunk, key=lambda s: s.clearance)
    depth = -deepest.clearance
    return _finding(
        scene,
        "contact.through",
        sunk,
        depth,
        allowed,
        f"{span(sunk[0].frame, sunk[-1].last_frame)}: the ball goes {depth:.1f} px into the ground.",
        f"Raise drawing {deepest.drawing} by {depth:.0f} px, until its edge rests on the ground line.",
    )


def _allowed(scene: Scene) -> float:
    """How far off the ground is still on it, px: more where the ground is not drawn but inferred from the turns."""
    return scene.px(GAP_D, GAP_PX) * (1.0 if scene.reading.ground.drawn else INFERRED)


def missed(scene: Scene, contact: Contact) -> Finding:
    """``contact.missed``: the ball turns round without any drawing at the ground.

    No drawing was placed as the contact, the drawings on both sides lie on their flights, and the flights meet
    within 0.3 D of the ground. Measured: how high the lower of them is above the ground, px. Tolerance: as for a
    contact that hangs.
    """
    steps = scene.reading.steps
    before, after = steps[contact.before], steps[contact.after]
    lowest = min(before, after, key=lambda s: s.clearance)
    allowed = _allowed(scene)
    times = max(1.0, lowest.clearance / allowed)
    x = (before.x + after.x) / 2
    size = scene.reading.diameter
    return Finding(
        code="contact.missed",
        principle="contact",
        first_frame=before.last_frame,
        last_frame=after.frame,
        measured=lowest.clearance,
        expected=0.0,
        tolerance=allowed,
        unit="px",
        severity=severity(times),
        confidence=surety(scene.surety([before, after]), times),
        message=f"{span(before.last_frame, after.frame)}: the ball turns round between two drawings without touching "
        f"the ground; the lower one is {lowest.clearance:.0f} px above it.",
        advice="Draw a contact: the ball on the ground line, in place of the lower of the two or between them.",
        overlay=(overlay.ellipse(before.last_frame, x, scene.reading.ground.y_at(x) - size / 2, size, size),),
    )


def _finding(
    scene: Scene, code: str, steps: list[Step], off: float, allowed: float, message: str, advice: str
) -> Finding:
    ground = scene.reading.ground
    worst = max(steps, key=lambda s: abs(s.clearance))
    sure = [*scene.surety(steps), ground.confidence]
    level = ground.y_at(worst.x)
    return Finding(
        code=code,
        principle="contact",
        first_frame=steps[0].frame,
        last_frame=steps[-1].last_frame,
        measured=off,
        expected=0.0,
        tolerance=allowed,
        unit="px",
        severity=severity(off / allowed),
        confidence=surety(sure, off / allowed),
        message=message,
        advice=advice,
        overlay=(
            overlay.gap(worst, worst.x, worst.shape.bottom, worst.x, level),
            overlay.place(worst, worst.x, worst.y + level - worst.shape.bottom),
        ),
    )
