"""What a bouncing-ball brief asks for."""

from __future__ import annotations

from motion.brief import BounceBrief, Brief, Feel


def asked_of(brief: Brief) -> BounceBrief:
    """What the brief asks of the ball. Raises TypeError for a brief of another exercise."""
    if not isinstance(brief.asked, BounceBrief):
        raise TypeError(f"a brief for a {brief.exercise} asks nothing of a ball")
    return brief.asked


def feel_of(brief: Brief) -> Feel | None:
    """How the ideal bounce of the brief's guide goes, where it has one."""
    return brief.guide if isinstance(brief.guide, Feel) else None
