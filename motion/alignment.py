"""Two clips of one motion side by side: which frame of the other belongs to each frame of one.

They are laid together by the moments of their motion (contacts, extremes), not by frame number: between two moments
the other runs as much faster or slower as it must, so that both come to them together; before the first and after the
last both run at their own pace.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from motion.report.report import Report

MOST_SHIFTED = 2
"""One clip may begin so many moments later in its motion than the other."""
UNPAIRED = 0.08
"""What a moment without a partner counts, as a log ratio of durations."""


def aligned(own: Sequence[float], other: Sequence[float], frames: int, other_frames: int) -> tuple[int, ...]:
    """The frame of the other clip for each frame of one, both counted from 1.

    ``own`` and ``other`` are the times of their moments in frames, ascending. Without any they begin together.
    """
    pairs = paired(own, other)
    here = np.arange(1, frames + 1, dtype=float)
    if not pairs:
        there = here
    else:
        one = np.array([own[i] for i, _ in pairs])
        two = np.array([other[j] for _, j in pairs])
        there = np.interp(here, one, two)
        there = np.where(here < one[0], two[0] - (one[0] - here), there)
        there = np.where(here > one[-1], two[-1] + (here - one[-1]), there)
    return tuple(int(f) for f in np.clip(np.rint(there), 1, other_frames))


def beside(own: Report, other: Report) -> tuple[int, ...]:
    """The frame of another clip for each frame of one, laid together by their moments."""
    return aligned([m.time for m in own.moments], [m.time for m in other.moments], own.frames, other.frames)


def paired(own: Sequence[float], other: Sequence[float]) -> list[tuple[int, int]]:
    """Which moments of both are the same one of the motion, as pairs of indices.

    They are paired in order; where one clip begins later in the motion, as far shifted as makes the stretches between
    them most alike in how their lengths go on.
    """
    shifts = sorted(range(-MOST_SHIFTED, MOST_SHIFTED + 1), key=abs)
    options = [pairs for shift in shifts if (pairs := _shifted(len(own), len(other), shift))]
    if not options:
        return []
    most = min(len(own), len(other))
    return min(options, key=lambda pairs: _unlike(own, other, pairs) + UNPAIRED * (most - len(pairs)))


def _shifted(own: int, other: int, shift: int) -> list[tuple[int, int]]:
    return [(i, i + shift) for i in range(own) if 0 <= i + shift < other]


def _unlike(own: Sequence[float], other: Sequence[float], pairs: Sequence[tuple[int, int]]) -> float:
    """How much the ratio of the stretches' lengths wanders from pair to pair (as a log ratio)."""
    lengths = [(own[b] - own[a], other[d] - other[c]) for (a, c), (b, d) in itertools.pairwise(pairs)]
    if not lengths:
        return 0.0
    ratios = np.array([math.log(max(0.5, one) / max(0.5, two)) for one, two in lengths])
    return float(np.abs(ratios - np.median(ratios)).mean())
