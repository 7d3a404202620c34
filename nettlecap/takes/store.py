"""The media folder: complete files only, named by their content."""

from __future__ import annotations

import hashlib
import os
import tempfile
import zipfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Protocol

from django.conf import settings

from motion.formats import sound


class Uploaded(Protocol):
    """What this module needs of an uploaded file."""

    name: str | None

    def chunks(self) -> Iterable[bytes]:
        """Its content in pieces."""


def told_apart(files: list[Uploaded]) -> tuple[list[Uploaded], list[Uploaded]]:
    """The sounds among files, and the others; by their content."""
    sounds = [f for f in files if sound.kind_of(next(iter(f.chunks()), b"")[:16])]
    return sounds, [f for f in files if f not in sounds]


@contextmanager
def incoming(files: list[Uploaded]) -> Iterator[Path]:
    """The upload as one complete file with a temporary name, gone afterwards unless it was kept.

    Several pictures become one zip, in which they keep their names; none are an empty file.
    """
    folder = Path(settings.MEDIA_ROOT) / "incoming"
    folder.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=folder)
    path = Path(name)
    try:
        with os.fdopen(handle, "wb") as stream:
            if len(files) == 1:
                for chunk in files[0].chunks():
                    stream.write(chunk)
            elif files:
                _zip(files, stream)
            stream.flush()
            os.fsync(stream.fileno())
        yield path
    finally:
        path.unlink(missing_ok=True)


def _zip(files: list[Uploaded], stream: object) -> None:
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as archive:  # type: ignore[call-overload]
        for upload in files:
            entry = zipfile.ZipInfo(Path(upload.name or "picture").name, date_time=(2026, 1, 1, 0, 0, 0))
            with archive.open(entry, "w") as inside:
                for chunk in upload.chunks():
                    inside.write(chunk)


def keep(path: Path) -> str:
    """Move a complete file to its place; its path below the media folder. The same content is kept once."""
    with path.open("rb") as stream:
        digest = hashlib.file_digest(stream, "sha256").hexdigest()
    relative = f"takes/{digest[:2]}/{digest}"
    target = Path(settings.MEDIA_ROOT) / relative
    target.parent.mkdir(parents=True, exist_ok=True)
    path.replace(target)
    return relative


def forget(relative: str) -> None:
    """Remove a kept file that no row points at."""
    (Path(settings.MEDIA_ROOT) / relative).unlink(missing_ok=True)
