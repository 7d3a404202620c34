"""A student's exercises: what came back, what is left to put right, how many takes are left, and what is due next."""

from __future__ import annotations

from dataclasses import dataclass

from nettlecap.classroom.models import Brief, Person
from nettlecap.marking.returning.grades import Grade, faults, fetched_sheet, grade
from nettlecap.marking.returning.ticking import things_of
from nettlecap.takes.models import Take
from nettlecap.takes.terms import TermsNow


@dataclass(frozen=True, slots=True, kw_only=True)
class Exercise:
    """A brief as its student sees it, with their last take if there is one, and where they stand with it.

    ``grade``, ``to_put_right`` and ``put_right`` are of the last take once its marks are back.
    """

    brief: Brief
    take: Take | None
    grade: Grade | None
    to_put_right: int
    put_right: int
    terms: TermsNow

    @property
    def returned(self) -> bool:
        return self.grade is not None

    @property
    def is_open(self) -> bool:
        """Whether it is still to be handed in, and not due yet."""
        return self.take is None and not self.brief.is_due


def of(person: Person) -> tuple[Exercise, ...]:
    """Every exercise that is set for somebody; in a fixed number of questions, however many there are."""
    takes = Take.objects.own(person).newest().select_related("analysis", "sheet__reading", "brief")
    takes = takes.defer("analysis__findings", "analysis__track_csv")
    by_brief = {take.brief_id: take for take in takes.prefetch_related("sheet__decisions", "sheet__notes")}
    briefs = tuple(Brief.objects.for_student(person).select_related("course"))
    terms = TermsNow.of_all(person, briefs)
    return tuple(_exercise(brief, by_brief.get(brief.pk), terms[brief.pk]) for brief in briefs)


def next_of(exercises: tuple[Exercise, ...]) -> Exercise | None:
    """The one that is due next of those that are still to be handed in."""
    coming = [e for e in exercises if e.is_open]
    return min(coming, key=lambda e: e.brief.due_at, default=None)


def _exercise(brief: Brief, take: Take | None, terms: TermsNow) -> Exercise:
    core = brief.core
    sheet = fetched_sheet(take) if take is not None else None
    back = sheet if sheet is not None and sheet.returned else None
    things, done = things_of(take, back) if take is not None and back is not None else (set(), set())
    return Exercise(
        brief=brief,
        take=take,
        grade=grade(take, core, faults(take, core)) if take is not None and back is not None else None,
        to_put_right=len(things - done),
        put_right=len(things & done),
        terms=terms,
    )
