"""Points of many takes at once, from what is kept in few words: the same rule as at the desk."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from motion import marks
from motion.brief import Brief
from motion.catalogue import PRINCIPLES
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes.models import Take

Fault = dict[str, Any]
"""A fault as ``takes.faults`` tells it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Grade:
    """Points by principle, after lateness in all, and the most that there is."""

    points: dict[str, float]
    total: float
    most: float


def fetched_sheet(take: Take) -> MarkSheet | None:
    """A take's marks, fetched with it; None where nobody began them."""
    return getattr(take, "sheet", None)


def faults(take: Take, brief: Brief) -> list[Fault]:
    """What counts of a take: of returned marks what was agreed, else what the brief marks and nobody dismissed."""
    sheet = fetched_sheet(take)
    said = {d.key: d.verdict for d in sheet.decisions.all()} if sheet else {}
    if sheet and sheet.returned:
        return [f for f in take.analysis.faults if said.get(finding_key(f)) == Decision.Verdict.AGREED]
    return [
        f
        for f in take.analysis.faults
        if said.get(finding_key(f)) != Decision.Verdict.DISMISSED and _weight(brief, f) > 0
    ]


def grade(take: Take, brief: Brief, agreed: Iterable[Fault]) -> Grade:
    """The points of a take by what was agreed and by what was set by hand."""
    given = dict(brief.marking.points)
    most: dict[str, float] = {p: float(given.get(p, 0.0)) for p in PRINCIPLES}
    points = marks.propose(most, [(f["principle"], f["severity"], _weight(brief, f)) for f in agreed])
    sheet = fetched_sheet(take)
    points |= {p: v for p, v in (sheet.by_hand if sheet else {}).items() if p in most}
    cost = brief.terms.late_cost if take.late else 0.0
    return Grade(points=points, total=marks.after_late(sum(points.values()), cost), most=sum(most.values()))


def _weight(brief: Brief, fault: Fault) -> float:
    return brief.marking.weight(fault["code"]) if dict(brief.marking.points).get(fault["principle"]) else 0.0
