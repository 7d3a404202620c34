"""What a walk brief asks for."""

from __future__ import annotations

from motion.brief import Brief, Stride, WalkBrief


def asked_of(brief: Brief) -> WalkBrief:
    """What the brief asks of the walk. Raises TypeError for a brief of another exercise."""
    if not isinstance(brief.asked, WalkBrief):
        raise TypeError(f"a brief for a {brief.exercise} asks nothing of a walk")
    return brief.asked


def stride_of(brief: Brief) -> Stride | None:
    """How the ideal walk of the brief's guide goes, where it has one."""
    return brief.guide if isinstance(brief.guide, Stride) else None
