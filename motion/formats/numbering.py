"""The order of numbered pictures, from their names as people give them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import PurePosixPath

from motion.errors import NotAClip

_PARTS = re.compile(r"\d+|\D+")
MOST_DIGITS = 18
"""A number with more digits counts no pictures."""
_CLUTTER = {"thumbs.db", "desktop.ini", ".ds_store"}


@dataclass(frozen=True, slots=True)
class Order:
    """Indices of the given names in playing order, and the numbers missing between the first and the last."""

    indices: tuple[int, ...]
    missing: tuple[int, ...]


def is_clutter(name: str) -> bool:
    """Whether an entry is something that a system leaves in folders and archives, not a frame."""
    parts = PurePosixPath(name).parts
    return any((p.startswith(".") and p not in (".", "..")) or p == "__MACOSX" or p.lower() in _CLUTTER for p in parts)


def in_order(names: Sequence[str]) -> Order:
    """Put picture names in playing order by the number that counts them.

    That is the last number in the names that differs between them (``walk2_007.png``: the 007), so padded
    and unpadded numbers and version numbers all come out right. Raises NotAClip when names carry no number
    or two carry the same.
    """
    stems = [name[: len(name) - len(PurePosixPath(name).suffix)] for name in names]
    numbers = _counting_numbers(stems)
    seen: dict[int, str] = {}
    for number, name in zip(numbers, names, strict=True):
        if number in seen:
            raise NotAClip(
                f"“{_short(seen[number])}” and “{_short(name)}” carry the same number, so their order is not clear."
            )
        seen[number] = name
    indices = tuple(sorted(range(len(names)), key=numbers.__getitem__))
    present = set(numbers)
    low, high = min(numbers), max(numbers)
    missing = tuple(n for n in range(low, high + 1) if n not in present) if high - low < 100_000 else ()
    return Order(indices, missing)


def _counting_numbers(stems: Sequence[str]) -> list[int]:
    runs = [[part for part in _PARTS.findall(stem) if part.isdecimal()] for stem in stems]
    for stem, run in zip(stems, runs, strict=True):
        if not run:
            raise NotAClip(f"“{_short(stem)}” has no number in its name. Number the pictures in playing order.")
        if any(len(part) > MOST_DIGITS for part in run):
            raise NotAClip(f"“{_short(stem)[:40]}…” has a number in its name that counts nothing. Number it anew.")
    depth = min(len(run) for run in runs)
    for back in range(1, depth + 1):
        column = [int(run[-back]) for run in runs]
        if len(set(column)) > 1 or len(column) == 1:
            return column
    return [int(run[-1]) for run in runs]


def _short(name: str) -> str:
    return PurePosixPath(name).name
