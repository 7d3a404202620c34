"""How a figure belongs once a finding is mended, as lines over the drawing: limbs have to be drawn anew."""

from __future__ import annotations

from collections.abc import Iterable

from motion.checks import overlay
from motion.exercises.walk.figure import SIDES, Place, Side, knee_of
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


def whole(step: Step, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """The whole figure moved by so many px."""
    points = {n: (x + dx, y + dy) for n, (x, y) in step.figure.points.items()} if step.figure else {}
    several = [line for side in SIDES for line in _lines(points, side)]
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


def _lines(points: dict[str, Place], side: Side) -> list[list[Place]]:
    leg_line = [points[n] for n in ("hip", f"knee_{side}", f"ankle_{side}") if n in points]
    sole = [points[n] for n in (f"ankle_{side}", f"heel_{side}", f"toe_{side}", f"ankle_{side}") if n in points]
    return [line for line in (leg_line, sole) if len(line) > 1]
