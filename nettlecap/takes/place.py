"""Placing by hand what moves, or what it moves against: what may be placed where, and having the rest found anew."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from motion.errors import MotionError
from motion.tracking import placing
from motion.tracking.placing import Placement
from nettlecap.errors import Refusal
from nettlecap.takes import results
from nettlecap.takes.look_again import start_again
from nettlecap.takes.models import Take
from nettlecap.takes.urgency import Urgency


def with_shape(take: Take, drawing: Any, ellipse: Any) -> Placement:
    """What is placed in a take, with what moves put in its place in a drawing, or (None) with nothing placed in it.

    Raises Refusal for no place.
    """
    number = _drawing(take, drawing)
    shapes = {k: v for k, v in take.placed.get("shapes", {}).items() if k != number}
    if ellipse is not None:
        return _read({**take.placed, "shapes": {**shapes, number: ellipse}})
    points = {name: {k: v for k, v in at.items() if k != number} for name, at in _landmarks(take).items()}
    turned = [n for n in take.placed.get("turned", ()) if str(n) != number]
    return _read({**take.placed, "shapes": shapes, "landmarks": points, "turned": turned})


def with_landmark(take: Take, drawing: Any, name: Any, at: Any) -> Placement:
    """The same with one of a drawing's points in its place. Raises Refusal for no place, or no such point."""
    number = _drawing(take, drawing)
    if name not in _known(take):
        raise Refusal("There is no such point in these drawings.")
    points = _landmarks(take)
    return _read({**take.placed, "landmarks": {**points, name: {**points.get(name, {}), number: at}}})


def with_figure(take: Take, drawing: Any, points: Any) -> Placement:
    """The same with several of a drawing's points in their places at once. Raises Refusal as above."""
    number = _drawing(take, drawing)
    if not isinstance(points, dict) or not points or not set(points) <= _known(take):
        raise Refusal("There is no such point in these drawings.")
    before = _landmarks(take)
    return _read(
        {
            **take.placed,
            "landmarks": {**before, **{name: {**before.get(name, {}), number: at} for name, at in points.items()}},
        }
    )


def with_sides_turned(take: Take, frames: Any) -> Placement:
    """The same with near and far side the other way round on ``frames`` (first, last). Raises Refusal."""
    if not take.brief.exercise.sides:
        raise Refusal("What moves here has no near and far side.")
    exposures = (take.analysis.findings or {}).get("clip", {}).get("exposures", ())
    if not isinstance(frames, list) or len(frames) != 2 or not all(type(f) is int for f in frames):
        raise Refusal("Give the first and the last frame.")
    first, last = frames
    drawings = {e["drawing"] for e in exposures if e["first_frame"] <= last and first < e["first_frame"] + e["frames"]}
    if not drawings:
        raise Refusal("There is no drawing on these frames.")
    turned = set(take.placed.get("turned", ())) ^ drawings
    placed = {k: v for k, v in take.placed.items() if k != "turned"}
    return _read({**placed, **({"turned": sorted(turned)} if turned else {})})


def _drawing(take: Take, drawing: Any) -> str:
    drawings = {e["drawing"] for e in (take.analysis.findings or {}).get("clip", {}).get("exposures", ())}
    if not isinstance(drawing, int) or isinstance(drawing, bool) or drawing not in drawings:
        raise Refusal("There is no such drawing in this clip.")
    return str(drawing)


def _known(take: Take) -> set[str]:
    """The names of the points that a drawing of the take has."""
    track = (take.analysis.findings or {}).get("track", {})
    return {landmark["name"] for landmark in take.brief.exercise.landmarks(track)}


def _landmarks(take: Take) -> dict[str, dict[str, Any]]:
    found: dict[str, dict[str, Any]] = take.placed.get("landmarks", {})
    return found


def with_fixture(take: Take, numbers: Any) -> Placement:
    """The same with what it moves against in its place: the ground's ends, or the pivot; (None) without it."""
    return _read({**take.placed, take.brief.exercise.fixture: numbers})


def _read(told: dict[str, Any]) -> Placement:
    try:
        return placing.from_json(told)
    except MotionError as error:
        raise Refusal(str(error)) from error


def keep(take: Take, placement: Placement) -> None:
    """Keep what was placed with the take, and run the checks again at once."""
    with transaction.atomic():
        take.placed = placement.to_json()
        take.save(update_fields=["placed"])
        results.judge_again(take)


def find_again(take: Take) -> None:
    """Have the other drawings found again with the help of what was placed."""
    start_again(take, Urgency.WAITED_FOR)
    take.analysis.refresh_from_db()
