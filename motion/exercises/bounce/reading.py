"""A track told as the trade tells a bounce: contacts, hops between them, and a rest at the end."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from motion import curves
from motion.exercises.bounce import contacts as turning
from motion.exercises.bounce import halves
from motion.exercises.bounce.contacts import Contact
from motion.ranks import median, percentile
from motion.tracking.track import Ground, Shape, Track

# A hop lower than this (in diameters) is part of the settling, not judged as a hop.
LEAST_HOP_D = 0.2
FEWEST_TO_TELL_TWO, BETTER_AS_TWO = 5, 0.5
"""A hop of so many drawings tells whether its top is two equal ones: it then lies so much nearer to its flight."""
# Hops narrower than this (in diameters, from contact to contact) are bounces in place.
IN_PLACE_D = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One exposure of one measured drawing.

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


class Parabola(NamedTuple):
    """height = gravity / 2 × (t - left) × (lands - t) on a hop's own clock (frames)."""

    left: float
    lands: float
    gravity: float

    @property
    def frames(self) -> float:
        return self.lands - self.left

    @property
    def top(self) -> float:
        return self.gravity * self.frames**2 / 8

    def at(self, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n,) the heights at times on the hop's clock."""
        return np.asarray(0.5 * self.gravity * (times - self.left) * (self.lands - times))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hop:
    """The drawings in the air between two contacts, or before the first, or after the last.

    ``air`` are indices into the reading's steps. ``clock`` (n,) gives each drawing's time in frames since the
    ball left the ground, with holds taken out; ``frames_clock`` (n,) the same with holds left in. ``span`` is
    the time of the next contact on ``clock``. For a hop without a first contact both clocks start at its first
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
        return _ends(self.steps, hop)

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
    steadied = turning.find(steps, clearances, diameter, consensus_gravity(first))
    return first if tuple(steadied) == first.contacts else _tell(track.ground, steps, diameter, steadied)


Ends = tuple[NDArray[np.float64] | None, NDArray[np.float64] | None]


def _ends(steps: Sequence[Step], hop: Hop) -> Ends:
    before, after = (
        np.array([steps[c.steps[k]].x, 0.0]) if c is not None and c.steps else None
        for c, k in ((hop.start, -1), (hop.end, 0))
    )
    return before, after


def _by_halves(steps: Sequence[Step], hops: Sequence[Hop], diameter: float) -> bool:
    high = [h for h in hops if steps[h.top].height >= LEAST_HOP_D * diameter]
    return halves.is_habit([(np.array([[steps[i].x, steps[i].height] for i in h.air]), *_ends(steps, h)) for h in high])


def _tell(ground: Ground, steps: list[Step], diameter: float, found: list[Contact]) -> Reading:
    rest = _rest(steps, found, diameter)
    hops = _hops(steps, found, rest)
    diameter = _round_diameter(steps, hops) or diameter
    return Reading(
        steps=tuple(steps),
        ground=ground,
        diameter=diameter,
        contacts=tuple(found),
        hops=tuple(hops),
        rest=rest,
        in_place=_in_place(steps, hops, diameter),
        by_halves=_by_halves(steps, hops, diameter),
    )


def _diameter(track: Track) -> float | None:
    sizes = [np.sqrt(s.area) for s in track.shapes if s is not None and not s.clipped]
    return median(np.array(sizes)) if sizes else None


def _round_diameter(steps: list[Step], hops: list[Hop]) -> float | None:
    """The median size of the drawings nearest the tops, where the ball is round."""
    sizes = [np.sqrt(steps[i].shape.area) for hop in hops for i in hop.air if abs(i - hop.top) <= 1]
    return median(np.array(sizes)) if sizes else None


def _steps(track: Track, level: Ground, diameter: float) -> list[Step]:
    steps = []
    for exposure in track.exposures:
        shape = track.shape_of(exposure.drawing)
        if shape is None or shape.clipped:
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


def _hops(steps: list[Step], found: list[Contact], rest: tuple[int, ...]) -> list[Hop]:
    end_of_air = rest[0] if rest else len(steps)
    bounds: list[tuple[Contact | None, Contact | None]] = []
    kept = [c for c in found if not rest or c.after <= rest[0] + 1 or (c.steps and c.steps[0] < rest[0])]
    previous: Contact | None = None
    for contact in kept:
        bounds.append((previous, contact))
        previous = contact
    bounds.append((previous, None))
    hops: list[Hop] = []
    for start, end in bounds:
        first = start.after if start else 0
        stop = end.before + 1 if end else end_of_air
        air = tuple(range(first, min(stop, end_of_air)))
        if air:
            hops.append(_hop(len(hops) + 1, steps, air, start, end))
    return hops


def _hop(number: int, steps: list[Step], air: tuple[int, ...], start: Contact | None, end: Contact | None) -> Hop:
    exposures = [steps[i].frames for i in air]
    usual = int(median(np.array(exposures))) if len(exposures) > 2 else min(exposures)
    begins = _leaves(steps, start, usual) if start else float(steps[air[0]].frame)
    heights = np.array([steps[i].height for i in air])
    top = air[int(np.argmax(heights))]
    flight = _flight(steps, air, (start, end), begins, usual, None)
    if steps[top].frames == 2 * usual and len(air) >= FEWEST_TO_TELL_TWO:
        as_two = _flight(steps, air, (start, end), begins, usual, top)
        if as_two.parabola and as_two.off < BETTER_AS_TWO * flight.off:
            flight = as_two
    return Hop(
        number=number,
        air=air,
        start=start,
        end=end,
        usual=usual,
        clock=flight.clock,
        frames_clock=np.array([float(steps[i].frame) for i in air]) - begins,
        span=flight.span,
        top=top,
        parabola=flight.parabola,
        off_parabola=flight.off,
    )


class _Flight(NamedTuple):
    """See ``Hop``: its clock, the contact's time on it, its parabola, and how far off that its drawings lie."""

    clock: NDArray[np.float64]
    span: float
    parabola: Parabola | None
    off: float


def _flight(
    steps: list[Step],
    air: tuple[int, ...],
    contacts: tuple[Contact | None, Contact | None],
    begins: float,
    usual: int,
    two: int | None,
) -> _Flight:
    """A hop in time, holds taken out; the drawing ``two`` is no held one but two equal ones, midway at its time."""
    start, end = contacts
    lasts = {i: min(steps[i].frames, usual) if i != two else steps[i].frames for i in air}
    clock = [float(steps[air[0]].frame) - begins]
    for before, after in itertools.pairwise(air):
        # Drawings that could not be measured between two that could still take their time.
        passed = steps[after].frame - steps[before].frame - steps[before].frames
        clock.append(clock[-1] + lasts[before] + passed)
    span = clock[-1] + lasts[air[-1]]
    if end is not None:
        ends = steps[end.steps[0]].frame if end.steps else end.time
        last = steps[air[-1]]
        # A contact between two drawings comes after part of the last one's exposure.
        span = clock[-1] + (ends - last.frame if not end.steps else ends - last.frame - max(0, last.frames - usual))
    times = np.array(clock)
    if two is not None:
        times[air.index(two)] += usual / 2
    heights = np.array([steps[i].height for i in air])
    parabola = fit_parabola(times, heights, start, end, float(span), usual)
    off = percentile(np.abs(heights - parabola.at(times)), 75) if parabola else 0.0
    return _Flight(clock=times, span=float(span), parabola=parabola, off=off)


def _leaves(steps: list[Step], start: Contact, usual: int) -> float:
    if not start.steps:
        return start.time
    last = steps[start.steps[-1]]
    return float(last.frame + max(0, last.frames - usual))


def fit_parabola(
    clock: NDArray[np.float64],
    heights: NDArray[np.float64],
    start: Contact | None,
    end: Contact | None,
    span: float,
    usual: float,
) -> Parabola | None:
    """The hop's own parabola: duration, height, and where between drawings it meets the ground.

    The contacts may lie up to half an exposure away from the drawings that show them. None with too few
    drawings or no fall in them.
    """
    times, values = list(clock), list(heights)
    if len(times) < 3:
        times += [0.0] * (start is not None) + [span] * (end is not None)
        values += [0.0] * (len(times) - len(values))
    if len(times) < 3:
        return None
    curve = robust_quadratic(np.array(times), np.array(values))
    if curve is None or curve[0] >= -1e-6:
        return None
    a, b, c = curve.tolist()
    inside = b * b - 4 * a * c
    if inside <= 0:
        return None
    left, lands = sorted(((-b + math.sqrt(inside)) / (2 * a), (-b - math.sqrt(inside)) / (2 * a)))
    gravity = -2 * a
    if start is not None and start.steps:
        left = min(usual / 2, max(-usual / 2, left))
    if end is not None and end.steps:
        lands = min(span + usual / 2, max(span - usual / 2, lands))
    return Parabola(left, lands, gravity) if lands - left > 0.5 else None


def robust_quadratic(times: NDArray[np.float64], values: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """Coefficients (3,) of a parabola, highest power first, that a stray drawing does not pull."""
    if len(times) < 3 or times.max() <= times.min():
        return None
    weights: NDArray[np.float64] | None = None
    curve = curves.polynomial(times, values, 2)
    if len(times) < 5:
        return curve
    for _ in range(5):
        off = np.abs(values - curves.at(curve, times))
        spread = max(0.3, 1.4826 * median(off))
        if weights is None and off.max() <= 1.5 * spread:
            break
        before, weights = weights, 1.0 / np.maximum(1.0, off / (1.5 * spread))
        if before is not None and np.array_equal(weights, before):
            break
        curve = curves.polynomial(times, values, 2, weights)
    return curve


def _in_place(steps: list[Step], hops: list[Hop], diameter: float) -> bool:
    widths = [abs(steps[h.air[-1]].x - steps[h.air[0]].x) for h in hops if len(h.air) > 1]
    return bool(not widths or median(np.array(widths)) < IN_PLACE_D * diameter)
