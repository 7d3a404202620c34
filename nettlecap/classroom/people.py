"""Who is in a course: people added, leaving and coming back, and who marks whose clips."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from nettlecap.classroom import letters, policy
from nettlecap.classroom.invitations import invite_person
from nettlecap.classroom.models import MARKERS, Course, Invitation, Membership, Person, Role
from nettlecap.errors import Conflict, Refusal

LONGEST_NAME, LONGEST_LOGIN = 120, 150
LOGIN = re.compile(r"[\w.@+-]+")


@dataclass(frozen=True, slots=True, kw_only=True)
class Came:
    """What bringing somebody in came to: they are in the course, or who has that account already is invited."""

    membership: Membership | None = None
    invitation: Invitation | None = None


def add(leader: Person, course: Course, *, name: str, login: str, email: str, role: str) -> Came:
    """Bring somebody into a course, as a new person, or invite the one who has that login; they are written to."""
    policy.require(policy.may_lead(leader, course), "change who is in this course")
    problem = problem_with(name=name, login=login, email=email, role=role)
    if problem:
        raise Refusal(problem)
    with transaction.atomic():
        return enrol(leader, course, name=name, login=login, email=email, role=role)


def problem_with(*, name: str, login: str, email: str, role: str) -> str:
    """What is wrong with these, in a sentence; empty if nothing."""
    name, login, email = name.strip(), login.strip(), email.strip()
    known = bool(login) and Person.objects.filter(username=login).exists()
    if not name and not known:
        return "A new person needs a name."
    if len(name) > LONGEST_NAME:
        return f"A name has at most {LONGEST_NAME} characters."
    if login and (len(login) > LONGEST_LOGIN or not LOGIN.fullmatch(login)):
        return f"“{login[:40]}” cannot be a login: use letters, digits and @ . + - _ only."
    if email:
        try:
            validate_email(email)
        except ValidationError:
            return f"“{email[:60]}” is no e-mail address."
    if role not in Role.values:
        return f"“{role[:30]}” is no role: a person is a student, an assistant or an instructor."
    return ""


def enrol(leader: Person, course: Course, *, name: str, login: str, email: str, role: str) -> Came:
    """Make somebody a member; call it inside a transaction. Raises Conflict where they are in the course already.

    Whoever has an account and is not of this course is invited, and comes when they accept; nothing of who they are is
    told before that.
    """
    person = found(login, email)
    if person is None:
        person = Person(username=login.strip() or free_login(name), name=" ".join(name.split()), email=email.strip())
        person.set_unusable_password()
        person.save()
        return Came(membership=_made_member(Membership(course=course, person=person), role))
    membership = Membership.objects.filter(course=course, person=person).first()
    if membership is None:
        told = " ".join(part for part in (name.strip(), login.strip() or email.strip()) if part)
        return Came(invitation=invite_person(leader, course, person, role=role, told=told))
    if membership.left_at is None:
        raise Conflict(f"{person.name} is in this course already.")
    return Came(membership=_made_member(membership, role))


def _made_member(membership: Membership, role: str) -> Membership:
    membership.role, membership.left_at = role, None
    membership.save()
    letters.welcome(membership.person, membership.course)
    return membership


def found(login: str, email: str) -> Person | None:
    """The person who is there already: by login, else by an e-mail address that is one person's alone."""
    login, email = login.strip(), email.strip()
    if login:
        return Person.objects.filter(username=login).first()
    same = list(Person.objects.filter(email__iexact=email)[:2]) if email else []
    return same[0] if len(same) == 1 else None


def free_login(name: str, taken: frozenset[str] = frozenset()) -> str:
    """A login made of a name that nobody has: the first word, then all of it, then with a number."""
    plain = unicodedata.normalize("NFKD", name.casefold())
    words = re.findall(r"\w+", "".join(c for c in plain if not unicodedata.combining(c))) or ["person"]
    tries = [words[0], ".".join(words)[:60]]
    there = {*taken, *Person.objects.filter(_begins(tries)).values_list("username", flat=True)}
    free = (t for t in (*tries, *(f"{tries[1]}{n}" for n in range(2, 10_000))) if t not in there)
    return next(free)


def _begins(words: list[str]) -> Q:
    query = Q()
    for word in words:
        query |= Q(username__startswith=word)
    return query


def leave(leader: Person, membership: Membership) -> None:
    """Somebody leaves a course. Their work stays, and stays theirs to read; their share is everybody's again."""
    policy.require(policy.may_lead(leader, membership.course_id), "change who is in this course")
    if membership.person_id == leader.pk:
        raise Refusal("You lead this course; another instructor of it can take you out.")
    with transaction.atomic():
        Membership.objects.filter(pk=membership.pk, left_at=None).update(left_at=timezone.now())
        Membership.objects.filter(course=membership.course_id, marker=membership.person_id).update(marker=None)


def come_back(leader: Person, membership: Membership) -> None:
    """Somebody who left is in the course again."""
    policy.require(policy.may_lead(leader, membership.course_id), "change who is in this course")
    Membership.objects.filter(pk=membership.pk).update(left_at=None)


def correct(keeper: Person, person: Person, *, name: str, email: str) -> None:
    """Put somebody's name or address right, for who keeps the installation; everybody does their own on their page."""
    policy.require(policy.keeps_house(keeper), "change somebody else’s name or address; they do, on their own page")
    problem = problem_with(name=name, login="", email=email, role=Role.STUDENT)
    if problem:
        raise Refusal(problem)
    person.name, person.email = " ".join(name.split()), email.strip()
    person.save(update_fields=["name", "email"])


def change_role(leader: Person, membership: Membership, role: str) -> None:
    """Somebody is something else in the course from now on; whose share they had is everybody's again."""
    policy.require(policy.may_lead(leader, membership.course_id), "change who is in this course")
    if role not in Role.values:
        raise Refusal("A person is a student, an assistant or an instructor.")
    if membership.person_id == leader.pk:
        raise Refusal("You lead this course; another instructor of it can make you something else.")
    with transaction.atomic():
        Membership.objects.filter(pk=membership.pk).update(role=role, marker=None)
        if role == Role.STUDENT:
            Membership.objects.filter(course=membership.course_id, marker=membership.person_id).update(marker=None)


def write_again(leader: Person, membership: Membership) -> None:
    """Welcome somebody once more who has no password yet."""
    policy.require(policy.may_lead(leader, membership.course_id), "change who is in this course")
    if not membership.person.never_here:
        raise Conflict(
            f"{membership.person.name} has a password; “Forgotten your password?” is where a new one is set."
        )
    with transaction.atomic():
        letters.welcome(membership.person, membership.course)


def share(leader: Person, course: Course, markers: Mapping[int, int | None]) -> None:
    """Say who marks whom: marker (None for anybody) by the number of a student's membership."""
    policy.require(policy.may_lead(leader, course), "share out the marking of this course")
    able = set(_markers(course))
    if any(m is not None and m not in able for m in markers.values()):
        raise Refusal("Only who marks in this course can have a share of it.")
    with transaction.atomic():
        for number, marker in markers.items():
            Membership.objects.learning().filter(course=course, pk=number).update(marker=marker)


def share_out(leader: Person, course: Course) -> None:
    """Share the students out evenly among all who mark, in the order of their names."""
    markers = _markers(course)
    students = Membership.objects.learning().filter(course=course).order_by("person__name", "pk")
    numbers = list(students.values_list("pk", flat=True))
    share(leader, course, {pk: markers[i * len(markers) // len(numbers)] for i, pk in enumerate(numbers)})


def _markers(course: Course) -> list[int]:
    found = Membership.objects.current().filter(course=course, role__in=MARKERS).order_by("role", "person__name")
    return list(found.values_list("person", flat=True))
