"""Taking letters of the outbox to the mail server: the worker's part."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from django.conf import settings
from django.core.mail import send_mail
from django.db import transaction
from django.utils import timezone

from nettlecap.classroom.models import Letter

LATER, TRIED_FOR = timedelta(minutes=10), timedelta(days=1)


def send(letter_id: int, later: Callable[[datetime], object]) -> str:
    """Send a letter, once; how it went. Trouble with the mail server is kept with it, and it is tried for a day.

    ``later`` has it sent again from a time on.
    """
    letter = Letter.objects.filter(pk=letter_id, sent_at=None).first()
    if letter is None:
        return "nothing to send"
    try:
        send_mail(letter.subject, letter.body, settings.DEFAULT_FROM_EMAIL, [letter.address])
    except OSError as error:
        return _try_later(letter, error, later)
    Letter.objects.filter(pk=letter.pk).update(sent_at=timezone.now(), trouble="")
    return "sent"


def _try_later(letter: Letter, error: OSError, later: Callable[[datetime], object]) -> str:
    again = timezone.now() - letter.written_at < TRIED_FOR
    with transaction.atomic():
        Letter.objects.filter(pk=letter.pk).update(trouble=str(error)[:200])
        if again:
            later(timezone.now() + LATER)
    return "to be tried again" if again else "given up"
