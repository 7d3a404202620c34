"""The bouncing ball as one exercise among others."""

from __future__ import annotations

import itertools
import math
from typing import Any

from motion.brief import Brief, Feel
from motion.clip import Clip, Exposure
from motion.exercises.bounce import handles, presets, told, truth, words
from motion.exercises.bounce.asked import asked_of
from motion.exercises.bounce.checks import LACKING, judged, lacks
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.measures import measures
from motion.exercises.bounce.plan import Plan, keys_of, shares_of
from motion.exercises.bounce.scene import Scene, look
from motion.exercises.bounce.sheet import BounceSketch
from motion.exercises.exercise import Exercise, Guided, Nouns
from motion.track import Track, of_shapes
from motion.tracking import placing
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress
from motion.tracking.subjects import blob


def _follow(clip: Clip, brief: Brief, placement: Placement, progress: Progress | None) -> Track:
    return blob.track(clip, kind=truth.KIND, ground_y=brief.ground_y, placement=placement, progress=progress)


def _nothing(exposures: tuple[Exposure, ...], pictures: tuple[int, ...]) -> Track:
    return of_shapes(exposures, (None,) * len(pictures), pictures, kind=truth.KIND, subject=truth.KIND)


def _in_the_air(plan: Plan, index: int) -> bool:
    return plan.poses[index].role == "air"


def _higher_first(plan: Plan, one: int, other: int) -> bool:
    return plan.poses[one].y < plan.poses[other].y


def _move_name(plan: Plan, start: int, end: int) -> str:
    one, other = plan.poses[start], plan.poses[end]
    if other.role == "rest":
        return "roll" if abs(other.x - one.x) > 1 else "rest"
    if one.role == "air" and other.role == "air":
        return "rise" if other.y < one.y else "fall"
    return "rise" if one.role != "air" else "fall"


def _gaps(plan: Plan) -> list[float]:
    return [math.hypot(b.x - a.x, b.y - a.y) for a, b in itertools.pairwise(plan.poses)]


def _contacts(plan: Plan) -> list[float]:
    return [float(plan.first_frame(i)) for i, pose in enumerate(plan.poses) if pose.role == "contact"]


def _nothing_more(track: Track, scene: Scene | None) -> dict[str, Any]:
    return {}


def _as_it_is(track: Track, told: dict[str, Any]) -> Track:
    return track


def _facts(brief: Brief) -> list[tuple[str, str]]:
    asked = asked_of(brief)
    return [("Ball", asked.material + (f", {asked.hops} contacts" if asked.hops else ""))]


BOUNCE: Exercise[Plan, Scene] = Exercise(
    key="bounce",
    nouns=Nouns(
        exercise="bouncing ball",
        mover="ball",
        thing="The ball",
        run="bounce",
        moment="contact",
        still="ground",
        part="hop",
    ),
    guided=Guided(
        blank=Feel(),
        frames=(24, 96),
        presets=presets.PRESETS,
        plan=plan_of,
        keys=keys_of,
        shares=shares_of,
        by_hand=lambda plan: dict(plan.recipe.shares),
        free=_in_the_air,
        slow_first=_higher_first,
        move_name=_move_name,
        gaps=_gaps,
        gap_unit="px",
        moments=_contacts,
        sketch=BounceSketch(),
        sentences=words.sentences,
        lengths=words.lengths,
        disagreements=words.disagreements,
        handles=handles.handles,
        drag=handles.drag,
    ),
    follow=_follow,
    nothing=_nothing,
    placed=placing.apply,
    fixture="ground",
    landmarks=lambda track: [],
    drawn_over=lambda told: {"parts": {}, "marks": []},
    unsure=lambda track: [],
    sides=False,
    look=look,
    check=judged,
    lacks=lacks,
    lacking=LACKING,
    told=told.of,
    track_told=_nothing_more,
    track_read=_as_it_is,
    measures=measures,
    truth=truth.track_of,
    facts=_facts,
)
