"""The five principles, in the order in which findings are told."""

from __future__ import annotations

from typing import Literal

Principle = Literal["spacing", "arcs", "squash_stretch", "contact", "timing"]
PRINCIPLE_NAMES: dict[Principle, str] = {
    "spacing": "Spacing",
    "arcs": "Arcs",
    "squash_stretch": "Squash and stretch",
    "contact": "Contact",
    "timing": "Timing",
}
PRINCIPLES: tuple[Principle, ...] = tuple(PRINCIPLE_NAMES)
