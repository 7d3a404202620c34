"""The first look: what the marker felt while playing, beside what was found."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

from nettlecap.marking.keys import Spanned

NEAR_S = 0.25
"""A tap and a finding are about the same thing when they lie no farther apart than that."""


class Said(Spanned, Protocol):
    """A finding with what the marker said to it."""

    @property
    def verdict(self) -> str: ...


T = TypeVar("T", bound=Said)


@dataclass(frozen=True, slots=True, kw_only=True)
class Felt(Generic[T]):
    """Taps and findings put together: what both saw, and what only one of them did."""

    taps: tuple[int, ...]
    both: tuple[tuple[int, T], ...]
    only_tapped: tuple[int, ...]
    only_found: tuple[T, ...]


def compare(taps: Sequence[int], findings: Sequence[T], fps: float) -> Felt[T]:
    """Each finding with the tap that is nearest to it; taps and findings without any stand alone."""
    near = max(1.0, NEAR_S * fps)
    both = []
    for found in findings:
        nearest = min(taps, key=lambda t: _apart(t, found), default=None)
        if nearest is not None and _apart(nearest, found) <= near:
            both.append((nearest, found))
    seen = {id(found) for _, found in both}
    return Felt(
        taps=tuple(taps),
        both=tuple(both),
        only_tapped=tuple(t for t in taps if all(_apart(t, f) > near for f in findings)),
        only_found=tuple(f for f in findings if id(f) not in seen),
    )


def _apart(tap: int, found: Spanned) -> int:
    return max(found.first_frame - tap, tap - found.last_frame, 0)
