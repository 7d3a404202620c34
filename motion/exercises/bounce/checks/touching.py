"""How a ball behaves while it touches."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.hops import Step
from motion.exercises.bounce.scene import Scene
from motion.exercises.bounce.sliding import SLIDES_D, carries
from motion.findings import Finding, severity, span, surety

LONGEST = {"hard": 3, "firm": 4, "soft": 6}
"""Frames at 24 a second for which a ball of a material may stay down."""
FPS = 24.0


def check(scene: Scene) -> Iterator[Finding]:
    """Every finding about contacts that last; the one at which the ball comes to rest is none of them."""
    for contact in scene.reading.contacts:
        if contact.missed or not _leaves_again(scene, contact):
            continue
        yield from slides(scene, contact)
        yield from sticks(scene, contact)


def _leaves_again(scene: Scene, contact: Contact) -> bool:
    """Whether a contact lies between two flights: a clip may begin on the ground and come to rest on it."""
    rests = bool(scene.reading.rest) and scene.reading.rest[0] <= contact.after
    return contact.before >= 0 and contact.after < len(scene.reading.steps) and not rests


def slides(scene: Scene, contact: Contact) -> Iterator[Finding]:
    """``contact.slides``: it skids while it touches.

    Measured: how far it moves along the ground from the first to the last drawing of a contact, px. Tolerance: what
    the speed across of the flights beside it comes to in that time and half an exposure, at least 0.1 D.
    """
    steps = [scene.reading.steps[i] for i in contact.steps]
    if len(steps) < 2:
        return
    first, last = steps[0], steps[-1]
    carried = carries(scene.reading, contact)
    allowed = max(SLIDES_D * scene.reading.diameter, carried) * scene.leniency
    moved = abs(last.x - first.x)
    if moved <= allowed:
        return
    way = np.sign(last.x - first.x)
    # Set back towards where the ball touched first; on its way across it may go on a little.
    home = first.x + way * min(carried, moved) / 2
    yield Finding(
        code="contact.slides",
        principle="contact",
        first_frame=first.frame,
        last_frame=last.last_frame,
        measured=moved,
        expected=0.0,
        tolerance=allowed,
        unit="px",
        severity=severity(moved / allowed),
        confidence=surety(scene.surety(steps), moved / allowed),
        message=f"{span(first.frame, last.last_frame)}: the ball skids {moved:.0f} px along the ground while it "
        "touches.",
        advice=f"Keep it where it lands: move drawing {last.drawing} {abs(last.x - home):.0f} px back.",
        overlay=(
            overlay.gap(last, last.x, last.shape.bottom, home, scene.reading.ground.y_at(home)),
            *(_set_back(scene, step, first, last, float(home)) for step in steps[1:]),
        ),
    )


def _set_back(scene: Scene, step: Step, first: Step, last: Step, home: float) -> overlay.Mark:
    share = (step.x - first.x) / (last.x - first.x)
    x = first.x + share * (home - first.x)
    return overlay.place(step, x, step.y + scene.reading.ground.y_at(x) - scene.reading.ground.y_at(step.x))


def sticks(scene: Scene, contact: Contact) -> Iterator[Finding]:
    """``contact.sticks``: it stays down too long.

    Measured: frames for which the drawings of a contact show. Tolerance: 3 frames for a hard ball, 4 for a firm one, 6
    for a soft one, at 24 frames a second; one drawing on its usual exposure is always allowed.
    """
    steps = [scene.reading.steps[i] for i in contact.steps]
    frames = sum(s.frames for s in steps)
    material = scene.asked.material
    usual = min((h.usual for h in scene.reading.hops if contact in (h.start, h.end)), default=1)
    allowed = max(LONGEST[material] * scene.brief.fps / FPS * scene.leniency, float(usual))
    if frames <= allowed:
        return
    away = int(np.ceil(frames - allowed))
    longest = max(steps, key=lambda s: s.frames)
    mend = (
        f"Take {away} frame{'s' if away > 1 else ''} off drawing {longest.drawing}."
        if longest.frames > away
        else f"Take {away} frame{'s' if away > 1 else ''} out of the contact."
    )
    yield Finding(
        code="contact.sticks",
        principle="contact",
        first_frame=steps[0].frame,
        last_frame=steps[-1].last_frame,
        measured=float(frames),
        expected=0.0,
        tolerance=allowed,
        unit="frames",
        severity=severity(frames / allowed),
        confidence=surety(scene.surety(steps), frames / allowed),
        message=f"{span(steps[0].frame, steps[-1].last_frame)}: the ball stays down for {frames} frames "
        f"({frames / scene.brief.fps:.2f} s). A {material} ball is off the ground again within {int(allowed)}.",
        advice=mend,
        overlay=(overlay.frames(longest.frame, -away),),
    )
