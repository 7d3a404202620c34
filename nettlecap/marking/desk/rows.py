"""The rows of the exposure sheet: frame, drawing, the gap to the next one, and what was seen there."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from motion.report.report import Report
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
class Lane:
    """One of several things that go on or do not, as a strip down the sheet."""

    number: int
    name: str
    on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One frame of the exposure sheet. Bars are in px; ``glyphs`` pairs of principle and key.

    ``called`` is what the drawing is called in its motion; ``lanes`` what goes on at the time, None where nothing is
    told of that.
    """

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
    called: str
    lanes: tuple[Lane, ...]


def rows_of(
    report: Report | None,
    findings: Sequence[Seen],
    notes: Sequence[Ranged],
    strokes: Sequence[Ranged],
    roles: dict[str, str],
) -> list[Row]:
    """Every frame of a clip, from its findings file, with what was found, written and drawn there.

    ``roles`` says what the marker calls drawings (by number) otherwise than proposed.
    """
    if report is None:
        return []
    gaps = {g.frame: g for g in report.gaps}
    widest = max((max(g.gap, g.expected or 0.0) for g in report.gaps), default=1.0) or 1.0
    keys, breakdowns = report.keys, _breakdowns(report)
    called, lanes = report.called, _lanes(report)
    rows = []
    for exposure in report.exposures:
        first = exposure.first_frame
        gap = gaps.get(first)
        proposed = "key" if first in keys else "breakdown" if first in breakdowns else "plain"
        for frame in range(first, first + exposure.frames):
            here = gap if frame == first else None
            rows.append(
                Row(
                    frame=frame,
                    drawing=exposure.drawing,
                    starts=frame == first,
                    mark=roles.get(str(exposure.drawing), proposed),
                    gap=here.gap if here else None,
                    bar=round(BAR_PX * here.gap / widest, 1) if here else 0.0,
                    expected=round(BAR_PX * here.expected / widest, 1) if here and here.expected else None,
                    glyphs=tuple((f.principle, f.key) for f in findings if f.first_frame <= frame <= f.last_frame),
                    notes=sum(n.first_frame <= frame <= n.last_frame for n in notes),
                    drawn=any(s.first_frame <= frame <= s.last_frame for s in strokes),
                    called=called.get(first, "") if frame == first else "",
                    lanes=lanes.get(first, ()),
                )
            )
    return rows


def _lanes(report: Report) -> dict[int, tuple[Lane, ...]]:
    """By a drawing's first frame."""
    told = report.motion.get("lanes") or {"names": [], "on": []}
    return {
        row["frame"]: tuple(
            Lane(number=n, name=name, on=on)
            for n, (name, on) in enumerate(zip(told["names"], row["lanes"], strict=True))
        )
        for row in told["on"]
    }


def _breakdowns(report: Report) -> frozenset[int]:
    """First frames of the breakdowns; where the motion tells none, of the drawings halfway between two keys."""
    if report.breakdowns:
        return report.breakdowns
    frames = [g.frame for g in report.gaps]
    halfway = set()
    for one, other in itertools.pairwise(sorted(report.keys)):
        between = [f for f in frames if one < f < other]
        if between:
            halfway.add(min(between, key=lambda f: abs(f - (one + other) / 2)))
    return frozenset(halfway)
