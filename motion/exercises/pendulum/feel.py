"""From a brief's feel to the ideal swing: its time from a real length or a pace, and every drawing from that."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache
from typing import Any

from motion.brief import Brief, Swing
from motion.errors import BriefError
from motion.exercises.pendulum import carried
from motion.exercises.pendulum.asked import asked_of, swing_of
from motion.exercises.pendulum.carriage import Carriage
from motion.exercises.pendulum.hung import end_width, lateness, parts_of, pose_at, time_at
from motion.exercises.pendulum.ideal import MOST_SWINGS, motion, swing_frames
from motion.exercises.pendulum.plan import (
    LATEST,
    Course,
    Plan,
    Pose,
    Recipe,
    keys_of,
    shares_of,
    stops_at,
    turns_of,
    with_shares,
)

REST_DEGREES = 1.0
"""It has come to rest where its extremes stay below this angle."""
HOLD_S = 0.4
"""How long the last drawing stands where it comes to rest."""
EASE = 0.5
"""What hangs in parts eases from its last extreme into its rest in such a share of its first swing."""
LEAST_DRAWINGS = 4.0
"""A swing of fewer exposures cannot be shown."""
LEAST_DEGREES = 3.0
LINKS = 3
"""How many links the guide's chain has where the brief leaves them open."""
MOST_FRAMES = 600


@lru_cache(maxsize=64)
def plan_of(brief: Brief) -> Plan:
    """Every drawing of the brief's ideal swing. Raises BriefError, by field, where it cannot be drawn."""
    swing = swing_of(brief)
    if swing is None:
        raise BriefError({"guide": "This brief has no guide."})
    _check(brief, swing)
    recipe = _recipe(brief, swing)
    plan = _shared(_drawn(brief, recipe, swing))
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
    # What is carried begins at rest: its pace is that of small swings, and follows from its motion.
    angle = swing.angle if asked_of(brief).pivot == "fixed" else 0.0
    return swing_frames(length, 1.0, brief.fps, math.radians(abs(angle)))


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
        carriage=_carriage(brief, swing),
        **_parts(brief, swing),
    )


def _carriage(brief: Brief, swing: Swing) -> Carriage | None:
    """What carries it, where anything does: it stops on a drawing."""
    if asked_of(brief).pivot == "fixed":
        return None
    step = exposure_of(brief)
    frames = max(1, round(swing.carry_s * brief.fps / step)) * step
    return Carriage(px=swing.carry, frames=frames, eases=swing.eases)


def _parts(brief: Brief, swing: Swing) -> dict[str, Any]:
    """What of the recipe only a chain or a tail has."""
    asked = asked_of(brief)
    if asked.hangs == "bob":
        return {}
    names = ("follows", "bend", "wide", "thin", "weighted")
    return {"hangs": asked.hangs, "links": asked.links or LINKS, **{name: getattr(swing, name) for name in names}}


def _swings(swing: Swing, angle: float) -> int:
    """How many swings it makes from an extreme at an angle (degrees), whole ones."""
    if swing.end == "cycle":
        return 2
    if swing.end == "settling":
        if swing.keeps >= 1:
            return MOST_SWINGS
        return max(1, math.ceil(math.log(REST_DEGREES / abs(angle)) / math.log(swing.keeps)))
    return swing.count


def _drawn(brief: Brief, recipe: Recipe, swing: Swing) -> Plan:
    return _carried(brief, recipe, swing) if recipe.carriage else _let_go(brief, recipe, swing)


def _let_go(brief: Brief, recipe: Recipe, swing: Swing) -> Plan:
    """The plan of what is let go at an extreme."""
    swings = _swings(swing, swing.angle)
    # The motion is solved to one swing more, so that the drawing nearest the last extreme has something behind it.
    ideal = motion(math.radians(swing.angle), 1.0 if swing.end == "cycle" else swing.keeps, swings + 1)
    scale = recipe.swing_frames / (ideal.extremes[1] - ideal.extremes[0])
    last = scale * ideal.extremes[swings]
    step = recipe.exposure
    if last > MOST_FRAMES:
        _too_long(last, swing)
    course = _course(
        recipe,
        lambda time: ideal.angle(time / scale),
        period=scale * ideal.extremes[2] if swing.end == "cycle" else math.inf,
        stops=last if swing.end == "settling" else math.inf,
    )
    late = lateness(recipe)
    end = last if swing.end == "cycle" else _ends(recipe, swing, last)
    drawings = round(end / step) + (0 if swing.end == "cycle" else 1)
    turns = [scale * extreme + late / 2 for extreme in ideal.extremes[1:]]
    # A cycle begins at an extreme, like all else.
    begins = late / 2 if swing.end == "cycle" else 0.0
    poses = [_pose(recipe, course, begins + i * step, turns) for i in range(drawings)]
    poses = _held(poses, swing.hang)
    if swing.end == "settling":
        poses.append(_rest(brief, recipe, end + step, swings))
    return Plan(recipe=recipe, poses=tuple(poses), motion=ideal, course=course, first_swing=(0.0, recipe.swing_frames))


def _carried(brief: Brief, recipe: Recipe, swing: Swing) -> Plan:
    """The plan of what is carried: still at first, driven by its base, and then left to itself."""
    way = carried.way_of(recipe, swing.keeps, lambda angle: _swings(swing, angle))
    step, late = recipe.exposure, lateness(recipe)
    recipe = replace(recipe, angle=way.angle)
    if way.last > MOST_FRAMES:
        _too_long(way.last, swing)
    stops = way.last if swing.end == "settling" else math.inf
    course = _course(recipe, way.motion.angle, period=math.inf, stops=stops)
    end = _ends(recipe, swing, way.last)
    turns = [time + late / 2 for time in way.extremes]
    poses = [_pose(recipe, course, i * step, turns) for i in range(round(end / step) + 1)]
    poses[0] = replace(poses[0], frames=step + carried.stands(brief.fps, step))
    free = next(i for i, p in enumerate(poses) if p.time >= way.extremes[0])
    poses = poses[:free] + _held(poses[free:], swing.hang)
    if swing.end == "settling":
        poses.append(_rest(brief, recipe, end + step, len(way.extremes)))
    first_swing = way.extremes[0], way.extremes[1]
    return Plan(recipe=recipe, poses=tuple(poses), motion=way.motion, course=course, first_swing=first_swing)


def _ends(recipe: Recipe, swing: Swing, last: float) -> float:
    """When it ends, in frames, whose last extreme is at ``last``.

    What hangs in parts is at its extreme when its middle part is; it rests when its last part does.
    """
    late = lateness(recipe)
    if swing.end == "settling":
        return last + (late + EASE * recipe.swing_frames if recipe.hangs != "bob" else 0.0)
    return last + late / 2


def _rest(brief: Brief, recipe: Recipe, time: float, swings: int) -> Pose:
    """The drawing in which it hangs still."""
    stands = recipe.exposure + round(HOLD_S * brief.fps / recipe.exposure) * recipe.exposure
    return pose_at(recipe, lambda time: recipe.rest_angle, time, stands, "rest", swings)


def _course(recipe: Recipe, swung: Course, *, period: float, stops: float) -> Course:
    """How what hangs at the pivot goes, by what it has swung (radians from its rest line, by frames).

    It waits until it is let go, and comes back after a ``period``; where it ``stops`` it eases into its rest.
    """

    def angle(time: float) -> float:
        told = time % period if math.isfinite(period) else min(max(0.0, time), stops)
        eased = min(1.0, max(0.0, time - stops) / (EASE * recipe.swing_frames))
        left = (1 + math.cos(math.pi * eased)) / 2
        return recipe.rest_angle + left * math.degrees(swung(told))

    return angle


def _pose(recipe: Recipe, course: Course, time: float, turns: list[float]) -> Pose:
    number = sum(time > turn + 1e-6 for turn in turns)
    return pose_at(recipe, course, time, recipe.exposure, "swing", number)


def _shared(plan: Plan) -> Plan:
    """The plan with the drawings that were set by hand at their place: each is drawn as it is when it gets there."""

    def drawn(index: int, at: float) -> Pose:
        own, keys, carriage = plan.poses[index], keys_of(plan), plan.recipe.carriage
        before, after = (
            plan.poses[k].time for k in (max(k for k in keys if k < index), min(k for k in keys if k > index))
        )
        assert plan.course is not None  # noqa: S101 (a plan of a feel has one)
        if carriage is not None and index < stops_at(plan):
            time = carriage.when(at - plan.recipe.pivot[0])
        else:
            time = time_at(plan.recipe, plan.course, at, (before, after))
        return replace(pose_at(plan.recipe, plan.course, time, own.frames, own.role, own.swing), time=own.time)

    return with_shares(plan, drawn)


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
    is_carried = asked_of(brief).pivot == "moved"
    width, height = brief.frame_size
    rest = asked_of(brief).rest_angle
    if is_carried:
        problems |= carried.refused(swing, width, exposure_of(brief) / brief.fps)
    elif abs(swing.angle) < LEAST_DEGREES:
        problems["guide.angle"] = f"So small a swing cannot be seen; at least {LEAST_DEGREES:g} degrees to either side."
    if not is_carried and abs(swing.angle) + abs(rest) > 90:
        problems["guide.angle"] = (
            "So far it would swing above its pivot. Let it swing less, or lean its rest line less."
        )
    if not (0 <= swing.pivot_x <= width - 1):
        problems["guide.pivot_x"] = f"The pivot must lie in the frame, which is {width} px wide."
    if not (0 <= swing.pivot_y <= height - 1):
        problems["guide.pivot_y"] = f"The pivot must lie in the frame, which is {height} px high."
    if asked_of(brief).hangs == "bob" and swing.length < 1.2 * swing.size:
        problems["guide.length"] = "The line is too short for its weight: at least 1.2 times as long as that is wide."
    if brief.loop and swing.end != "cycle":
        problems["guide.end"] = "The clip must cycle: let the swing come back to where it began."
    if swing.end == "settling" and swing.keeps > 0.97:
        problems["guide.keeps"] = "With so much kept it never comes to rest; at most 0.97."
    problems |= _check_parts(brief, swing)
    if problems:
        raise BriefError(problems)
    drawings = frames_of(brief, swing) / exposure_of(brief)
    if drawings < LEAST_DRAWINGS:
        key = "guide.swing_s" if swing.swing_s is not None else "pendulum.length_m"
        raise BriefError(
            {key: f"At this rate and exposure a swing is over in {drawings:.1f} drawings, too few to show it."}
        )


def _check_parts(brief: Brief, swing: Swing) -> dict[str, str]:
    """What is wrong with a chain or a tail, by field."""
    asked = asked_of(brief)
    if asked.hangs == "bob":
        return {}
    problems, recipe = dict[str, str](), Recipe(**_parts(brief, swing))
    parts, what = parts_of(recipe), "links" if asked.hangs == "chain" else "tail"
    if asked.hangs == "tail" and swing.thin > swing.wide:
        problems["guide.thin"] = "A tail is as wide at its end as at its pivot, or narrower."
    if swing.length / parts < 1.2 * swing.wide:
        problems["guide.wide"] = f"Too wide for {'such short links' if what == 'links' else 'so short a tail'}."
    if swing.weighted and swing.size >= swing.length:
        problems["guide.size"] = f"The weight is larger than the {what} on which it hangs."
    most = LATEST * frames_of(brief, swing)
    if swing.follows > most:
        problems["guide.follows"] = (
            f"So late a part swings against the one above; at this pace at most {most:.1f} frames."
        )
    if asked.pivot == "fixed" and abs(swing.angle) * (1 + swing.bend * (parts - 1)) + abs(asked.rest_angle) > 90:
        problems["guide.bend"] = "So far its end would swing above its pivot. Let it bend less, or swing less."
    return problems


def _too_long(frames: float, swing: Swing) -> None:
    key = "guide.keeps" if swing.end == "settling" else "guide.count"
    mend = "Let it keep less." if swing.end == "settling" else "Ask for fewer swings."
    raise BriefError({key: f"This would take {frames:.0f} frames; at most {MOST_FRAMES}. {mend}"})


def _check_plan(plan: Plan, swing: Swing) -> None:
    if any(not _inside(plan, p) for p in plan.poses):
        what = "weight" if plan.recipe.hangs == "bob" or swing.weighted else "end"
        raise BriefError({"guide.length": f"The {what} leaves the frame. Shorten the line, or let it swing less far."})
    shares = shares_of(plan) if swing.ticks else {}
    for index, share in shares.items():
        if index not in keys_of(plan) and plan.poses[index].role == "swing" and share <= shares.get(index - 1, 0.0):
            raise BriefError(
                {"guide.ticks": f"Drawing {index + 1} must lie further along its swing than drawing {index}."}
            )


def _inside(plan: Plan, own: Pose) -> bool:
    """Whether all of a drawing lies in the frame."""
    beside = max(plan.recipe.wide, end_width(plan.recipe)) / 2
    rounds = [(own.x, own.y, own.major / 2), *((x, y, beside) for x, y in own.joints)]
    return all(r <= x <= plan.width - r and r <= y <= plan.height - r for x, y, r in rounds)
