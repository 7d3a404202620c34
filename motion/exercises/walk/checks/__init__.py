"""The checks of a walk, a module a principle; each finding is made in one place.

One fault is one finding: a limb of another length explains a foot that does not reach the ground, a foot that goes into
the ground or hangs above it is not also out of its place, and legs told the wrong way round are one finding.
"""

from __future__ import annotations

from motion.exercises.walk.checks import again, arcs, as_asked, contact, outline, shape, spacing, style, timing
from motion.exercises.walk.scene import Scene
from motion.findings import Finding

CHECKS = (spacing.check, arcs.check, shape.check, contact.check, timing.check, as_asked.check, style.check)
OF_STEPS = ("timing.limps", "timing.passing", "spacing.stride", "timing.down_up")
OF_PLACES = ("spacing.jump", "arc.off_path", "contact.slides", "contact.gap", "spacing.surges")
AT_THE_SEAM = ("spacing.jump", "arc.off_path", "contact.slides", "contact.gap", "spacing.surges")
OF_THE_LAST_STEP = ("timing.limps", "spacing.stride")
"""Where a cycle does not close its last step is as long, and takes as long, as what is there of it."""
LACKING = "preflight.figure"
NOT_TOLD = (
    "The legs’ joints could not be told in these drawings. What the outline tells is judged: feet on the ground, rise "
    "and fall, steps and exposures. Place the figure in one drawing, and the rest is looked for again."
)
BY_OUTLINE = (outline.check, as_asked.check)


def judged(scene: Scene) -> list[Finding]:
    """Every finding of a clip; of one whose joints could not be told, those that its outline tells."""
    checks = CHECKS if scene.reading.told else BY_OUTLINE
    found = explained([finding for check in checks for finding in check(scene)], scene)
    out = style.not_judged(scene)
    return again.once([finding for finding in found if finding.code not in out], scene.reading.steps)


def explained(found: list[Finding], scene: Scene) -> list[Finding]:
    """The findings without those that another one explains."""
    codes = {f.code for f in found}
    aloft = [f for f in found if f.code == "contact.airborne"]
    left = found
    if aloft:
        # Where nothing stands no step can be told, and all of the figure is off its arcs.
        left = [f for f in left if f.code not in OF_STEPS and not (f.code in OF_PLACES and _beside(f, aloft, scene))]
    if scene.limp is not None and scene.limp.shows and not scene.reading.across:
        # The ground passes at one speed: steps of two lengths of time cannot both go with it.
        left = [f for f in left if f.code != "contact.slides"]
    if "spacing.even" in codes:
        # Arms that go evenly turn round at once: hands leave every smooth curve there.
        left = [f for f in left if not (f.code in ("spacing.jump", "arc.off_path") and f.part.endswith("hand"))]
    snaps = [f for f in found if f.code == "spacing.pops"]
    if snaps:
        left = [f for f in left if f.code not in ("spacing.jump", "arc.off_path") or not _beside(f, snaps, scene)]
    if "spacing.surges" in codes:
        left = [f for f in left if f.code != "timing.passing"]
    if "timing.loop" in codes:
        last = scene.reading.steps[-1]
        ends = {scene.reading.steps[0].frame, last.last_frame}
        left = [f for f in left if f.code not in AT_THE_SEAM or not {f.first_frame, f.last_frame} & ends]
        left = [f for f in left if f.code not in OF_THE_LAST_STEP and not _over_the_seam(f, scene)]
    return left


def _over_the_seam(finding: Finding, scene: Scene) -> bool:
    """Whether legs are told to pass at the wrong time in that step alone that leads over the seam."""
    return (
        finding.code == "timing.passing"
        and finding.first_frame >= scene.reading.steps[scene.reading.paces[-1].start.index].frame
    )


def _beside(finding: Finding, others: list[Finding], scene: Scene) -> bool:
    """Whether it lies within two drawings of one of some others."""
    near = 2 * max(s.frames for s in scene.reading.steps)
    return any(
        o.first_frame - near <= finding.last_frame and finding.first_frame <= o.last_frame + near for o in others
    )


def lacks(scene: Scene) -> tuple[str, str] | None:
    """Why not all can be judged: the figure's joints could not be told."""
    if scene.reading.told:
        return None
    return LACKING, NOT_TOLD
