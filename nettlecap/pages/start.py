"""What a person sees first: what waits for them, in a fixed number of queries whatever the class size."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Count, Q

from nettlecap.classroom.models import Brief, Course, Membership, Person, Role
from nettlecap.marking.models import Note
from nettlecap.marking.queue import Sitting, sitting
from nettlecap.marking.reading import answers
from nettlecap.takes.models import Analysis, Take

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
class Due:
    """A brief as a student sees it, with their last take if there is one."""

    brief: Brief
    take: Take | None

    @property
    def returned(self) -> bool:
        sheet = getattr(self.take, "sheet", None)
        return bool(sheet and sheet.returned)


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """Both sides of the start page; either may be empty."""

    courses: tuple[Course, ...]
    briefs: tuple[BriefState, ...]
    queue: tuple[Take, ...]
    waiting: int
    due: tuple[Due, ...]
    sitting: Sitting | None
    answers: tuple[Note, ...]

    @property
    def teaches(self) -> bool:
        return bool(self.courses)


def start_of(person: Person) -> Start:
    """What waits for a person."""
    courses = tuple(Course.objects.taught_by(person).order_by("name"))
    queue = Take.objects.markable_by(person).waiting_for_marks() if courses else Take.objects.none()
    shown = tuple(queue.select_related("brief", "student", "analysis")[:QUEUE_SHOWN])
    return Start(
        courses=courses,
        briefs=tuple(_brief_states(person)) if courses else (),
        queue=shown,
        waiting=queue.count() if courses else 0,
        due=tuple(_due(person)),
        sitting=sitting(person) if courses else None,
        answers=tuple(answers(person)) if courses else (),
    )


def _brief_states(person: Person) -> list[BriefState]:
    students = dict(Membership.objects.filter(role=Role.STUDENT).values_list("course").annotate(n=Count("pk")))
    latest = (
        Take.objects.markable_by(person)
        .newest()
        .values("brief")
        .annotate(
            handed_in=Count("pk", distinct=True),
            waiting=Count("pk", distinct=True, filter=Q(analysis__state=Analysis.State.DONE, sheet__returned_at=None)),
            returned=Count("pk", distinct=True, filter=Q(sheet__returned_at__isnull=False)),
        )
        .order_by()
    )
    by_brief = {row["brief"]: row for row in latest}
    nothing = {"handed_in": 0, "waiting": 0, "returned": 0}
    return [
        BriefState(
            brief=brief,
            students=students.get(brief.course_id, 0),
            **{k: by_brief.get(brief.pk, nothing)[k] for k in nothing},
        )
        for brief in Brief.objects.markable_by(person).select_related("course")
    ]


def _due(person: Person) -> list[Due]:
    takes = Take.objects.own(person).newest().select_related("analysis", "sheet")
    by_brief = {take.brief_id: take for take in takes}
    return [
        Due(brief=brief, take=by_brief.get(brief.pk))
        for brief in Brief.objects.for_student(person).select_related("course")
    ]
