"""An example of a fault: a motion as it belongs, the same with the fault, and what is told of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from motion.brief import Strictness
from motion.findings import Finding
from motion.ink import Element

STRICTNESS: tuple[Strictness, ...] = ("gentle", "standard", "strict")
Panel = Callable[[Element, Any, Finding | None, tuple[int, int]], None]
"""Draws the poses of a plan that show on some frames (first, last) into a panel, those of a finding filled."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Example:
    """A plan as it belongs, one with a fault, the finding that tells it, and what is allowed by strictness."""

    right: Any
    wrong: Any
    finding: Finding
    allowed: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Examples:
    """An exercise's examples by code, how they are drawn, and what its measures are told in.

    ``all_over`` are faults that show over the whole clip.
    """

    introduction: str
    example: Callable[[str], Example]
    panel: Panel
    all_over: tuple[str, ...] = ()
