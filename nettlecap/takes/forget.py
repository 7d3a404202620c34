"""Removing takes for good, with what lies in the media folder for them.

Rows go first and files after them, so that no row ever points at a file that is not there.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from nettlecap.files import shelf
from nettlecap.takes import store
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.used import is_used


@dataclass(frozen=True, slots=True)
class Files:
    """What lies in the media folder for some takes: kept files, and folders of drawings."""

    kept: tuple[str, ...]
    drawings: tuple[str, ...]

    @classmethod
    def of(cls, takes: Iterable[Take]) -> Files:
        found = list(takes)
        kept = tuple(p for t in found for p in (t.file_path, t.sound_path) if p)
        return cls(kept, tuple(t.analysis.drawings_folder for t in found))

    def clear(self) -> None:
        """Remove them, once their rows are gone; a file that another take points at stays."""
        for folder in self.drawings:
            shelf.forget_folder(folder)
        for path in self.kept:
            with store.lock(path):
                forget_unless_used(path)


def forget(take: Take) -> None:
    """Remove a take with all that hangs on it, and its files where no other row points at them."""
    files = Files.of([take])
    take.delete()
    files.clear()


def forget_unless_used(kept: str) -> None:
    """Remove a kept file that neither a take nor an arrival points at; call it under the store's lock."""
    if kept and not is_used(kept):
        store.forget(kept)


def forget_files(arrival: Arrival) -> None:
    """Remove what came in, unless a take has it by now."""
    for kept in (arrival.file_path, arrival.sound_path):
        forget_unless_used(kept)
