"""The rows of the exposure sheet: frame, drawing, the gap to the next one, and what was seen there."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from nettlecap.marking.keys import Spanned

BAR_PX = 74
"""How wide the widest gap bar of a sheet is drawn."""


class Ranged(Protocol):
    """A note or a stroke: the frames it is about."""

    first_frame: int
    last_frame: int


class Seen(Spanned, Protocol):
    """A finding with its principle."""

    @property
    def principle(self) -> str: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One frame of the exposure sheet. Bars are in px; ``glyphs`` pairs of principle and key."""

    frame: int
    drawing: int
    starts: bool
    mark: str
    gap: float | None
    bar: float
    expected: float | None
    glyphs: tuple[tuple[str, str], ...]
    notes: int
    drawn: bool


def rows_of(
    data: dict[str, Any],
    findings: Sequence[Seen],
    notes: Sequence[Ranged],
    strokes: Sequence[Ranged],
    roles: dict[str, str],
) -> list[Row]:
    """Every frame of a clip, from its findings file, with what was found, written and drawn there.

    ``roles`` says what the marker calls drawings (by number) otherwise than proposed.
    """
    gaps = {g["frame"]: g for g in (data.get("motion") or {}).get("gaps", ())}
    widest = max((max(g["gap"], g["expected"] or 0.0) for g in gaps.values()), default=1.0) or 1.0
    keys, breakdowns = _told_apart(data.get("motion"))
    rows = []
    for exposure in data.get("clip", {}).get("exposures", ()):
        first = exposure["first_frame"]
        gap = gaps.get(first)
        proposed = "key" if first in keys else "breakdown" if first in breakdowns else "plain"
        for frame in range(first, first + exposure["frames"]):
            here = gap if frame == first else None
            rows.append(
                Row(
                    frame=frame,
                    drawing=exposure["drawing"],
                    starts=frame == first,
                    mark=roles.get(str(exposure["drawing"]), proposed),
                    gap=here["gap"] if here else None,
                    bar=round(BAR_PX * here["gap"] / widest, 1) if here else 0.0,
                    expected=round(BAR_PX * here["expected"] / widest, 1) if here and here["expected"] else None,
                    glyphs=tuple((f.principle, f.key) for f in findings if f.first_frame <= frame <= f.last_frame),
                    notes=sum(n.first_frame <= frame <= n.last_frame for n in notes),
                    drawn=any(s.first_frame <= frame <= s.last_frame for s in strokes),
                )
            )
    return rows


def _told_apart(motion: dict[str, Any] | None) -> tuple[set[int], set[int]]:
    """First frames of the keys (contacts and tops), and of the drawings halfway between two of them."""
    if not motion:
        return set(), set()
    keys = {c["first_frame"] for c in motion["contacts"] if c["first_frame"]}
    keys |= {h["top_frame"] for h in motion["hops"]}
    frames = [g["frame"] for g in motion["gaps"]]
    ordered = sorted(keys)
    breakdowns = set()
    for one, other in itertools.pairwise(ordered):
        between = [f for f in frames if one < f < other]
        if between:
            breakdowns.add(min(between, key=lambda f: abs(f - (one + other) / 2)))
    return keys, breakdowns
