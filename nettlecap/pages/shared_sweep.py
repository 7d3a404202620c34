"""What is left behind in the storage that several machines share is swept up by the same rules as this machine's."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from itertools import islice
from pathlib import PurePosixPath

from django.conf import settings

from nettlecap.files import shelf
from nettlecap.marking.models import PARCELS, Parcel
from nettlecap.takes import store
from nettlecap.takes.models import Analysis
from nettlecap.takes.used import is_used, used_of
from nettlecap.training.models import PICTURES, Question

DAY_S = 86_400.0
AT_ONCE = 500


def sweep(now: float | None = None) -> int:
    """Remove what nobody has any more, and drawings that were made long ago; how many files."""
    now = time.time() if now is None else now
    count = 0
    for rule in RULES:
        # Removed while the rule holds what it has to hold.
        for path in rule(now):
            shelf.forget(path)
            count += 1
    return count


def _older(path: str, than_s: float, now: float) -> bool:
    with shelf.reached():
        return bool(now - shelf.shared().get_modified_time(path).timestamp() > than_s)


def _hand_ins(now: float) -> Iterator[str]:
    """Files that no row points at; one that has just come may not have its row yet."""
    coming = shelf.kept_below(shelf.BY_CONTENT)
    while some := list(islice(coming, AT_ONCE)):
        used = used_of(some)
        for path in some:
            if path not in used and _older(path, DAY_S, now):
                with store.lock(path):
                    if not is_used(path):
                        yield path


def _drawings(now: float) -> Iterator[str]:
    """Of takes that are gone, of runs that nobody sees, and what was made long ago: it is made again when asked for."""
    shown = {f"{pk}/{run}" for pk, run in Analysis.objects.values_list("take_id", "shown_run")}
    for path in shelf.kept_below("drawings"):
        take, run = PurePosixPath(path).parts[1:3]
        is_shown = f"{take}/{run.removesuffix('.tar')}" in shown
        if _older(path, settings.DRAWINGS_DAYS * DAY_S if is_shown else DAY_S, now):
            yield path


def _drills(now: float) -> Iterator[str]:
    there = {str(pk) for pk in Question.objects.values_list("pk", flat=True)}
    for path in shelf.kept_below(PICTURES):
        is_there = PurePosixPath(path).stem in there
        if _older(path, settings.DRAWINGS_DAYS * DAY_S if is_there else DAY_S, now):
            yield path


def _parcels(now: float) -> Iterator[str]:
    there = {str(pk) for pk in Parcel.objects.values_list("pk", flat=True)}
    for path in shelf.kept_below(PARCELS):
        if PurePosixPath(path).parts[1] not in there and _older(path, DAY_S, now):
            yield path


RULES: tuple[Callable[[float], Iterator[str]], ...] = (_hand_ins, _drawings, _drills, _parcels)
