"""What a person sees first: what waits for them, in a fixed number of queries whatever the class size."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Count, Exists, F, OuterRef, Q, Subquery, Window

from nettlecap.classroom.models import Brief, Course, CourseQuerySet, Invitation, Membership, Person, Role
from nettlecap.marking.comparing import comparisons
from nettlecap.marking.desk.queue import Asked, Sitting, sitting, waiting
from nettlecap.marking.models import Comparison, Note
from nettlecap.marking.returning.ticking import answers
from nettlecap.pages import exercises
from nettlecap.pages.exercises import Exercise
from nettlecap.takes.models import Analysis, Take
from nettlecap.training.models import SetDrill

QUEUE_SHOWN = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class BriefState:
    """A brief as its instructor sees it: how many handed in, wait for marks, and have them back."""

    brief: Brief
    students: int
    handed_in: int
    waiting: int
    returned: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """Both sides of the start page; either may be empty."""

    courses: tuple[Course, ...]
    briefs: tuple[BriefState, ...]
    queue: tuple[Take, ...]
    waiting: int
    due: tuple[Exercise, ...]
    next_due: Exercise | None
    sitting: Sitting | None
    answers: tuple[Note, ...]
    blind: tuple[tuple[Comparison, int, int], ...]
    leads: frozenset[int]
    may_open: bool
    invited: tuple[Invitation, ...] = ()
    drills: tuple[SetDrill, ...] = ()

    @property
    def in_other_shares(self) -> int:
        """How many clips wait that are in somebody else's share of the marking."""
        return sum(state.waiting for state in self.briefs) - self.waiting

    @property
    def teaches(self) -> bool:
        """Whether there is a marker's side; who may only open a course sees where."""
        return bool(self.courses) or self.may_open


def start_of(person: Person) -> Start:
    """What waits for a person."""
    courses = tuple(_taught(person).order_by(F("ends_on").desc(nulls_first=True), "name"))
    queue = waiting(person, Asked()) if courses else Take.objects.none()
    # How many there are in all comes with the first of them.
    counted = queue.select_related("brief", "student", "analysis").annotate(all_waiting=Window(Count("pk")))
    shown = tuple(counted[:QUEUE_SHOWN])
    own = exercises.of(person)
    leads = frozenset(c.pk for c in courses if c.led)  # type: ignore[attr-defined]  # comes with the query
    return Start(
        courses=courses,
        briefs=tuple(_brief_states(person)) if courses else (),
        queue=shown,
        waiting=shown[0].all_waiting if shown else 0,
        due=own,
        next_due=exercises.next_of(own),
        sitting=sitting(person) if courses else None,
        answers=tuple(answers(person)) if courses else (),
        blind=tuple(comparisons.waiting(person)) if courses else (),
        leads=leads,
        may_open=person.is_staff or bool(leads),
        invited=tuple(Invitation.objects.open().filter(person=person).select_related("course", "created_by")),
        drills=tuple(SetDrill.objects.to_do_for(person)) if own or not courses else (),
    )


def _taught(person: Person) -> CourseQuerySet:
    own = Membership.objects.of(person).filter(course=OuterRef("pk"), role=Role.INSTRUCTOR)
    return Course.objects.taught_by(person).annotate(led=Exists(own))


_TO_MARK = Q(analysis__state__in=Analysis.MARKABLE, sheet__returned_at=None)


def _brief_states(person: Person) -> list[BriefState]:
    learning = Membership.objects.learning().filter(course=OuterRef("course")).order_by().values("course")
    briefs = Brief.objects.markable_by(person).annotate(students=Subquery(learning.annotate(n=Count("pk")).values("n")))
    latest = (
        Take.objects.markable_by(person)
        .newest()
        .values("brief")
        .annotate(
            handed_in=Count("pk", distinct=True),
            waiting=Count("pk", distinct=True, filter=_TO_MARK),
            returned=Count("pk", distinct=True, filter=Q(sheet__returned_at__isnull=False)),
        )
        .order_by()
    )
    by_brief = {row["brief"]: row for row in latest}
    nothing = {"handed_in": 0, "waiting": 0, "returned": 0}
    return [
        BriefState(
            brief=brief,
            students=brief.students or 0,  # type: ignore[attr-defined]  # comes with the query
            **{k: by_brief.get(brief.pk, nothing)[k] for k in nothing},
        )
        for brief in briefs.select_related("course")
    ]
