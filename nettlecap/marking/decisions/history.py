"""Who changed which mark when, from what to what."""

from __future__ import annotations

from typing import Any

from nettlecap.classroom.models import Person
from nettlecap.marking.models import Change, MarkSheet

LONGEST = 200


def record(sheet: MarkSheet, who: Person, what: str, was: Any = "", now: Any = "") -> None:
    """Keep a change; call it inside the change's own transaction."""
    Change.objects.create(sheet=sheet, who=who, what=what[:LONGEST], was=_words(was), now=_words(now))


def changes(sheet: MarkSheet | None) -> list[Change]:
    """Every change of these marks, the latest first."""
    return list(Change.objects.filter(sheet=sheet).select_related("who")) if sheet else []


def _words(value: Any) -> str:
    text = f"{value:g}" if isinstance(value, float) else str(value)
    return text if len(text) <= LONGEST else f"{text[: LONGEST - 1]}…"
