"""One drawing's figure, as far as it is told."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.feet import Foot

Place = tuple[float, float]
SIDES = ("near", "far")
TOLD, HIDDEN = 0.5, 0.3
"""A landmark less sure than the former is hidden; how sure one is that turns out to be another's."""


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

    def leave_foot(self, side: str, shin: float) -> None:
        """Take a foot for another one's: its ankle is where a shin of so many px leads."""
        ends, ankle = (f"heel_{side}", f"toe_{side}"), f"ankle_{side}"
        self.sure |= dict.fromkeys(ends, HIDDEN)
        self.feet[side] = None
        (x, y), to = self.places[f"knee_{side}"], self.places[ankle]
        share = shin / max(1e-6, math.dist((x, y), to))
        self.places[ankle] = x + share * (to[0] - x), y + share * (to[1] - y)
        self.firm.discard(ankle)
