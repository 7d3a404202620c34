"""The order in which drawings play, by which poses are followed from one to the next.

Drawings are numbered in the order in which they show first. Where earlier ones show again in between, as in a walk that
goes round and round, those that follow each other by number do not follow each other in the clip.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

BESIDE = 2
"""So many drawings before and after a new one lead it."""


@dataclass(frozen=True, slots=True)
class Chain:
    """Drawings (from 0) to follow, of which some come again; ``gaps`` are the frames from each to the next one, without
    end where they do not follow each other. ``firsts`` is where in it each drawing is to be told.
    """

    drawings: list[int]
    gaps: list[float]
    firsts: dict[int, int]


class Playing:
    """Which drawing (from 0) shows from which frame on, in the order in which a clip plays."""

    def __init__(self, shown: Sequence[tuple[int, int]]) -> None:
        self._shown = shown

    def chain(self, some: Collection[int]) -> Chain:
        """Some of the drawings as they show first, with those that show again around them."""
        wanted = set(some)
        row = [(drawing, frame) for drawing, frame in self._shown if drawing in wanted]
        new = {drawing: at for at, (drawing, _) in reversed(list(enumerate(row)))}
        kept = sorted({k for at in new.values() for k in range(max(0, at - BESIDE), min(len(row), at + BESIDE + 1))})
        gaps = [float(max(1, row[b][1] - row[a][1])) if b == a + 1 else math.inf for a, b in itertools.pairwise(kept)]
        place = {at: k for k, at in enumerate(kept)}
        return Chain([row[at][0] for at in kept], gaps, {drawing: place[at] for drawing, at in new.items()})
