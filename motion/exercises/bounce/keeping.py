"""How much of its speed a ball keeps at each contact."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.gravity import fits_gravity, hop_height
from motion.exercises.bounce.reading import Hop, Reading

SLOW_D = 0.25
"""At its top a ball moves up or down less than so many diameters a drawing."""
FEWEST_D = 0.5
"""Hops lower than so many diameters tell little about the speed that is kept."""

MOST_OVER = 1.12
FEWEST_FOR_FLIGHT, NEAR_TOP = 4, 0.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """The share of its speed kept at a contact, from the heights (px) of the hops before and after it."""

    contact: Contact
    before: Hop
    after: Hop
    height_before: float
    height_after: float

    @property
    def share(self) -> float:
        return math.sqrt(self.height_after / self.height_before)


def kept_at_contacts(reading: Reading) -> list[Kept]:
    """For each contact between two hops whose tops are drawn and high enough: what it keeps."""
    kept = []
    for one, other in itertools.pairwise(reading.hops):
        if one.end is None or one.end is not other.start or not (has_top(reading, one) and has_top(reading, other)):
            continue
        heights = _drawn_height(reading, one), _drawn_height(reading, other)
        if min(heights) >= FEWEST_D * reading.diameter:
            kept.append(
                Kept(contact=one.end, before=one, after=other, height_before=heights[0], height_after=heights[1])
            )
    return kept


def _drawn_height(reading: Reading, hop: Hop) -> float:
    """The height of a hop whose top is drawn, px: a drawing may lie half an exposure beside the top, no farther."""
    return min(hop_height(reading, hop), MOST_OVER * reading.steps[hop.top].height + 2.0)


def has_top(reading: Reading, hop: Hop) -> bool:
    """Whether a hop's top is among its drawings; at the clip's ends it may lie before or after them."""
    place = hop.air.index(hop.top)
    beside = [hop.air[i] for i in (place - 1, place + 1) if 0 <= i < len(hop.air)]
    if len(beside) == 2:
        return True
    steps = reading.steps
    slow = bool(beside) and abs(steps[beside[0]].height - steps[hop.top].height) <= SLOW_D * reading.diameter
    return slow or _by_its_flight(reading, hop, place)


def _by_its_flight(reading: Reading, hop: Hop, place: int) -> bool:
    """Whether a hop's own flight, told by enough drawings, turns within half an exposure of its highest one."""
    p = hop.parabola
    if p is None or len(hop.air) < FEWEST_FOR_FLIGHT or not fits_gravity(reading, hop):
        return False
    return abs((p.left + p.lands) / 2 - float(hop.clock[place])) <= NEAR_TOP * hop.usual
