"""How a whole rise or fall is spaced, against what its own height and duration call for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from motion import curves
from motion.exercises.bounce.reading import Hop, Reading
from motion.exercises.bounce.smooth import Points
from motion.ranks import mean, median, steps_of

EVEN_SHARE = 0.40
GROWTH = 0.12
# A side that gathers speed the wrong way by more than this share of what is called for does not go in even steps.
BACKWARDS = -0.15
# Gaps this alike (spread over mean) are even steps, whatever else could explain them.
UNIFORM = 0.22

Side = Literal["rise", "fall"]
Kind = Literal["even", "faster_rising", "slower_falling"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pattern:
    """A rise or fall that is spaced wrongly as a whole.

    ``measured`` and ``tolerance`` are shares; ``gaps`` (n,) px are the gaps judged, ``wanted`` (n,) px what the
    side's height and duration call for; ``run`` are indices into the hop's air of the drawings concerned.
    """

    kind: Kind
    side: Side
    measured: float
    tolerance: float
    gaps: NDArray[np.float64]
    wanted: NDArray[np.float64]
    run: tuple[int, ...]
    uniform: bool

    @property
    def times_tolerance(self) -> float:
        """How far past the tolerance, at least 1: for evenness the lack of acceleration, else the growth."""
        if self.kind == "even":
            return (1 - self.measured) / (1 - self.tolerance) * 2.5
        return self.measured / self.tolerance


def side_run(hop: Hop, side: Side) -> tuple[int, ...]:
    """Indices into the hop's air of one side, the top included, in playing order."""
    top = hop.air.index(hop.top)
    return tuple(range(top + 1)) if side == "rise" else tuple(range(top, len(hop.air)))


def find(reading: Reading, hop: Hop, points: Points, leniency: float, gravity: float | None) -> list[Pattern]:
    """Patterns of both sides of a hop whose drawings lie at ``points``; ``gravity`` is the clip's, px per frame²."""
    found = []
    for side in ("rise", "fall"):
        pattern = _side(reading, hop, points, side, leniency, gravity)
        if pattern is not None:
            found.append(pattern)
    return found


def _side(
    reading: Reading, hop: Hop, points: Points, side: Side, leniency: float, gravity: float | None
) -> Pattern | None:
    contact = hop.start if side == "rise" else hop.end
    run = side_run(hop, side)
    if contact is None or len(run) < 3:
        return None
    # From the top outwards: both sides then gather speed towards the contact.
    outwards = run[::-1] if side == "rise" else run
    place = points[list(outwards)]
    times = np.abs(hop.clock[list(outwards)] - hop.clock[outwards[0]])
    until = abs((0.0 if side == "rise" else hop.span) - hop.clock[outwards[0]])
    gaps = np.hypot(*steps_of(place).T)
    spans = steps_of(times)
    speeds = gaps / spans
    wanted = _wanted(place, times, until)
    even = _even(reading, hop, place, times, until, speeds, wanted, contact.missed, leniency, gravity)
    growth = _growth(speeds, times, until, reading.diameter, leniency)
    if even is not None and (growth is None or even > BACKWARDS):
        uniform = bool(np.ptp(speeds) / max(mean(speeds), 1e-6) < UNIFORM)
        return _pattern("even", side, max(0.0, even), EVEN_SHARE / leniency, gaps, wanted, run, uniform)
    if growth is not None:
        kind: Kind = "faster_rising" if side == "rise" else "slower_falling"
        return _pattern(kind, side, growth, GROWTH * leniency, gaps, wanted, run, False)
    return None


def _pattern(
    kind: Kind,
    side: Side,
    measured: float,
    tolerance: float,
    gaps: NDArray[np.float64],
    wanted: NDArray[np.float64],
    run: tuple[int, ...],
    uniform: bool,
) -> Pattern:
    order = slice(None, None, -1) if side == "rise" else slice(None)
    return Pattern(
        kind=kind,
        side=side,
        measured=measured,
        tolerance=tolerance,
        gaps=gaps[order],
        wanted=wanted[order],
        run=run,
        uniform=uniform,
    )


def _wanted(place: Points, times: NDArray[np.float64], until: float) -> NDArray[np.float64]:
    """The gaps (n - 1,) px of a fall from rest at the top that takes this side's height and time."""
    parts = np.maximum(times / until, 0) if until > 0 else times * 0
    height = place[0, 1] * (1 - parts**2)
    across = curves.at(curves.polynomial(times, place[:, 0], 1), times)
    return np.asarray(np.hypot(steps_of(height), steps_of(across)))


def _slope(times: NDArray[np.float64], speeds: NDArray[np.float64]) -> float:
    middles = (times[1:] + times[:-1]) / 2
    off = middles - mean(middles)
    return float((off @ speeds) / max(float(off @ off), 1e-9))


def _even(
    reading: Reading,
    hop: Hop,
    place: Points,
    times: NDArray[np.float64],
    until: float,
    speeds: NDArray[np.float64],
    wanted: NDArray[np.float64],
    missed: bool,
    leniency: float,
    gravity: float | None,
) -> float | None:
    """Measured over called-for acceleration along the path, if it is too little; None if it is enough.

    Below nought where it goes the wrong way.
    """
    called_for = _slope(times, wanted / steps_of(times))
    length = times[-1] - times[0]
    # Too short or too flat a side to tell slowing from the hand's unsteadiness.
    if called_for * length < max(0.12 * reading.diameter, 5.0) or until <= 0:
        return None
    limit = EVEN_SHARE / leniency
    measured = _slope(times, speeds) / called_for
    if measured >= limit:
        return None
    if len(speeds) <= 3 and not missed and _gathers_to_contact(place, times, until, speeds, limit, reading.diameter):
        return None
    if not hop.whole and gravity is not None and _slope(times, speeds) >= 0.6 * gravity:
        # Thrown in or cut off by the clip's end: it need not come to rest at its highest drawing.
        return None
    return measured


def _gathers_to_contact(
    place: Points, times: NDArray[np.float64], until: float, speeds: NDArray[np.float64], limit: float, diameter: float
) -> bool:
    """Whether the step to the contact shows the acceleration that the few steps in the air do not.

    Placed by halves, a short fall has its one long step at the contact. The true contact may lie half an exposure
    away, so that step must stand out clearly.
    """
    step = times[1] - times[0]
    last = until - times[-1]
    if last <= 0.25 * step:
        return False
    length = max(0.0, float(place[-1, 1]))
    return length / last > 1.45 * mean(speeds) and length > 0.2 * diameter


def _growth(
    speeds: NDArray[np.float64], times: NDArray[np.float64], until: float, diameter: float, leniency: float
) -> float | None:
    """By how much speed falls off towards the contact, over the half of the side nearest to it; None if it does not.

    Outwards from the top speed should only ever grow; on a rise played forwards a fall outwards is a growth.
    """
    middles = (times[1:] + times[:-1]) / 2
    half = np.flatnonzero(times[1:] >= until / 2 - 1e-6)
    if half.size < 2:
        half = np.arange(max(0, len(speeds) - 2), len(speeds))
    if half.size < 2:
        return None
    near = speeds[half]
    slowest = float(near[-1])
    if half.size >= 3:
        line = curves.polynomial(middles[half], near, 1)
        ends = curves.at(line, middles[half][[0, -1]])
        fastest, slowest = float(ends[0]), float(ends[1])
    else:
        fastest = float(near[0])
    drop = fastest - slowest
    step = median(steps_of(times))
    if slowest <= 0 or drop * step < 0.03 * diameter * leniency:
        return None
    growth = drop / slowest
    return growth if growth > GROWTH * leniency else None
