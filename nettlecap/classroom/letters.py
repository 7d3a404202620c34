"""Letters: e-mail to people, written into the outbox and sent from there by the worker where there is a mail server.

A letter is written inside the transaction of what it tells of, so that neither is there without the other.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth.hashers import UNUSABLE_PASSWORD_PREFIX
from django.contrib.auth.tokens import default_token_generator
from django.db.models import Count, QuerySet
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from nettlecap.classroom.models import Letter, Person
from nettlecap.classroom.tasks import send_letter

LONGEST_ASKED = 254
"""No login and no address is longer."""
SECRET_LINK = re.compile(r"\S*/password/[^/\s]+/[^/\s]+")
FOR_THEIR_EYES = "(a link for nobody but them)"
QUIET = timedelta(minutes=10)
"""So long nobody is written to again for having forgotten a password."""


def write(people: Iterable[Person], template: str, context: dict[str, Any], *, asked_for: bool = False) -> int:
    """Write a letter to each of these people; how many were written.

    The template's first line is the subject. Who wants no letters gets only those that were asked for (``asked_for``).
    """
    wanted = [p for p in people if asked_for or p.notices]
    for person in wanted:
        letter = Letter.objects.create(to=person, address=person.email, **_text(template, {**context, "to": person}))
        if settings.MAIL_SERVER and person.email:
            send_letter.enqueue(letter.pk)
    return len(wanted)


def _text(template: str, context: dict[str, Any]) -> dict[str, str]:
    text = render_to_string(f"letters/{template}.txt", {**context, "site": settings.SITE_URL.rstrip("/")})
    subject, _, body = text.strip().partition("\n")
    return {"subject": subject.strip()[:200], "body": body.strip() + "\n"}


def to_read(letters: Iterable[Letter]) -> list[tuple[Letter, str]]:
    """Letters with what others may read of each: a link that sets a password is its owner's alone.

    But where somebody was brought into one course, belongs to no other and has not been here yet, who brought them
    in may hand the link on: there is nothing else that it opens.
    """
    found = list(letters)
    alone = set(here_alone().filter(pk__in={x.to_id for x in found}).values_list("pk", flat=True))
    return [(x, x.body if x.to_id in alone else SECRET_LINK.sub(FOR_THEIR_EYES, x.body)) for x in found]


def here_alone() -> QuerySet[Person]:
    """Those who were brought into one course, belong to no other, and have never signed in nor set a password."""
    unset = Person.objects.filter(last_login=None, password__startswith=UNUSABLE_PASSWORD_PREFIX, is_staff=False)
    return unset.annotate(courses=Count("memberships")).filter(courses=1)


def password_link(person: Person) -> str:
    """A page on which this person, and whoever has the link, sets the password; it works once, for a week."""
    uid = urlsafe_base64_encode(force_bytes(person.pk))
    return reverse("set-password", args=[uid, default_token_generator.make_token(person)])


def welcome(person: Person, course: Any) -> None:
    """Tell somebody that they are in a course, and how to come in if they have no password yet."""
    link = "" if person.has_usable_password() else password_link(person)
    write([person], "welcome", {"course": course, "link": link}, asked_for=True)


def forgotten(asked: str) -> None:
    """Write to whoever has this login or address how to set a new password; nothing where nobody does."""
    asked = asked.strip()
    if not asked or len(asked) > LONGEST_ASKED:
        return
    found = Person.objects.filter(is_active=True).exclude(email="")
    lately = timezone.now() - QUIET
    for person in (found.filter(username=asked) or found.filter(email__iexact=asked))[:5]:
        if not person.letters.filter(written_at__gte=lately, subject__startswith="A new password").exists():
            write([person], "forgotten", {"link": password_link(person)}, asked_for=True)
