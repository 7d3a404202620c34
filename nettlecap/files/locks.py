"""One at a time, over every process that works on the same data, on whichever machine it runs."""

from __future__ import annotations

import fcntl
import hashlib
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, InterfaceError, connection


@contextmanager
def one_at_a_time(*names: str) -> Iterator[None]:
    """Hold these names until the block ends; whoever wants one of them waits.

    The database holds them where it can (PostgreSQL: its advisory locks, which end with the connection), in one order,
    so that no two wait for each other. With SQLite all is on one machine, and a locked file holds them all at once.
    """
    if connection.vendor == "postgresql":
        yield from _by_database(sorted({_number(name) for name in names}))
    else:
        with (Path(settings.DATA) / "media.lock").open("w") as handle:
            fcntl.flock(handle, fcntl.LOCK_EX)
            yield


def _by_database(numbers: list[int]) -> Iterator[None]:
    held: list[int] = []
    try:
        for number in numbers:
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_lock(%s)", [number])
            held.append(number)
        yield
    finally:
        # Where the connection broke they are free already.
        with suppress(DatabaseError, InterfaceError):
            for number in reversed(held):
                with connection.cursor() as cursor:
                    cursor.execute("SELECT pg_advisory_unlock(%s)", [number])


def _number(name: str) -> int:
    """A name as one of the database's numbers, which are of 64 bits with a sign."""
    return int.from_bytes(hashlib.sha256(name.encode()).digest()[:8], signed=True)
