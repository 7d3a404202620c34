"""What comes next: which fault, how large, in which look; or a clip without any.

Faults come as they are due (``returns``), as large as the person can just see (``threshold``); some clips are clean, so
that it pays to look. Looks are plain until a fault of that kind is seen while it is small, and then busy as often as
not.
"""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from motion.training.questions import WITH_FAULT, Kind
from motion.training.returns import Returns
from motion.training.threshold import Threshold

CLEAN = 0.25
"""The share of clips to spot something in that are clean."""
BUSY_UNDER, OTHERS_BUSY = 2.5, 0.3
"""Under this threshold looks may be busy; of questions about no fault such a share is."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Eye:
    """What is known of how somebody sees the faults of an exercise."""

    sights: Mapping[str, Threshold] = field(default_factory=dict)
    returns: Returns = field(default_factory=Returns)

    def of(self, code: str) -> Threshold:
        """What is known of one kind of fault."""
        return self.sights.get(code, Threshold())

    def after(self, code: str | None, times: float, *, seen: bool, chance: float) -> Eye:
        """What is known after a clip with such a fault, or a clean one (None)."""
        returns = self.returns.after(code, seen=seen)
        if code is None:
            return Eye(sights=self.sights, returns=returns)
        told = self.of(code).after(times, seen=seen, chance=chance)
        return Eye(sights={**self.sights, code: told}, returns=returns)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """What the next clip is to show: the fault (None for none), how large in times its tolerance, in a busy look."""

    code: str | None
    times: float
    busy: bool


def next_wish(rng: random.Random, kind: Kind, codes: Sequence[str], eye: Eye, coming: Sequence[str] = ()) -> Wish:
    """The next one of a kind, of these faults; ``coming`` are those that are laid out already and not answered yet."""
    if kind not in WITH_FAULT or not codes:
        return Wish(code=None, times=0.0, busy=rng.random() < OTHERS_BUSY)
    if kind == "spot" and rng.random() < CLEAN:
        return Wish(code=None, times=0.0, busy=rng.random() < 0.5)
    shuffled = rng.sample(list(codes), len(codes))
    due = [code for code in eye.returns.in_order(shuffled) if code not in coming] or shuffled
    told = eye.of(due[0])
    return Wish(code=due[0], times=round(told.next_times, 2), busy=told.times < BUSY_UNDER and rng.random() < 0.5)
