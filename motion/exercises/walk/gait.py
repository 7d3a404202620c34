"""When feet stand, and when they land."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.walk.figure import SIDES, Side
from motion.exercises.walk.soles import ahead_of, landed, stands_of, support_of, unbroken
from motion.exercises.walk.steps import Contact, Stand, Step, Walked

NEARS = 0.06
"""A foot has come near to where it lands within so much of a leg."""
BEGINS = 0.12
"""A clip begins at a contact where its first foot is no more than so much of a leg from where feet land."""
BEHIND = 0.08
"""No foot lands behind the hips by more than such a share of a leg."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Gait:
    """Which foot stands in which drawing, each time that one stands, and where feet land."""

    support: Mapping[Side, tuple[bool, ...]]
    stands: tuple[Stand, ...]
    contacts: tuple[Contact, ...]


def gait_of(steps: Sequence[Step], walked: Walked) -> Gait:
    """When each foot stands in the drawings of a walk, and when it lands."""
    support = {}
    for side in SIDES:
        own = landed(steps, side, support_of(steps, side, walked), walked)
        support[side] = unbroken(steps, side, own, walked)
    stands = tuple(s for side in SIDES for s in stands_of(steps, side, support[side], walked))
    contacts = tuple(replace(c, nears=_nears(steps, c, walked)) for c in _contacts(steps, stands, walked))
    return Gait(support=support, stands=stands, contacts=contacts)


def _contacts(steps: Sequence[Step], stands: Sequence[Stand], walked: Walked) -> tuple[Contact, ...]:
    """Where a foot lands, in playing order; a clip may begin with one. It lands ahead of the hips."""
    facing, leg = walked.facing, walked.leg
    found = [
        Contact(side=s.side, index=s.first, time=steps[s.first].clock)
        for s in stands
        if s.lands and (ahead_of(steps[s.first], s.side, facing) or 0.0) > -BEHIND * leg
    ]
    reach = [v for c in found if (v := ahead_of(steps[c.index], c.side, facing)) is not None]
    if reach:
        usual = float(np.median(reach))
        for s in stands:
            at = None if s.lands or s.first > 0 else ahead_of(steps[0], s.side, facing)
            if at is not None and abs(at - usual) < BEGINS * leg:
                found.append(Contact(side=s.side, index=0, time=steps[0].clock))
    return tuple(sorted(found, key=lambda c: (c.time, c.side)))


def _nears(steps: Sequence[Step], contact: Contact, walked: Walked) -> float | None:
    """When a foot that lands came within a small part of a leg of that place, between drawings."""
    name, facing, belt = f"ankle_{contact.side}", walked.facing, walked.belt
    row: list[tuple[float, float]] = []
    for index in range(min(len(steps) - 1, contact.index + 1), max(-1, contact.index - 5), -1):
        at = steps[index].at(name)
        if at is None:
            break
        row.insert(0, (steps[index].clock, facing * (at[0] - belt * steps[index].clock)))
    if len(row) < 3:
        return None
    place = max(x for _, x in row) - NEARS * walked.leg
    for (t0, a), (t1, b) in itertools.pairwise(row):
        if a < place <= b:
            return t0 + (t1 - t0) * (place - a) / (b - a)
    return None
