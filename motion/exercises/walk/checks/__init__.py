"""The checks of a walk, a module a principle; each finding is made in one place.

One fault is one finding: a limb of another length explains a foot that does not reach the ground, a foot that goes into
the ground or hangs above it is not also out of its place, and legs told the wrong way round are one finding.
"""

from __future__ import annotations

from motion.exercises.walk.checks import arcs, as_asked, contact, outline, shape, spacing, timing
from motion.exercises.walk.scene import Scene
from motion.findings import Finding

CHECKS = (spacing.check, arcs.check, shape.check, contact.check, timing.check, as_asked.check)
BY_OUTLINE = (outline.check, as_asked.check)


def judged(scene: Scene) -> list[Finding]:
    """Every finding of a clip; of one whose joints could not be told, those that its outline tells."""
    checks = CHECKS if scene.reading.told else BY_OUTLINE
    return [finding for check in checks for finding in check(scene)]


def lacks(scene: Scene) -> tuple[str, str] | None:
    """Why not all can be judged: the figure's joints could not be told."""
    if scene.reading.told:
        return None
    return (
        "preflight.figure",
        "The legs’ joints could not be told in these drawings. What the outline tells is judged: feet on the ground, "
        "rise and fall, steps and exposures. Place the figure in one drawing, and the rest is looked for again.",
    )
