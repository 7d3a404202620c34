"""From a brief's feel to the ideal walk, every drawing of it."""

from __future__ import annotations

from functools import lru_cache

from motion.brief import Brief, Stride
from motion.errors import BriefError
from motion.exercises.walk.asked import asked_of, stride_of
from motion.exercises.walk.ideal import Gait, stands
from motion.exercises.walk.plan import Plan, Recipe, pose, role_of

LEAST_DRAWINGS = 4
"""A step of fewer drawings cannot show contact, down, passing and up."""
MOST_FRAMES = 600


@lru_cache(maxsize=64)
def plan_of(brief: Brief) -> Plan:
    """Every drawing of the brief's ideal walk. Raises BriefError, by field, where it cannot be drawn."""
    stride = stride_of(brief)
    if stride is None:
        raise BriefError({"guide": "This brief has no guide."})
    recipe = recipe_of(brief, stride)
    _check(brief, stride, recipe)
    last = recipe.gait.time_of(stride.steps) * recipe.step_frames + (0 if brief.loop else recipe.exposure)
    times = range(0, round(last), recipe.exposure)
    plan = Plan(recipe=recipe, poses=tuple(pose(recipe, t, recipe.exposure, role_of(t, recipe)) for t in times))
    _check_plan(plan)
    return plan


def recipe_of(brief: Brief, stride: Stride) -> Recipe:
    """What the walk is made from; each step takes whole exposures, so that each contact has its drawing."""
    width, height = brief.frame_size
    exposure = 2 if brief.exposure == "twos" else 1
    longer, shorter = _steps_of(stride, exposure)
    asked = asked_of(brief)
    return Recipe(
        width=width,
        height=height,
        fps=brief.fps,
        start_x=stride.start_x,
        ground=stride.ground if brief.ground_y is None else brief.ground_y,
        facing=-1.0 if asked.direction == "left" else 1.0,
        across=asked.path == "across",
        gait=Gait(
            leg=stride.leg,
            step=stride.step,
            rise=stride.rise,
            bend=stride.bend,
            lift=stride.lift,
            roll=stride.roll,
            limp=(longer - shorter) / (longer + shorter),
        ),
        body=stride.body,
        whole=asked.figure == "whole",
        arms=stride.arms,
        lean=stride.lean,
        step_frames=(longer + shorter) / 2,
        exposure=exposure,
    )


def _steps_of(stride: Stride, exposure: int) -> tuple[int, int]:
    """How many frames the step from the near foot takes, and the one from the far foot, in whole exposures."""
    longer = max(1, round((stride.frames + stride.limp / 2) / exposure)) * exposure
    return longer, max(exposure, longer - round(stride.limp / exposure) * exposure)


def _check(brief: Brief, stride: Stride, recipe: Recipe) -> None:
    problems: dict[str, str] = {}
    drawings = recipe.step_frames * (1 - recipe.gait.limp) / recipe.exposure
    if round(drawings) < LEAST_DRAWINGS:
        problems["guide.limp" if stride.limp else "guide.frames"] = (
            f"A step would have {drawings:.0f} drawings; at least {LEAST_DRAWINGS}: contact, down, passing, up."
        )
    if brief.loop and stride.steps % 2:
        problems["guide.steps"] = "A cycle has an even number of steps: one with each foot."
    if stride.steps * recipe.step_frames > MOST_FRAMES:
        problems["guide.steps"] = (
            f"This would take {stride.steps * recipe.step_frames:.0f} frames; at most {MOST_FRAMES}. Ask for fewer."
        )
    if (1 + recipe.gait.limp) * stride.step > 1.3 * stride.leg or not stands(recipe.gait):
        problems["guide.step"] = "The legs are too short for such steps. Make the steps shorter, or the legs longer."
    if not 0 <= stride.start_x <= recipe.width - 1:
        problems["guide.start_x"] = f"The hips must begin in the frame, which is {recipe.width} px wide."
    if not 0 < recipe.ground <= recipe.height - 1:
        problems["guide.ground"] = f"The ground must lie in the frame, which is {recipe.height} px high."
    if problems:
        raise BriefError(problems)


def _check_plan(plan: Plan) -> None:
    if any(p.y - p.major / 2 < 0 for p in plan.poses):
        raise BriefError({"guide.leg": "The figure is taller than the frame. Make legs or body smaller."})
    hips = [p.landmarks["hip"][0] for p in plan.poses]
    if min(hips) < 0 or max(hips) > plan.width - 1:
        mend = "Take fewer or shorter steps, or begin farther back."
        raise BriefError({"guide.steps": f"The figure walks out of the frame. {mend}"})
