"""Which marks of a take somebody works on: the take's own, or their own while they mark it blind.

The one door to a sheet by take and person; whatever the desk shows or changes goes through it.
"""

from __future__ import annotations

from nettlecap.classroom import policy
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict
from nettlecap.marking.models import Blind, MarkSheet
from nettlecap.takes.models import Take

LAID_DOWN = "These marks are laid down. Take them up again first, to change them."
RETURNED = "These marks are returned. Reopen them first, to change them."


def blind_of(person: Person, take: Take) -> Blind | None:
    """This person's part in an open comparison of this take."""
    parts = Blind.objects.filter(take=take, marker_id=person.pk, comparison__closed_at=None)
    people = ("comparison__one", "comparison__other", "sheet__marked_by")
    return parts.select_related(*people, "sheet__proposal").first()


def sheet_of(take: Take) -> MarkSheet | None:
    """A take's own marks."""
    return MarkSheet.objects.filter(take=take).select_related("marked_by", "proposal", "reading").first()


def sheet_for(marker: Person, take: Take, part: Blind | None = None) -> MarkSheet | None:
    """The marks that this marker works on, if there are any; ``part`` saves looking for it again."""
    part = part or blind_of(marker, take)
    return getattr(part, "sheet", None) if part else sheet_of(take)


def sheet_shown_to(person: Person, take: Take) -> MarkSheet | None:
    """The marks that this person sees: a marker those that they work on, anybody else those that are returned."""
    if policy.may_mark(person, take.brief.course_id):
        return sheet_for(person, take)
    sheet = sheet_of(take)
    return sheet if sheet is not None and sheet.returned else None


def open_sheet(marker: Person, take: Take) -> MarkSheet:
    """The sheet on which this person may decide about a take, begun if need be; Conflict once it is out of hand."""
    policy.require(policy.may_mark(marker, take.brief.course_id), "mark in this course")
    part = blind_of(marker, take)
    where = {"blind": part} if part else {"take": take}
    sheet, _ = MarkSheet.objects.get_or_create(**where, defaults={"marked_by": marker})
    if sheet.returned:
        raise Conflict(LAID_DOWN if part else RETURNED)
    sheet.marked_by = marker
    return sheet
