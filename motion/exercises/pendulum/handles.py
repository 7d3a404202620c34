"""What can be taken hold of on the guide of a pendulum, and what a drag does to its feel."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from motion.brief import Brief
from motion.exercises.exercise import Handle
from motion.exercises.pendulum.carriage import Carriage, easing
from motion.exercises.pendulum.hung import pose_at, time_at
from motion.exercises.pendulum.plan import LATEST, Place, Plan, Pose, Recipe, keys_of, place

SMALLEST, SHORTEST, THINNEST = 8.0, 16.0, 2.0
FINE = 16
"""Halvings by which a drag is found."""
LEAST_DEGREES, MOST_DEGREES = 3.0, 85.0
LEAST_EASING = 0.03
"""A base gathers speed over such a share of its way at least."""


def handles(brief: Brief, plan: Plan) -> list[Handle]:
    """The pivot, how it is let go or carried, length and size; of what hangs in parts its widths and its drag."""
    recipe = plan.recipe
    low = place(recipe.pivot, recipe.length, recipe.rest_angle)
    found = [
        Handle(
            name="pivot",
            x=recipe.pivot[0],
            y=recipe.pivot[1],
            ways="xy",
            label="Pivot",
            value=f"{recipe.pivot[0]:.0f} px from the left, {recipe.pivot[1]:.0f} from the top",
        ),
        *(_of_carriage(recipe, recipe.carriage) if recipe.carriage else [_let_go(plan)]),
        Handle(
            name="length",
            x=low[0],
            y=low[1],
            ways="y",
            label="Length of the line",
            value=f"{recipe.length:.0f} px",
        ),
    ]
    if recipe.hangs == "bob" or recipe.weighted:
        found.append(
            Handle(
                name="size",
                x=low[0] + recipe.size / 2,
                y=low[1],
                ways="x",
                label="Size of the weight",
                value=f"{recipe.size:.0f} px across",
            )
        )
    if recipe.hangs != "bob":
        found += _of_parts(plan)
    second = _second(brief, plan)
    if second is not None:
        there, share = second
        found.append(
            Handle(
                name="keeps",
                x=there[0],
                y=there[1],
                ways="xy",
                label="Second extreme",
                value=f"keeps {100 * share:.0f} % of the angle",
            )
        )
    return found


def drag(brief: Brief, plan: Plan, name: str, to: Place) -> dict[str, Any]:
    """What changes of the guide's feel when a handle is dragged to a place (px); nothing for one that is not there."""
    recipe, (x, y) = plan.recipe, to
    if name == "pivot":
        return {"pivot_x": round(x, 1), "pivot_y": round(y, 1)}
    if name == "length":
        lean = math.cos(math.radians(recipe.rest_angle))
        return {"length": max(SHORTEST, round((y - recipe.pivot[1]) / lean, 1))}
    if name == "carry":
        return {"carry": round(x - recipe.pivot[0], 1)}
    if name == "eases" and recipe.carriage is not None:
        share = (x - recipe.pivot[0]) / recipe.carriage.px
        return {"eases": round(easing(min(0.5, max(LEAST_EASING, share))), 3)}
    if name in ("size", "wide", "thin"):
        beside = abs(x - place(recipe.pivot, recipe.length, recipe.rest_angle)[0])
        if name == "wide":
            beside = abs(x - _upper(recipe)[0])
        return {name: max(SMALLEST if name == "size" else THINNEST, round(2 * beside, 1))}
    hangs_from = recipe.pivot_at(plan.first_swing[0])
    angle = math.degrees(math.atan2(x - hangs_from[0], y - hangs_from[1])) - recipe.rest_angle
    if name == "extreme":
        # What hangs in parts need not hang straight there: its end goes along.
        shown = abs(plan.poses[0].hangs_at - recipe.rest_angle)
        far = max(LEAST_DEGREES, min(MOST_DEGREES, abs(angle) * abs(recipe.angle) / shown))
        return {"angle": round(math.copysign(far, angle), 1)}
    if name == "follows":
        return {"follows": _followed(plan, angle + recipe.rest_angle)}
    second = _second(brief, plan)
    if name == "keeps" and second is not None:
        (there, share), rest = second, recipe.rest_angle
        shown = math.degrees(math.atan2(there[0] - recipe.pivot[0], there[1] - recipe.pivot[1])) - rest
        return {"keeps": round(max(0.3, min(1.0, share * abs(angle / shown))), 3)}
    return {}


def _let_go(plan: Plan) -> Handle:
    """Where it is let go."""
    pose, angle = plan.poses[0], plan.recipe.angle
    return Handle(
        name="extreme",
        x=pose.x,
        y=pose.y,
        ways="xy",
        label="First extreme",
        value=f"{abs(angle):.0f} degrees to the {'right' if angle > 0 else 'left'}",
    )


def _of_carriage(recipe: Recipe, carriage: Carriage) -> list[Handle]:
    """Where its base stops, and how far it goes until it is at its full speed."""
    x, y = recipe.pivot
    return [
        Handle(
            name="carry",
            x=x + carriage.px,
            y=y,
            ways="x",
            label="Where its base stops",
            value=f"{abs(carriage.px):.0f} px to the {'right' if carriage.px > 0 else 'left'}",
        ),
        Handle(
            name="eases",
            x=x + carriage.up_to_speed * carriage.px,
            y=y,
            ways="x",
            label="Where its base is at full speed",
            value=f"after {100 * carriage.eases:.0f} % of its time",
        ),
    ]


def _second(brief: Brief, plan: Plan) -> tuple[Place, float] | None:
    """Where the second extreme is, and what share of the angle it keeps; None in a cycle, which keeps all of it."""
    if plan.motion is None or plan.recipe.carriage is not None or getattr(brief.guide, "end", "") == "cycle":
        return None
    recipe = plan.recipe
    kept = math.degrees(plan.motion.angle(plan.motion.extremes[1]))
    if recipe.hangs == "bob":
        return place(recipe.pivot, recipe.length, kept + recipe.rest_angle), abs(kept / recipe.angle)
    pose = plan.poses[keys_of(plan)[1]]
    return (pose.x, pose.y), abs(kept / recipe.angle)


def _of_parts(plan: Plan) -> list[Handle]:
    """The widths of what hangs in parts; and its end as it passes, which shows how far the parts drag."""
    recipe = plan.recipe
    upper, low = _upper(recipe), place(recipe.pivot, recipe.length, recipe.rest_angle)
    found = [
        Handle(
            name="wide",
            x=upper[0] + recipe.wide / 2,
            y=upper[1],
            ways="x",
            label="Width at the pivot" if recipe.hangs == "tail" else "Width of the links",
            value=f"{recipe.wide:.0f} px",
        )
    ]
    if recipe.hangs == "tail":
        found.append(
            Handle(
                name="thin",
                x=low[0] + recipe.thin / 2,
                y=low[1],
                ways="x",
                label="Width at the end",
                value=f"{recipe.thin:.0f} px",
            )
        )
    passing = _passing(plan, recipe.follows)
    if passing is not None:
        found.append(
            Handle(
                name="follows",
                x=passing.x,
                y=passing.y,
                ways="xy",
                label="Drag of the parts",
                value=f"each {recipe.follows:g} frames after the one above",
            )
        )
    return found


def _upper(recipe: Recipe) -> Place:
    """Where the width at the pivot is taken hold of: a quarter of the way down."""
    return place(recipe.pivot, recipe.length / 4, recipe.rest_angle)


def _passing(plan: Plan, follows: float) -> Pose | None:
    """How it hangs when its first part first passes the rest line, with parts so many frames one after the other."""
    recipe, course = replace(plan.recipe, follows=follows), plan.course
    if course is None:
        return None
    alone = replace(recipe, hangs="bob")
    time = time_at(alone, course, recipe.rest_angle, plan.first_swing)
    return pose_at(recipe, course, time, 1, "swing", 0)


def _followed(plan: Plan, angle: float) -> float:
    """By how many frames each part comes later where the end passes at an angle (degrees from straight down)."""
    side = math.copysign(1.0, plan.recipe.angle)
    low, high = 0.0, LATEST * plan.recipe.swing_frames
    for _ in range(FINE):
        middle = (low + high) / 2
        passing = _passing(plan, middle)
        # The later the parts come, the nearer is the end still to where it was let go.
        behind = passing is not None and side * passing.hangs_at > side * angle
        low, high = (low, middle) if behind else (middle, high)
    return math.floor(10 * low + 0.5) / 10
