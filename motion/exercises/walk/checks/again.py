"""Drawings that show again: what is wrong with one is told once, however often it shows.

A cycle is mostly drawn once and shown over and over; where both legs are drawn alike a drawing may serve both steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from motion.exercises.walk.figure import SIDES
from motion.exercises.walk.steps import Step
from motion.findings import Finding


@dataclass(slots=True)
class _Told:
    """A finding, the drawings that it is about, and the same of them where they show again."""

    finding: Finding
    drawings: tuple[int, ...]
    again: list[Finding] = field(default_factory=list)


def once(found: Sequence[Finding], steps: Sequence[Step]) -> list[Finding]:
    """The findings, those on drawings that show again told with the first; timing is each showing's own."""
    told: list[_Told] = []
    for finding in sorted(found, key=lambda f: f.first_frame):
        drawings = tuple(s.drawing for s in steps if finding.first_frame <= s.frame <= finding.last_frame)
        known = None if finding.principle == "timing" else _known(told, finding, drawings)
        if known is None:
            told.append(_Told(finding, drawings))
        else:
            known.again.append(finding)
    return [_whole(one) for one in told]


def _known(told: Sequence[_Told], finding: Finding, drawings: tuple[int, ...]) -> _Told | None:
    """What says the same of the same drawings where they showed before: of the same side, else of the other."""
    before = [
        one
        for one in told
        if one.finding.code == finding.code
        and one.drawings == drawings
        and one.finding.first_frame < finding.first_frame
        and _without_side(one.finding.part) == _without_side(finding.part)
        and all(other.first_frame != finding.first_frame for other in one.again)
    ]
    before.sort(key=lambda one: one.finding.part != finding.part)
    return before[0] if before else None


def _without_side(part: str) -> str:
    return " ".join(word for word in part.split() if word not in SIDES)


def _whole(one: _Told) -> Finding:
    if not one.again:
        return one.finding
    frames = [str(f.first_frame) for f in one.again]
    listed = f"{', '.join(frames[:-1])} and {frames[-1]}" if len(frames) > 1 else frames[0]
    shown = "The drawing shows" if len(one.drawings) == 1 else "These drawings show"
    return replace(
        one.finding,
        message=f"{one.finding.message} {shown} again on frame{'s' if len(frames) > 1 else ''} {listed}.",
        overlay=one.finding.overlay + tuple(mark for f in one.again for mark in f.overlay),
    )
