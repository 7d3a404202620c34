"""What can be taken hold of on the guide of a pendulum, and what a drag does to its feel."""

from __future__ import annotations

import math
from typing import Any

from motion.brief import Brief
from motion.exercises.exercise import Handle, Place
from motion.exercises.pendulum.plan import Plan, place

SMALLEST, SHORTEST = 8.0, 16.0
LEAST_DEGREES, MOST_DEGREES = 3.0, 85.0


def handles(brief: Brief, plan: Plan) -> list[Handle]:
    """The pivot, the weight at its first extreme, its size, the line's length, and the extreme after the first."""
    recipe = plan.recipe
    first = recipe.angle + recipe.rest_angle
    x, y = place(recipe.pivot, recipe.length, first)
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
        Handle(
            name="extreme",
            x=x,
            y=y,
            ways="xy",
            label="First extreme",
            value=f"{abs(recipe.angle):.0f} degrees to the {'right' if recipe.angle > 0 else 'left'}",
        ),
        Handle(
            name="length",
            x=low[0],
            y=low[1],
            ways="y",
            label="Length of the line",
            value=f"{recipe.length:.0f} px",
        ),
        Handle(
            name="size",
            x=low[0] + recipe.size / 2,
            y=low[1],
            ways="x",
            label="Size of the weight",
            value=f"{recipe.size:.0f} px across",
        ),
    ]
    kept = _second(brief, plan)
    if kept is not None:
        there = place(recipe.pivot, recipe.length, kept + recipe.rest_angle)
        found.append(
            Handle(
                name="keeps",
                x=there[0],
                y=there[1],
                ways="xy",
                label="Second extreme",
                value=f"keeps {100 * abs(kept / recipe.angle):.0f} % of the angle",
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
    if name == "size":
        low = place(recipe.pivot, recipe.length, recipe.rest_angle)
        return {"size": max(SMALLEST, round(2 * abs(x - low[0]), 1))}
    angle = math.degrees(math.atan2(x - recipe.pivot[0], y - recipe.pivot[1])) - recipe.rest_angle
    if name == "extreme":
        far = max(LEAST_DEGREES, min(MOST_DEGREES, abs(angle)))
        return {"angle": round(math.copysign(far, angle), 1)}
    if name == "keeps" and _second(brief, plan) is not None:
        return {"keeps": round(max(0.3, min(1.0, abs(angle / recipe.angle))), 3)}
    return {}


def _second(brief: Brief, plan: Plan) -> float | None:
    """The angle of the second extreme; None in a cycle, which keeps all of it."""
    guide = brief.guide
    if plan.motion is None or getattr(guide, "end", "") == "cycle":
        return None
    return math.degrees(plan.motion.angle(plan.motion.extremes[1]))
