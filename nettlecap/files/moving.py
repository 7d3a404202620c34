"""Taking an installation's hand-ins from this machine's folder to the shared storage, or back.

It may be broken off and begun again, and run while the installation does: what is there already and whole is not sent
again. The last of it is best done once everything is stopped; then the setting is changed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from tempfile import TemporaryFile
from typing import IO

from django.core.files import File
from django.core.files.storage import FileSystemStorage, Storage

from nettlecap.errors import Refusal
from nettlecap.files import shelf

LOCAL = "local"
PLACES = (LOCAL, shelf.SHARED)


@dataclass(slots=True)
class Moved:
    """What became of the files: how many were sent, were there already, and which are not to be had whole."""

    sent: int = 0
    there: int = 0
    missing: list[str] = field(default_factory=list)


def copy(paths: Iterable[str], to: str, tell: Callable[[str], None] = lambda path: None) -> Moved:
    """Copy these kept files to ``local`` or ``shared``, each held against its SHA-256 on both sides.

    Raises Refusal where no shared storage is set, StorageAway where it cannot be reached.
    """
    if not shelf.is_shared():
        raise Refusal("No shared storage is set: give FILES_BUCKET (and FILES_ENDPOINT) for this command.")
    folder = FileSystemStorage(shelf.local("."))
    source, target = (folder, shelf.shared()) if to == shelf.SHARED else (shelf.shared(), folder)
    moved = Moved()
    with shelf.reached():
        for path in paths:
            if is_whole(target, path):
                moved.there += 1
            elif _send(source, target, path):
                moved.sent += 1
            else:
                moved.missing.append(path)
            tell(path)
    return moved


def is_whole(storage: Storage, path: str) -> bool:
    """Whether a storage has a kept file, as it came in."""
    try:
        with storage.open(path, "rb") as stream:
            return shelf.digest_of(stream) == PurePosixPath(path).name
    except FileNotFoundError:
        return False


def _send(source: Storage, target: Storage, path: str) -> bool:
    """Send a file if it is whole; whether it came to be so on the other side."""
    with TemporaryFile() as stream:
        if not _fetched(source, path, stream):
            return False
        if isinstance(target, FileSystemStorage):
            target.delete(path)  # a part of it
        target.save(path, File(stream))
    return is_whole(target, path)


def _fetched(source: Storage, path: str, stream: IO[bytes]) -> bool:
    try:
        with source.open(path, "rb") as kept:
            for piece in kept.chunks():
                stream.write(piece)
    except FileNotFoundError:
        return False
    stream.seek(0)
    whole = shelf.digest_of(stream) == PurePosixPath(path).name
    stream.seek(0)
    return whole
