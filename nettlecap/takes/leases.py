"""Who lives: every process that works or serves renews its lease in the database every few seconds (``Beat``).

Leases go by the database's clock, so that machines whose clocks differ agree. A process that is known to be gone does
not have to be waited for.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import socket
import threading
from collections.abc import Sequence
from contextlib import suppress
from datetime import timedelta
from functools import cache
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import DatabaseError, InterfaceError, connection
from django.db.models.functions import Now

from nettlecap.takes.models import Beat

BEAT_EVERY_S = 5.0


def name_of_process(name: str) -> str:
    """A name that no other process has, now or later: what it was called, the machine, its number, and a chance."""
    return f"{name[:30]}@{socket.gethostname()[:30]}:{os.getpid()}:{_place()}:{secrets.token_hex(3)}"


@cache
def _place() -> str:
    """Where numbers of processes mean what they mean to us: this machine, since it was started, in this container.

    A machine's name does not tell that: two may have the same.
    """
    told = []
    with suppress(OSError):
        told.append(Path("/proc/sys/kernel/random/boot_id").read_text().strip())
    with suppress(OSError):
        told.append(str(Path("/proc/self/ns/pid").readlink()))
    return hashlib.sha256(repr(told).encode()).hexdigest()[:10] if len(told) == 2 else secrets.token_hex(5)


def called(name: str) -> tuple[str, str]:
    """What a process was called, and its machine."""
    short, _, rest = name.rpartition("@")
    return short, rest.partition(":")[0]


def beat(name: str) -> None:
    """Renew a process's lease."""
    Beat.objects.update_or_create(name=name, defaults={"beat_at": Now()})


def _held_since() -> Any:
    """By the database's own clock, which all machines share."""
    return Now() - timedelta(seconds=settings.LEASE_SECONDS)


def alive(names: Sequence[str]) -> set[str]:
    """Those of these processes that live, as far as can be told."""
    held = Beat.objects.filter(name__in=set(names), beat_at__gte=_held_since()).values_list("name", flat=True)
    return {name for name in held if not _is_gone(name)}


def any_alive() -> list[str]:
    """Every process that works or serves on this data now."""
    try:
        return sorted(alive(list(Beat.objects.filter(beat_at__gte=_held_since()).values_list("name", flat=True))))
    except DatabaseError:
        # A database without tables yet: a fresh installation, into which a backup is put back.
        return []


def forget_all_beats() -> None:
    """After the data were put back as they were at another time: those who worked then do not now."""
    Beat.objects.all().delete()


def _is_gone(name: str) -> bool:
    """Whether a process is known to be gone: one of this place whose number nobody has any more."""
    parts = name.rpartition("@")[2].split(":")
    if len(parts) != 4 or parts[2] != _place() or not parts[1].isdecimal():
        return False
    try:
        os.kill(int(parts[1]), 0)
    except ProcessLookupError:
        return True
    except OSError:
        return False
    return False


class Heart:
    """Renews a lease in the background for as long as the block lasts."""

    def __init__(self, name: str) -> None:
        self.name = name
        self._done = threading.Event()
        self._thread = threading.Thread(target=self._beat, daemon=True)
        # Inside somebody's transaction nobody else would see it, and it would wait for that to end.
        self._runs = not connection.in_atomic_block

    def __enter__(self) -> Heart:
        beat(self.name)
        if self._runs:
            self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._done.set()
        if self._runs:
            self._thread.join(10)
        with suppress(DatabaseError, InterfaceError):
            Beat.objects.filter(name=self.name).delete()

    def _beat(self) -> None:
        while not self._done.wait(BEAT_EVERY_S):
            # A database that is busy, full, read-only or away now may take the next one, on a new connection.
            try:
                beat(self.name)
            except (DatabaseError, InterfaceError):
                connection.close_if_unusable_or_obsolete()
        connection.close()
