"""SQLite: copied by its own online copying, which sees one moment of it whatever is written meanwhile."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from django.db import connection

from nettlecap.pages.databases.asked import FILES

NAME = "db.sqlite3"


def copy(to: Path) -> set[str]:
    """Copy it to a file; the hand-ins of which that copy tells, as paths below the media folder."""
    _copy(_own(), to)
    with closing(sqlite3.connect(to)) as database:
        return {path for (path,) in database.execute(FILES) if path}


def is_sound(copied: Path) -> bool:
    """Whether a copy is whole, and ours."""
    try:
        with closing(sqlite3.connect(copied)) as database:
            whole = database.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            return whole and bool(database.execute("SELECT count(*) FROM django_migrations").fetchone()[0])
    except sqlite3.Error:
        return False


def take_over(copied: Path) -> None:
    """Put a copy in the database's place, at once."""
    connection.close()
    _copy(copied, _own())


def _own() -> Path:
    return Path(connection.settings_dict["NAME"])


def _copy(one: Path, other: Path) -> None:
    with closing(sqlite3.connect(one, timeout=30)) as source, closing(sqlite3.connect(other, timeout=30)) as target:
        source.backup(target)
