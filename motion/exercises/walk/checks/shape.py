"""Squash and stretch of a walk: a body or head that keeps its size, limbs that keep their length and bend one way."""

from __future__ import annotations

from collections.abc import Iterator

from motion.checks import overlay
from motion.exercises.walk.checks import mend
from motion.exercises.walk.figure import SIDES, Place, Side, bend_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.sizes import VOLUME, LimbOff
from motion.exercises.walk.steps import Step
from motion.findings import Finding, span

BACKWARDS = 8.0


def check(scene: Scene) -> list[Finding]:
    """Every finding on shapes."""
    return [*scene.merged(list(volume(scene))), *scene.merged(list(length(scene))), *scene.merged(list(bends(scene)))]


def volume(scene: Scene) -> Iterator[Finding]:
    """``volume.changes``: the body, or a whole figure's head, grows or shrinks.

    Measured: its area beside the middle of all drawings, as a share of it. Tolerance: 12 %. A body cut by the edge of
    the frame is not judged.
    """
    allowed, thing = VOLUME * scene.leniency, "head" if scene.asked.figure == "whole" else "body"
    for index, share in sorted(scene.sizes.bodies_off.items()):
        step = scene.reading.steps[index]
        if step.body is None:
            continue
        scale = (1 + share) ** -0.5
        yield scene.finding(
            "volume.changes",
            [step],
            times=abs(share) / allowed,
            measured=share,
            expected=0.0,
            tolerance=allowed,
            unit="share",
            message=f"{span(step.frame, step.last_frame)}: the {thing} of drawing {step.drawing} is "
            f"{100 * abs(share):.0f} % {'larger' if share > 0 else 'smaller'} than in the other drawings.",
            advice=f"Draw the {thing} of drawing {step.drawing} as large as in the others.",
            overlay=(
                overlay.ellipse(
                    step.frame,
                    step.body.x,
                    step.body.y,
                    step.body.major * scale,
                    step.body.minor * scale,
                    step.body.angle,
                ),
            ),
        )


def length(scene: Scene) -> Iterator[Finding]:
    """``volume.length``: a limb grows or shrinks.

    Measured: thigh, shin, trunk, upper arm or forearm beside its own median, as a share of it, where it shows whole.
    Tolerance: the larger of 8 % (of arms 12 %) and 2 px.
    """
    for (name, index), own in sorted(scene.sizes.upper_off.items(), key=lambda one: (one[0][1], one[0][0])):
        step = scene.reading.steps[index]
        mended = mend.trunk(scene, step, own.usual) if name == "trunk" else mend.arm(scene, step, _side_of(name))
        yield _of_another_length(scene, step, own, name, mended)
    for (side, index), off in sorted(scene.sizes.limbs_off.items(), key=lambda one: (one[0][1], one[0][0])):
        if index in scene.reading.swapped:
            continue
        step = scene.reading.steps[index]
        mended = mend.limb(scene, step, side, off.name, off.usual / off.length - 1)
        yield _of_another_length(scene, step, off, f"{side} {off.name}", mended)


def _side_of(name: str) -> Side:
    return "near" if name.startswith("near") else "far"


def _of_another_length(scene: Scene, step: Step, off: LimbOff, name: str, mended: tuple[overlay.Mark, ...]) -> Finding:
    share = off.length / off.usual - 1
    return scene.finding(
        "volume.length",
        [step],
        times=off.times,
        measured=share,
        expected=0.0,
        tolerance=abs(share) / off.times,
        unit="share",
        part=name,
        message=f"{span(step.frame, step.last_frame)}: the {name} of drawing {step.drawing} is "
        f"{100 * abs(share):.0f} % {'longer' if share > 0 else 'shorter'} than in the other drawings.",
        advice=f"Draw the {name} {off.usual:.0f} px long; here it has {off.length:.0f} px.",
        overlay=mended,
    )


def bends(scene: Scene) -> Iterator[Finding]:
    """``form.backwards``: a knee or an elbow bends the wrong way.

    Measured: by how many degrees it bends backwards. Tolerance: 8 degrees.
    """
    allowed = _most_backwards(scene)
    for step in scene.reading.steps:
        for side in SIDES:
            knee = _backwards(scene, step, ("hip", f"knee_{side}", f"ankle_{side}"), 1.0)
            if knee is not None and knee[0] > allowed:
                turn = f"Turn the {side} knee forward in drawing {step.drawing}: knees bend the way the figure walks."
                mended = mend.leg(scene, step, side)
                yield _bent_backwards(scene, step, f"{side} knee", knee, (turn, mended))
            elbow = _backwards(scene, step, ("neck", f"elbow_{side}", f"hand_{side}"), -1.0)
            if elbow is not None and elbow[0] > allowed:
                turn = f"Turn the {side} elbow back in drawing {step.drawing}: a forearm bends forward."
                mended = mend.arm(scene, step, side)
                yield _bent_backwards(scene, step, f"{side} elbow", elbow, (turn, mended))


def _backwards(scene: Scene, step: Step, names: tuple[str, str, str], way: float) -> tuple[float, Place] | None:
    """By how many degrees a joint bends the wrong way, and where it is; None where the limb does not show."""
    root, joint, end = (step.at(n) for n in names)
    if not (root and joint and end):
        return None
    return -way * bend_of(root, joint, end, scene.reading.facing), joint


def knee_is_turned(scene: Scene, step: Step, side: Side) -> bool:
    """Whether a knee is told as one that bends backwards: where it then lies tells nothing else."""
    knee = _backwards(scene, step, ("hip", f"knee_{side}", f"ankle_{side}"), 1.0)
    return knee is not None and knee[0] > _most_backwards(scene)


def _most_backwards(scene: Scene) -> float:
    return BACKWARDS * scene.leniency * scene.unsure


def _bent_backwards(
    scene: Scene, step: Step, name: str, bent: tuple[float, Place], mended: tuple[str, tuple[overlay.Mark, ...]]
) -> Finding:
    allowed, (back, at), (advice, marks) = _most_backwards(scene), bent, mended
    return scene.finding(
        "form.backwards",
        [step],
        times=back / allowed,
        measured=back,
        expected=0.0,
        tolerance=allowed,
        unit="degrees",
        part=name,
        message=f"{span(step.frame, step.last_frame)}: the {name} of drawing {step.drawing} bends backwards by "
        f"{back:.0f}°.",
        advice=advice,
        overlay=(overlay.point(step, *at), *marks),
    )
