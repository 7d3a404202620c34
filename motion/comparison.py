"""Two takes of one exercise: which faults are gone, which are left, which are new.

A fault of the earlier take is left when the later one has a finding of the same code at the same moment of the motion;
moments are compared where their moments lay the takes together (``alignment``), not by frame number.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from motion.alignment import beside
from motion.report.report import Report

Finding = dict[str, Any]
"""A finding as the findings file (nettlecap.findings/1) tells it."""

NEAR = 3
"""A fault may move by so many frames and still be the same one."""
EASED = 0.8
"""It has become less when it is off by less than this share of what it was, and graver the other way round."""

Trend = Literal["less", "as before", "more"]


@dataclass(frozen=True, slots=True)
class Left:
    """A fault that both takes have."""

    before: Finding
    now: Finding

    @property
    def trend(self) -> Trend:
        """How it has changed, by how many times its tolerance it is off."""
        before, now = times_off(self.before), times_off(self.now)
        if now < EASED * before:
            return "less"
        return "more" if now * EASED > before else "as before"


@dataclass(frozen=True, slots=True)
class Compared:
    """What became of an earlier take's faults, and what came."""

    gone: tuple[Finding, ...]
    left: tuple[Left, ...]
    new: tuple[Finding, ...]


def compare(before: dict[str, Any], agreed: Sequence[Finding], now: dict[str, Any]) -> Compared:
    """What became of the agreed findings of an earlier take (its findings file, and they) in a later one's."""
    frames = beside(Report(before), Report(now))
    open_now = list(now["findings"])
    gone, left = [], []
    for finding in agreed:
        first, last = (frames[finding[end] - 1] for end in ("first_frame", "last_frame"))
        same = [f for f in open_now if _of_what(f) == _of_what(finding) and _near(f, first, last)]
        if not same:
            gone.append(finding)
            continue
        match = min(same, key=lambda f: abs(f["first_frame"] + f["last_frame"] - first - last))
        open_now.remove(match)
        left.append(Left(finding, match))
    return Compared(tuple(gone), tuple(left), tuple(open_now))


def _of_what(finding: Finding) -> tuple[str, str]:
    """Which fault of which part a finding tells."""
    return finding["code"], finding.get("part", "")


def times_off(finding: Finding) -> float:
    """How many times its tolerance a finding is off."""
    tolerance = finding.get("tolerance") or 0.0
    if finding.get("measured") is None or not tolerance:
        return 1.0
    return abs(float(finding["measured"]) - float(finding.get("expected") or 0.0)) / abs(float(tolerance))


def _near(finding: Finding, first: int, last: int) -> bool:
    return bool(finding["first_frame"] <= last + NEAR and first - NEAR <= finding["last_frame"])
