"""Pictures of drills' clips are not kept for ever: they can be drawn again from their seeds."""

from __future__ import annotations

import shutil
import time
from collections.abc import Iterator
from pathlib import Path

from django.conf import settings

from nettlecap.files import shelf
from nettlecap.training.models import PICTURES, Question

HOUR_S = 3600.0
AFTER_S, WAITING_S = 14 * 24 * HOUR_S, 45 * 24 * HOUR_S
"""Clips that were answered or are gone, and those that nobody came to answer."""


def not_looked_at(now: float) -> Iterator[Path]:
    """Folders of clips that were drawn a while ago, or whose drawing was broken off."""
    waiting = {str(pk) for pk in Question.objects.filter(answered_at=None).values_list("pk", flat=True)}
    for folder in (Path(settings.MEDIA_ROOT) / PICTURES).glob("*"):
        age = now - folder.stat().st_mtime
        kept = WAITING_S if folder.name in waiting else AFTER_S if folder.name.isdecimal() else HOUR_S
        if age > kept:
            yield folder


def clear_gone() -> None:
    """Throw away the pictures of clips that nobody has any more."""
    there = {str(pk) for pk in Question.objects.values_list("pk", flat=True)}
    if shelf.is_shared():
        for kept in list(shelf.kept_below(PICTURES)):
            if Path(kept).stem not in there:
                shelf.forget(kept)
    for folder in (Path(settings.MEDIA_ROOT) / PICTURES).glob("*"):
        being_drawn = not folder.name.isdecimal() and time.time() - folder.stat().st_mtime < HOUR_S
        if folder.name not in there and not being_drawn:
            shutil.rmtree(folder, ignore_errors=True)
