"""What is left behind is swept up: at each start, once a day, and by ``manage.py sweep``. The rules stand here.

Nothing that anybody handed in, marked or wrote for a student is ever swept.
"""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db.models import Q
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion.sandbox import SCRATCH_PREFIX
from nettlecap.classroom.models import Invitation, Letter, Often, SignInTries
from nettlecap.files import shelf
from nettlecap.marking.parcels import ask
from nettlecap.pages import shared_sweep
from nettlecap.takes import store
from nettlecap.takes.export import SCRATCH_PREFIX as EXPORT_PREFIX
from nettlecap.takes.models import Analysis, Arrival, Beat
from nettlecap.takes.used import is_used
from nettlecap.training import clearing

HOUR_S = 3600.0
UPLOADS_AFTER_S = 6 * HOUR_S
"""An upload that is still incoming after so long is of a process that was killed, or of a connection that broke."""
SCRATCH_AFTER_S = 2 * HOUR_S
FILES_AFTER_S = 24 * HOUR_S
"""A kept file that no row points at; one that has just come may not have its row yet."""
COPIES_AFTER_S = 7 * 24 * HOUR_S
"""This machine's copy of a file of the shared storage, once nobody asks for it here."""
TASKS_AFTER, REFUSED_AFTER, LETTERS_AFTER = timedelta(days=14), timedelta(days=14), timedelta(days=400)
"""Finished jobs; arrivals that were refused; letters (a link in one works for a week)."""


@dataclass(frozen=True, slots=True)
class Swept:
    """How many of what were swept up, and how many bytes that gave back."""

    counts: dict[str, int]
    freed: int


def told(swept: Swept) -> str:
    """In a line, or nothing where there was nothing."""
    parts = [f"{count} {name}" for name, count in swept.counts.items() if count]
    return f"Swept up: {', '.join(parts)} ({swept.freed / 1e6:.0f} MB).\n" if parts else ""


def sweep(now: float | None = None) -> Swept:
    """Sweep everything up; ``now`` is the time to go by, in seconds since 1970."""
    now = time.time() if now is None else now
    counts: dict[str, int] = {}
    freed = 0
    for name, files in FILES.items():
        count, size = _remove(files(now))
        counts[name], freed = count, freed + size
    for name, rows in ROWS.items():
        counts[name] = rows()
    if shelf.is_shared():
        counts["files of the shared storage"] = shared_sweep.sweep(now)
    return Swept(counts, freed)


def _remove(paths: Iterator[Path]) -> tuple[int, int]:
    count = freed = 0
    for path in paths:
        size = _size(path)
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
        count, freed = count + 1, freed + size
    return count, freed


def _size(path: Path) -> int:
    size = 0
    with suppress(OSError):
        size = sum(p.stat().st_size for p in path.rglob("*") if p.is_file()) if path.is_dir() else path.stat().st_size
    return size


def _older(folder: Path, pattern: str, than_s: float, now: float) -> Iterator[Path]:
    for path in folder.glob(pattern) if folder.is_dir() else ():
        with suppress(OSError):
            about = path.lstat()
            if about.st_uid == os.getuid() and now - about.st_mtime > than_s:
                yield path


def _uploads(now: float) -> Iterator[Path]:
    yield from _older(Path(settings.MEDIA_ROOT) / store.INCOMING, "*", UPLOADS_AFTER_S, now)


def _scratch(now: float) -> Iterator[Path]:
    for prefix in (SCRATCH_PREFIX, EXPORT_PREFIX, "nettlecap-roster-"):
        yield from _older(Path(tempfile.gettempdir()), f"{prefix}*", SCRATCH_AFTER_S, now)


def _unused_files(now: float) -> Iterator[Path]:
    root = Path(settings.MEDIA_ROOT)
    for path in _older(root / "takes", "??/*", FILES_AFTER_S, now):
        relative = str(path.relative_to(root))
        with store.lock(relative):
            # With a shared storage this is a copy, which can be brought again.
            asked_for_lately = not shelf.is_shared() or now - path.stat().st_mtime < COPIES_AFTER_S
            if not (asked_for_lately and is_used(relative)):
                yield path


def _drawings(now: float) -> Iterator[Path]:
    """Folders of takes that are gone, runs that nobody sees, and what was not looked at for as long as the school says.

    Those are made again from the clip when somebody asks for them.
    """
    root = Path(settings.MEDIA_ROOT) / "drawings"
    shown = {str(pk): str(run) for pk, run in Analysis.objects.values_list("take_id", "shown_run")}
    for take in _older(root, "*", 0.0, now):
        if take.name not in shown:
            if now - take.stat().st_mtime > HOUR_S:
                yield take
            continue
        for run in _older(take, "*", HOUR_S, now):
            is_shown = run.name == shown[take.name]
            if not is_shown or now - _looked_at(run) > settings.DRAWINGS_DAYS * 24 * HOUR_S:
                yield run


def _looked_at(run: Path) -> float:
    """When a drawing of a run was last read, as far as the file system keeps that, or else made."""
    latest = 0.0
    for path in run.glob("*.png"):
        about = path.stat()
        latest = max(latest, about.st_atime, about.st_mtime)
    return latest or run.stat().st_mtime


def _tasks() -> int:
    done = DBTaskResult.objects.filter(Q(status="SUCCESSFUL") | Q(status="FAILED"))
    return done.filter(finished_at__lt=timezone.now() - TASKS_AFTER).delete()[0]


def _sessions() -> int:
    return Session.objects.filter(expire_date__lt=timezone.now()).delete()[0]


def _letters() -> int:
    return Letter.objects.filter(written_at__lt=timezone.now() - LETTERS_AFTER).delete()[0]


def _arrivals() -> int:
    over = Q(state=Arrival.State.REFUSED) | Q(state=Arrival.State.TAKEN_IN)
    return Arrival.objects.filter(over, came_at__lt=timezone.now() - REFUSED_AFTER).delete()[0]


def _tries() -> int:
    return SignInTries.objects.filter(last_at__lt=timezone.now() - timedelta(days=1)).delete()[0]


def _paces() -> int:
    return Often.objects.filter(began_at__lt=timezone.now() - timedelta(days=1)).delete()[0]


def _beats() -> int:
    return Beat.objects.filter(beat_at__lt=timezone.now() - timedelta(days=1)).delete()[0]


def _invitations() -> int:
    return Invitation.objects.filter(expires_at__lt=timezone.now() - LETTERS_AFTER).delete()[0]


def _parcels() -> int:
    return ask.clear_old()


def _training(now: float) -> Iterator[Path]:
    yield from clearing.not_looked_at(now)


FILES: dict[str, Callable[[float], Iterator[Path]]] = {
    "uploads that broke off": _uploads,
    "folders of stopped readers": _scratch,
    "files without a take": _unused_files,
    "folders of drawings": _drawings,
    "clips of drills": _training,
}
ROWS: dict[str, Callable[[], int]] = {
    "finished jobs": _tasks,
    "ended sittings": _sessions,
    "old letters": _letters,
    "arrivals that were told": _arrivals,
    "old counts of failed sign-ins": _tries,
    "old counts of how often": _paces,
    "signs of life of ended processes": _beats,
    "old invitations": _invitations,
    "old files of classes": _parcels,
}
