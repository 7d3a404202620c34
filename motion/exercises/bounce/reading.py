"""A track told as the trade tells a bounce: contacts, hops between them, and a rest at the end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from motion.exercises.bounce import contacts as turning
from motion.exercises.bounce import flight, halves
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.flight import Foot, Parabola
from motion.ranks import median
from motion.track import Ground, Shape, Track

# A hop lower than this (in diameters) is part of the settling, not judged as a hop.
LEAST_HOP_D = 0.2
# Hops narrower than this (in diameters, from contact to contact) are bounces in place.
IN_PLACE_D = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One exposure of one measured drawing. Of one that the frame's edge cuts, the place is told but not the size.

    ``height`` is how far the centre stands above where it is when the round ball rests on the ground below it;
    ``clearance`` is how far the bottom of the outline is above the ground. Both px, up.
    """

    frame: int
    frames: int
    drawing: int
    x: float
    y: float
    height: float
    clearance: float
    shape: Shape

    @property
    def last_frame(self) -> int:
        return self.frame + self.frames - 1

    @property
    def whole(self) -> bool:
        """Whether all of the ball lies within the frame."""
        return not self.shape.clipped


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hop:
    """The drawings in the air between two contacts, or before the first, or after the last.

    ``air`` are indices into the reading's steps. ``clock`` (n,) gives each drawing's time in frames since the
    ball left the ground, with holds taken out; ``frames_clock`` (n,) the same with holds left in. ``held`` (n,) are
    the frames of each that are a hold, ``around`` as ``flight.around`` has it, ``span`` the time of the next contact
    on ``clock``. For a hop without a first contact both clocks start at its first
    drawing. ``usual`` is the exposure usual in this hop; ``off_parabola`` how far up or down three quarters of its
    drawings lie off its parabola at most, px.
    """

    number: int
    air: tuple[int, ...]
    start: Contact | None
    end: Contact | None
    usual: int
    clock: NDArray[np.float64]
    frames_clock: NDArray[np.float64]
    held: tuple[int, ...]
    around: tuple[tuple[float, float], tuple[float, float]]
    span: float
    top: int
    parabola: Parabola | None
    off_parabola: float

    @property
    def whole(self) -> bool:
        """Whether it runs from contact to contact."""
        return self.start is not None and self.end is not None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """A bounce as read. ``rest`` are the steps that roll or lie still at the end.

    ``by_halves`` tells that the drawings are spaced by halves towards the tops, not by gravity.
    """

    steps: tuple[Step, ...]
    ground: Ground
    diameter: float
    contacts: tuple[Contact, ...]
    hops: tuple[Hop, ...]
    rest: tuple[int, ...]
    in_place: bool
    by_halves: bool

    def points(self, indices: tuple[int, ...]) -> NDArray[np.float64]:
        """(n, 2) px: x, and height of the centre above its resting height, up."""
        return np.array([[self.steps[i].x, self.steps[i].height] for i in indices]).reshape(-1, 2)

    def beside(self, hop: Hop) -> Ends:
        """Where the contacts before and after a hop lie, (2,) px each, None where no drawing shows one."""
        return _feet(self.steps, hop.start, hop.end)

    def to_picture(self, x: float, height: float) -> tuple[float, float]:
        """Frame coordinates of a point given by x and the centre's height."""
        return x, self.ground.y_at(x) - self.diameter / 2 - height


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
    from motion.exercises.bounce.gravity import consensus_gravity

    # Contacts that no drawing shows are found from the flights beside them, which the clip's gravity steadies.
    gravity = None if first.by_halves else consensus_gravity(first)
    steadied = turning.find(steps, clearances, diameter, gravity)
    return first if tuple(steadied) == first.contacts else _tell(track.ground, steps, diameter, steadied)


Ends = tuple[NDArray[np.float64] | None, NDArray[np.float64] | None]


def _feet(steps: Sequence[Step], start: Contact | None, end: Contact | None) -> Ends:
    before, after = (
        np.array([steps[c.steps[k]].x, 0.0]) if c is not None and c.steps else None for c, k in ((start, -1), (end, 0))
    )
    return before, after


def _by_halves(steps: Sequence[Step], between: Sequence[_Between], diameter: float) -> bool:
    high = []
    for part in between:
        points = np.array([[steps[i].x, steps[i].height] for i in part.air])
        if points[:, 1].max() >= LEAST_HOP_D * diameter:
            told = halves.Hopped(points, *_feet(steps, part.start, part.end), flies=_drawn(steps, part).flies)
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
