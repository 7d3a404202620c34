"""The walk as one exercise among others."""

from __future__ import annotations

from motion.brief import Brief, Stride
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
from motion.exercises.walk.track_file import drawn_over, landmarks, track_read, track_told, trails, unsure
from motion.track import Track
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress


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
        low, high = asked.step_frames
        said.append(f"{low:g} frames a step" if low == high else f"{low:g} to {high:g} frames a step")
    return [("Walk", ", ".join(said))]


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
)
