"""In which order jobs are done: by who waits for them, and fairly between courses and people.

Each kind has a band of priorities; within it a job stands by how much of its course's and its person's own work waits
already. So the first of each course come before the second of any, and a class of three hundred that hands in at once
does not hold up the one clip of another.
"""

from __future__ import annotations

from enum import IntEnum
from math import log2

from nettlecap.classroom.models import Person
from nettlecap.takes.models import Analysis, Arrival
from nettlecap.takes.waiting import unread_of

WIDTH = 32
STEPS, OWN = 2.4, 3
"""Places to a doubling of what waits in a course; and to each clip that one's own self has waiting already."""


class Urgency(IntEnum):
    """The first priority of each band; what is shown has no places within it."""

    READ = 100
    """Whoever handed in waits to hear that their file is whole."""
    WAITED_FOR = 68
    """Somebody has the page open on which it will show: own checks, what is put right, what was placed by hand."""
    SHOWN = 36
    """Drawings that a page has asked for, or is about to."""
    HANDED_IN = 35
    """A take is looked at for the first time."""
    AGAIN = 3
    """Takes of a brief that was changed; what is shown of them stays meanwhile."""
    WHENEVER = -60
    """Nobody is known to wait."""


def priority(urgency: Urgency, person: Person, course_id: int) -> int:
    """The priority of a job for a person's clip; higher ones are done first."""
    return int(urgency) - min(WIDTH - 1, _place(waiting_in(course_id)) + OWN * unread_of(person))


def _place(before: int) -> int:
    """Where a job stands in its band with so many of its course before it."""
    return int(STEPS * log2(1 + before))


def waiting_in(course_id: int) -> int:
    """How many clips of a course wait, or are being read or looked at."""
    looked_at = Analysis.objects.unfinished().filter(take__brief__course=course_id)
    return Arrival.objects.unread().filter(brief__course=course_id).count() + looked_at.count()
