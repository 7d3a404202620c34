"""How a figure belongs once a finding is mended, as lines over the drawing: limbs have to be drawn anew."""

from __future__ import annotations

import math
from collections.abc import Iterable

from motion.checks import overlay
from motion.exercises.walk.figure import ARM_JOINTS, SIDES, Place, Side, knee_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Step

FOOT = ("ankle", "heel", "toe")


def foot(scene: Scene, step: Step, side: Side, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """A side's leg with its foot moved by so many px, and its knee where both limbs' usual lengths ask for it."""
    points = dict(step.figure.points) if step.figure else {}
    for joint in FOOT:
        at = points.get(f"{joint}_{side}")
        if at is not None:
            points[f"{joint}_{side}"] = (at[0] + dx, at[1] + dy)
    return _legs(scene, step, points, (side,))


def hips(scene: Scene, step: Step, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """Both legs with the hips moved by so many px while the feet stay."""
    points = dict(step.figure.points) if step.figure else {}
    if "hip" in points:
        points["hip"] = (points["hip"][0] + dx, points["hip"][1] + dy)
    return _legs(scene, step, points, SIDES)


def head(step: Step, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """The head moved by so many px."""
    own = step.body
    if own is None:
        return ()
    return (overlay.ellipse(step.frame, own.x + dx, own.y + dy, own.major, own.minor, own.angle),)


def arm(scene: Scene, step: Step, side: Side, dx: float = 0.0, dy: float = 0.0) -> tuple[overlay.Mark, ...]:
    """A side's arm with its hand moved by so many px, and its elbow where both parts' usual lengths ask for it."""
    points = step.figure.points if step.figure else {}
    neck, hand = points.get("neck"), points.get(f"hand_{side}")
    if neck is None or hand is None:
        return ()
    hand = hand[0] + dx, hand[1] + dy
    upper, fore = scene.usual_arm
    elbow = knee_of(neck, hand, upper, fore, -scene.reading.facing)
    return (overlay.lines(step, [[neck, elbow, hand]]),)


def trunk(scene: Scene, step: Step, length: float) -> tuple[overlay.Mark, ...]:
    """The trunk so long, from the hip up."""
    points = step.figure.points if step.figure else {}
    hip, neck = points.get("hip"), points.get("neck")
    if hip is None or neck is None or hip == neck:
        return ()
    share = length / math.dist(hip, neck)
    return (overlay.lines(step, [[hip, (hip[0] + share * (neck[0] - hip[0]), hip[1] + share * (neck[1] - hip[1]))]]),)


def whole(step: Step, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """The whole figure moved by so many px."""
    points = {n: (x + dx, y + dy) for n, (x, y) in step.figure.points.items()} if step.figure else {}
    several = [line for side in SIDES for line in (*_lines(points, side), *_arm_lines(points, side))]
    return (overlay.lines(step, several),) if several else ()


def leg(scene: Scene, step: Step, side: Side) -> tuple[overlay.Mark, ...]:
    """A side's leg with its limbs as long as they usually are."""
    return _legs(scene, step, dict(step.figure.points) if step.figure else {}, (side,))


def _legs(scene: Scene, step: Step, points: dict[str, Place], sides: Iterable[Side]) -> tuple[overlay.Mark, ...]:
    lengths = scene.usual
    several: list[list[Place]] = []
    for side in sides:
        hip, ankle = points.get("hip"), points.get(f"ankle_{side}")
        if hip is None or ankle is None:
            continue
        points[f"knee_{side}"] = knee_of(hip, ankle, lengths["thigh"], lengths["shin"], scene.reading.facing)
        several += _lines(points, side)
    return (overlay.lines(step, several),) if several else ()


def _arm_lines(points: dict[str, Place], side: Side) -> list[list[Place]]:
    line = [points[n] for n in ("neck", *(f"{joint}_{side}" for joint in ARM_JOINTS)) if n in points]
    return [line] if len(line) > 1 else []


def _lines(points: dict[str, Place], side: Side) -> list[list[Place]]:
    leg_line = [points[n] for n in ("hip", f"knee_{side}", f"ankle_{side}") if n in points]
    sole = [points[n] for n in (f"ankle_{side}", f"heel_{side}", f"toe_{side}", f"ankle_{side}") if n in points]
    return [line for line in (leg_line, sole) if len(line) > 1]
