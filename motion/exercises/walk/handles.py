"""What can be taken hold of on the guide of a walk, and what a drag does to its feel."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from motion.brief import Brief
from motion.exercises.exercise import Handle, Place
from motion.exercises.walk.figure import HIP_UP
from motion.exercises.walk.plan import Plan, Pose, Recipe, pose

SOLVED, MOST_SWING = 40, 70.0
MOST_RISE = 0.25
"""Of the leg: more rise and fall than that is no walk."""


def handles(brief: Brief, plan: Plan) -> list[Handle]:
    """Hips, ground, step, lift, rise and fall, the body's height, and how far arms swing."""
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
            x=_rise_at(recipe, contact)[0],
            y=_rise_at(recipe, contact)[1] - gait.rise,
            ways="y",
            label="Rise and fall",
            value=f"{gait.rise:.0f} px",
        ),
        Handle(
            name="body",
            x=contact.landmarks["neck"][0] if recipe.whole else contact.x,
            y=contact.landmarks["neck"][1] if recipe.whole else contact.y - contact.major / 2,
            ways="y",
            label="Length of the trunk" if recipe.whole else "Height of the body",
            value=f"{recipe.body:.0f} px {'from hip to neck' if recipe.whole else 'high'}",
        ),
        *_arms(recipe, contact),
    ]


def _rise_at(recipe: Recipe, contact: Pose) -> Place:
    """What the handle of rise and fall lies above: the body's side, of a whole figure its trunk's middle."""
    if not recipe.whole:
        return contact.x + recipe.facing * contact.minor / 2, contact.y
    (x, y), (nx, ny) = contact.landmarks["hip"], contact.landmarks["neck"]
    return (x + nx) / 2 + recipe.facing * 0.2 * recipe.gait.leg, (y + ny) / 2


def _arms(recipe: Recipe, contact: Pose) -> list[Handle]:
    """The hand that is in front at the contact tells how far arms swing."""
    if not recipe.whole:
        return []
    x, y = contact.landmarks["hand_far"]
    return [
        Handle(
            name="arms", x=x, y=y, ways="x", label="Swing of the arms", value=f"{recipe.arms:.0f} degrees either way"
        )
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
    if name == "arms":
        return {"arms": round(_swing_to(recipe, to[0]), 1)}
    if recipe.whole:
        return {"body": round(max(16.0, (hip[1] - to[1]) / math.cos(math.radians(recipe.lean))), 1)}
    # The hip lies within the body, which grows from there up and down.
    return {"body": round(max(16.0, (hip[1] - to[1]) / (1 - HIP_UP)), 1)}


def _swing_to(recipe: Recipe, x: float) -> float:
    """The swing of the arms, degrees, at which the hand in front lies at ``x`` px."""
    least, most = 0.0, MOST_SWING
    for _ in range(SOLVED):
        middle = (least + most) / 2
        there = pose(replace(recipe, arms=middle), 0.0, 1).landmarks["hand_far"][0]
        if recipe.facing * (there - x) < 0:
            least = middle
        else:
            most = middle
    return (least + most) / 2


def _rise_to(recipe: Recipe, y: float) -> float:
    """The rise and fall at which its handle lies at ``y`` px: more of it lets the hips ride lower, too."""
    rise = recipe.gait.rise
    for _ in range(SOLVED):
        contact = pose(replace(recipe, gait=replace(recipe.gait, rise=rise)), 0.0, 1)
        rise = min(MOST_RISE * recipe.gait.leg, max(0.0, rise + _rise_at(recipe, contact)[1] - rise - y))
    return rise
