"""Having the marks of a brief sent."""

from __future__ import annotations

from django.db import transaction

from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.school.models import Sending
from nettlecap.school.state import link_of, news_of
from nettlecap.school.tasks import send_marks


def ask(person: Person, brief: Brief) -> Sending:
    """Have the marks of a brief sent, as far as the system does not have them yet."""
    link_of(person, brief.course)
    if any(sending.under_way for sending in Sending.objects.filter(brief=brief, ended_at=None)):
        raise Conflict("These marks are being sent already.")
    total = len(news_of(brief))
    if not total:
        raise Refusal("The school's system has all marks of this brief that are returned.")
    with transaction.atomic():
        sending = Sending.objects.create(brief=brief, by=person, total=total)
        send_marks.enqueue(sending.pk)
    return sending
