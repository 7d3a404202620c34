"""The pendulum as one exercise among others."""

from __future__ import annotations

from motion.brief import Brief, Swing
from motion.clip import Clip, Exposure
from motion.exercises.exercise import Exercise, Guided, Nouns
from motion.exercises.pendulum import follow, handles, presets, strand, told, truth, words
from motion.exercises.pendulum.asked import asked_of, drags
from motion.exercises.pendulum.checks import LACKING, judged, lacks
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.measures import measures
from motion.exercises.pendulum.plan import Plan, keys_of, shares_of, stops_at
from motion.exercises.pendulum.scene import Scene, look
from motion.exercises.pendulum.sheet import SwingSketch
from motion.exercises.pendulum.track_file import drawn_over, landmarks, track_read, track_told
from motion.exercises.pendulum.truth import LINE
from motion.track import Track
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress


def _follow(clip: Clip, brief: Brief, placement: Placement, progress: Progress | None) -> Track:
    asked = asked_of(brief)
    if asked.hangs != "bob" or asked.pivot == "moved":
        return strand.track(clip, asked, placement=placement, progress=progress)
    return follow.track(clip, placement=placement, progress=progress)


def _placed(track: Track, placement: Placement) -> Track:
    """What a person placed; of a chain's points those between pivot and end stay as they were found."""
    jointed = track.pivot is None or any(line is not None and len(line.points) > 2 for line in track.lines(LINE))
    return (strand.applied if jointed else follow.applied)(track, placement)


def _nothing(exposures: tuple[Exposure, ...], pictures: tuple[int, ...]) -> Track:
    empty = (None,) * len(pictures)
    return truth.of_parts(exposures, empty, empty, pictures, None)


def _free(plan: Plan, index: int) -> bool:
    return plan.poses[index].role == "swing" and index not in keys_of(plan)


def _farther_first(plan: Plan, one: int, other: int) -> bool:
    """The slow end of a stretch is the one nearer to an extreme, or to where its base stands."""
    free = stops_at(plan)
    if max(one, other) <= free:
        return min(one, other) < free - max(one, other)
    rest = plan.recipe.rest_angle
    return abs(plan.poses[one].hangs_at - rest) > abs(plan.poses[other].hangs_at - rest)


def _move_name(plan: Plan, start: int, end: int) -> str:
    if plan.poses[end].role == "rest":
        return "rest"
    return "carried" if end <= stops_at(plan) else "swing"


def _extremes(plan: Plan) -> list[float]:
    return [float(plan.first_frame(i)) for i in keys_of(plan) if plan.poses[i].role == "swing"]


def _facts(brief: Brief) -> list[tuple[str, str]]:
    asked = asked_of(brief)
    told = [{"bob": "a weight on its line", "chain": "a chain", "tail": "a tail"}[asked.hangs]]
    if asked.hangs == "chain" and asked.links:
        told[0] += f" of {asked.links} links"
    if asked.hangs != "bob":
        told.append("parts that drag" if drags(asked) else "hanging freely")
    if asked.pivot == "moved":
        told.append("carried along")
    if asked.length_m is not None:
        told.append(f"{asked.length_m:g} m long")
    if asked.swings:
        told.append(f"{asked.swings} swings")
    return [("Pendulum", ", ".join(told))]


PENDULUM: Exercise[Plan, Scene] = Exercise(
    key="pendulum",
    nouns=Nouns(
        exercise="pendulum",
        mover="weight",
        thing="What hangs",
        run="swing",
        moment="extreme",
        still="rest line",
        part="swing",
    ),
    guided=Guided(
        blank=Swing(),
        frames=(48, 160),
        presets=presets.PRESETS,
        plan=plan_of,
        keys=keys_of,
        shares=shares_of,
        by_hand=lambda plan: dict(plan.recipe.shares),
        free=_free,
        slow_first=_farther_first,
        move_name=_move_name,
        gaps=words.gaps_of,
        gap_unit="°",
        moments=_extremes,
        sketch=SwingSketch(),
        sentences=words.sentences,
        lengths=words.lengths,
        disagreements=words.disagreements,
        handles=handles.handles,
        drag=handles.drag,
    ),
    follow=_follow,
    nothing=_nothing,
    placed=_placed,
    fixture="pivot",
    landmarks=landmarks,
    drawn_over=drawn_over,
    unsure=lambda track: [],
    sides=False,
    look=look,
    check=judged,
    lacks=lacks,
    lacking=LACKING,
    told=told.of,
    track_told=lambda track, scene: track_told(track),
    track_read=track_read,
    measures=measures,
    truth=truth.track_of,
    facts=_facts,
)
