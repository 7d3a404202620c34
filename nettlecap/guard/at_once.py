"""Work that a page waits for and that takes a machine's core: only so much of it at once, so that pages stay quick."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from nettlecap.errors import Conflict

MOST, MOST_WAITING, WAIT_S = 2, 2, 15.0
"""So much of it is done at once, so much waits for that; the threads that are left are for pages."""
_places = threading.BoundedSemaphore(MOST)
_here = threading.BoundedSemaphore(MOST + MOST_WAITING)
FULL = "Several files are being made at the moment. Try again in a minute; nothing was changed."


@contextmanager
def a_place() -> Iterator[None]:
    """Wait for a place, a while. Raises Conflict where none becomes free."""
    if not _here.acquire(blocking=False):
        raise Conflict(FULL)
    try:
        if not _places.acquire(timeout=WAIT_S):
            raise Conflict(FULL)
        try:
            yield
        finally:
            _places.release()
    finally:
        _here.release()
