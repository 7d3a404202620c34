"""When a kind of fault comes back: soon where it was missed, seldom where it is known.

Each kind stands in one of a row of boxes. What is seen moves on to the next, from which it comes back after about twice
as many clips; what is missed goes back to the first (S. Leitner, So lernt man lernen, 1972; that spacing helps:
N. J. Cepeda et al., Psychological Bulletin 132, 2006).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

BACK_AFTER = (3, 6, 12, 25, 50, 100)
"""After so many clips what stands in each box comes back."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """A kind of fault in its box (from 0), and the number of the clip from which on it is due."""

    box: int = 0
    due: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Returns:
    """Every kind that was shown, by code, and how many clips were shown in all."""

    kinds: Mapping[str, Kept] = field(default_factory=dict)
    shown: int = 0

    def after(self, code: str | None, *, seen: bool) -> Returns:
        """After a clip with a fault of that code, or a clean one."""
        shown = self.shown + 1
        if code is None:
            return Returns(kinds=self.kinds, shown=shown)
        own = self.kinds.get(code)
        last = len(BACK_AFTER) - 1
        box = 0 if not seen else 1 if own is None else min(last, own.box + 1)
        return Returns(kinds={**self.kinds, code: Kept(box=box, due=shown + BACK_AFTER[box])}, shown=shown)

    def in_order(self, codes: Sequence[str]) -> list[str]:
        """These kinds in the order in which they are to come: what is overdue longest, what is new, what is not due."""
        overdue = [c for c in codes if c in self.kinds and self.kinds[c].due <= self.shown]
        new = [c for c in codes if c not in self.kinds]
        early = [c for c in codes if c in self.kinds and self.kinds[c].due > self.shown]
        return [*sorted(overdue, key=self._due), *new, *sorted(early, key=self._due)]

    def to_json(self) -> dict[str, Any]:
        """As it is kept."""
        return {"shown": self.shown, "kinds": {code: [k.box, k.due] for code, k in sorted(self.kinds.items())}}

    @classmethod
    def from_json(cls, told: Mapping[str, Any]) -> Returns:
        """As it was kept. Raises KeyError, TypeError or ValueError where it makes no sense."""
        kinds = {str(code): Kept(box=int(box), due=int(due)) for code, (box, due) in told["kinds"].items()}
        if any(not 0 <= kept.box < len(BACK_AFTER) for kept in kinds.values()):
            raise ValueError("there is no such box")
        return cls(kinds=kinds, shown=int(told["shown"]))

    def _due(self, code: str) -> int:
        return self.kinds[code].due
