"""What can be taken hold of on the guide of a walk, and what a drag does to its feel."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from motion.brief import Brief
from motion.exercises.exercise import Handle, Place
from motion.exercises.walk.figure import HIP_UP
from motion.exercises.walk.plan import Plan, Recipe, pose

SOLVED = 40
MOST_RISE = 0.25
"""Of the leg: more rise and fall than that is no walk."""


def handles(brief: Brief, plan: Plan) -> list[Handle]:
    """Hips, ground, step, lift, rise and fall, and the body's height."""
    recipe, gait = plan.recipe, plan.recipe.gait
    contact = pose(recipe, 0.0, 1)
    passing = pose(recipe, recipe.step_frames / 2, 1)
    hip, toe = contact.landmarks["hip"], contact.landmarks["heel_near"]
    swings = min(("far", "near"), key=lambda side: passing.landmarks[f"heel_{side}"][1])
    foot = passing.landmarks[f"heel_{swings}"]
    return [
        Handle(
            name="hips",
            x=hip[0],
            y=hip[1],
            ways="xy",
            label="Hips",
            value=f"{hip[0]:.0f} px from the left, legs of {gait.leg:.0f} px",
        ),
        Handle(
            name="ground",
            x=plan.width / 2,
            y=recipe.ground,
            ways="y",
            label="Ground",
            value=f"{recipe.ground:.0f} px from the top",
            line=True,
        ),
        Handle(name="step", x=toe[0], y=toe[1], ways="x", label="Step", value=f"{gait.step:.0f} px long"),
        Handle(
            name="lift",
            x=foot[0],
            y=foot[1],
            ways="y",
            label="Lift of the foot",
            value=f"the sole passes {gait.lift:.0f} px above the ground",
        ),
        Handle(
            name="rise",
            x=contact.x + recipe.facing * contact.minor / 2,
            y=contact.y - gait.rise,
            ways="y",
            label="Rise and fall",
            value=f"{gait.rise:.0f} px",
        ),
        Handle(
            name="body",
            x=contact.x,
            y=contact.y - contact.major / 2,
            ways="y",
            label="Height of the body",
            value=f"{contact.major:.0f} px high",
        ),
    ]


def drag(brief: Brief, plan: Plan, name: str, to: Place) -> dict[str, Any]:
    """The feel's values, by key, once a handle was dragged to a point (px)."""
    recipe, gait = plan.recipe, plan.recipe.gait
    contact = pose(recipe, 0.0, 1)
    hip = contact.landmarks["hip"]
    if name == "hips":
        high = max(0.3, (recipe.ground - to[1]) / (recipe.ground - hip[1]))
        return {"start_x": round(to[0], 1), "leg": round(min(2000.0, max(40.0, gait.leg * high)), 1)}
    if name == "ground":
        return {"ground": round(to[1], 1)}
    if name == "step":
        ahead = recipe.facing * (to[0] - hip[0])
        now = recipe.facing * (contact.landmarks["heel_near"][0] - hip[0])
        return {"step": round(max(10.0, gait.step + 2 * (ahead - now)), 1)}
    if name == "lift":
        passing = pose(recipe, recipe.step_frames / 2, 1)
        now = min(passing.landmarks[f"heel_{side}"][1] for side in ("near", "far"))
        return {"lift": round(min(600.0, max(0.0, gait.lift + now - to[1])), 1)}
    if name == "rise":
        return {"rise": round(_rise_to(recipe, to[1]), 1)}
    # The hip lies within the body, which grows from there up and down.
    return {"body": round(max(16.0, (hip[1] - to[1]) / (1 - HIP_UP)), 1)}


def _rise_to(recipe: Recipe, y: float) -> float:
    """The rise and fall at which its handle lies at ``y`` px: more of it lets the hips ride lower, too."""
    rise = recipe.gait.rise
    for _ in range(SOLVED):
        contact = pose(replace(recipe, gait=replace(recipe.gait, rise=rise)), 0.0, 1)
        rise = min(MOST_RISE * recipe.gait.leg, max(0.0, rise + contact.y - rise - y))
    return rise
