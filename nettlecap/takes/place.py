"""Placing the ball or the ground by hand, on a take that was looked at."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from motion.errors import MotionError
from motion.tracking import placing
from nettlecap.classroom import policy
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes import look_at
from nettlecap.takes.models import Take


def may_place(person: Person, take: Take) -> bool:
    """Markers on takes that are handed in, students on their own clip as long as it is not."""
    if take.trial:
        return bool(take.student_id == person.pk)
    return policy.may_mark(person, take.brief.course_id)


def place_ball(person: Person, take: Take, drawing: int, ellipse: dict[str, Any] | None) -> None:
    """Say where the ball is in a drawing, or with None take that back; the checks run again at once.

    Raises NotAllowed, Refusal for no place, Conflict while the take is being looked at.
    """
    drawings = {e["drawing"] for e in _findings(person, take)["clip"]["exposures"]}
    if drawing not in drawings:
        raise Refusal("There is no such drawing in this clip.")
    shapes = {k: v for k, v in take.placed.get("shapes", {}).items() if k != str(drawing)}
    if ellipse is not None:
        shapes[str(drawing)] = ellipse
    _store(take, {**take.placed, "shapes": shapes})


def place_ground(person: Person, take: Take, ends: list[float] | None) -> None:
    """Say where the ground is at the left and right edge of the frame, or with None take that back; as above."""
    _findings(person, take)
    _store(take, {**take.placed, "ground": ends})


def find_again(person: Person, take: Take) -> None:
    """Have the other drawings found again with the help of what was placed. Raises as above."""
    _findings(person, take)
    look_at.start_again(take)
    take.analysis.refresh_from_db()


def _findings(person: Person, take: Take) -> dict[str, Any]:
    policy.require(may_place(person, take), "place the ball in this clip")
    sheet = getattr(take, "sheet", None)
    if sheet is not None and sheet.returned:
        raise Conflict("These marks are returned. Reopen them first, to change what was measured.")
    if take.analysis.unfinished or not take.analysis.findings:
        raise Conflict("This clip is being looked at. Place the ball when that is done.")
    return dict(take.analysis.findings)


def _store(take: Take, told: dict[str, Any]) -> None:
    try:
        placed = placing.from_json(told)
    except MotionError as error:
        raise Refusal(str(error)) from error
    with transaction.atomic():
        take.placed = placed.to_json()
        take.save(update_fields=["placed"])
        look_at.judge_again(take)
