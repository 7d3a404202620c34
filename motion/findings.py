"""Findings: what a check proposes, how grave it is, and one finding for one fault."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from motion.catalogue import PRINCIPLES, Principle

Severity = Literal["slight", "clear", "strong"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """A fault that the computation proposes, on frames counted from 1.

    ``part`` names which of several it concerns, where an exercise has more than one thing that may have the same fault
    on the same frames ("near foot"); empty where there is but one.

    ``measured``, ``expected`` and ``tolerance`` are in ``unit``. ``overlay`` is the geometry that shows it:
    primitives with ``kind`` ``gap`` (two points), ``place`` (where an ellipse belongs), ``path`` (points of the
    arc to follow), ``point`` (where a point belongs), ``lines`` (how what has to be drawn anew belongs, of a
    figure with its ``landmarks`` there), ``hung``
    (where the line on which a drawing hangs belongs), ``frames`` (frames to add or take away), in frame coordinates.
    """

    code: str
    principle: Principle
    first_frame: int
    last_frame: int
    measured: float | None
    expected: float | None
    tolerance: float | None
    unit: str
    severity: Severity
    confidence: float
    message: str
    advice: str
    overlay: tuple[dict[str, Any], ...] = field(default=())
    part: str = ""

    def to_json(self) -> dict[str, Any]:
        """The finding as in the findings file; its part only where it has one, so that older files stay as they are."""
        told: dict[str, Any] = {
            "code": self.code,
            "principle": self.principle,
            "first_frame": self.first_frame,
            "last_frame": self.last_frame,
            "measured": _rounded(self.measured),
            "expected": _rounded(self.expected),
            "tolerance": _rounded(self.tolerance),
            "unit": self.unit,
            "severity": self.severity,
            "confidence": round(self.confidence, 2),
            "message": self.message,
            "advice": self.advice,
            "overlay": list(self.overlay),
        }
        return {**told, "part": self.part} if self.part else told


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(float(value), 3)


def severity(times_tolerance: float) -> Severity:
    """How far past the tolerance: slight up to 2 times, clear up to 4, strong over 4."""
    if times_tolerance > 4:
        return "strong"
    return "clear" if times_tolerance > 2 else "slight"


def surety(shapes: Iterable[float], times_tolerance: float) -> float:
    """Confidence of a finding, 0 to 1: that of its least sure shape, less where it is close to the tolerance."""
    least = min(shapes, default=0.5)
    doubt: float = 0.45 * 0.3 ** max(0.0, times_tolerance - 1)
    return max(0.05, min(0.99, least * (1 - doubt)))


def span(first: int, last: int) -> str:
    """``Frame 7`` or ``Frames 7 to 11``."""
    return f"Frame {first}" if first == last else f"Frames {first} to {last}"


def in_order(findings: Iterable[Finding]) -> list[Finding]:
    """By first frame, then by principle, then by code: the same input gives the same order."""
    return sorted(findings, key=lambda f: (f.first_frame, PRINCIPLES.index(f.principle), f.code, f.last_frame, f.part))


def merge_runs(findings: Sequence[Finding], neighbours: set[tuple[int, int]]) -> list[Finding]:
    """Findings of one code, and one part, on neighbouring drawings as one with a range.

    ``neighbours`` holds (last frame, next first frame) of drawings that follow each other. The gravest of a run
    lends its message, measure and severity; geometry of all is kept.
    """
    merged: list[Finding] = []
    latest: dict[tuple[str, str], int] = {}
    for finding in sorted(findings, key=lambda f: f.first_frame):
        at = latest.get((finding.code, finding.part))
        last = None if at is None else merged[at]
        if at is not None and last and (last.last_frame, finding.first_frame) in neighbours:
            grave = max((last, finding), key=_graveness)
            merged[at] = replace(
                grave,
                first_frame=last.first_frame,
                last_frame=finding.last_frame,
                overlay=last.overlay + finding.overlay,
            )
        else:
            latest[finding.code, finding.part] = len(merged)
            merged.append(finding)
    return merged


def _graveness(finding: Finding) -> float:
    if finding.measured is None or finding.expected is None or not finding.tolerance:
        return 0.0
    return float(abs(finding.measured - finding.expected) / finding.tolerance)
