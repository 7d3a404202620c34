"""The checks of a pendulum, a module a principle; each finding is made in one place.

A drawing held or put wrong is told once: ``arcs`` come first, since a line of another length is told there, and what is
told of a whole swing stands for its drawings.
"""

from __future__ import annotations

from motion.exercises.pendulum.checks import arcs, as_asked, contact, overlap, shape, spacing, timing
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding

CHECKS = (spacing.check, arcs.check, shape.check, contact.check, timing.check, overlap.check, as_asked.check)


def judged(scene: Scene) -> list[Finding]:
    """Every finding of a clip."""
    return [finding for check in CHECKS for finding in check(scene)]


def lacks(scene: Scene) -> tuple[str, str] | None:
    """Why there is nothing to judge; a pendulum that was read always has something."""
    return None
