"""The media folder, and the storage that several machines share behind it, where there is one (``FILES_BUCKET``).

A path is relative to the media folder and names the same thing in both. With a shared storage that is where files are
kept, and the folder holds this machine's copies of them: brought when they are asked for, swept when nobody does.
Without one the folder is all there is, and keeping and bringing do nothing.

What is kept by its content (``takes/``) is held against its SHA-256 when it is brought; what is damaged is as good as
not there. Folders (drawings) travel as one packed file, ``<folder>.tar``: a machine fetches all of a clip's drawings at
once, and not hundreds of pictures one by one. Nothing is held in memory as a whole. Where the storage cannot be
reached, ``StorageAway`` is raised.
"""

from __future__ import annotations

import errno
import hashlib
import logging
import os
import shutil
import tarfile
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.core.files import File
from django.core.files.storage import Storage, storages

from nettlecap.files.unpacking import unpack

logger = logging.getLogger(__name__)
BY_CONTENT = "takes/"
SHARED = "shared"
TOUCH_EVERY_S = 3600.0
PIECE = 1 << 20


class StorageAway(OSError):
    """The shared storage cannot be reached, or refuses us."""

    def __init__(self, error: Exception) -> None:
        super().__init__(errno.EHOSTUNREACH, f"the shared storage cannot be used: {error}")


def is_shared() -> bool:
    """Whether files are kept in a storage that several machines share."""
    return SHARED in settings.STORAGES


def local(path: str) -> Path:
    """Where it lies on this machine, if it does."""
    return Path(settings.MEDIA_ROOT) / path


def shared() -> Storage:
    """The shared storage; call it where ``is_shared``."""
    return storages[SHARED]


def here(path: str) -> Path:
    """Where a kept file lies on this machine, brought here first if need be. Raises FileNotFoundError on opening."""
    return _here(path, _bring)


def folder_here(path: str) -> Path:
    """The same for a folder; it is not there afterwards where it was not kept."""
    return _here(path, _unpack)


def keep(path: str) -> None:
    """Have what lies on this machine under this path kept for all of them, unless it is already."""
    if is_shared():
        with reached(), local(path).open("rb") as stream:
            if not (path.startswith(BY_CONTENT) and shared().exists(path)):
                shared().save(path, File(stream))


def keep_folder(path: str) -> None:
    """The same for a folder, which may replace an earlier one."""
    if not is_shared():
        return
    with tempfile.TemporaryFile(dir=_scratch()) as stream:
        with tarfile.open(fileobj=stream, mode="w") as packed:
            packed.add(local(path), ".")
        stream.seek(0)
        with reached():
            shared().save(_packed(path), File(stream))


def forget(path: str) -> None:
    """Remove a kept file everywhere; copies of other machines are swept within a day."""
    if is_shared():
        with reached():
            shared().delete(path)
    local(path).unlink(missing_ok=True)


def forget_folder(path: str) -> None:
    """Remove a folder everywhere, with all that was kept below it."""
    if is_shared():
        with reached():
            for packed in [_packed(path), *kept_below(f"{path}/")]:
                shared().delete(packed)
    shutil.rmtree(local(path), ignore_errors=True)


def is_kept(path: str) -> bool:
    """Whether a file is kept."""
    if not is_shared():
        return local(path).is_file()
    with reached():
        return bool(shared().exists(path))


def kept_below(path: str) -> Iterator[str]:
    """Every path of the shared storage below a folder's."""
    with reached():
        folders, files = shared().listdir(path.rstrip("/"))
    yield from (f"{path.rstrip('/')}/{name}" for name in files)
    for folder in folders:
        yield from kept_below(f"{path.rstrip('/')}/{folder}")


def digest_of(stream: IO[bytes]) -> str:
    """The SHA-256 of what is left of a stream, in hex."""
    whole = hashlib.sha256()
    while piece := stream.read(PIECE):
        whole.update(piece)
    return whole.hexdigest()


def _here(path: str, bring: Callable[[str, Path], None]) -> Path:
    """Where it lies here; a page that asks for fifty drawings at once has their folder brought once."""
    at = local(path)
    if not (is_shared() and path):
        return at
    if not at.exists():
        with _one_bringer(path), suppress(FileNotFoundError):
            if not at.exists():
                bring(path, at)
    else:
        _touch(at)
    return at


_bringing: dict[str, list[Any]] = {}
_bringers = threading.Lock()


@contextmanager
def _one_bringer(path: str) -> Iterator[None]:
    """One thread of this process at a time brings a path; the others wait for it."""
    with _bringers:
        entry = _bringing.setdefault(path, [threading.Lock(), 0])
        entry[1] += 1
    try:
        with entry[0]:
            yield
    finally:
        with _bringers:
            entry[1] -= 1
            if not entry[1]:
                del _bringing[path]


def _bring(path: str, at: Path) -> None:
    handle, name = tempfile.mkstemp(dir=_scratch())
    part = Path(name)
    try:
        with reached(), os.fdopen(handle, "w+b") as stream, shared().open(path, "rb") as kept:
            shutil.copyfileobj(kept, stream, PIECE)
            stream.seek(0)
            if path.startswith(BY_CONTENT) and digest_of(stream) != path.rpartition("/")[2]:
                logger.error("“%s” is damaged in the shared storage; put it there again from a backup", path)
                raise FileNotFoundError(path)
        at.parent.mkdir(parents=True, exist_ok=True)
        part.replace(at)
    finally:
        part.unlink(missing_ok=True)


def _unpack(path: str, at: Path) -> None:
    with tempfile.TemporaryDirectory(dir=_scratch()) as name:
        part = Path(name) / "folder"
        with (
            reached(),
            shared().open(_packed(path), "rb") as kept,
            tarfile.open(fileobj=kept, mode="r|") as packed,
        ):
            unpack(packed, part)
        at.parent.mkdir(parents=True, exist_ok=True)
        with suppress(OSError):  # somebody else of this machine was faster
            part.replace(at)
        _touch(at)


def _packed(path: str) -> str:
    return f"{path.rstrip('/')}.tar"


def _touch(at: Path) -> None:
    """Tell the sweep that this was asked for."""
    with suppress(OSError):
        if time.time() - at.stat().st_mtime > TOUCH_EVERY_S:
            os.utime(at)


def _scratch() -> Path:
    folder = local("incoming")
    folder.mkdir(parents=True, exist_ok=True)
    return folder


@contextmanager
def reached() -> Iterator[None]:
    """What goes wrong between us and the storage, told as one thing."""
    from botocore.exceptions import BotoCoreError, ClientError

    try:
        yield
    except (BotoCoreError, ClientError) as error:
        raise StorageAway(error) from error
