"""The most continuous run of poses over a clip: which legs each drawing shows, and which of them is which.

Viterbi's algorithm over pairs of legs, of the second order: what a run costs is what its poses cost, and how suddenly
knees and ankles change their speed. So two legs that look alike pass each other instead of turning back.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.poses import Floats, Legs

STATES = 20
"""So many of a drawing's pairs, a leg first and a leg second, are followed."""
SUDDEN, MOST_SUDDEN = 0.10, 8.0
"""A change of speed by so many legs' lengths a drawing costs 1, and never more than so much."""
WEIGHT = 0.45
FAST = 0.03
"""What it costs to move at all, by a leg's length a drawing: of two ways to go on the nearer one."""
TOO_DEAR = 4.0
"""More than so much above the best pair of a drawing none is followed."""


@dataclass(frozen=True, slots=True, eq=False)
class Pairs:
    """A drawing's pairs: (s, 2) numbers of its legs, (s, 8) their knees and ankles in leg lengths, (s,) their costs.

    ``toes`` (k, 2) are those of the single legs.
    """

    legs: NDArray[np.intp]
    places: Floats
    costs: Floats
    toes: Floats

    def of(self, number: int) -> Floats:
        """(2, 3, 2) knee, ankle and toe of both legs of a pair, in leg lengths."""
        joints = self.places[number].reshape(2, 2, 2)
        return np.concatenate([joints, self.toes[self.legs[number]][:, None, :]], axis=1)


def pairs_of(legs: Legs, leg: float, extra: Floats | None = None, weight: float = 1.0) -> Pairs:
    """The pairs to follow; ``extra`` (k, 2) is what each leg costs as the first and as the second of a pair.

    What ink tells counts so many times, by ``weight``.
    """
    costs = weight * legs.pair_costs
    if extra is not None:
        costs = costs + extra[:, 0][:, None] + extra[:, 1][None, :]
    flat = np.argsort(costs, axis=None, kind="stable")[:STATES]
    one, other = np.unravel_index(flat, costs.shape)
    chosen = np.stack([one, other], axis=1)
    told = costs[one, other]
    near = told <= told[0] + weight * TOO_DEAR
    chosen, told = chosen[near], told[near]
    sides = [np.concatenate([legs.knees[chosen[:, k]], legs.ankles[chosen[:, k]]], axis=1) for k in (0, 1)]
    return Pairs(chosen, np.concatenate(sides, axis=1) / leg, told, legs.toes / leg)


def chosen_in(pairs: Mapping[int, Pairs], playing: Playing) -> dict[int, tuple[Pairs, int]]:
    """By drawing its pairs, and which of them it is, as drawings play."""
    chain = playing.chain(pairs)
    best = best_run([pairs[i] for i in chain.drawings], chain.gaps)
    return {index: (pairs[index], best[at]) for index, at in sorted(chain.firsts.items())}


def best_run(drawings: Sequence[Pairs], gaps: Sequence[float]) -> list[int]:
    """Which pair of each drawing belongs to the cheapest run; ``gaps`` are the times from each drawing to the next.

    Over a gap without end nothing leads.
    """
    count = len(drawings)
    if count == 0:
        return []
    if count == 1:
        return [int(drawings[0].costs.argmin())]
    first, second = drawings[0], drawings[1]
    total = first.costs[:, None] + second.costs[None, :] + _moves(first, second, gaps[0])
    back: list[NDArray[np.intp]] = []
    for index in range(2, count):
        before, last, now = drawings[index - 2 : index + 1]
        earlier, later = gaps[index - 2 : index]
        turns = np.repeat(total[:, :, None], len(now.costs), axis=2)
        if math.isfinite(earlier + later):
            turns += WEIGHT * _sudden(before.places, last.places, now.places, later / max(1e-6, earlier))
        chosen = turns.argmin(axis=0)
        total = np.take_along_axis(turns, chosen[None], axis=0)[0] + now.costs[None, :] + _moves(last, now, later)
        back.append(chosen)
    state = np.unravel_index(int(total.argmin()), total.shape)
    run = [int(state[1]), int(state[0])]
    for chosen in reversed(back):
        run.append(int(chosen[run[-1], run[-2]]))
    return run[::-1]


def _moves(one: Pairs, other: Pairs, gap: float) -> Floats:
    if not math.isfinite(gap):
        return np.zeros((len(one.costs), len(other.costs)))
    far = np.abs(one.places[:, None, :] - other.places[None, :, :]).sum(axis=2)
    return np.asarray(FAST * far)


def _sudden(before: Floats, last: Floats, now: Floats, ratio: float) -> NDArray[np.float32]:
    """(a, b, c) what a change of speed costs over three drawings, the second gap ``ratio`` times as long."""
    per = np.float32(1 / (0.5 * (1 + ratio) * SUDDEN))
    ahead = (last[None, :, :] + ratio * (last[None, :, :] - before[:, None, :])).astype(np.float32) * per
    there = now.astype(np.float32) * per
    total = np.zeros((len(before), len(last), len(now)), np.float32)
    x, y = np.empty_like(total), np.empty_like(total)
    for k in range(0, there.shape[1], 2):
        np.subtract(there[None, None, :, k], ahead[:, :, None, k], out=x)
        np.subtract(there[None, None, :, k + 1], ahead[:, :, None, k + 1], out=y)
        x *= x
        y *= y
        x += y
        total += np.minimum(x, np.float32(MOST_SUDDEN), out=x)
    return total
