"""How far a ball's own speed carries it along the ground while it touches."""

from __future__ import annotations

import numpy as np

from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.reading import Hop, Reading

SLIDES_D = 0.1
"""On the ground it may move so many diameters, whatever its speed."""


def speed_across(reading: Reading, hop: Hop) -> float:
    """Px a frame at which a flight moves across."""
    if len(hop.air) < 2 or hop.clock[-1] <= hop.clock[0]:
        return 0.0
    return abs(float(np.polyfit(hop.clock, reading.points(hop.air)[:, 0], 1)[0]))


def carries(reading: Reading, contact: Contact) -> float:
    """Px that the faster of the flights beside a contact would move across from its first drawing to its last."""
    if len(contact.steps) < 2:
        return 0.0
    speeds = [speed_across(reading, h) for h in reading.hops if contact in (h.start, h.end)]
    first, last = (reading.steps[contact.steps[k]].frame for k in (0, -1))
    return max(speeds, default=0.0) * (last - first)


def has_moved(reading: Reading, contact: Contact | None) -> bool:
    """Whether a contact's drawings lie apart along the ground, so that none tells for sure where a flight begins."""
    if contact is None or len(contact.steps) < 2:
        return False
    first, last = (reading.steps[contact.steps[k]].x for k in (0, -1))
    return abs(last - first) > SLIDES_D * reading.diameter
