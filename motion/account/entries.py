"""What each check says of itself: its docstring, parted into what it looks at and how far off is too far."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from motion import checks
from motion.findings import CODES, PRINCIPLES, Principle

_CODE = re.compile(r"``([a-z_]+\.[a-z_]+)``:\s*")
_PARTS = re.compile(r"\b(Measured|Expected|Tolerance):\s*")


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One fault: its code, principle and name, what is wrong, what is measured, and how far off is too far."""

    code: str
    principle: Principle
    name: str
    fault: str
    measured: str
    allowed: str


@lru_cache(maxsize=1)
def entries() -> tuple[Entry, ...]:
    """Every fault that is looked for, by principle, in the order of the catalogue."""
    said = dict(_said())
    order = sorted(CODES, key=lambda code: PRINCIPLES.index(CODES[code][0]))
    return tuple(_entry(code, said[code]) for code in order)


def _said() -> Iterator[tuple[str, str]]:
    """(code, docstring without its code) of every function in the checks that tells of one."""
    for found in pkgutil.iter_modules(checks.__path__):
        module = importlib.import_module(f"{checks.__name__}.{found.name}")
        for _, function in inspect.getmembers(module, inspect.isfunction):
            text = inspect.getdoc(function) or ""
            told = _CODE.match(text)
            if told and told[1] in CODES:
                yield told[1], " ".join(text[told.end() :].split())


def _entry(code: str, text: str) -> Entry:
    principle, name = CODES[code]
    fault, *parts = _PARTS.split(text)
    told = dict(zip(parts[::2], parts[1::2], strict=True))
    wanted = f" It should be {told['Expected'].strip()}" if "Expected" in told else ""
    return Entry(
        code=code,
        principle=principle,
        name=name,
        fault=_sentence(fault),
        measured=_sentence(told.get("Measured", "")) + wanted,
        allowed=_sentence(told.get("Tolerance", "")),
    )


def _sentence(text: str) -> str:
    text = text.strip()
    return text[:1].upper() + text[1:]
