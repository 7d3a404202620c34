"""How often somebody may do what costs the installation something: so often within a while, each for themselves.

What one person uses up is theirs alone, so nobody can be kept out by what others do.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from nettlecap.classroom.models import Often
from nettlecap.errors import TooOften


@dataclass(frozen=True, slots=True)
class Pace:
    """So often within a while; ``what`` completes “You have … so often”."""

    name: str
    most: int
    within: timedelta
    what: str


def spend(pace: Pace, whose: int) -> None:
    """Count one more. Raises TooOften, and counts nothing, where that is enough for now."""
    with transaction.atomic():
        now = timezone.now()
        Often.objects.get_or_create(key=_key(pace, whose), defaults={"began_at": now})
        counted = Often.objects.select_for_update().get(key=_key(pace, whose))
        if now - counted.began_at >= pace.within:
            counted.began_at, counted.times = now, 0
        _require(pace, counted)
        counted.times += 1
        counted.save()


def require(pace: Pace, whose: int) -> None:
    """Raises TooOften where it is enough for now; nothing is counted."""
    counted = Often.objects.filter(key=_key(pace, whose), began_at__gt=timezone.now() - pace.within).first()
    if counted is not None:
        _require(pace, counted)


def _require(pace: Pace, counted: Often) -> None:
    if counted.times >= pace.most:
        until = counted.began_at + pace.within
        minutes = max(1, round((until - timezone.now()).total_seconds() / 60))
        raise TooOften(
            f"You have {pace.what} {pace.most} times in a short while. Go on in {minutes} minutes; nothing was "
            "changed.",
            60 * minutes,
        )


def _key(pace: Pace, whose: int) -> str:
    return f"{pace.name}:{whose}"
