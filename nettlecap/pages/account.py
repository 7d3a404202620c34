"""The account of the checks, laid out by principle."""

from __future__ import annotations

from dataclasses import dataclass

from motion.account.entries import Entry, entries
from motion.account.pages import NAMES
from motion.findings import PRINCIPLES


@dataclass(frozen=True, slots=True, kw_only=True)
class Chapter:
    """A principle and the faults against it."""

    principle: str
    name: str
    entries: tuple[Entry, ...]


def account() -> list[Chapter]:
    """Every fault that is looked for, a chapter a principle."""
    return [
        Chapter(principle=p, name=NAMES[p], entries=tuple(e for e in entries() if e.principle == p)) for p in PRINCIPLES
    ]
