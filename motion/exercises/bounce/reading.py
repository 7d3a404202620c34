"""A track told as the trade tells a bounce: contacts, hops between them, and a rest at the end."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from motion.exercises.bounce import contacts as turning
from motion.exercises.bounce import flight, halves
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.flight import Foot
from motion.exercises.bounce.gravity import consensus_gravity
from motion.exercises.bounce.hops import LEAST_HOP_D, Hop, Reading, Step, feet
from motion.ranks import median
from motion.track import Ground, Shape, Track

# Hops narrower than this (in diameters, from contact to contact) are bounces in place.
IN_PLACE_D = 0.35


def read(track: Track) -> Reading | None:
    """Tell contacts, hops and rest. None when there are too few measured drawings or no ground."""
    if track.ground is None:
        return None
    diameter = _diameter(track)
    if diameter is None:
        return None
    steps = _steps(track, track.ground, diameter)
    if len(steps) < 4:
        return None
    clearances = np.array([s.clearance for s in steps])
    first = _tell(track.ground, steps, diameter, turning.find(steps, clearances, diameter, None))
    # Contacts that no drawing shows are found from the flights beside them, which the clip's gravity steadies.
    gravity = None if first.by_halves else consensus_gravity(first)
    steadied = turning.find(steps, clearances, diameter, gravity)
    return first if tuple(steadied) == first.contacts else _tell(track.ground, steps, diameter, steadied)


def _by_halves(steps: Sequence[Step], between: Sequence[_Between], diameter: float) -> bool:
    high = []
    for part in between:
        points = np.array([[steps[i].x, steps[i].height] for i in part.air])
        if points[:, 1].max() >= LEAST_HOP_D * diameter:
            told = halves.Hopped(points, *feet(steps, part.start, part.end), flies=_drawn(steps, part).flies)
            high.append(told)
    return halves.is_habit(high)


def _tell(ground: Ground, steps: list[Step], diameter: float, found: list[Contact]) -> Reading:
    rest = _rest(steps, found, diameter)
    between = _between_contacts(steps, found, rest)
    by_halves = _by_halves(steps, between, diameter)
    hops = [_hop(number, steps, part, by_halves) for number, part in enumerate(between, start=1)]
    diameter = _round_diameter(steps, hops) or diameter
    return Reading(
        steps=tuple(steps),
        ground=ground,
        diameter=diameter,
        contacts=tuple(found),
        hops=tuple(hops),
        rest=rest,
        in_place=_in_place(steps, hops, diameter),
        by_halves=by_halves,
    )


def _diameter(track: Track) -> float | None:
    sizes = [np.sqrt(s.area) for s in track.shapes if s is not None and not s.clipped]
    return median(np.array(sizes)) if sizes else None


def _round_diameter(steps: list[Step], hops: list[Hop]) -> float | None:
    """The median size of the drawings nearest the tops, where the ball is round."""
    near = [steps[i] for hop in hops for i in hop.air if abs(i - hop.top) <= 1]
    sizes = [np.sqrt(s.shape.area) for s in near if s.whole]
    return median(np.array(sizes)) if sizes else None


def _steps(track: Track, level: Ground, diameter: float) -> list[Step]:
    steps = []
    for exposure in track.exposures:
        shape = track.shape_of(exposure.drawing)
        if shape is None or _mostly_outside(shape, level):
            continue
        ground = level.y_at(shape.x)
        steps.append(
            Step(
                frame=exposure.first_frame,
                frames=exposure.frames,
                drawing=exposure.drawing,
                x=shape.x,
                y=shape.y,
                height=ground - shape.y - diameter / 2,
                clearance=ground - shape.bottom,
                shape=shape,
            )
        )
    return steps


def _mostly_outside(shape: Shape, level: Ground) -> bool:
    """Whether so much of a ball lies outside the frame that what is left does not tell where it is."""
    return shape.clipped and not (0 <= shape.x < level.width and shape.y >= 0)


def _rest(steps: list[Step], found: list[Contact], diameter: float) -> tuple[int, ...]:
    """What follows the contact after which the ball no longer leaves the ground by much."""
    if not found:
        return ()
    last = len(steps) - 1
    for contact in found:
        if contact.steps and all(s.clearance <= 0.15 * diameter for s in steps[contact.steps[0] :]):
            tail = tuple(range(contact.steps[0] + 1, last + 1))
            return tail if len(tail) >= 2 else ()
    return ()


class _Between(NamedTuple):
    """Drawings in the air (indices of steps) between two contacts, or before the first, or after the last."""

    air: tuple[int, ...]
    start: Contact | None
    end: Contact | None


def _between_contacts(steps: list[Step], found: list[Contact], rest: tuple[int, ...]) -> list[_Between]:
    end_of_air = rest[0] if rest else len(steps)
    bounds: list[tuple[Contact | None, Contact | None]] = []
    kept = [c for c in found if not rest or c.after <= rest[0] + 1 or (c.steps and c.steps[0] < rest[0])]
    previous: Contact | None = None
    for contact in kept:
        bounds.append((previous, contact))
        previous = contact
    bounds.append((previous, None))
    parts: list[_Between] = []
    for start, end in bounds:
        first = start.after if start else 0
        stop = end.before + 1 if end else end_of_air
        air = tuple(range(first, min(stop, end_of_air)))
        if air:
            parts.append(_Between(air, start, end))
    return parts


def _drawn(steps: Sequence[Step], part: _Between) -> flight.Drawn:
    drawn = flight.Drawn(
        frames=np.array([float(steps[i].frame) for i in part.air]),
        exposures=tuple(steps[i].frames for i in part.air),
        heights=np.array([steps[i].height for i in part.air]),
        start=None,
        end=None,
    )
    start, end = (_foot(steps, contact, drawn.usual, k) for contact, k in ((part.start, -1), (part.end, 0)))
    return drawn._replace(start=start, end=end)


def _hop(number: int, steps: Sequence[Step], part: _Between, halved: bool) -> Hop:
    drawn = _drawn(steps, part)
    flown = flight.fly(drawn, halved)
    return Hop(
        number=number,
        air=part.air,
        start=part.start,
        end=part.end,
        usual=drawn.usual,
        clock=flown.clock,
        frames_clock=drawn.frames - drawn.begins,
        held=flown.held,
        around=flight.around(drawn),
        span=flown.span,
        top=part.air[int(np.argmax(drawn.heights))],
        parabola=flown.parabola,
        off_parabola=flown.off,
    )


def _foot(steps: Sequence[Step], contact: Contact | None, usual: int, shown: int) -> Foot | None:
    """A contact as a flight meets it: in the last (-1) or the first (0) of its drawings."""
    if contact is None:
        return None
    if not contact.steps:
        return Foot(frame=contact.time, held=0, lead=usual, between=True)
    here = contact.steps[shown]
    lead = steps[here - 1].frames if here else usual
    return Foot(frame=float(steps[here].frame), held=max(0, steps[here].frames - usual), lead=lead, between=False)


def _in_place(steps: list[Step], hops: list[Hop], diameter: float) -> bool:
    widths = [abs(steps[h.air[-1]].x - steps[h.air[0]].x) for h in hops if len(h.air) > 1]
    return bool(not widths or median(np.array(widths)) < IN_PLACE_D * diameter)
