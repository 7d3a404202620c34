"""PostgreSQL: copied by its own pg_dump at a moment that we hold open, put back by its psql in one transaction."""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

from django.db import connection

from nettlecap.errors import Refusal
from nettlecap.pages.databases.asked import FILES

NAME = "database.pgdump"
ANEW = "DROP SCHEMA public CASCADE; CREATE SCHEMA public;"
"""Tables of a later version than the copy's must not stay beside its own."""


def copy(to: Path) -> set[str]:
    """Copy it to a file; the hand-ins of which that copy tells, as paths below the media folder.

    Raises Refusal where the database's own tools are missing or refuse.
    """
    import psycopg

    with psycopg.connect(**_address(), autocommit=True) as held, held.cursor() as cursor:  # type: ignore[arg-type]
        cursor.execute("BEGIN ISOLATION LEVEL REPEATABLE READ")
        cursor.execute("SELECT pg_export_snapshot()")
        moment = cursor.fetchone()
        assert moment is not None  # noqa: S101 (it always answers)
        _run("pg_dump", "--format=custom", "--no-owner", f"--snapshot={moment[0]}", f"--file={to}")
        cursor.execute(FILES)
        return {path for (path,) in cursor if path}


def is_sound(copied: Path) -> bool:
    """Whether a copy can be read, and is ours."""
    try:
        return "TABLE DATA public django_migrations" in _run("pg_restore", "--list", str(copied))
    except Refusal:
        return False


def take_over(copied: Path) -> None:
    """Put a copy in the database's place: all of it, or nothing where that cannot be done (Refusal)."""
    script = copied.with_suffix(".sql")
    _run("pg_restore", "--no-owner", f"--file={script}", str(copied))
    connection.close()
    _run(
        "psql", "--quiet", "--no-psqlrc", "--single-transaction", "-v", "ON_ERROR_STOP=1", "-c", ANEW, "-f", str(script)
    )


def _address() -> dict[str, str]:
    """Where it is and who we are there, as its library names them."""
    told = connection.settings_dict
    named = {"dbname": "NAME", "user": "USER", "password": "PASSWORD", "host": "HOST", "port": "PORT"}
    plain = {key: str(told[name]) for key, name in named.items() if told[name]}
    return plain | {k: str(v) for k, v in told["OPTIONS"].items() if k in ("host", "sslmode", "sslrootcert", "service")}


def _environment() -> dict[str, str]:
    """The same for its programs; a password must not stand on a command line."""
    named = {"dbname": "PGDATABASE", "user": "PGUSER", "password": "PGPASSWORD", "host": "PGHOST", "port": "PGPORT"}
    named |= {"sslmode": "PGSSLMODE", "sslrootcert": "PGSSLROOTCERT", "service": "PGSERVICE"}
    return {**os.environ, **{named[key]: value for key, value in _address().items()}}


def _run(program: str, *options: str) -> str:
    done = subprocess.run(  # noqa: S603 (our own words, and paths that we made)
        [_found(program), *options], env=_environment(), capture_output=True, text=True, check=False
    )
    if done.returncode:
        raise Refusal(f"{program} could not do it: {done.stderr.strip()[-400:]}")
    return done.stdout


def _found(program: str) -> str:
    """The newest of its programs that is here: older ones refuse a newer server."""
    own = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{program}"), key=lambda p: float(p.parts[-3]))
    path = str(own[-1]) if own else shutil.which(program)
    if not path:
        raise Refusal(f"{program} is not on this machine; it comes with PostgreSQL: apt-get install postgresql-client.")
    return path
