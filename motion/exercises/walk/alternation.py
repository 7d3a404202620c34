"""Near and far of legs that are drawn alike: feet land in turn, left and right.

Where one leg passes the other, both lie over each other, and which is which afterwards is not to be seen. That the same
foot seems to land twice in a row tells that they were taken for each other there.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from motion.exercises.walk.figure import OTHER
from motion.exercises.walk.follow import swapped_sides
from motion.exercises.walk.gait import Gait, gait_of
from motion.exercises.walk.steps import Contact, Step, Walked

BESIDE = 0.15
"""A foot that lands within so much of a leg of where the other one stands has been taken for that one."""
TOO_LONG = 1.5
"""Between two landings that lie apart by so many steps there was another one that does not show."""
MOST = 8
JOINTS = ("knee", "ankle")


def alternating(steps: Sequence[Step], gait: Gait, walked: Walked) -> tuple[list[Step], Gait]:
    """The drawings with their sides turned wherever the same foot would land twice in a row, and how they go then."""
    found, gait = list(steps), _without_mistaken(gait, walked)
    for _ in range(MOST):
        twice = _twice(gait.contacts)
        if twice is None:
            break
        first = _closest(found, *twice)
        turned = [
            replace(s, figure=swapped_sides(s.figure)) if s.index >= first and s.figure is not None else s
            for s in found
        ]
        again = _without_mistaken(gait_of(turned, walked), walked)
        if _repeats(again.contacts) >= _repeats(gait.contacts):
            break
        found, gait = turned, again
    return found, gait


def _without_mistaken(gait: Gait, walked: Walked) -> Gait:
    """The same without landings of a foot beside the one that stands; but one may be drawn up beside it at the end."""
    places = {(s.side, s.first): s.place for s in gait.stands}
    kept: list[Contact] = []
    for number, contact in enumerate(gait.contacts):
        last = number == len(gait.contacts) - 1
        place = places.get((contact.side, contact.index))
        before = places.get((kept[-1].side, kept[-1].index)) if kept and kept[-1].side != contact.side else None
        if not last and place is not None and before is not None and abs(place - before) < BESIDE * walked.leg:
            continue
        kept.append(contact)
    return replace(gait, contacts=tuple(kept))


def _repeats(contacts: Sequence[Contact]) -> int:
    return sum(a.side == b.side for a, b in itertools.pairwise(contacts))


def _twice(contacts: Sequence[Contact]) -> tuple[int, int] | None:
    """The drawings (indices) of the first two landings in a row of the same foot that are one step apart."""
    gaps = [b.time - a.time for a, b in itertools.pairwise(contacts) if a.side == OTHER[b.side]]
    if not gaps:
        return None
    most = TOO_LONG * float(np.median(gaps))
    for one, other in itertools.pairwise(contacts):
        if one.side == other.side and other.time - one.time < most:
            return one.index, other.index
    return None


def _closest(steps: Sequence[Step], first: int, last: int) -> int:
    """Between two drawings the one from which on legs may have been taken for each other: where they are closest."""
    apart = {}
    for index in range(first + 1, last + 1):
        figure = steps[index].figure
        points = {} if figure is None else figure.points
        pairs = [(points.get(f"{j}_near"), points.get(f"{j}_far")) for j in JOINTS]
        apart[index] = sum(math.dist(a, b) for a, b in pairs if a is not None and b is not None)
    return min(apart, key=lambda i: apart[i])
