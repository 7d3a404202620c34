"""A student's exercises: what came back, what is left to put right, how many takes are left, and what is due next."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from nettlecap.classroom.models import Brief, Person
from nettlecap.marking.grades import Grade, faults, fetched_sheet, grade
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Exercise:
    """A brief as its student sees it, with their last take if there is one, and where they stand with it.

    ``grade`` and ``to_put_right`` are of the last take once its marks are back; ``takes_left`` is None where any number
    is taken.
    """

    brief: Brief
    take: Take | None
    grade: Grade | None
    to_put_right: int
    put_right: int
    takes_left: int | None
    closed: bool

    @property
    def returned(self) -> bool:
        return self.grade is not None

    @property
    def may_hand_in(self) -> bool:
        return not self.closed and self.takes_left != 0

    @property
    def is_open(self) -> bool:
        """Whether it is still to be handed in, and not due yet."""
        return self.take is None and not self.brief.is_due


def of(person: Person) -> tuple[Exercise, ...]:
    """Every exercise that is set for somebody; in a fixed number of questions, however many there are."""
    takes = Take.objects.own(person).newest().select_related("analysis", "sheet__reading", "brief")
    takes = takes.defer("analysis__findings", "analysis__track_csv")
    by_brief = {take.brief_id: take for take in takes.prefetch_related("sheet__decisions", "sheet__notes")}
    briefs = Brief.objects.for_student(person).select_related("course")
    return tuple(_exercise(brief, by_brief.get(brief.pk)) for brief in briefs)


def next_of(exercises: tuple[Exercise, ...]) -> Exercise | None:
    """The one that is due next of those that are still to be handed in."""
    coming = [e for e in exercises if e.is_open]
    return min(coming, key=lambda e: e.brief.due_at, default=None)


def _exercise(brief: Brief, take: Take | None) -> Exercise:
    core = brief.core
    sheet = fetched_sheet(take) if take is not None else None
    back = sheet if sheet is not None and sheet.returned else None
    things, done = _things(take, back) if take is not None and back is not None else (set(), set())
    most = core.terms.takes
    return Exercise(
        brief=brief,
        take=take,
        grade=grade(take, core, faults(take, core)) if take is not None and back is not None else None,
        to_put_right=len(things - done),
        put_right=len(things & done),
        takes_left=None if most is None else max(0, most - (take.number if take else 0)),
        closed=core.terms.late == "refused" and timezone.now() > brief.due_at,
    )


def _things(take: Take, sheet: MarkSheet) -> tuple[set[str], set[str]]:
    """Everything in returned marks that is to be put right, by its key, and what was ticked off."""
    there = {finding_key(f) for f in take.analysis.faults}
    agreed = {d.key for d in sheet.decisions.all() if d.verdict == Decision.Verdict.AGREED} & there
    reading = getattr(sheet, "reading", None)
    return agreed | {note.tick_key for note in sheet.notes.all()}, set(reading.ticked) if reading else set()
