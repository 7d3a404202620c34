"""How far a ball's own speed carries it along the ground while it touches."""

from __future__ import annotations

from motion import curves
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.hops import Hop, Reading

SLIDES_D = 0.1
"""On the ground it may move so many diameters, whatever its speed."""


def speed_across(reading: Reading, hop: Hop) -> float:
    """Px a frame at which a flight moves across: from contact to contact, or by its drawings where one is not drawn."""
    start, end = reading.beside(hop)
    if start is not None and end is not None and hop.span > 0:
        return abs(float(end[0] - start[0])) / hop.span
    if len(hop.air) < 2 or hop.clock[-1] <= hop.clock[0]:
        return 0.0
    return abs(float(curves.polynomial(hop.clock, reading.points(hop.air)[:, 0], 1)[0]))


def carries(reading: Reading, contact: Contact) -> float:
    """Px that the faster of the flights beside a contact would move across from its first drawing to its last.

    The first may lie up to half an exposure before where the ball is on its frame, since it shows the landing.
    """
    if len(contact.steps) < 2:
        return 0.0
    beside = [h for h in reading.hops if contact in (h.start, h.end)]
    first, last = (reading.steps[contact.steps[k]].frame for k in (0, -1))
    return max((speed_across(reading, h) * (last - first + h.usual / 2) for h in beside), default=0.0)


def has_moved(reading: Reading, contact: Contact | None) -> bool:
    """Whether a contact's drawings lie apart along the ground, so that none tells for sure where a flight begins."""
    if contact is None or len(contact.steps) < 2:
        return False
    first, last = (reading.steps[contact.steps[k]].x for k in (0, -1))
    allowed = SLIDES_D * reading.diameter
    # By halves a flight is told from its contact, which it needs as long as the ball is only carried on.
    return abs(last - first) > (max(allowed, carries(reading, contact)) if reading.by_halves else allowed)
