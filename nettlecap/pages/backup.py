"""The whole installation as one file, and back: the database and the hand-ins, while it runs.

The database is copied as it is at one moment, whatever is written meanwhile (``databases/``). The hand-ins of which
that moment tells are held meanwhile by a second name, so that whatever is removed while the backup is written is in it
all the same; what lies in a shared storage only is fetched. Drawings are not kept in it: they are drawn again from the
hand-ins when they are asked for. A backup of SQLite can be put back into PostgreSQL, which is how a school grows.
"""

from __future__ import annotations

import json
import os
import shutil
import socket
import tarfile
import tempfile
from contextlib import suppress
from pathlib import Path
from types import ModuleType

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.utils import timezone

from nettlecap.errors import Refusal
from nettlecap.files import shelf
from nettlecap.files.unpacking import unpack
from nettlecap.pages.databases import carried, postgres, sqlite
from nettlecap.takes import leases
from nettlecap.training.models import PICTURES
from nettlecap.watch.models import BackupMade

SCHEMA = "nettlecap.backup/1"
LABEL, MEDIA = "nettlecap-backup.json", "media"
TAKES, PASSING = "takes", ("drawings", "parcels", "incoming", PICTURES)
TRIES = 3


def back_up(to: Path, *, with_files: bool = True) -> int:
    """Write a backup, whole or not at all; how many hand-ins it holds. Raises Refusal where it cannot.

    Without files it holds the database alone: for a shared storage that is kept safe by itself.
    """
    if to.exists():
        raise Refusal(f"“{to}” is there already; nothing was written over it.")
    if not to.parent.is_dir():
        raise Refusal(f"There is no folder “{to.parent}”.")
    handle, name = tempfile.mkstemp(dir=to.parent, prefix=f".{to.name}.")
    os.close(handle)
    part = Path(name)
    try:
        # Beside the hand-ins, so that they can be held there by a second name.
        with tempfile.TemporaryDirectory(dir=Path(settings.MEDIA_ROOT).parent, prefix="backup-") as folder:
            held = Path(folder) / MEDIA
            copy = Path(folder) / _engine().NAME
            count = _hold(held, copy, with_files=with_files)
            label = Path(folder) / LABEL
            label.write_text(json.dumps({"schema": SCHEMA, "made_at": timezone.now().isoformat()}))
            with tarfile.open(part, "w:gz", compresslevel=1) as archive:
                archive.add(label, LABEL)
                archive.add(copy, copy.name)
                archive.add(held, MEDIA)
        size = part.stat().st_size
        part.replace(to)
    finally:
        part.unlink(missing_ok=True)
    BackupMade.objects.create(machine=socket.gethostname()[:60], path=str(to)[:300], size=size, hand_ins=count)
    return count


def _engine() -> ModuleType:
    return postgres if connection.vendor == "postgresql" else sqlite


def _hold(held: Path, copy: Path, *, with_files: bool) -> int:
    """Copy the database, and hold every file of which that copy tells by a second name; how many those are.

    A file that was there before the copy is held before it; one that came just before it, after it. Only one that came
    and went between the two could be missed, and then the whole is done again.
    """
    held.mkdir(parents=True, exist_ok=True)
    if not with_files:
        _engine().copy(copy)
        return 0
    for _ in range(TRIES):
        _link_all(held)
        wanted = _engine().copy(copy)
        _link_all(held)
        missing = {path for path in wanted if not ((held / path).exists() or _fetched(path, held))}
        # What is gone for good was so before: a backup keeps all that there is.
        if not any(shelf.is_kept(path) for path in missing):
            break
        copy.unlink()
    for path in held.rglob("*"):
        if path.is_file() and str(path.relative_to(held)) not in wanted:
            path.unlink()
    return len(wanted - missing)


def _fetched(path: str, held: Path) -> bool:
    """Hold a file that only the shared storage has; whether it could be."""
    if not shelf.is_shared():
        return False
    with suppress(FileNotFoundError):
        (held / path).parent.mkdir(parents=True, exist_ok=True)
        _hold_one(shelf.here(path), held / path)
    return (held / path).exists()


def _link_all(held: Path) -> None:
    root = Path(settings.MEDIA_ROOT)
    held.mkdir(parents=True, exist_ok=True)
    for path in (root / TAKES).rglob("*"):
        to = held / path.relative_to(root)
        if path.is_dir():
            to.mkdir(parents=True, exist_ok=True)
        elif not to.exists():
            to.parent.mkdir(parents=True, exist_ok=True)
            with suppress(FileNotFoundError):
                _hold_one(path, to)


def _hold_one(path: Path, to: Path) -> None:
    try:
        os.link(path, to)
    except FileNotFoundError:
        raise
    except OSError:
        # A file system without second names.
        shutil.copy2(path, to)


def restore(source: Path) -> int:
    """Put everything as it was when the backup was made; how many hand-ins came back.

    The whole backup is read before anything changes; the database is taken over last, at once. Raises Refusal where it
    is no backup, or a damaged one, or one of PostgreSQL for SQLite, and while anything serves or works on the data.
    """
    _refuse_while_running()
    with tempfile.TemporaryDirectory(dir=Path(settings.MEDIA_ROOT).parent) as name:
        folder = Path(name)
        _unpack(source, folder)
        copied = _checked(folder)
        count = _put_back(folder / MEDIA)
        if copied.name == _engine().NAME:
            _engine().take_over(copied)
        else:
            carried.take_over(copied)
        # Of other takes that had the same numbers until now, perhaps; they are made again when asked for.
        for made in PASSING:
            shelf.forget_folder(made)
    call_command("migrate", verbosity=0)
    leases.forget_all_beats()
    return count


def _refuse_while_running() -> None:
    running = leases.any_alive()
    if running:
        names = ", ".join(name.partition("@")[0] for name in running)
        raise Refusal(
            f"Nettlecap is running ({names}): whoever is working would lose what they do. Stop it first, wait half a "
            "minute if it was killed, and restore then; nothing was changed."
        )


def _unpack(source: Path, folder: Path) -> None:
    try:
        with tarfile.open(source, "r:gz") as archive:
            unpack(archive, folder)
        label = json.loads((folder / LABEL).read_text())
    except (OSError, EOFError, tarfile.TarError, ValueError) as error:
        raise Refusal(f"“{source}” is no backup that can be read; nothing was changed.") from error
    if not isinstance(label, dict) or label.get("schema") != SCHEMA:
        raise Refusal(f"“{source}” was not made by this application; nothing was changed.")


def _checked(folder: Path) -> Path:
    """The copy of the database in a backup."""
    engine = sqlite if (folder / sqlite.NAME).exists() else postgres
    copied = folder / engine.NAME
    if engine is postgres and _engine() is sqlite:
        raise Refusal("This backup is of a PostgreSQL database, and cannot be put into SQLite; nothing was changed.")
    if not (copied.exists() and engine.is_sound(copied)):
        raise Refusal("The database in this backup is damaged; nothing was changed.")
    return copied


def _put_back(media: Path) -> int:
    count = 0
    for path in sorted((media / TAKES).rglob("*")) if media.is_dir() else ():
        if path.is_file():
            relative = str(path.relative_to(media))
            to = shelf.local(relative)
            to.parent.mkdir(parents=True, exist_ok=True)
            shutil.move(path, to)
            shelf.keep(relative)
            count += 1
    return count
