"""The whole installation as one file, and back: the database and the hand-ins, while it runs.

The database is copied by SQLite's own online copying, which sees one moment of it whatever is written meanwhile. The
hand-ins come after it: a row never points at a file that is not complete, so whatever that moment tells of is there.
"""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import tarfile
import tempfile
from contextlib import closing
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.utils import timezone

from nettlecap.errors import Refusal

SCHEMA = "nettlecap.backup/1"
LABEL, DATABASE, MEDIA = "nettlecap-backup.json", "db.sqlite3", "media"
PASSING = ("incoming", "mended", "parcels")
"""Folders of the media folder that hold nothing to keep: uploads on their way, and what is made anew when asked for."""


def back_up(to: Path) -> int:
    """Write a backup, whole or not at all; how many files of hand-ins it holds. Raises Refusal where it cannot."""
    if to.exists():
        raise Refusal(f"“{to}” is there already; nothing was written over it.")
    if not to.parent.is_dir():
        raise Refusal(f"There is no folder “{to.parent}”.")
    handle, name = tempfile.mkstemp(dir=to.parent, prefix=f".{to.name}.")
    os.close(handle)
    part = Path(name)
    try:
        with tempfile.TemporaryDirectory() as folder, tarfile.open(part, "w:gz", compresslevel=1) as archive:
            copy = Path(folder) / DATABASE
            _copy_database(_database(), copy)
            label = Path(folder) / LABEL
            label.write_text(json.dumps({"schema": SCHEMA, "made_at": timezone.now().isoformat()}))
            archive.add(label, LABEL)
            archive.add(copy, DATABASE)
            count = _add_media(archive)
        part.replace(to)
    finally:
        part.unlink(missing_ok=True)
    return count


def _add_media(archive: tarfile.TarFile) -> int:
    root, count = Path(settings.MEDIA_ROOT), 0
    for path in sorted(root.rglob("*")):
        within = path.relative_to(root)
        if not path.is_file() or within.parts[0] in PASSING:
            continue
        try:
            archive.add(path, str(PurePosixPath(MEDIA, *within.parts)))
        except FileNotFoundError:
            continue  # A draft that was thrown away meanwhile.
        count += 1
    return count


def restore(source: Path) -> int:
    """Put everything as it was when the backup was made; how many files of hand-ins came back.

    The whole backup is read before anything changes; the database is taken over last, at once. Raises Refusal where it
    is no backup, or a damaged one.
    """
    with tempfile.TemporaryDirectory(dir=Path(settings.MEDIA_ROOT).parent) as name:
        folder = Path(name)
        _unpack(source, folder)
        _check(folder)
        count = _put_back(folder / MEDIA)
        connection.close()
        _copy_database(folder / DATABASE, _database())
    call_command("migrate", verbosity=0)
    return count


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
    for path in sorted(media.rglob("*")) if media.is_dir() else ():
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
