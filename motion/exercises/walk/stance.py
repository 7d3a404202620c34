"""Which foot stands, drawing by drawing: the cheapest way through standing and swinging for each side.

A foot that stands is low and stays where it is over the ground, on its heel, on all of its sole or on its toe; one that
swings goes forward. A foot that slides once, or hangs a little, still stands: changing over costs more than that.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

HIGH, HIGH_MOST = 0.06, 1.5
"""A standing foot that is so much of a leg above the ground costs 1, one at any height no more than the latter."""
ALOFT, ALOFT_COSTS = 0.12, 3.0
"""Higher than so much of a leg no foot stands."""
SWINGS, IDLES = 0.25, 0.7
"""What it costs to swing, and to swing without going forward."""
SLIDES, SLIDES_MOST = 0.35, 1.2
"""A standing foot that goes by such a share of the walk's own travel costs 1, by any way no more than the latter."""
SLIDES_BACK = 0.9
"""One that goes back costs no more than this, a little less than to swing without going forward."""
NOISE = 0.008
CHANGES = 0.9
"""What it costs to begin to stand, or to swing."""
FORWARD = 0.3
"""A foot swings that goes forward by more than such a share of the walk's own travel."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sole:
    """A side's foot in one drawing: how high its lowest point is above the ground (px, None where hidden).

    ``travel`` is how far its steadier end goes over the ground to the next drawing, px forward; None where not known.
    """

    height: float | None
    travel: float | None


def standing(soles: Sequence[Sole], walked: Sequence[float], leg: float, *, cycle: bool = False) -> list[bool]:
    """Whether the foot stands in each drawing; ``walked`` is how far the figure goes over the ground to the next one.

    In a ``cycle`` the last drawing leads to the first.
    """
    count = len(soles)
    if count == 0:
        return []
    stay = np.array([_standing_cost(s, leg) for s in soles])
    swing = np.array([SWINGS + (0.0 if s.height is None else max(0.0, 0.2 - 4 * s.height / leg)) for s in soles])
    own = np.stack([stay, swing], axis=1)
    if not cycle:
        return _cheapest(own, soles, walked, leg, None)[0]
    tries = [_cheapest(own, soles, walked, leg, first) for first in (0, 1)]
    return min(tries, key=lambda one: one[1])[0]


def _standing_cost(sole: Sole, leg: float) -> float:
    if sole.height is None:
        return 0.3
    if sole.height > ALOFT * leg:
        return ALOFT_COSTS
    return float(min(HIGH_MOST, max(0.0, sole.height) / (HIGH * leg)))


def _gap_costs(sole: Sole, walked: float, leg: float) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """(2, 2) what it costs to go from standing or swinging to either, over one gap."""
    costs = np.array([[0.0, CHANGES], [CHANGES, 0.0]])
    if sole.travel is None:
        return costs
    free = max(0.0, abs(sole.travel) - NOISE * leg)
    most = SLIDES_MOST if sole.travel > 0 else SLIDES_BACK
    costs[0, 0] = min(most, (free / (SLIDES * walked + 0.012 * leg)) ** 2)
    idle = IDLES if sole.travel < FORWARD * walked else 0.0
    costs[1, 1] = idle
    # Lifting off and landing go forward, too.
    costs[0, 1] += 0.6 * idle
    costs[1, 0] += idle
    return costs


def _cheapest(
    own: np.ndarray[tuple[int, int], np.dtype[np.float64]],
    soles: Sequence[Sole],
    walked: Sequence[float],
    leg: float,
    first: int | None,
) -> tuple[list[bool], float]:
    total = own[0].copy()
    if first is not None:
        total[1 - first] = np.inf
    back = []
    for index in range(1, len(soles)):
        ways = total[:, None] + _gap_costs(soles[index - 1], walked[index - 1], leg)
        back.append(ways.argmin(axis=0))
        total = ways.min(axis=0) + own[index]
    if first is not None:
        total = total + _gap_costs(soles[-1], walked[-1], leg)[:, first]
    state = int(total.argmin())
    cost = float(total[state])
    states = [state]
    for chosen in reversed(back):
        state = int(chosen[state])
        states.append(state)
    return [s == 0 for s in reversed(states)], cost
