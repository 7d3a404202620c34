"""How arms belong that swing at another moment, or evenly: every drawing's arms as lines over the drawing."""

from __future__ import annotations

import math
from collections.abc import Iterable

from motion.checks import overlay
from motion.exercises.walk.checks import mend
from motion.exercises.walk.checks.remade import Marks, between
from motion.exercises.walk.figure import ARM_JOINTS, Place, Side
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Step


def rearmed(scene: Scene, sides: Iterable[Side], stride: float) -> Marks:
    """Arms as they are half a stride (frames) later or before, hung on each drawing's own neck."""
    last = scene.reading.steps[-1].clock
    found = []
    for step in scene.reading.steps:
        clock = step.clock + stride / 2 if step.clock + stride / 2 <= last else step.clock - stride / 2
        neck = mend.points_of(step).get("neck")
        for side in sides:
            names = [f"{joint}_{side}" for joint in ARM_JOINTS]
            hung = [between(scene, n, clock, _from_neck) for n in names]
            if neck is None or clock < 0 or any(at is None for at in hung):
                continue
            moved = {n: (neck[0] + at[0], neck[1] + at[1]) for n, at in zip(names, hung, strict=True) if at}
            found.append(overlay.lines(step, [[neck, *moved.values()]], moved))
    return tuple(found)


def _from_neck(step: Step, place: Place) -> Place:
    neck = mend.points_of(step).get("neck", place)
    return place[0] - neck[0], place[1] - neck[1]


def turned(scene: Scene, side: Side, angles: Iterable[tuple[Step, float]]) -> Marks:
    """An arm turned forward about the neck by so many degrees in each of some drawings."""
    found = []
    for step, degrees in angles:
        points = mend.points_of(step)
        names = [f"{joint}_{side}" for joint in ARM_JOINTS if f"{joint}_{side}" in points]
        neck, turn = points.get("neck"), -scene.reading.facing * math.radians(degrees)
        if neck is None or not names:
            continue
        moved = {}
        for name in names:
            away = complex(points[name][0] - neck[0], points[name][1] - neck[1]) * complex(
                math.cos(turn), math.sin(turn)
            )
            moved[name] = (neck[0] + away.real, neck[1] + away.imag)
        found.append(overlay.lines(step, [[neck, *moved.values()]], moved))
    return tuple(found)
