"""How long and how high each hop is, and the one gravity on which a clip's hops agree."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from motion.exercises.bounce import halves
from motion.exercises.bounce.flight import Parabola
from motion.exercises.bounce.hops import Hop, Reading


def hop_duration(reading: Reading, hop: Hop) -> float | None:
    """Frames from contact to contact, holds taken out; None if unknown.

    From the hop's own parabola where its drawings bear it out, which also serves half hops at the clip's ends and
    contacts between frames; else counted from contact drawing to contact drawing.
    """
    if hop.parabola is not None and not is_counted(reading, hop):
        return hop.parabola.frames
    if hop.whole:
        return hop.span
    # Half a hop, spaced by halves: from rest at its top to the contact, or from the contact to its top.
    if not halves.shows_top(reading.points(hop.air), at_start=hop.start is None):
        return None
    top = float(hop.clock[hop.air.index(hop.top)])
    if hop.end is not None and hop.top == hop.air[0]:
        return 2 * (hop.span - top)
    return 2 * top if hop.start is not None and hop.top == hop.air[-1] and top > 0 else None


def maybe_held(reading: Reading, hop: Hop) -> int:
    """Frames of a hop of which a count does not tell whether they are holds or time that passes; none where it flies.

    Those of its drawings that are exposed longer than the ones beside them, and of the contact that it leaves.
    """
    if not is_counted(reading, hop):
        return 0
    leaves = reading.steps[hop.start.steps[-1]].frames - hop.usual if hop.start and hop.start.steps else 0
    return sum(hop.held) + max(0, leaves)


def is_counted(reading: Reading, hop: Hop) -> bool:
    """Whether a hop's duration is only known by counting from drawing to drawing."""
    return hop.parabola is None or len(hop.air) < 3 or not fits_gravity(reading, hop)


@lru_cache(maxsize=256)
def fits_gravity(reading: Reading, hop: Hop) -> bool:
    """Whether the drawings of a hop lie on its parabola, but for a stray one; never where they go by halves."""
    p = hop.parabola
    if p is None or reading.by_halves or _at_its_bounds(hop, p):
        return False
    return hop.off_parabola <= max(2.0, 0.06 * reading.diameter, 0.03 * reading.steps[hop.top].height)


def _at_its_bounds(hop: Hop, p: Parabola) -> bool:
    """Whether the parabola would meet the ground further than half an exposure from the drawn contacts."""
    at_start, at_end = hop.start is not None and bool(hop.start.steps), hop.end is not None and bool(hop.end.steps)
    early = at_start and not _within(p.left, hop.around[0])
    return early or (at_end and not _within(p.lands - hop.span, hop.around[1]))


def _within(time: float, bounds: tuple[float, float]) -> bool:
    return bounds[0] + 1e-6 < time < bounds[1] - 1e-6


def hop_height(reading: Reading, hop: Hop) -> float:
    """Height of a hop's top in px: of its parabola where the drawings bear it out, else of the highest drawing."""
    highest = reading.steps[hop.top].height
    if hop.parabola is None or not fits_gravity(reading, hop):
        return highest
    told = max(hop.parabola.top, highest)
    return min(told, highest * 1.12 + 2) if hop.whole else told


@lru_cache(maxsize=4)
def consensus_gravity(reading: Reading) -> float | None:
    """The one gravity on which most hops agree, from their heights and durations: g = 8 h / T².

    A single hop of wrong length does not move it: the value that most hops (a half hop counts for less) fit within
    a tenth of their duration wins.
    """
    votes = []
    for hop in reading.hops:
        duration = hop_duration(reading, hop)
        height = hop_height(reading, hop)
        if duration and height > 0.3 * reading.diameter:
            sure = 1.0 if hop.whole else 0.4 if is_counted(reading, hop) else 0.8
            votes += [(8 * height / told**2, sure) for told in {duration, duration + maybe_held(reading, hop)}]
    if not votes:
        return None
    values, weights = np.array(votes).T
    # Durations go with the square root, so a tenth of duration is a fifth of gravity.
    near = np.abs(np.log(values[:, None] / values[None, :])) < 0.2
    best = int(np.argmax(near @ weights))
    return float(np.average(values[near[best]], weights=weights[near[best]]))
