"""The account of an exercise's checks, laid out by principle."""

from __future__ import annotations

from dataclasses import dataclass

from motion.account.entries import Entry, entries
from motion.account.pages import EXAMPLES, INTRODUCTION
from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES


@dataclass(frozen=True, slots=True, kw_only=True)
class Chapter:
    """A principle and the faults against it."""

    principle: str
    name: str
    entries: tuple[Entry, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Account:
    """How the faults of an exercise are judged."""

    exercise: str
    introduction: tuple[str, ...]
    chapters: tuple[Chapter, ...]


def account(exercise: str) -> Account | None:
    """Every fault that is looked for, a chapter a principle; None for an exercise that there is not."""
    if exercise not in EXAMPLES:
        return None
    chapters = [
        Chapter(principle=p, name=PRINCIPLE_NAMES[p], entries=tuple(e for e in entries(exercise) if e.principle == p))
        for p in PRINCIPLES
    ]
    return Account(
        exercise=exercise,
        introduction=(*INTRODUCTION, EXAMPLES[exercise].introduction),
        chapters=tuple(c for c in chapters if c.entries),
    )
