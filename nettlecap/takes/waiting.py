"""How much of one person's waits for the worker."""

from __future__ import annotations

from nettlecap.classroom.models import Person
from nettlecap.takes.models import Analysis, Arrival


def unread_of(student: Person) -> int:
    """How many clips of a person wait, or are being read or looked at."""
    looked_at = Analysis.objects.unfinished().filter(take__student=student)
    return Arrival.objects.own(student).unread().count() + looked_at.count()
