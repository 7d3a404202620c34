"""The checks of a bounce, a module a principle or a pattern; each finding is made in one place."""

from __future__ import annotations

from motion.exercises.bounce.checks import arcs, as_asked, contact, spacing, squash_stretch, timing
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding

CHECKS = (spacing.check, arcs.check, squash_stretch.check, contact.check, timing.check)
LACKING = "preflight.no_bounce"
NO_BOUNCE = {
    "stays down": "The ball stays on the ground all through, so there is no bounce to judge yet. Let it leave the "
    "ground, or see whether the right clip was handed in.",
    "stays up": "The ball stays in the air all through, so there is no bounce to judge yet. Let it meet the ground "
    "and rise again; if it does, show where the ground is.",
}


def judged(scene: Scene) -> list[Finding]:
    """Every finding of a clip; of one without a bounce only what can be said of any clip."""
    checks = (as_asked.of_clip,) if scene.without_bounce else CHECKS
    return [finding for check in checks for finding in check(scene)]


def lacks(scene: Scene) -> tuple[str, str] | None:
    """What the ball does instead of bouncing, as a preflight point."""
    instead = scene.without_bounce
    return (LACKING, NO_BOUNCE[instead]) if instead else None
