"""Which files of hand-ins somebody still has: a take, or an arrival that was not read yet."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Q

from nettlecap.takes.models import Arrival, Take

COLUMNS = ("file_path", "sound_path")


def all_used() -> set[str]:
    """Every such file, as paths below the media folder."""
    rows = [Take.everything.all(), Arrival.objects.unread()]
    return {path for found in rows for column in COLUMNS for path in found.values_list(column, flat=True) if path}


def used_of(paths: Iterable[str]) -> set[str]:
    """Those of these files that a row points at."""
    asked = list(paths)
    rows = [Take.everything.all(), Arrival.objects.unread()]
    return {
        path
        for found in rows
        for column in COLUMNS
        for path in found.filter(Q(**{f"{column}__in": asked})).values_list(column, flat=True)
    }


def is_used(path: str) -> bool:
    """Whether a row points at a file."""
    return bool(used_of([path]))
