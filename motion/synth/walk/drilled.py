"""What drills may ask about a walk: where its motions have no room, and which looks hide what they have."""

from __future__ import annotations

from motion.exercises.walk.plan import Plan

NO_ROOM = ("spacing.even", "spacing.surges", "spacing.pops", "contact.scuffs", "timing.opposite", "timing.loop")
LEFT_OUT = ("postwoman", "blister")
"""Of whole figures too many pictures do not yet show a fault alone; and whoever limps has one as it is."""
ONE_SHAPE = False
UNFIT = ("outline", "scan", "photographed")
"""Hollow legs that look alike, and grain."""


def put(plan: Plan, index: int, x: float, y: float) -> Plan | None:
    """A figure is more than one shape."""
    return None
