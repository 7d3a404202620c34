"""The worker's jobs about people."""

from __future__ import annotations

from datetime import datetime

from django.conf import settings
from django_tasks import task

from nettlecap.classroom import post


@task(queue_name=settings.QUEUE_OUT)
def send_letter(letter_id: int) -> str:
    """Send a letter of the outbox; where the mail server does not take it, again later."""

    def later(at: datetime) -> None:
        send_letter.using(run_after=at).enqueue(letter_id)

    return post.send(letter_id, later)
