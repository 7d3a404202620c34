"""Hand-ins as files: complete ones only, named by their content.

While one process keeps a file and records it, no other removes a file of the same content: both hold the same lock.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
import zipfile
from collections.abc import Iterable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Protocol

from django.conf import settings

from motion.formats import sound
from nettlecap.files import locks, shelf

INCOMING = "incoming"


class Uploaded(Protocol):
    """What this module needs of an uploaded file."""

    @property
    def name(self) -> str | None:
        """What it is called where it came from."""

    def chunks(self) -> Iterable[bytes]:
        """Its content in pieces."""


def told_apart(files: list[Uploaded]) -> tuple[list[Uploaded], list[Uploaded]]:
    """The sounds among files, and the others; by their content."""
    sounds = [f for f in files if sound.kind_of(next(iter(f.chunks()), b"")[:16])]
    return sounds, [f for f in files if f not in sounds]


def incoming_folder() -> Path:
    """Where files lie while they come in; what is left behind there is of a process that was killed."""
    folder = Path(settings.MEDIA_ROOT) / INCOMING
    folder.mkdir(parents=True, exist_ok=True)
    return folder


@dataclass(frozen=True, slots=True)
class Ready:
    """A complete file that came in: where it lies, its content's SHA-256 in hex, and how many bytes it has."""

    path: Path
    digest: str
    size: int

    @property
    def place(self) -> str:
        """The path below the media folder under which it is kept."""
        return f"{shelf.BY_CONTENT}{self.digest[:2]}/{self.digest}"

    def keep(self) -> str:
        """Move it to its place, which is returned. Call it, and record what is kept, under ``lock`` of that place.

        One of the same content that is there already stays: it may be being read.
        """
        target = shelf.local(self.place)
        target.parent.mkdir(parents=True, exist_ok=True)
        if not target.exists():
            with self.path.open("rb") as stream:
                os.fsync(stream.fileno())
            self.path.replace(target)
        shelf.keep(self.place)
        return self.place


@contextmanager
def ready(files: list[Uploaded]) -> Iterator[Ready | None]:
    """An upload as one complete file, gone afterwards unless it was kept; None for no files.

    Several pictures become one zip with their names. What was hashed as it came in is not read again.
    """
    if not files:
        yield None
        return
    came = getattr(files[0], "ready", None)
    if len(files) == 1 and isinstance(came, Ready):
        yield came
        return
    handle, name = tempfile.mkstemp(dir=incoming_folder())
    path = Path(name)
    try:
        with os.fdopen(handle, "w+b") as stream:
            digest = _written(files, stream)
            size = stream.tell()
        yield Ready(path, digest, size)
    finally:
        path.unlink(missing_ok=True)


def _written(files: list[Uploaded], stream: IO[bytes]) -> str:
    if len(files) != 1:
        _zip(files, stream)
        stream.seek(0)
        return hashlib.file_digest(stream, "sha256").hexdigest()  # type: ignore[arg-type]
    whole = hashlib.sha256()
    for chunk in files[0].chunks():
        whole.update(chunk)
        stream.write(chunk)
    return whole.hexdigest()


def _zip(files: list[Uploaded], stream: IO[bytes]) -> None:
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as archive:
        for upload in files:
            entry = zipfile.ZipInfo(Path(upload.name or "picture").name, date_time=(2026, 1, 1, 0, 0, 0))
            with archive.open(entry, "w") as inside:
                for chunk in upload.chunks():
                    inside.write(chunk)


def forget(relative: str) -> None:
    """Remove a kept file that no row points at; call it under ``lock``."""
    shelf.forget(relative)


def lock(*places: str) -> AbstractContextManager[None]:
    """For keeping files and recording them, or for looking whether they are still wanted and removing them.

    One at a time for each of these places.
    """
    return locks.one_at_a_time(*(place for place in places if place))
