"""What a feel means, in plain words for an instructor who is choosing it."""

from __future__ import annotations

import itertools
import math

from motion.brief import Brief, WalkBrief
from motion.exercises.walk.asked import asked_of, stride_of
from motion.exercises.walk.checks.arms import LEAST_SWING
from motion.exercises.walk.plan import Plan

NEAR = 1e-6
PACES = (
    (0.30, "a run's pace, hurried"),
    (0.40, "a brisk march"),
    (0.56, "an easy, everyday pace"),
    (0.75, "a stroll"),
    (99.0, "slow and careful"),
)
"""Up to how many seconds a step a walk is called what."""


def sentences(brief: Brief, plan: Plan) -> list[str]:
    """What the choice means: pace, rise and fall, steps, knees, feet, way and length of the clip."""
    said = [_pace(plan), _rise(plan), _step(plan), _knees(plan), _foot(plan), _arms(plan)]
    said += [_way(brief, plan), _length(plan)]
    return [s for s in said if s]


def _pace(plan: Plan) -> str:
    recipe = plan.recipe
    seconds = recipe.step_frames / recipe.fps
    like = next(name for most, name in PACES if seconds <= most)
    if recipe.gait.limp:
        longer, shorter = steps_of(plan)
        return (
            f"It limps at {recipe.fps:g} frames a second: {longer:.0f} frames on the near foot, then {shorter:.0f} on "
            "the far one."
        )
    return f"{recipe.step_frames:.0f} frames a step at {recipe.fps:g} a second: {like}."


def steps_of(plan: Plan) -> tuple[float, float]:
    """How many frames the step from the near foot takes, and the one from the far foot."""
    recipe = plan.recipe
    return recipe.step_frames * (1 + recipe.gait.limp), recipe.step_frames * (1 - recipe.gait.limp)


def _rise(plan: Plan) -> str:
    rise, leg = plan.recipe.gait.rise, plan.recipe.gait.leg
    if rise < 0.015 * leg:
        return "The body hardly rises and falls: it glides, as on wheels."
    weight = "heavily" if rise > 0.09 * leg else "lightly" if rise < 0.035 * leg else "with some weight"
    return f"The body sinks {rise:.0f} px after each contact and rises again past the passing drawing: {weight}."


def _step(plan: Plan) -> str:
    share = plan.recipe.gait.step / plan.recipe.gait.leg
    size = "long" if share > 0.9 else "short" if share < 0.6 else "middling"
    return f"A step is {plan.recipe.gait.step:.0f} px, {share:.1f} of a leg: {size}."


def _knees(plan: Plan) -> str:
    straightest = 2 * math.degrees(math.acos(1 - plan.recipe.gait.bend))
    if straightest < 14:
        return "The knees come close to straight: stiff, so mind that they do not snap."
    return f"The straightest knee still bends by {straightest:.0f}°."


def _foot(plan: Plan) -> str:
    roll = plan.recipe.gait.roll
    if roll < 3:
        return "The feet land and leave flat."
    return f"The heel lands with the toes up by {roll:.0f}°, and the foot leaves over its toe."


def _arms(plan: Plan) -> str:
    recipe = plan.recipe
    if not recipe.whole:
        return ""
    if recipe.arms < LEAST_SWING:
        return "The arms hang still."
    wide = "widely" if recipe.arms > 32 else "a little" if recipe.arms < 14 else "easily"
    return f"The arms swing {wide}, {recipe.arms:.0f}° either way, each against the leg of its own side."


def _way(brief: Brief, plan: Plan) -> str:
    recipe = plan.recipe
    if recipe.across:
        return f"It travels {recipe.gait.step / recipe.step_frames:.1f} px a frame; what stands stays where it is."
    slides = abs(recipe.belt)
    cycle = " The last drawing stands one step before the first, so it plays round and round." if brief.loop else ""
    return f"It walks in place: the standing foot goes back by {slides:.1f} px in every frame.{cycle}"


def _length(plan: Plan) -> str:
    return f"In all {plan.frames} frames, {plan.frames / plan.fps:.1f} seconds, {len(plan.poses)} drawings."


def gaps_of(plan: Plan) -> list[float]:
    """How far each drawing's swinging ankle is from the next one's, against the ground, px."""
    belt = plan.recipe.belt
    found = []
    for index, (one, other) in enumerate(itertools.pairwise(plan.poses)):
        frames = plan.first_frame(index + 1) - plan.first_frame(index)
        moves = [
            math.hypot(
                other.landmarks[name][0] - one.landmarks[name][0] - belt * frames,
                other.landmarks[name][1] - one.landmarks[name][1],
            )
            for name in ("ankle_near", "ankle_far")
        ]
        found.append(max(moves))
    return found


def lengths(brief: Brief, plan: Plan) -> str:
    """How long a step is, in a line."""
    if plan.recipe.gait.limp:
        longer, shorter = steps_of(plan)
        return f"Steps: {longer:.0f} and {shorter:.0f} frames, by turns"
    return f"A step: {plan.recipe.step_frames:.0f} frames"


def disagreements(brief: Brief, plan: Plan) -> dict[str, str]:
    """Where the guide is not what the brief asks for, by field: not forbidden, but students would be caught between."""
    said, asked, stride = dict[str, str](), asked_of(brief), stride_of(brief)
    if brief.frames and not brief.frames[0] <= plan.frames <= brief.frames[1]:
        said["frames"] = (
            f"The guide has {plan.frames} frames; the brief asks for {brief.frames[0]} to {brief.frames[1]}."
        )
    if stride is None:
        return said
    span, frames = asked.step_frames, plan.recipe.step_frames
    if span and not span[0] <= frames <= span[1]:
        said["walk.step_frames"] = f"The guide takes {frames:g} frames a step; the brief asks for {span[0]:g} to "
        said["walk.step_frames"] += f"{span[1]:g}."
    return said | _style_beside(asked, plan)


def _style_beside(asked: WalkBrief, plan: Plan) -> dict[str, str]:
    """Where the guide goes in another style than the brief asks for, by field."""
    recipe = plan.recipe
    longer, shorter = steps_of(plan)
    told = (
        ("rise_share", recipe.gait.rise / recipe.gait.leg, "rises and falls by {:.2f} of the leg"),
        ("knee_degrees", 2 * math.degrees(math.acos(1 - recipe.gait.bend)), "bends its straightest knee by {:.0f}°"),
        ("lean_degrees", recipe.lean, "leans forward by {:.0f}°"),
        ("limp_frames", longer - shorter, "takes {:.0f} frames longer for one step than for the other"),
    )
    said = {}
    for key, value, words in told:
        span = getattr(asked, key)
        if span is not None and not span[0] - NEAR <= value <= span[1] + NEAR:
            said[f"walk.{key}"] = f"The guide {words.format(value)}; the brief asks for {span[0]:g} to {span[1]:g}."
    if asked.arm_swing and recipe.whole and recipe.arms < LEAST_SWING:
        said["walk.arm_swing"] = "The guide’s arms hang still; the brief asks that they swing."
    return said
