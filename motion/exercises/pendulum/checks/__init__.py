"""The checks of a pendulum, a module a principle; each finding is made in one place.

A drawing held or put wrong is told once: ``arcs`` come first, since a line of another length is told there, and what is
told of a whole swing stands for its drawings.
"""

from __future__ import annotations

from motion.exercises.pendulum.carry import drawn
from motion.exercises.pendulum.checks import arcs, as_asked, base, contact, overlap, shape, spacing, timing
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding

JERKED = 3
"""So many drawings beside where what carries it starts or stops at once may be jerked by that."""
LACKING = "preflight.weight"
NOT_ROUND = (
    "What hangs here is no round weight, and its outline tells only about where it is. Its swings’ angles and timing "
    "are judged; whether single drawings keep their place, arc and volume is not. Place it in one drawing and let the "
    "others be found again: then their place and arc are judged, too."
)
BY_ITS_SHAPE = ("volume.", "arc.off_path", "arc.straight", "contact.", "spacing.jump", "spacing.even")
"""What is told from where exactly a weight is in each drawing, and how large."""
STOPS = {"spacing.dead_stop", "overlap.stops_together"}
SHIFTS = ("volume.length", "contact.joint")
CHECKS = (
    spacing.check,
    arcs.check,
    shape.check,
    contact.check,
    timing.check,
    overlap.check,
    base.check,
    as_asked.check,
)


def judged(scene: Scene) -> list[Finding]:
    """Every finding of a clip."""
    found = [finding for check in CHECKS for finding in check(scene)]
    if scene.shapeless:
        return [f for f in found if not f.code.startswith(BY_ITS_SHAPE)]
    if {f.code for f in found} >= STOPS:
        # What is stopped at speed stops in all its parts; what has nearly settled is judged by how those come to rest.
        less = "spacing.dead_stop" if scene.reading.settled else "overlap.stops_together"
        found = [f for f in found if f.code != less]
    # A link drawn longer, or come apart, takes all below it with it.
    shifted = [(f.first_frame, f.last_frame) for f in found if f.part and f.code in SHIFTS]
    found = [f for f in found if f.code != "spacing.jump" or not any(_within(f, span) for span in shifted)]
    if scene.carry is None:
        return found
    # What starts or stops at once jerks what hangs from it.
    jerks = [f for f in found if f.part == base.BASE and f.code != "spacing.jump"]
    found = [f for f in found if f.code != "spacing.jump" or f.part or not any(_beside(f, j, scene) for j in jerks)]
    return drawn(found, scene.carry)


def _beside(finding: Finding, jerk: Finding, scene: Scene) -> bool:
    """Whether a drawing is next to where the base starts or stops."""
    near = JERKED * scene.reading.usual
    return any(abs(finding.first_frame - frame) <= near for frame in (jerk.first_frame, jerk.last_frame))


def _within(finding: Finding, span: tuple[int, int]) -> bool:
    return span[0] <= finding.first_frame and finding.last_frame <= span[1]


def lacks(scene: Scene) -> tuple[str, str] | None:
    """Why not all can be judged: what hangs is no round weight."""
    return (LACKING, NOT_ROUND) if scene.shapeless else None
