"""One drawing's figure, as far as it is told."""

from __future__ import annotations

from dataclasses import dataclass, field

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.feet import Foot

Place = tuple[float, float]
SIDES = ("near", "far")
TOLD = 0.5
"""A landmark less sure than this is hidden."""


@dataclass(slots=True)
class Drawn:
    """One drawing's figure: places px in the frame by landmark, how sure each is, and each side's foot.

    The ``body`` of a whole figure is its trunk; it has a ``head`` besides.
    """

    body: Ellipse | None
    head: Ellipse | None = None
    places: dict[str, Place] = field(default_factory=dict)
    sure: dict[str, float] = field(default_factory=dict)
    firm: set[str] = field(default_factory=set)
    feet: dict[str, Foot | None] = field(default_factory=dict)
    explained: float = 0.0
