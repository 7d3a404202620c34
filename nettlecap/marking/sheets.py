"""Which marks of a take somebody works on: the take's own, or their own while they mark it blind.

The one door to a sheet by take and person; whatever the desk shows or changes goes through it.
"""

from __future__ import annotations

from nettlecap.classroom import policy
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict, NotAllowed
from nettlecap.marking.models import Blind, MarkSheet
from nettlecap.takes.models import Take

LAID_DOWN = "These marks are laid down. Take them up again first, to change them."
RETURNED = "These marks are returned. Reopen them first, to change them."


def blind_of(person: Person, take: Take) -> Blind | None:
    """This person's part in an open comparison of this take."""
    parts = Blind.objects.filter(take=take, marker_id=person.pk, comparison__closed_at=None)
    people = ("comparison__one", "comparison__other", "sheet__marked_by")
    return parts.select_related(*people, "sheet__proposal").first()


def as_seen_by(person: Person, take: Take) -> Take:
    """The take, in memory, as this person works at it: while they mark it blind, with their own placing and no other.

    Never save its analysis after this; ``placing`` knows where each placing is kept.
    """
    return seen_in(blind_of(person, take), take)


def seen_in(part: Blind | None, take: Take) -> Take:
    """The same for a part in a comparison, and the take as it is for none."""
    if part is not None and part.findings is not None:
        take.analysis.findings, take.placed = part.findings, part.placed
    return take


def in_open_comparison(take: Take) -> bool:
    """Whether two markers mark this take blind at the moment."""
    return Blind.objects.filter(take=take, comparison__closed_at=None).exists()


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


def require_share(marker: Person, take: Take) -> None:
    """Raises NotAllowed where this take is in somebody else's share of the marking."""
    if not policy.may_change_marks(marker, take.brief, take.student_id):
        raise NotAllowed("This clip is in somebody else’s share of the marking: you may look at it, and they mark it.")


def open_sheet(marker: Person, take: Take) -> MarkSheet:
    """The sheet on which this person may decide about a take, begun if need be; Conflict once it is out of hand.

    Call it inside a transaction: the sheet is locked until its end, so that of several changes at once none is lost.
    """
    policy.require(policy.may_mark(marker, take.brief.course_id), "mark in this course")
    part = blind_of(marker, take)
    if part is None:
        require_share(marker, take)
    where = {"blind": part} if part else {"take": take}
    MarkSheet.objects.get_or_create(**where, defaults={"marked_by": marker})
    sheet = MarkSheet.objects.select_for_update(of=("self",)).get(**where)
    if sheet.returned:
        raise Conflict(LAID_DOWN if part else RETURNED)
    sheet.marked_by = marker
    return sheet
