"""What a pendulum brief asks for."""

from __future__ import annotations

from motion.brief import Brief, PendulumBrief, Swing


def asked_of(brief: Brief) -> PendulumBrief:
    """What the brief asks of the pendulum. Raises TypeError for a brief of another exercise."""
    if not isinstance(brief.asked, PendulumBrief):
        raise TypeError(f"a brief for a {brief.exercise} asks nothing of a pendulum")
    return brief.asked


def swing_of(brief: Brief) -> Swing | None:
    """How the ideal swing of the brief's guide goes, where it has one."""
    return brief.guide if isinstance(brief.guide, Swing) else None


def drags(asked: PendulumBrief) -> bool:
    """Whether later parts must come later."""
    return asked.hangs != "bob" if asked.drag is None else asked.drag
