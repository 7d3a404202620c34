"""The walk as one exercise among others."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from motion.brief import Brief, Stride, WalkBrief
from motion.clip import Clip, Exposure
from motion.exercises.exercise import Exercise, Guided, Nouns
from motion.exercises.walk import figure_sheet, follow, handles, presets, told, truth, words
from motion.exercises.walk.asked import asked_of
from motion.exercises.walk.checks import LACKING, judged, lacks
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.measures import measures
from motion.exercises.walk.plan import Plan, keys_of, shares_of
from motion.exercises.walk.scene import Scene, look
from motion.exercises.walk.sheet import WalkSketch
from motion.exercises.walk.sticks import drawn_over, figured
from motion.exercises.walk.track_file import landmarks, track_read, track_told, trails, unsure
from motion.track import Track
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress

EXCUSED: Mapping[str, str] = MappingProxyType(
    {
        "rise": "it may glide",
        "knees": "knees may snap straight",
        "limp": "a limp is excused",
        "arms": "arms may swing as they like",
    }
)


def _follow(clip: Clip, brief: Brief, placement: Placement, progress: Progress | None) -> Track:
    return follow.track(clip, brief, placement=placement, progress=progress)


def _nothing(exposures: tuple[Exposure, ...], pictures: tuple[int, ...]) -> Track:
    empty = (None,) * len(pictures)
    return truth.of_parts(exposures, empty, empty, pictures, None)


def _contacts(plan: Plan) -> list[float]:
    return [float(plan.first_frame(i)) for i, p in enumerate(plan.poses) if p.role == "contact"]


def _facts(brief: Brief) -> list[tuple[str, str]]:
    asked = asked_of(brief)
    figure = "head, trunk, arms and legs" if asked.figure == "whole" else "a body on two legs"
    said = [figure, "in place" if asked.path == "in_place" else "across the picture"]
    if asked.direction:
        said.append(f"to the {asked.direction}")
    limbs = "side" if asked.figure == "whole" else "leg"
    said.append(f"near and far {limbs} in two tones" if asked.sides == "told" else f"both {limbs}s alike")
    if asked.step_frames:
        said.append(f"{_range(asked.step_frames)} frames a step")
    facts = [("Walk", ", ".join(said))]
    style = _style(asked)
    return [*facts, ("Style", ", ".join(style))] if style else facts


def _style(asked: WalkBrief) -> list[str]:
    """What of its style is asked for, and what is excused."""
    said = []
    if asked.rise_share:
        low, high = asked.rise_share
        said.append(f"rises and falls by {_range((100 * low, 100 * high))} % of the leg")
    if asked.knee_degrees:
        said.append(f"the straightest knee bends by {_range(asked.knee_degrees)}°")
    if asked.lean_degrees:
        said.append(f"leans forward by {_range(asked.lean_degrees)}°")
    if asked.limp_frames:
        said.append(f"limps: one step takes {_range(asked.limp_frames)} frames longer")
    if asked.arm_swing and asked.figure == "whole":
        said.append("arms swing against the legs")
    return said + [EXCUSED[one] for one in asked.excused]


def _range(told: tuple[float, float]) -> str:
    low, high = told
    return f"{low:g}" if low == high else f"{low:g} to {high:g}"


WALK: Exercise[Plan, Scene] = Exercise(
    key="walk",
    nouns=Nouns(
        exercise="walk",
        mover="figure",
        thing="The figure",
        run="walk",
        moment="contact",
        still="ground",
        part="step",
    ),
    guided=Guided(
        blank=Stride(),
        frames=(24, 96),
        presets=presets.PRESETS,
        plan=plan_of,
        keys=keys_of,
        shares=shares_of,
        by_hand=lambda plan: {},
        free=lambda plan, index: False,
        slow_first=lambda plan, one, other: False,
        move_name=lambda plan, start, end: "step",
        gaps=words.gaps_of,
        gap_unit="px",
        moments=_contacts,
        sketch=WalkSketch(),
        sentences=words.sentences,
        lengths=words.lengths,
        disagreements=words.disagreements,
        handles=handles.handles,
        drag=handles.drag,
        figure_sheet=figure_sheet.draw,
    ),
    follow=_follow,
    nothing=_nothing,
    placed=follow.applied,
    fixture="ground",
    landmarks=landmarks,
    drawn_over=drawn_over,
    unsure=unsure,
    sides=True,
    look=look,
    check=judged,
    lacks=lacks,
    lacking=LACKING,
    told=told.of,
    track_told=track_told,
    track_read=track_read,
    measures=measures,
    truth=truth.track_of,
    facts=_facts,
    trails=trails,
    figured=figured,
)
