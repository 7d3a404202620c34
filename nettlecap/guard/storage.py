"""Storage that gives way: a full or read-only disk, or a file that is gone, told in words. Nothing is half written."""

from __future__ import annotations

import errno
import logging
import shutil
import tempfile
from collections.abc import Callable

from django.conf import settings
from django.db.utils import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse

from nettlecap.guard.answers import refused

logger = logging.getLogger(__name__)
FULL = (
    "The disk on which Nettlecap keeps its data is full, so this could not be kept. Nothing that was kept before is "
    "lost, and everything can still be read. Tell whoever looks after this installation."
)
READ_ONLY = (
    "The data of Nettlecap cannot be written to at the moment, so this could not be kept. Nothing that was kept before "
    "is lost, and everything can still be read. Tell whoever looks after this installation."
)
BUSY = "So much is being written at the moment that this could not be kept. Nothing was changed; try again."
AWAY = (
    "The storage in which Nettlecap keeps its files cannot be reached at the moment, so this could not be done. "
    "Nothing that was kept before is lost; try again in a while."
)
MISSING = (
    "A file that belongs to this is not there any more. What was marked and written is kept. "
    "Tell whoever looks after this installation."
)
SPARE_BYTES = 200_000_000
"""So much of a disk is left free by whoever sends something large."""
BY_NUMBER = {
    errno.ENOSPC: (507, FULL),
    errno.EDQUOT: (507, FULL),
    errno.EROFS: (503, READ_ONLY),
    errno.EACCES: (503, READ_ONLY),
    errno.EPERM: (503, READ_ONLY),
    errno.ENOENT: (410, MISSING),
    errno.EHOSTUNREACH: (503, AWAY),
}
DATABASE_AWAY = (
    "The database of Nettlecap cannot be reached at the moment, so this could not be done. Nothing that was kept "
    "before is lost; try again in a while."
)
BY_WORDS = {
    "disk is full": (507, FULL),
    "disk i/o error": (507, FULL),
    "readonly database": (503, READ_ONLY),
    "unable to open database": (503, READ_ONLY),
    "locked": (503, BUSY),
    "deadlock": (503, BUSY),
    "connection": (503, DATABASE_AWAY),
    "database system is": (503, DATABASE_AWAY),
    "terminating": (503, DATABASE_AWAY),
}


def has_room(size: int) -> bool:
    """Whether so many bytes more can come in: where requests are gathered, and where files are kept."""
    folders = (tempfile.gettempdir(), settings.DATA)
    return all(shutil.disk_usage(folder).free >= size + SPARE_BYTES for folder in folders)


def trouble_of(error: BaseException) -> tuple[int, str] | None:
    """The status and the sentence for an error of the storage; None for any other."""
    if isinstance(error, OSError):
        return BY_NUMBER.get(error.errno or 0)
    if isinstance(error, OperationalError | InterfaceError):
        return next((told for words, told in BY_WORDS.items() if words in str(error).lower()), None)
    return None


class StorageTrouble:
    """Answers an error of the storage with its sentence, in the form that was asked for."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Tell it, and leave anything else to Django."""
        told = trouble_of(error)
        if told is None:
            return None
        logger.error("storage gave way at %s: %s", request.path, error)
        status, words = told
        return refused(request, words, status)
