"""What a school's system has of a class: who is who there, and which marks are new to it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.conf import settings
from django.urls import reverse

from motion.catalogue import PRINCIPLE_NAMES
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Course, Membership, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.marking.returning.grades import Grade, faults, grade
from nettlecap.school.models import CourseLink, SchoolSystem, Sending, Sent
from nettlecap.school.services import Member, Services, host_of
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """The marks of a student that can be sent."""

    take: Take
    grade: Grade

    @property
    def comment(self) -> str:
        """The points of each principle, and where the marks are to be read."""
        parts = [f"{PRINCIPLE_NAMES[p]} {v:g}" for p, v in self.grade.points.items() if p in PRINCIPLE_NAMES]
        link = f"{settings.SITE_URL.rstrip('/')}{reverse('returned', args=[self.take.pk])}"
        return f"Take {self.take.number}. {', '.join(parts)}. {link}"


@dataclass(frozen=True, slots=True, kw_only=True)
class BriefState:
    """A brief as its sending sees it: how many marks there are, how many of them the system does not have yet."""

    brief: Brief
    returned: int
    news: int
    last: Sending | None

    @property
    def sending(self) -> bool:
        """Whether it is under way."""
        return self.last is not None and self.last.under_way


def link_course(
    person: Person, course: Course, *, system: SchoolSystem | None, members_url: str, lineitems_url: str
) -> None:
    """Say which course of a school's system a course is; without a system the link is undone."""
    policy.require(policy.may_lead(person, course), "link this course to the school's system")
    if system is None:
        CourseLink.objects.filter(course=course).delete()
        return
    for url in (members_url, lineitems_url):
        if host_of(url) != host_of(system.token_url):
            raise Refusal(f"“{url[:80]}” is not an address of {system.name}, which is at {host_of(system.token_url)}.")
    values = {"system": system, "members_url": members_url, "lineitems_url": lineitems_url}
    CourseLink.objects.update_or_create(course=course, defaults=values)


def who_is_who(students: Iterable[Person], members: Sequence[Member]) -> dict[int, Member]:
    """The member that each student is, by student's number: by e-mail, else by login, else by a name that is alone."""
    by_email = {m.email.casefold(): m for m in members if m.email}
    by_login = {m.login: m for m in members if m.login}
    names = Counter(m.name.casefold() for m in members)
    by_name = {m.name.casefold(): m for m in members if names[m.name.casefold()] == 1}
    found: dict[int, Member] = {}
    taken: set[str] = set()
    for ways in (
        lambda s: by_email.get(s.email.casefold()) if s.email else None,
        lambda s: by_login.get(s.username),
        lambda s: by_name.get(s.name.casefold()),
    ):
        for student in students:
            member = ways(student)
            if student.pk not in found and member is not None and member.number not in taken:
                found[student.pk] = member
                taken.add(member.number)
    return found


def look(person: Person, course: Course) -> list[tuple[Person, Member | None]]:
    """Everybody in the class beside who they are in the school's system; asks it. Raises SchoolTrouble."""
    link = link_of(person, course)
    students = _students(course)
    with Services(link.system.token_url, link.system.client_id) as services:
        known = who_is_who(students, services.members(link.members_url))
    return [(student, known.get(student.pk)) for student in students]


def states(course: Course) -> list[BriefState]:
    """Each published brief of a course with what could be sent."""
    briefs = list(Brief.objects.filter(course=course, published_at__isnull=False).prefetch_related("sendings__by"))
    given = _given(briefs)
    sent = {(s.brief_id, s.student_id): (s.total, s.most) for s in Sent.objects.filter(brief__in=briefs)}
    told = []
    for brief in briefs:
        own = given.get(brief.pk, [])
        news = sum(sent.get((brief.pk, g.take.student_id)) != (g.grade.total, g.grade.most) for g in own)
        last = next(iter(brief.sendings.all()), None)
        told.append(BriefState(brief=brief, returned=len(own), news=news, last=last))
    return told


def news_of(brief: Brief) -> list[Given]:
    sent = {s.student_id: (s.total, s.most) for s in Sent.objects.filter(brief=brief)}
    return [
        g for g in _given([brief]).get(brief.pk, []) if sent.get(g.take.student_id) != (g.grade.total, g.grade.most)
    ]


def _given(briefs: Sequence[Brief]) -> dict[int, list[Given]]:
    """The marks of everybody's last take, where they are returned, by brief."""
    cores = {b.pk: b.core for b in briefs}
    takes = Take.objects.filter(brief__in=briefs).newest().filter(sheet__returned_at__isnull=False)
    takes = takes.select_related("student", "sheet", "analysis", "brief").prefetch_related("sheet__decisions")
    told: dict[int, list[Given]] = {}
    for take in takes.defer("analysis__findings", "analysis__track_csv").order_by("student__name"):
        core = cores[take.brief_id]
        told.setdefault(take.brief_id, []).append(Given(take=take, grade=grade(take, core, faults(take, core))))
    return told


def _students(course: Course) -> list[Person]:
    learning = Membership.objects.learning().filter(course=course)
    return list(Person.objects.filter(memberships__in=learning).order_by("name"))


def link_of(person: Person, course: Course) -> CourseLink:
    policy.require(policy.may_lead(person, course), "send the marks of this course")
    link = CourseLink.objects.filter(course=course).select_related("system").first()
    if link is None:
        raise Conflict("This course is not linked to a school's system.")
    return link
