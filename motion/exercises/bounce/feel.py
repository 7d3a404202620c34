"""From a brief's feel to the ideal bounce: gravity from a real size or a pace, and every drawing from that.

Gravity is 9.81 m/s² scaled by the ball's drawn over its real size, or follows from how long a hop of the full height
takes: g = 8 h / T². Each contact keeps a share e of the speed, so hops have e² of the height and e of the duration of
the one before. The hops end where they get too low or too short to be drawn at the brief's rate and exposure.
"""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache

from motion.brief import Brief, Feel
from motion.errors import BriefError
from motion.exercises.bounce.asked import asked_of, feel_of
from motion.exercises.bounce.ideal import dropped, hop_frames
from motion.exercises.bounce.plan import End, Plan, Recipe, bounce, keys_of, rolling_frames, shares_of
from motion.physics import GRAVITY

LEAST_HOP_D = 0.25
"""Hops lower than this (in diameters) are not drawn: the ball has come to rest."""
LEAST_HOP_DRAWINGS = 2.0
"""Hops shorter than this (in exposures) cannot be drawn: no drawing would fall between their contacts."""
LEAST_FALL_DRAWINGS = 1.5
"""A first fall shorter than this has no drawing that shows it."""
THROWN_SHARE = 0.7
"""A ball that is thrown in is first seen so far (in time, from the top back to the ground) before its top."""
ROLL_S, SETTLE_S, HOLD_S = 1.1, 0.4, 0.4
"""How long it rolls on, how long it takes to stop when it settles on its way, how long the last drawing stands."""
MOST_FRAMES = 600
FIRM_MOST = 1.2
SOFT_LEAST_STRETCH, SOFT_LEAST_SQUASH = 1.15, 1.25


@lru_cache(maxsize=64)
def plan_of(brief: Brief) -> Plan:
    """Every drawing of the brief's ideal bounce. Raises BriefError, by field, where it cannot be drawn."""
    feel = feel_of(brief)
    if feel is None:
        raise BriefError({"guide": "This brief has no guide."})
    _check(brief, feel)
    recipe = recipe_of(brief, feel)
    plan = bounce(recipe)
    _check_plan(plan, feel)
    return plan


def gravity_of(brief: Brief, feel: Feel) -> float:
    """Px per frame²: from the real size where there is no pace of its own, else from the pace."""
    if feel.hop_s is None:
        real = asked_of(brief).diameter_m
        if real is None:
            raise BriefError({"guide.hop_s": "Say how long a full hop takes, or give the ball's real size."})
        return GRAVITY * feel.diameter / real / brief.fps**2
    return 8 * feel.height / (feel.hop_s * brief.fps) ** 2


def exposure_of(brief: Brief) -> int:
    """How many frames a drawing of the guide is exposed."""
    return 2 if brief.exposure == "twos" else 1


def ground_of(brief: Brief, feel: Feel) -> float:
    """The ground's y in the guide: where the brief fixes it, there."""
    return feel.ground_y if brief.ground_y is None else brief.ground_y


def recipe_of(brief: Brief, feel: Feel) -> Recipe:
    """The bounce in px and frames. Raises BriefError where neither a pace nor a real size is given."""
    width, height = brief.frame_size
    step = exposure_of(brief)
    gravity = gravity_of(brief, feel)
    if feel.end == "cycle":
        # Only a hop of whole exposures comes back to where it began.
        whole = max(2, round(hop_frames(feel.height, gravity) / step)) * step
        gravity = 8 * feel.height / whole**2
    length = hop_frames(feel.height, gravity)
    hard = asked_of(brief).material == "hard"
    recipe = Recipe(
        width=width,
        height=height,
        fps=brief.fps,
        diameter=feel.diameter,
        ground_y=ground_of(brief, feel),
        drop_px=feel.height,
        fall_frames=length / 2,
        lead=THROWN_SHARE * length / 2 if feel.start == "thrown" else 0.0,
        kept=_kept(feel, length, step),
        exposure=step,
        stretch=1.0 if hard else feel.stretch,
        squash=1.0 if hard else feel.squash,
        end=_END[feel.end],
        top_hold=feel.hang,
        shares=feel.ticks,
    )
    return _across(_resting(recipe, feel, brief.fps), feel)


_END: dict[str, End] = {"settling": "rest", "rolling": "rest", "leaving": "leaves", "top": "top", "cycle": "cycle"}


def _kept(feel: Feel, length: float, step: int) -> tuple[float, ...]:
    """The share of speed kept at each contact that is followed by a hop worth drawing."""
    most = feel.contacts or 30
    if feel.end == "cycle":
        return (1.0,)
    # The contact in which it begins to rest is followed by no hop.
    hops = most - 1 if _END[feel.end] == "rest" else most
    height, kept = feel.height, list[float]()
    while len(kept) < hops:
        height, length = height * feel.keeps**2, length * feel.keeps
        if height < LEAST_HOP_D * feel.diameter or length < LEAST_HOP_DRAWINGS * step:
            break
        kept.append(feel.keeps)
    if not kept and _END[feel.end] != "rest":
        raise BriefError(
            {"guide.keeps": "It bounces too little for a hop that could be drawn. Let it keep more, or settle."}
        )
    return tuple(kept)


def _resting(recipe: Recipe, feel: Feel, fps: float) -> Recipe:
    if recipe.end != "rest":
        return recipe
    seconds = ROLL_S if feel.end == "rolling" else SETTLE_S if feel.distance else 0.0
    drawings = max(2, math.ceil(seconds * fps / recipe.exposure)) if seconds else 1
    return replace(recipe, rest=drawings, last_hold=round(HOLD_S * fps / recipe.exposure) * recipe.exposure)


def _across(recipe: Recipe, feel: Feel) -> Recipe:
    """The speed across that covers the distance, and where the first drawing stands."""
    flights = dropped(recipe.drop_px, recipe.gravity, recipe.kept, 1 + recipe.lead)
    last = flights[-1]
    if recipe.end == "leaves":
        return _leaving(recipe, feel, last.left + 0.55 * (last.lands - last.left))
    if not feel.distance or recipe.end == "cycle":
        x = recipe.width / 2 if feel.start_x is None else feel.start_x
        return replace(recipe, start_x=x, speed_x=0.0)
    # With a speed that falls evenly to nought, a roll covers half of what full speed would.
    flown = (last.left + last.lands) / 2 - 1 if recipe.end == "top" else last.lands - 1
    speed = feel.distance / (flown + rolling_frames(recipe, last.lands) / 2)
    x = (recipe.width - feel.distance) / 2 if feel.start_x is None else feel.start_x
    return replace(recipe, start_x=x, speed_x=speed)


def _leaving(recipe: Recipe, feel: Feel, out_at: float) -> Recipe:
    """Out of the frame in the middle of the hop after the last contact."""
    rightwards = feel.distance >= 0
    inset = 1.5 * recipe.diameter
    start = (inset if rightwards else recipe.width - inset) if feel.start_x is None else feel.start_x
    edge = recipe.width + 0.25 * recipe.diameter if rightwards else -0.25 * recipe.diameter
    return replace(recipe, start_x=start, speed_x=(edge - start) / (out_at - 1))


def _check(brief: Brief, feel: Feel) -> None:
    problems: dict[str, str] = {}
    width, height = brief.frame_size
    ground = ground_of(brief, feel)
    if ground > height:
        problems["guide.ground_y"] = f"The ground must lie in the frame, which is {height} px high."
    elif feel.height > ground - feel.diameter:
        problems["guide.height"] = (
            f"So high the ball leaves the frame at the top; at most {ground - feel.diameter:.0f} px."
        )
    if brief.loop and feel.end != "cycle":
        problems["guide.end"] = "The clip must cycle: let the bounce come back to where it began."
    problems |= _shape_problems(brief, feel)
    if feel.end in ("settling", "rolling") and feel.keeps > 0.95 and feel.contacts is None:
        problems["guide.keeps"] = "With so much kept it never comes to rest; at most 0.95, or say how many contacts."
    if feel.end in ("rolling", "leaving") and feel.distance == 0:
        problems["guide.distance"] = f"A ball that {_DOES[feel.end]} gets somewhere: give a distance."
    if feel.end != "leaving" and abs(feel.distance) > width:
        problems["guide.distance"] = f"So far it leaves the frame, which is {width} px wide."
    if problems:
        raise BriefError(problems)
    step = exposure_of(brief)
    fall = hop_frames(feel.height, gravity_of(brief, feel)) / 2
    if fall < LEAST_FALL_DRAWINGS * step:
        raise BriefError(
            {
                "guide.height": f"At this rate and exposure the fall is over in {fall / step:.1f} drawings, too few to "
                "show it. Let it fall from higher, or slower."
            }
        )


_DOES = {"rolling": "rolls on", "leaving": "leaves the frame"}


def _shape_problems(brief: Brief, feel: Feel) -> dict[str, str]:
    material, problems = asked_of(brief).material, {}
    for name, least in (("stretch", SOFT_LEAST_STRETCH), ("squash", SOFT_LEAST_SQUASH)):
        value = getattr(feel, name)
        if material == "firm" and value > FIRM_MOST:
            problems[f"guide.{name}"] = f"A firm ball changes only a little: at most {FIRM_MOST:g}."
        if material == "soft" and value < least:
            problems[f"guide.{name}"] = f"A soft ball must show it: at least {least:g}."
    return problems


def _check_plan(plan: Plan, feel: Feel) -> None:
    if plan.frames > MOST_FRAMES:
        raise BriefError(
            {"guide.contacts": f"This would take {plan.frames} frames; at most {MOST_FRAMES}. Ask for fewer contacts."}
        )
    if len(plan.poses) < 4:
        raise BriefError({"guide.height": "This is over in three drawings. Let it fall from higher, or slower."})
    size, x0 = plan.recipe.diameter / 2, plan.poses[0].x
    if not size <= x0 <= plan.recipe.width - size:
        raise BriefError({"guide.start_x": "The first drawing must be in the frame."})
    if feel.end != "leaving" and not size <= plan.poses[-1].x <= plan.recipe.width - size:
        raise BriefError({"guide.distance": "The last drawing must be in the frame: less far, or begin further back."})
    _check_ticks(plan)
    if feel.hang and not _has_tops(plan):
        raise BriefError({"guide.hang": "There is no top after a contact that could be held."})


def _check_ticks(plan: Plan) -> None:
    shares = shares_of(plan)
    for index, share in shares.items():
        if plan.poses[index].role == "air" and share <= shares.get(index - 1, 0.0):
            raise BriefError(
                {"guide.ticks": f"Drawing {index + 1} must lie further along its move than drawing {index}."}
            )


def _has_tops(plan: Plan) -> bool:
    return any(0 < k < len(plan.poses) - 1 and plan.poses[k].role == "air" for k in keys_of(plan))
