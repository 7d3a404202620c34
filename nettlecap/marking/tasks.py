"""The worker's jobs about marks."""

from __future__ import annotations

from django.conf import settings
from django_tasks import task

from nettlecap.marking.parcels import packing


@task(queue_name=settings.QUEUE_OUT, priority=-10)
def make_parcel(parcel_id: int) -> str:
    """Make a file of many takes; letters and marks that are to go out come first."""
    return packing.make(parcel_id)
