"""Invitations: links by which people come into a course by themselves, until a day."""

from __future__ import annotations

import secrets
from datetime import timedelta

from django.conf import settings
from django.db import transaction
from django.db.models import F
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom import letters, pace, policy
from nettlecap.classroom.models import Course, Invitation, Membership, Person, Role
from nettlecap.errors import Conflict, Refusal

INVITATIONS = pace.Pace("invite", settings.INVITATIONS_AN_HOUR, timedelta(hours=1), "made invitations")
DAYS = (1, 7, 14, 30, 90)
PERSONAL_DAYS = 60
INVITED = (Role.STUDENT, Role.ASSISTANT)
CLOSED = "This invitation is not open any more. Ask whoever gave it to you for another."


def invite(leader: Person, course: Course, *, role: str, days: int) -> Invitation:
    """Make a link for so many days."""
    policy.require(policy.may_lead(leader, course), "invite to this course")
    if role not in INVITED or days not in DAYS:
        raise Refusal("An invitation is for students or assistants, and for a number of days that is offered.")
    pace.spend(INVITATIONS, leader.pk)
    return Invitation.objects.create(
        course=course,
        role=role,
        code=secrets.token_urlsafe(18),
        expires_at=timezone.now() + timedelta(days=days),
        created_by=leader,
    )


def invite_person(leader: Person, course: Course, person: Person, *, role: str, told: str) -> Invitation:
    """Ask somebody who has an account to come into a course, in a letter; call it inside a transaction.

    ``told`` is how the leader named them. Raises Conflict where they are asked already.
    """
    if Invitation.objects.open().filter(course=course, person=person).exists():
        raise Conflict(f"{told} is invited already, and comes when they accept.")
    invitation = Invitation.objects.create(
        course=course,
        role=role,
        code=secrets.token_urlsafe(18),
        expires_at=timezone.now() + timedelta(days=PERSONAL_DAYS),
        created_by=leader,
        person=person,
        told=told[:260],
    )
    link = reverse("join", args=[invitation.code])
    letters.write([person], "invited", {"course": course, "leader": leader, "link": link}, asked_for=True)
    return invitation


def decline(person: Person, invitation: Invitation) -> None:
    """Say no to an invitation that is one's own; who invited is told no more than that it is closed."""
    policy.require(invitation.person_id == person.pk, "say no to this invitation")
    Invitation.objects.filter(pk=invitation.pk, closed_at=None).update(closed_at=timezone.now())


def close(leader: Person, invitation: Invitation) -> None:
    """Nobody can come in by this link from now on."""
    policy.require(policy.may_lead(leader, invitation.course_id), "close this invitation")
    Invitation.objects.filter(pk=invitation.pk, closed_at=None).update(closed_at=timezone.now())


def join(person: Person, invitation: Invitation) -> Membership:
    """Come into the invitation's course. Who is in it already stays what they are; who left comes back."""
    with transaction.atomic():
        if not Invitation.objects.select_for_update().get(pk=invitation.pk).open:
            raise Conflict(CLOSED)
        if invitation.person_id is not None:
            policy.require(invitation.person_id == person.pk, "come in by somebody else’s invitation")
            Invitation.objects.filter(pk=invitation.pk).update(closed_at=timezone.now())
        membership, new = Membership.objects.get_or_create(
            course=invitation.course, person=person, defaults={"role": invitation.role}
        )
        if not new and membership.left_at is not None:
            membership.role, membership.left_at, new = invitation.role, None, True
            membership.save()
        if new:
            Invitation.objects.filter(pk=invitation.pk).update(joined=F("joined") + 1)
    return membership


def join_as_new(invitation: Invitation, *, name: str, login: str, email: str, password: str) -> Person:
    """Come in as somebody new; whoever calls this has checked the values."""
    policy.require(invitation.person_id is None, "come in by somebody else’s invitation")
    with transaction.atomic():
        person = Person.objects.create_user(username=login, name=" ".join(name.split()), email=email, password=password)
        join(person, invitation)
    return person
