"""A hop in time: which part of each exposure is time that passes and which is a hold, and the parabola it flies.

An exposure is time that passes: ones with twos near the top are a flight as good as one all on ones. Only what the
motion of the drawings around it does not need is a hold.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from motion import curves
from motion.ranks import median, percentile

FEWEST_TO_TELL_HOLDS, BETTER_HELD = 5, 0.6
"""So many drawings tell a hold by their flight: without it they lie so much nearer to one."""
UNSTEADY = 0.1
"""So many frames beside its place a contact may lie by hand."""
MOST_TO_TELL_HOLDS, MOST_HOLDS, LONGEST_TRIED = 120, 4, 12
"""No hop has more drawings, nor more holds that are told by its flight; of a longer hold all of it is tried, too."""
FITS_PX, FITS_SHARE = 0.7, 0.006
"""Drawings no farther off their flight than that (px, share of its height) need no hold to explain them."""
FEWEST_TO_TELL_TWO, BETTER_AS_TWO = 5, 0.5
"""A hop of so many drawings tells whether its top is two equal ones: it then lies so much nearer to its flight."""


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


class Foot(NamedTuple):
    """A contact beside a hop: when its drawing starts (frames), and by how much that one is held more than usual.

    ``lead`` is how long the drawing before it shows, frames. A contact that no drawing shows is ``between`` two, and
    its time is when the flights meet.
    """

    frame: float
    held: int
    lead: int
    between: bool


class Drawn(NamedTuple):
    """A hop's drawings in the air: first frames, exposures and heights, each (n,), and the contacts beside them."""

    frames: NDArray[np.float64]
    exposures: tuple[int, ...]
    heights: NDArray[np.float64]
    start: Foot | None
    end: Foot | None

    @property
    def usual(self) -> int:
        """The exposure usual in this hop."""
        return int(median(np.array(self.exposures))) if len(self.exposures) > 2 else min(self.exposures)

    @property
    def begins(self) -> float:
        """The frame at which its clock starts: as it leaves the ground, or at its first drawing."""
        return float(self.frames[0]) if self.start is None else self.start.frame + self.start.held

    @property
    def flies(self) -> bool:
        """Whether enough drawings, exposed unlike each other, lie on a flight as they are."""
        if len(self.exposures) < FEWEST_TO_TELL_HOLDS or set(self.exposures) == {self.usual}:
            return False
        plain = _flown(self, (0,) * len(self.exposures))
        return plain.met and plain.off <= _fits(self)


class Flight(NamedTuple):
    """What ``Hop`` says of its clock, holds, span and parabola; ``met``: it meets the ground where that is drawn."""

    clock: NDArray[np.float64]
    held: tuple[int, ...]
    span: float
    parabola: Parabola | None
    off: float
    met: bool


def fly(drawn: Drawn, halved: bool) -> Flight:
    """A hop in time. ``halved`` tells that the clip is spaced by halves, where places tell nothing of time."""
    none = (0,) * len(drawn.exposures)
    plain = _flown(drawn, none)
    if set(drawn.exposures) == {drawn.usual}:
        return plain
    by_neighbours = _unlike_neighbours(drawn)
    if halved or not FEWEST_TO_TELL_HOLDS <= len(none) <= MOST_TO_TELL_HOLDS:
        flies = plain.parabola is not None and plain.met and not halved
        return plain if by_neighbours == none or flies else _flown(drawn, by_neighbours)
    best = _best(drawn, plain, by_neighbours)
    top = int(np.argmax(drawn.heights))
    if drawn.exposures[top] == 2 * drawn.usual:
        as_two = _flown(drawn, tuple(0 if i == top else h for i, h in enumerate(best.held)), top)
        if as_two.parabola and as_two.off < BETTER_AS_TWO * best.off:
            return as_two
    return best


def _unlike_neighbours(drawn: Drawn) -> tuple[int, ...]:
    """Of each exposure what is more than usual and more than those beside it, where these are no holds themselves."""
    usual, exposures = drawn.usual, drawn.exposures
    held = []
    for i, own in enumerate(exposures):
        beside = max(exposures[max(0, i - 1) : i] + exposures[i + 1 : i + 2], default=usual)
        held.append(max(0, own - min(max(usual, beside), 2 * usual)))
    return tuple(held)


def _best(drawn: Drawn, plain: Flight, by_neighbours: tuple[int, ...]) -> Flight:
    """The holds without which the drawings lie on a flight: none if they lie on one as they are."""
    best = plain
    for _ in range(MOST_HOLDS):
        if best.off <= _fits(drawn):
            break
        trials = [_flown(drawn, held) for held in _one_more(drawn, best.held)]
        if best is plain and any(by_neighbours):
            trials.append(_flown(drawn, by_neighbours))
        nearest = min((t for t in trials if t.parabola), key=lambda t: t.off, default=None)
        if nearest is None or nearest.off > BETTER_HELD * best.off:
            break
        best = nearest
    fits = best.off <= max(2.0, 0.03 * float(drawn.heights.max()))
    return best if fits or best is not plain else _flown(drawn, by_neighbours)


def _fits(drawn: Drawn) -> float:
    return max(FITS_PX, FITS_SHARE * float(drawn.heights.max()))


def _one_more(drawn: Drawn, held: tuple[int, ...]) -> list[tuple[int, ...]]:
    """The same holds and one more, of any drawing that is exposed longer than the shortest beside it."""
    found = []
    for i, own in enumerate(drawn.exposures[:-1]):
        least = min(drawn.exposures[max(0, i - 1) : i] + drawn.exposures[i + 1 : i + 2])
        most = own - min(own, least)
        if held[i] == 0 and most:
            some = {*range(1, min(most, LONGEST_TRIED) + 1), most}
            found += [(*held[:i], more, *held[i + 1 :]) for more in sorted(some)]
    return found


def _flown(drawn: Drawn, held: tuple[int, ...], two: int | None = None) -> Flight:
    """A hop with its holds taken out; the drawing ``two`` is no held one but two equal ones, midway at its time."""
    out = np.cumsum([0, *held])
    clock = drawn.frames - drawn.begins - out[:-1]
    span = float(clock[-1]) + drawn.exposures[-1] - held[-1]
    if drawn.end is not None:
        # A contact between two drawings comes after part of the last one's exposure.
        span = drawn.end.frame - drawn.begins - float(out[-2] if drawn.end.between else out[-1])
    if two is not None:
        clock[two] += drawn.usual / 2
    free = _free_parabola(clock, drawn, span)
    parabola = _at_contacts(free, drawn, span) if free else None
    off = percentile(np.abs(drawn.heights - parabola.at(clock)), 75) if parabola else math.inf
    return Flight(clock=clock, held=held, span=span, parabola=parabola, off=off, met=free == parabola)


def _free_parabola(clock: NDArray[np.float64], drawn: Drawn, span: float) -> Parabola | None:
    """The hop's own parabola: duration, height, and when it meets the ground. None with too few or with no fall."""
    times, values = list(clock), list(drawn.heights)
    if len(times) < 3:
        times += [0.0] * (drawn.start is not None) + [span] * (drawn.end is not None)
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
    return Parabola(left, lands, -2 * a)


def _at_contacts(free: Parabola, drawn: Drawn, span: float) -> Parabola | None:
    """A parabola that meets the ground no farther from its drawn contacts than they allow."""
    (left, lands, gravity), (early, late) = free, around(drawn)
    if drawn.start is not None and not drawn.start.between:
        left = min(early[1], max(early[0], left))
    if drawn.end is not None and not drawn.end.between:
        lands = min(span + late[1], max(span + late[0], lands))
    return Parabola(left, lands, gravity) if lands - left > 0.5 else None


def around(drawn: Drawn) -> tuple[tuple[float, float], tuple[float, float]]:
    """How far before and after its drawn contacts a flight may meet the ground, frames; the last from its span on.

    Of the drawings about a contact the one that is nearest in time shows it, so that is half of the time which that
    one shows, or the one before; and a little more, since the hand is unsteady.
    """
    half, start, end = drawn.usual / 2 + UNSTEADY, drawn.start, drawn.end
    early = (-max(half, start.lead / 2 + UNSTEADY) - start.held, half) if start else (0.0, 0.0)
    late = (-max(half, end.lead / 2 + UNSTEADY), half + end.held / 2) if end else (0.0, 0.0)
    return early, late


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
