"""What hangs in parts, as the guide has it: each part goes as the one above, some frames later.

A chain's links keep their lengths and stay straight; a tail bends evenly along its whole length.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import replace

from motion.exercises.pendulum.parts import TAIL_PARTS
from motion.exercises.pendulum.plan import Course, Place, Plan, Pose, Recipe, Role, place
from motion.outlines import Outline, capsule, ribbon

SEGMENTS = 24
"""So many straight pieces a tail is drawn in."""
SHOWN = 8
"""... and is told in."""
FINE = 24
"""Halvings by which a time is found."""


def lateness(recipe: Recipe) -> float:
    """By how many frames what comes last comes after what hangs at the pivot: its last link, the tip of a tail."""
    return recipe.follows * (TAIL_PARTS if recipe.hangs == "tail" else parts_of(recipe) - 1)


def parts_of(recipe: Recipe) -> int:
    """In how many parts it hangs."""
    return {"bob": 1, "chain": recipe.links, "tail": TAIL_PARTS}[recipe.hangs]


def points(recipe: Recipe, course: Course, time: float) -> tuple[Place, ...]:
    """Where it is at a time: from the pivot through every joint to the end, px."""
    if recipe.hangs == "tail":
        # It bends from the pivot on; a part of it is told by its chord, which goes as its middle does.
        shares = [TAIL_PARTS * (k + 0.5) / SEGMENTS for k in range(SEGMENTS)]
    else:
        shares = [float(k) for k in range(parts_of(recipe))]
    found, each = [recipe.pivot_at(time)], recipe.length / len(shares)
    for share in shares:
        swung = course(time - share * recipe.follows) - recipe.rest_angle
        found.append(place(found[-1], each, recipe.rest_angle + swung * (1 + share * recipe.bend)))
    return tuple(found)


def pose_at(recipe: Recipe, course: Course, time: float, frames: int, role: Role, swing: int) -> Pose:
    """The drawing at a time; its own angle is that of the straight line from the pivot to the end."""
    line = points(recipe, course, time)
    top, (x, y) = line[0], line[-1]
    wide = recipe.size if recipe.hangs == "bob" or recipe.weighted else end_width(recipe)
    return Pose(
        x=x,
        y=y,
        major=wide,
        minor=wide,
        angle=0.0,
        frames=frames,
        role=role,
        swing=swing,
        # What rests in all its parts hangs at one angle, whatever the last digits of its place say.
        hangs_at=round(math.degrees(math.atan2(x - top[0], y - top[1])), 6),
        top=top,
        joints=line[1:-1],
        time=time,
        base=top if recipe.carriage else None,
    )


def hung_again(plan: Plan, later: Callable[[float], float]) -> Plan:
    """The same with each part so many frames after the one above as ``later`` says of a time (frames)."""
    if plan.course is None:
        return plan
    course = plan.course
    poses = [
        pose_at(replace(plan.recipe, follows=later(p.time)), course, p.time, p.frames, p.role, p.swing)
        for p in plan.poses
    ]
    return replace(plan, poses=tuple(poses))


def end_width(recipe: Recipe) -> float:
    """How wide it is where it ends, px."""
    return recipe.thin if recipe.hangs == "tail" else recipe.wide


def outlines(pose: Pose, recipe: Recipe, inset: float = 0.0) -> list[Outline]:
    """The outlines of a drawing's parts from the pivot on, px, ``inset`` px within them; of a bob none.

    A rounded end reaches beyond the last point by half its width, as it does beyond the pivot.
    """
    line = (pose.top, *pose.joints, (pose.x, pose.y))
    if recipe.hangs == "bob" or recipe.wide <= 2 * inset:
        return []
    if recipe.hangs == "tail":
        return [ribbon(line, recipe.wide - 2 * inset, max(1.0, recipe.thin - 2 * inset))]
    begins = dict(pose.apart)
    wide = recipe.wide - 2 * inset
    return [capsule(begins.get(k, a), b, wide) for k, (a, b) in enumerate(itertools.pairwise(line))]


def told(pose: Pose, recipe: Recipe) -> tuple[Place, ...]:
    """A drawing's points as a track tells them: of a tail nine, at equal distances."""
    line = (pose.top, *pose.joints, (pose.x, pose.y))
    return line[:: SEGMENTS // SHOWN] if recipe.hangs == "tail" else line


def time_at(recipe: Recipe, course: Course, angle: float, between: tuple[float, float]) -> float:
    """When, between two times of which one lies before and one after, the end hangs at an angle (degrees)."""

    def at(time: float) -> float:
        return pose_at(recipe, course, time, 1, "swing", 0).hangs_at

    low, high = between
    rising = at(high) > at(low)
    for _ in range(FINE):
        middle = (low + high) / 2
        low, high = (middle, high) if (at(middle) < angle) == rising else (low, middle)
    return (low + high) / 2
