"""The same deed by many processes at the same moment, each as another machine of the school would do it."""

from __future__ import annotations

import multiprocessing
import os
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection

from tests.databases import address

Deed = Callable[..., Any]
_together: Any = None


class Crowd:
    """So many processes; ``do`` has each of them do a deed once, all at the same moment."""

    def __init__(self, pool: Any, size: int) -> None:
        self.pool, self.size = pool, size

    def do(self, deed: Deed, *args: Any) -> list[Any]:
        """What it gave each of them: its answer, or the name of the refusal."""
        asked = [(deed, number, args) for number in range(self.size)]
        return list(self.pool.map(_do, asked, chunksize=1))


@contextmanager
def crowd(size: int, environment: dict[str, str] | None = None) -> Iterator[Crowd]:
    """Processes on the tests' database; with an environment of a shared storage each has a folder of its own."""
    spawn = multiprocessing.get_context("spawn")
    told = {**os.environ, "DATABASE_URL": address(), "DJANGO_SETTINGS_MODULE": "nettlecap.settings"}
    told |= environment or {}
    connection.close()
    with tempfile.TemporaryDirectory(prefix="nettlecap-machines-") as folder:
        data = folder if environment else str(settings.DATA)
        arguments = (spawn.Barrier(size), told, data, bool(environment))
        # Each may begin processes of its own, as those do that read a clip.
        with ProcessPoolExecutor(size, mp_context=spawn, initializer=_begin, initargs=arguments) as pool:
            yield Crowd(pool, size)


def _begin(barrier: Any, told: dict[str, str], data: str, apart: bool) -> None:
    global _together  # noqa: PLW0603 (a barrier is handed to a process as it begins, and no later)
    _together = barrier
    own = Path(data) / str(os.getpid()) if apart else Path(data)
    os.environ.update({**told, "NETTLECAP_DATA": str(own)})
    import django

    django.setup()


def _do(asked: tuple[Deed, int, tuple[Any, ...]]) -> Any:
    from nettlecap.errors import Refusal

    deed, number, args = asked
    _together.wait(120)
    try:
        return deed(number, *args)
    except Refusal as refusal:
        return type(refusal).__name__
