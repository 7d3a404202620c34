"""One fault of an exercise."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from motion.catalogue.principles import Principle


@dataclass(frozen=True, slots=True)
class Fault:
    """A fault by its code (``spacing.jump``): the principle that it breaks, and its name in a few words.

    ``chart`` is the measure that shows it best, ``layers`` what to lay over the picture to see it. ``why`` says in a
    sentence why it is one.
    """

    code: str
    principle: Principle
    name: str
    chart: str = ""
    layers: tuple[str, ...] = ()
    why: str = ""


def shown_by(
    charts: Mapping[Principle, str],
    layers: Mapping[Principle, tuple[str, ...]],
    why: Mapping[str, str],
    *faults: Fault,
) -> tuple[Fault, ...]:
    """The faults, each with its principle's chart and layers where it names none of its own, and with its why."""
    return tuple(
        replace(f, chart=f.chart or charts[f.principle], layers=f.layers or layers[f.principle], why=why[f.code])
        for f in faults
    )
