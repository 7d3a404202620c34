"""The worker's jobs about people."""

from __future__ import annotations

from django.conf import settings
from django_tasks import task

from nettlecap.classroom import letters


@task(queue_name=settings.QUEUE_OUT)
def send_letter(letter_id: int) -> str:
    """Send a letter of the outbox."""
    return letters.send(letter_id)
