"""The worker's jobs about schools' systems."""

from __future__ import annotations

from django.conf import settings
from django_tasks import task

from nettlecap.school import sending


@task(queue_name=settings.QUEUE_OUT)
def send_marks(sending_id: int) -> str:
    """Send the marks of a brief."""
    return sending.send(sending_id)
