"""From a brief's feel to the ideal swing: its time from a real length or a pace, and every drawing from that."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache

from motion.brief import Brief, Swing
from motion.errors import BriefError
from motion.exercises.pendulum.asked import asked_of, swing_of
from motion.exercises.pendulum.ideal import MOST_SWINGS, Motion, motion, swing_frames
from motion.exercises.pendulum.plan import Plan, Pose, Recipe, keys_of, pose, shares_of, turns_of, with_shares

REST_DEGREES = 1.0
"""It has come to rest where its extremes stay below this angle."""
HOLD_S = 0.4
"""How long the last drawing stands where it comes to rest."""
LEAST_DRAWINGS = 4.0
"""A swing of fewer exposures cannot be shown."""
LEAST_DEGREES = 3.0
MOST_FRAMES = 600


@lru_cache(maxsize=64)
def plan_of(brief: Brief) -> Plan:
    """Every drawing of the brief's ideal swing. Raises BriefError, by field, where it cannot be drawn."""
    swing = swing_of(brief)
    if swing is None:
        raise BriefError({"guide": "This brief has no guide."})
    _check(brief, swing)
    recipe = _recipe(brief, swing)
    plan = with_shares(_drawn(brief, recipe, swing))
    _check_plan(plan, swing)
    return plan


def exposure_of(brief: Brief) -> int:
    """How many frames a drawing of the guide is exposed."""
    return 2 if brief.exposure == "twos" else 1


def frames_of(brief: Brief, swing: Swing) -> float:
    """Frames of the first swing: from the real length where there is no pace of its own, else from the pace."""
    if swing.swing_s is not None:
        return swing.swing_s * brief.fps
    length = asked_of(brief).length_m
    if length is None:
        raise BriefError({"guide.swing_s": "Say how long a swing takes, or give the real length."})
    return swing_frames(length, 1.0, brief.fps, math.radians(abs(swing.angle)))


def _recipe(brief: Brief, swing: Swing) -> Recipe:
    width, height = brief.frame_size
    step, frames = exposure_of(brief), frames_of(brief, swing)
    if swing.end == "cycle":
        # Only a swing of whole exposures comes back to where it began.
        frames = max(2, round(frames / step)) * step
    return Recipe(
        width=width,
        height=height,
        fps=brief.fps,
        pivot=(swing.pivot_x, swing.pivot_y),
        length=swing.length,
        size=swing.size,
        rest_angle=asked_of(brief).rest_angle,
        angle=swing.angle,
        swing_frames=frames,
        exposure=step,
        shares=swing.ticks,
    )


def _swings(swing: Swing) -> int:
    """How many swings it makes, whole ones."""
    if swing.end == "cycle":
        return 2
    if swing.end == "settling":
        if swing.keeps >= 1:
            return MOST_SWINGS
        return max(1, math.ceil(math.log(REST_DEGREES / abs(swing.angle)) / math.log(swing.keeps)))
    return swing.count


def _drawn(brief: Brief, recipe: Recipe, swing: Swing) -> Plan:
    swings = _swings(swing)
    # The motion is solved to one swing more, so that the drawing nearest the last extreme has something behind it.
    ideal = motion(math.radians(swing.angle), 1.0 if swing.end == "cycle" else swing.keeps, swings + 1)
    scale = recipe.swing_frames / (ideal.extremes[1] - ideal.extremes[0])
    last = scale * ideal.extremes[swings]
    step = recipe.exposure
    if last > MOST_FRAMES:
        _too_long(last, swing)
    drawings = round(last / step) + (0 if swing.end == "cycle" else 1)
    poses = [_pose(recipe, ideal, scale, i * step, swing) for i in range(drawings)]
    poses = _held(poses, swing.hang)
    if swing.end == "settling":
        poses.append(pose(recipe, recipe.rest_angle, step + round(HOLD_S * brief.fps / step) * step, "rest", swings))
    return Plan(recipe=recipe, poses=tuple(poses), motion=ideal)


def _pose(recipe: Recipe, ideal: Motion, scale: float, time: float, swing: Swing) -> Pose:
    angle = recipe.rest_angle + math.degrees(ideal.angle(time / scale))
    number = sum(time > scale * extreme + 1e-6 for extreme in ideal.extremes[1:])
    return pose(recipe, angle, recipe.exposure, swing=number)


def _held(poses: list[Pose], extra: int) -> list[Pose]:
    """The drawings at the extremes held longer; the first and the last are not."""
    if not extra:
        return poses
    out = list(poses)
    for index in turns_of([p.hangs_at for p in poses]):
        out[index] = replace(out[index], frames=out[index].frames + extra)
    return out


def _check(brief: Brief, swing: Swing) -> None:
    problems: dict[str, str] = {}
    width, height = brief.frame_size
    rest = asked_of(brief).rest_angle
    if abs(swing.angle) < LEAST_DEGREES:
        problems["guide.angle"] = f"So small a swing cannot be seen; at least {LEAST_DEGREES:g} degrees to either side."
    if abs(swing.angle) + abs(rest) > 90:
        problems["guide.angle"] = (
            "So far it would swing above its pivot. Let it swing less, or lean its rest line less."
        )
    if not (0 <= swing.pivot_x <= width - 1):
        problems["guide.pivot_x"] = f"The pivot must lie in the frame, which is {width} px wide."
    if not (0 <= swing.pivot_y <= height - 1):
        problems["guide.pivot_y"] = f"The pivot must lie in the frame, which is {height} px high."
    if swing.length < 1.2 * swing.size:
        problems["guide.length"] = "The line is too short for its weight: at least 1.2 times as long as that is wide."
    if brief.loop and swing.end != "cycle":
        problems["guide.end"] = "The clip must cycle: let the swing come back to where it began."
    if swing.end == "settling" and swing.keeps > 0.97:
        problems["guide.keeps"] = "With so much kept it never comes to rest; at most 0.97."
    if problems:
        raise BriefError(problems)
    drawings = frames_of(brief, swing) / exposure_of(brief)
    if drawings < LEAST_DRAWINGS:
        key = "guide.swing_s" if swing.swing_s is not None else "pendulum.length_m"
        raise BriefError(
            {key: f"At this rate and exposure a swing is over in {drawings:.1f} drawings, too few to show it."}
        )


def _too_long(frames: float, swing: Swing) -> None:
    key = "guide.keeps" if swing.end == "settling" else "guide.count"
    mend = "Let it keep less." if swing.end == "settling" else "Ask for fewer swings."
    raise BriefError({key: f"This would take {frames:.0f} frames; at most {MOST_FRAMES}. {mend}"})


def _check_plan(plan: Plan, swing: Swing) -> None:
    size = swing.size / 2
    if any(not (size <= p.x <= plan.width - size and size <= p.y <= plan.height - size) for p in plan.poses):
        raise BriefError({"guide.length": "The weight leaves the frame. Shorten the line, or let it swing less far."})
    shares = shares_of(plan)
    for index, share in shares.items():
        if index not in keys_of(plan) and plan.poses[index].role == "swing" and share <= shares.get(index - 1, 0.0):
            raise BriefError(
                {"guide.ticks": f"Drawing {index + 1} must lie further along its swing than drawing {index}."}
            )
