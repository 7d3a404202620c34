"""What each check says of itself: its docstring, parted into what it looks at and how far off is too far."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from types import ModuleType

from motion import checks
from motion.catalogue import PRINCIPLES, Fault, Principle, faults

_CODE = re.compile(r"``([a-z_]+\.[a-z_]+)``:\s*")
_PARTS = re.compile(r"\b(Measured|Expected|Tolerance):\s*")


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One fault: its code, principle and name, what is wrong and why, what is measured, and how far off is too far."""

    code: str
    principle: Principle
    name: str
    fault: str
    why: str
    measured: str
    allowed: str


@lru_cache(maxsize=8)
def entries(exercise: str) -> tuple[Entry, ...]:
    """Every fault that is looked for in an exercise, by principle, in the order of the catalogue."""
    said, known = dict(_said(exercise)), faults(exercise)
    order = sorted(known.values(), key=lambda fault: PRINCIPLES.index(fault.principle))
    return tuple(_entry(fault, said[fault.code]) for fault in order)


def modules_of(exercise: str) -> Iterator[ModuleType]:
    """The modules of an exercise's own checks, and of those that all share."""
    for package in (checks, importlib.import_module(f"motion.exercises.{exercise}.checks")):
        for found in pkgutil.iter_modules(package.__path__):
            yield importlib.import_module(f"{package.__name__}.{found.name}")


def _said(exercise: str) -> Iterator[tuple[str, str]]:
    """(code, docstring without its code) of every function in the checks that tells of one."""
    known = faults(exercise)
    for module in modules_of(exercise):
        for _, function in inspect.getmembers(module, inspect.isfunction):
            text = inspect.getdoc(function) or ""
            told = _CODE.match(text)
            if told and told[1] in known:
                yield told[1], " ".join(text[told.end() :].split())


def _entry(fault: Fault, text: str) -> Entry:
    words, *parts = _PARTS.split(text)
    told = dict(zip(parts[::2], parts[1::2], strict=True))
    wanted = f" It should be {told['Expected'].strip()}" if "Expected" in told else ""
    return Entry(
        code=fault.code,
        principle=fault.principle,
        name=fault.name,
        fault=_sentence(words),
        why=fault.why,
        measured=_sentence(told.get("Measured", "")) + wanted,
        allowed=_sentence(told.get("Tolerance", "")),
    )


def _sentence(text: str) -> str:
    text = text.strip()
    return text[:1].upper() + text[1:]
