"""Clips as a marker goes through them: by brief, by state, by student; and which one comes next.

What was asked for on the queue's page stays for the sitting, so that the desk goes on within it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.db.models import Avg, Count
from django.utils import timezone

from nettlecap.classroom.models import Brief, Membership, Person, Role
from nettlecap.marking.desk.requests import small_number
from nettlecap.marking.models import MarkSheet
from nettlecap.takes.models import Analysis, Take, TakeQuerySet

KEPT = "queue"
A_PAGE = 60
WHOSE = (("mine", "my share"), ("all", "everybody’s"))
STATES = (
    ("waiting", "to mark"),
    ("begun", "begun"),
    ("returned", "returned"),
    ("looking", "being looked at"),
    ("failed", "could not be looked at"),
    ("all", "all"),
)


@dataclass(frozen=True, slots=True)
class Asked:
    """What to show: a brief and a student by number (None for all), a state by name, and whose share of it."""

    brief: int | None = None
    student: int | None = None
    state: str = "waiting"
    whose: str = "mine"

    @classmethod
    def read(cls, values: Mapping[str, Any]) -> Asked:
        """From a form or from what was kept; what cannot be read is left open."""
        brief, student = (small_number(str(values.get(name) or "")) for name in ("brief", "student"))
        state, whose = str(values.get("state", "")), str(values.get("whose", ""))
        return cls(
            brief,
            student,
            state if state in dict(STATES) else "waiting",
            whose if whose in dict(WHOSE) else "mine",
        )

    @property
    def kept(self) -> dict[str, Any]:
        return {"brief": self.brief, "student": self.student, "state": self.state, "whose": self.whose}

    @property
    def narrowed(self) -> bool:
        """Whether only some of the clips were asked for."""
        return self.brief is not None or self.student is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class Queue:
    """A page of clips, how many there are in all, and what else could be asked for."""

    asked: Asked
    takes: tuple[Take, ...]
    count: int
    page: int
    briefs: tuple[Brief, ...]
    students: tuple[Person, ...]
    shared: bool
    states: tuple[tuple[str, str], ...] = STATES
    whose: tuple[tuple[str, str], ...] = WHOSE

    @property
    def pages(self) -> int:
        return max(1, -(-self.count // A_PAGE))

    @property
    def before(self) -> int | None:
        return self.page - 1 if self.page > 1 else None

    @property
    def after(self) -> int | None:
        return self.page + 1 if self.page < self.pages else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sitting:
    """How many clips somebody returned today, and how long they took each, in seconds."""

    clips: int
    seconds: float

    @property
    def words(self) -> str:
        return duration(self.seconds)


def gather(person: Person, asked: Asked, page: int = 1) -> Queue:
    """A page of the last takes of each student that were asked for, those that wait longest first."""
    found = _narrowed(person, asked)
    count = found.count()
    page = min(max(1, page), max(1, -(-count // A_PAGE)))
    shown = found.select_related("brief", "student", "analysis", "sheet")[(page - 1) * A_PAGE : page * A_PAGE]
    courses = Membership.objects.marking(person)
    students = Person.objects.filter(memberships__course__in=courses, memberships__role=Role.STUDENT)
    return Queue(
        asked=asked,
        takes=tuple(shown),
        count=count,
        page=page,
        briefs=tuple(Brief.objects.markable_by(person)),
        students=tuple(students.distinct().order_by("name")),
        shared=Membership.objects.learning().filter(course__in=courses).exclude(marker=None).exists(),
    )


def _narrowed(person: Person, asked: Asked) -> TakeQuerySet:
    found = _of(person, asked, Take.objects.markable_by(person).newest())
    return _in_state(found, asked.state).order_by("handed_in_at", "pk")


def _of(person: Person, asked: Asked, found: TakeQuerySet) -> TakeQuerySet:
    if asked.brief is not None:
        found = found.filter(brief=asked.brief)
    if asked.student is not None:
        # Who asks for one student means that one, whoever's share they are in.
        return found.filter(student=asked.student)
    return found.in_share_of(person) if asked.whose == "mine" else found


def _in_state(takes: TakeQuerySet, state: str) -> TakeQuerySet:
    states = Analysis.State
    if state == "waiting":
        return takes.filter(analysis__state__in=Analysis.MARKABLE, sheet__returned_at=None)
    if state == "begun":
        return takes.filter(analysis__state__in=Analysis.MARKABLE, sheet__isnull=False, sheet__returned_at=None)
    if state == "returned":
        return takes.filter(sheet__returned_at__isnull=False)
    if state == "looking":
        return takes.filter(analysis__state__in=(states.WAITING, states.RUNNING))
    if state == "failed":
        return takes.filter(analysis__state=states.FAILED)
    return takes


def waiting(person: Person, asked: Asked, after: Take | None = None) -> TakeQuerySet:
    """The clips that are to be marked next, within what was asked for; those of the same brief come first."""
    found = Take.objects.markable_by(person).waiting_for_marks(first=after.brief_id if after else None)
    found = _of(person, asked, found)
    return found.exclude(pk=after.pk) if after else found


def sitting(person: Person) -> Sitting | None:
    """What somebody returned today; None where that is nothing yet."""
    today = timezone.localtime().replace(hour=0, minute=0, second=0, microsecond=0)
    done = MarkSheet.objects.filter(marked_by=person, returned_at__gte=today, seconds__gt=0, blind=None)
    told = done.aggregate(clips=Count("pk"), seconds=Avg("seconds"))
    return Sitting(clips=told["clips"], seconds=told["seconds"]) if told["clips"] else None


def duration(seconds: float) -> str:
    """A while in words that nobody is hurried by: to five seconds below two minutes, else to half a minute."""
    if seconds < 120:
        return f"{max(5, 5 * round(seconds / 5))} seconds"
    halves = round(seconds / 30)
    return f"{halves // 2}{'½' if halves % 2 else ''} minutes"
