"""Who places by hand what moves or what it moves against, and where that is kept: with the take, or a blind part."""

from __future__ import annotations

from typing import Any

from motion.report import file as findings_file
from motion.tracking import placing
from motion.tracking.placing import Placement
from nettlecap.classroom import policy
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict
from nettlecap.marking.models import Blind
from nettlecap.marking.sheets import blind_of, require_share, seen_in, sheet_for
from nettlecap.takes import place
from nettlecap.takes.models import Take


def may_place(person: Person, take: Take) -> bool:
    """Markers on takes that are handed in, students on their own clip as long as it is not."""
    if take.trial:
        return bool(take.student_id == person.pk)
    return policy.may_mark(person, take.brief.course_id)


def place_shape(person: Person, take: Take, drawing: Any, ellipse: Any) -> None:
    """Say where what moves is in a drawing, or with None take that back; the checks run again at once.

    Raises NotAllowed, Refusal for no place, Conflict while the take is being looked at.
    """
    part = _part(person, take)
    _keep(part, take, place.with_shape(take, drawing, ellipse))


def place_landmark(person: Person, take: Take, drawing: Any, name: Any, at: Any) -> None:
    """Say where one point of what moves is in a drawing; as above."""
    part = _part(person, take)
    _keep(part, take, place.with_landmark(take, drawing, name, at))


def place_figure(person: Person, take: Take, drawing: Any, points: Any) -> None:
    """Say where all points of what moves are in a drawing; as above."""
    part = _part(person, take)
    _keep(part, take, place.with_figure(take, drawing, points))


def turn_sides(person: Person, take: Take, frames: Any) -> None:
    """Say that near and far side were found the other way round in the drawings from one frame to another; as above."""
    part = _part(person, take)
    _keep(part, take, place.with_sides_turned(take, frames))


def placed_now(person: Person, take: Take) -> dict[str, Any]:
    """What is placed in a take, as it is kept. Raises as above."""
    _part(person, take)
    return dict(take.placed)


def put_back(person: Person, take: Take, placed: dict[str, Any], *, instead_of: dict[str, Any]) -> None:
    """Put back what was placed before; as above, and Conflict where that is no longer ``instead_of`` what it led to."""
    part = _part(person, take)
    if take.placed != instead_of:
        raise Conflict(
            "Something was placed here since, by somebody else or in another window. Nothing was taken back."
        )
    _keep(part, take, placing.from_json(placed))


def place_fixture(person: Person, take: Take, numbers: Any) -> None:
    """Say where the ground's ends are, or the pivot, or with None take that back; as above."""
    part = _part(person, take)
    _keep(part, take, place.with_fixture(take, numbers))


def find_again(person: Person, take: Take) -> None:
    """Have the other drawings found again with the help of what was placed. Raises as above, and for a blind part."""
    if _part(person, take) is not None:
        raise Conflict(
            "While you mark this clip blind only what you place yourself counts; the rest is not found anew."
        )
    place.find_again(take)


def _part(person: Person, take: Take) -> Blind | None:
    """The blind part that this person places in, None for the take itself; the take is then as they see it."""
    policy.require(may_place(person, take), "place what moves in this clip")
    part = None if take.trial else blind_of(person, take)
    if part is None and not take.trial:
        require_share(person, take)
    seen_in(part, take)
    sheet = None if take.trial else sheet_for(person, take, part)
    if sheet is not None and sheet.returned:
        raise Conflict(
            "These marks are laid down. Take them up again first, to change what was measured."
            if part
            else "These marks are returned. Reopen them first, to change what was measured."
        )
    if take.analysis.unfinished or not take.analysis.findings:
        raise Conflict("This clip is being looked at. Place what moves when that is done.")
    return part


def _keep(part: Blind | None, take: Take, placement: Placement) -> None:
    if part is None:
        place.keep(take, placement)
        return
    found = findings_file.judge_again(take.analysis.measured, take.brief.core, placement)
    part.findings, part.placed = findings_file.to_json(found), placement.to_json()
    part.save(update_fields=["findings", "placed"])
    seen_in(part, take)
