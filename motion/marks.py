"""From agreed findings to points: one rule, the same for every principle and every marker.

Each agreed finding takes a share of its principle's points: a slight one a tenth, a clear one a quarter, a strong
one two fifths, each times the weight that the brief gives the fault. Shares add up; points are rounded to halves and
never fall below nought. So a further or graver finding never raises a mark, and two markers who agree the same
findings give the same points.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from motion.catalogue import PRINCIPLES

SHARES = {"slight": 0.10, "clear": 0.25, "strong": 0.40}


def rule(name: str, most: float) -> str:
    """The rule for a principle of that name and so many points, as a sentence."""
    slight, clear, strong = (f"{most * SHARES[s]:g}" for s in ("slight", "clear", "strong"))
    return (
        f"{name}: {most:g} points, less {slight} for each slight finding agreed, {clear} for each clear one and "
        f"{strong} for each strong one, times the weight of its fault in the brief; never below nought."
    )


def propose(points: Mapping[str, float], agreed: Iterable[tuple[str, str, float]]) -> dict[str, float]:
    """Points per principle from (principle, severity, weight of the fault in the brief) of the agreed findings.

    ``points`` gives the most that each principle can earn; principles it leaves out earn nothing and lose nothing.
    """
    lost: dict[str, float] = dict.fromkeys(PRINCIPLES, 0.0)
    for principle, severity, weight in agreed:
        lost[_known(principle)] += SHARES[severity] * weight
    return {p: _half(points[p] * max(0.0, 1 - lost[p])) for p in PRINCIPLES if p in points}


def lost(most: float, severity: str, weight: float) -> float:
    """What one agreed finding takes off a principle of so many points, before all is rounded to halves."""
    return most * SHARES[severity] * weight


def after_late(total: float, cost: float) -> float:
    """What a total comes to when lateness takes that share of it, rounded to halves."""
    return _half(total * (1 - cost)) if cost else total


def _known(principle: str) -> str:
    if principle not in PRINCIPLES:
        raise ValueError(f"there is no principle “{principle}”")
    return principle


def _half(value: float) -> float:
    return math.floor(value * 2 + 0.5 + 1e-9) / 2
