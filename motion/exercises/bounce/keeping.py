"""How much of its speed a ball keeps at each contact."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from motion.exercises.bounce import halves
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.gravity import consensus_gravity, fits_gravity, hop_height
from motion.exercises.bounce.hops import Hop, Reading

SLOW_D = 0.25
"""At its top a ball moves up or down less than so many diameters a drawing."""
FEWEST_D = 0.5
"""Hops lower than so many diameters tell little about the speed that is kept ..."""
FEWEST_FLOWN_D, FEWEST_FLOWN = 0.2, 3
"""... but beside a higher one, if as high as this and of so many drawings in the air."""

MOST_OVER = 1.12
FEWEST_FOR_FLIGHT, NEAR_TOP, AT_TOP = 4, 0.6, 0.55


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
    """For each contact between two hops whose tops are known and high enough: what it keeps."""
    gravity = None if reading.by_halves else consensus_gravity(reading)
    kept = []
    for one, other in itertools.pairwise(reading.hops):
        if one.end is None or one.end is not other.start:
            continue
        before, after = _top_height(reading, one, gravity), _top_height(reading, other, gravity)
        if not before or not after or max(before, after) < FEWEST_D * reading.diameter:
            continue
        if _is_told(one, before, reading.diameter) and _is_told(other, after, reading.diameter):
            kept.append(Kept(contact=one.end, before=one, after=other, height_before=before, height_after=after))
    return kept


def _is_told(hop: Hop, height: float, diameter: float) -> bool:
    """Whether a hop tells the speed that is kept: it is high enough, or a low one of which enough is drawn."""
    return height >= (FEWEST_FLOWN_D if len(hop.air) >= FEWEST_FLOWN else FEWEST_D) * diameter


def _top_height(reading: Reading, hop: Hop, gravity: float | None) -> float | None:
    """The height of a hop's top, px; None where it may lie before or after all that is drawn of the hop."""
    highest = reading.steps[hop.top].height
    if has_top(reading, hop):
        # A drawing may lie half an exposure beside the top, no farther.
        return min(hop_height(reading, hop), MOST_OVER * highest + 2.0)
    beyond = _beyond_drawings(reading, hop, gravity) if gravity else None
    return highest + gravity * beyond**2 / 2 if gravity and beyond is not None else None


def _beyond_drawings(reading: Reading, hop: Hop, gravity: float) -> float | None:
    """By how many frames the top lies beside the highest drawing of a half hop, by the clip's own ``gravity``.

    For hops of which too few drawings are left to tell by themselves; None where it may lie farther away than those.
    """
    place, last = hop.air.index(hop.top), len(hop.air) - 1
    open_ended = (place == 0 and hop.start is None) or (place == last and hop.end is None)
    if last < 1 or not open_ended:
        return None
    other = 1 if place == 0 else place - 1
    frames = abs(float(hop.clock[place] - hop.clock[other]))
    gap = reading.steps[hop.top].height - reading.steps[hop.air[other]].height
    beyond = gap / frames / gravity - frames / 2
    return beyond if abs(beyond) <= NEAR_TOP * hop.usual else None


def has_top(reading: Reading, hop: Hop) -> bool:
    """Whether a hop's top is among its drawings; at the clip's ends it may lie before or after them."""
    place = hop.air.index(hop.top)
    beside = [hop.air[i] for i in (place - 1, place + 1) if 0 <= i < len(hop.air)]
    if len(beside) == 2:
        return True
    steps = reading.steps
    slow = bool(beside) and abs(steps[beside[0]].height - steps[hop.top].height) <= SLOW_D * reading.diameter
    return slow or _by_its_flight(reading, hop, place) or _by_the_clip(reading, hop)


def _by_the_clip(reading: Reading, hop: Hop) -> bool:
    """Whether by the clip's gravity a half hop turns where its highest drawing is; by halves, whether that shows."""
    if reading.by_halves:
        return halves.shows_top(reading.points(hop.air), at_start=hop.start is None)
    gravity = consensus_gravity(reading)
    beyond = _beyond_drawings(reading, hop, gravity) if gravity else None
    return beyond is not None and abs(beyond) <= AT_TOP * hop.usual


def _by_its_flight(reading: Reading, hop: Hop, place: int) -> bool:
    """Whether a hop's own flight, told by enough drawings, turns within half an exposure of its highest one."""
    p = hop.parabola
    if p is None or len(hop.air) < FEWEST_FOR_FLIGHT or not fits_gravity(reading, hop):
        return False
    return abs((p.left + p.lands) / 2 - float(hop.clock[place])) <= NEAR_TOP * hop.usual
