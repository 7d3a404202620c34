"""The whole installation as one file, and back: the database and the hand-ins, while it runs.

The database is copied by SQLite's own online copying, which sees one moment of it whatever is written meanwhile. The
hand-ins of which that moment tells are held meanwhile by a second name, so that whatever is removed while the backup
is written is in it all the same. Drawings are not kept in it: they are drawn again from the hand-ins when they are
asked for.
"""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import tarfile
import tempfile
from contextlib import closing, suppress
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.utils import timezone

from nettlecap.errors import Refusal
from nettlecap.takes import worker
from nettlecap.training.models import PICTURES

SCHEMA = "nettlecap.backup/1"
LABEL, DATABASE, MEDIA = "nettlecap-backup.json", "db.sqlite3", "media"
TAKES, PASSING = "takes", ("drawings", "parcels", "incoming", PICTURES)
TRIES = 3


def back_up(to: Path) -> int:
    """Write a backup, whole or not at all; how many hand-ins it holds. Raises Refusal where it cannot."""
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
            copy = Path(folder) / DATABASE
            count = _hold(held, copy)
            label = Path(folder) / LABEL
            label.write_text(json.dumps({"schema": SCHEMA, "made_at": timezone.now().isoformat()}))
            with tarfile.open(part, "w:gz", compresslevel=1) as archive:
                archive.add(label, LABEL)
                archive.add(copy, DATABASE)
                archive.add(held, MEDIA)
        part.replace(to)
    finally:
        part.unlink(missing_ok=True)
    return count


def _hold(held: Path, copy: Path) -> int:
    """Copy the database, and hold every file of which that copy tells by a second name; how many those are.

    A file that was there before the copy is held before it; one that came just before it, after it. Only one that came
    and went between the two could be missed, and then the whole is done again.
    """
    for _ in range(TRIES):
        _link_all(held)
        _copy_database(_database(), copy)
        _link_all(held)
        wanted = _files_of(copy)
        missing = {path for path in wanted if not (held / path).exists()}
        # What is gone for good was so before: a backup keeps all that there is.
        if not any((Path(settings.MEDIA_ROOT) / path).exists() for path in missing):
            break
        copy.unlink()
    for path in held.rglob("*"):
        if path.is_file() and str(path.relative_to(held)) not in wanted:
            path.unlink()
    return len(wanted - missing)


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


def _files_of(copy: Path) -> set[str]:
    """The hand-ins of which a copy of the database tells, as paths below the media folder."""
    asked = (
        "SELECT file_path FROM takes_take UNION SELECT sound_path FROM takes_take "
        "UNION SELECT file_path FROM takes_arrival UNION SELECT sound_path FROM takes_arrival"
    )
    with closing(sqlite3.connect(copy)) as database:
        return {path for (path,) in database.execute(asked) if path}


def restore(source: Path) -> int:
    """Put everything as it was when the backup was made; how many hand-ins came back.

    The whole backup is read before anything changes; the database is taken over last, at once. Raises Refusal where it
    is no backup, or a damaged one, and while anything serves or works on the data.
    """
    _refuse_while_running()
    with tempfile.TemporaryDirectory(dir=Path(settings.MEDIA_ROOT).parent) as name:
        folder = Path(name)
        _unpack(source, folder)
        _check(folder)
        count = _put_back(folder / MEDIA)
        connection.close()
        _copy_database(folder / DATABASE, _database())
        # Of other takes that had the same numbers until now, perhaps; they are made again when asked for.
        for made in PASSING:
            shutil.rmtree(Path(settings.MEDIA_ROOT) / made, ignore_errors=True)
    call_command("migrate", verbosity=0)
    worker.forget_all_beats()
    return count


def _refuse_while_running() -> None:
    running = worker.any_alive()
    if running:
        names = ", ".join(name.partition("@")[0] for name in running)
        raise Refusal(
            f"Nettlecap is running ({names}): whoever is working would lose what they do. Stop it first, wait half a "
            "minute if it was killed, and restore then; nothing was changed."
        )


def _unpack(source: Path, folder: Path) -> None:
    try:
        with tarfile.open(source, "r:gz") as archive:
            archive.extractall(folder, filter="data")
        label = json.loads((folder / LABEL).read_text())
    except (OSError, EOFError, tarfile.TarError, ValueError) as error:
        raise Refusal(f"“{source}” is no backup that can be read; nothing was changed.") from error
    if not isinstance(label, dict) or label.get("schema") != SCHEMA:
        raise Refusal(f"“{source}” was not made by this application; nothing was changed.")


def _check(folder: Path) -> None:
    try:
        with closing(sqlite3.connect(folder / DATABASE)) as database:
            sound = database.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            sound = sound and bool(database.execute("SELECT count(*) FROM django_migrations").fetchone()[0])
    except sqlite3.Error:
        sound = False
    if not sound:
        raise Refusal("The database in this backup is damaged; nothing was changed.")


def _put_back(media: Path) -> int:
    root, count = Path(settings.MEDIA_ROOT), 0
    for path in sorted((media / TAKES).rglob("*")) if media.is_dir() else ():
        if path.is_file():
            to = root / path.relative_to(media)
            to.parent.mkdir(parents=True, exist_ok=True)
            shutil.move(path, to)
            count += 1
    return count


def _copy_database(one: Path, other: Path) -> None:
    with closing(sqlite3.connect(one, timeout=30)) as source, closing(sqlite3.connect(other, timeout=30)) as target:
        source.backup(target)


def _database() -> Path:
    if connection.vendor != "sqlite":
        raise Refusal("This installation does not keep its data in SQLite; use its database's own tools.")
    return Path(connection.settings_dict["NAME"])
