"""How a whole rise or fall is spaced, against what its own height and duration call for."""

from __future__ import annotations

import itertools
import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from motion.exercises.bounce.hops import Hop, Reading
from motion.exercises.bounce.smooth import Points

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
    # From the top outwards: both sides then gather speed towards the contact. In plain numbers, since a side has a
    # handful of drawings, for which arrays take several times as long.
    outwards = run[::-1] if side == "rise" else run
    place: list[tuple[float, float]] = [tuple(p) for p in points[list(outwards)].tolist()]
    times, until = _on_the_clock(reading, hop, side, outwards)
    gaps = [math.dist(one, other) for one, other in itertools.pairwise(place)]
    speeds = [gap / span for gap, span in zip(gaps, _steps(times), strict=True)]
    wanted = _wanted(place, times, until)
    even = _even(reading, hop, place, times, until, speeds, wanted, contact.missed, leniency, gravity)
    growth = _growth(speeds, times, until, reading.diameter, leniency)
    if even is not None and (growth is None or even > BACKWARDS):
        uniform = (max(speeds) - min(speeds)) / max(fmean(speeds), 1e-6) < UNIFORM
        return _pattern("even", side, max(0.0, even), EVEN_SHARE / leniency, gaps, wanted, run, uniform)
    if growth is not None:
        kind: Kind = "faster_rising" if side == "rise" else "slower_falling"
        return _pattern(kind, side, growth, GROWTH * leniency, gaps, wanted, run, False)
    return None


def _on_the_clock(reading: Reading, hop: Hop, side: Side, outwards: Sequence[int]) -> tuple[list[float], float]:
    """When the drawings of a side lie from its top outwards, and its contact, frames from the top.

    By halves each drawing halves a gap, however long it is exposed; so there only their order counts.
    """
    if reading.by_halves:
        return [float(hop.usual * k) for k in range(len(outwards))], float(hop.usual * len(outwards))
    clock = hop.clock[list(outwards)].tolist()
    return [abs(t - clock[0]) for t in clock], abs((0.0 if side == "rise" else hop.span) - clock[0])


def _pattern(
    kind: Kind,
    side: Side,
    measured: float,
    tolerance: float,
    gaps: Sequence[float],
    wanted: Sequence[float],
    run: tuple[int, ...],
    uniform: bool,
) -> Pattern:
    order = slice(None, None, -1) if side == "rise" else slice(None)
    return Pattern(
        kind=kind,
        side=side,
        measured=measured,
        tolerance=tolerance,
        gaps=np.array(gaps)[order],
        wanted=np.array(wanted)[order],
        run=run,
        uniform=uniform,
    )


def _steps(values: Sequence[float]) -> list[float]:
    return [after - before for before, after in itertools.pairwise(values)]


def _wanted(place: Sequence[tuple[float, float]], times: Sequence[float], until: float) -> list[float]:
    """The gaps (n - 1) px of a fall from rest at the top that takes this side's height and time."""
    across = _slope(times, [x for x, _ in place])
    parts = [t / until if until > 0 else 0.0 for t in times]
    depths = [place[0][1] * part**2 for part in parts]
    return [math.hypot(down, across * span) for down, span in zip(_steps(depths), _steps(times), strict=True)]


def _slope(times: Sequence[float], values: Sequence[float]) -> float:
    """By how much values grow with time, by the line through all of them."""
    middle = fmean(times)
    off = [t - middle for t in times]
    return sum(o * v for o, v in zip(off, values, strict=True)) / max(sum(o * o for o in off), 1e-9)


def _middles(times: Sequence[float]) -> list[float]:
    return [(before + after) / 2 for before, after in itertools.pairwise(times)]


def _even(
    reading: Reading,
    hop: Hop,
    place: Sequence[tuple[float, float]],
    times: Sequence[float],
    until: float,
    speeds: Sequence[float],
    wanted: Sequence[float],
    missed: bool,
    leniency: float,
    gravity: float | None,
) -> float | None:
    """Measured over called-for acceleration along the path, if it is too little; None if it is enough.

    Below nought where it goes the wrong way.
    """
    middles = _middles(times)
    called_for = _slope(middles, [gap / span for gap, span in zip(wanted, _steps(times), strict=True)])
    length = times[-1] - times[0]
    # Too short or too flat a side to tell slowing from the hand's unsteadiness.
    if called_for * length < max(0.12 * reading.diameter, 5.0) or until <= 0:
        return None
    limit = EVEN_SHARE / leniency
    gathered = _slope(middles, speeds)
    measured = gathered / called_for
    if measured >= limit:
        return None
    if len(speeds) <= 3 and not missed and _gathers_to_contact(place, times, until, speeds, reading):
        return None
    if not hop.whole and gravity is not None and gathered >= 0.6 * gravity:
        # Thrown in or cut off by the clip's end: it need not come to rest at its highest drawing.
        return None
    return measured


def _gathers_to_contact(
    place: Sequence[tuple[float, float]],
    times: Sequence[float],
    until: float,
    speeds: Sequence[float],
    reading: Reading,
) -> bool:
    """Whether the step to the contact shows the acceleration that the few steps in the air do not.

    Placed by halves, a short fall has its one long step at the contact. The true contact may lie half an exposure
    away, so that step must stand out clearly.
    """
    step = times[1] - times[0]
    last = until - times[-1]
    if last <= 0.25 * step:
        return False
    length = max(0.0, place[-1][1])
    return length / last > 1.45 * fmean(speeds) and (length > 0.2 * reading.diameter or reading.by_halves)


def _growth(
    speeds: Sequence[float], times: Sequence[float], until: float, diameter: float, leniency: float
) -> float | None:
    """By how much speed falls off towards the contact, over the half of the side nearest to it; None if it does not.

    Outwards from the top speed should only ever grow; on a rise played forwards a fall outwards is a growth.
    """
    first = next((i for i, t in enumerate(times[1:]) if t >= until / 2 - 1e-6), len(speeds))
    near, middles = speeds[min(first, len(speeds) - 2) :], _middles(times)[min(first, len(speeds) - 2) :]
    if len(near) < 2:
        return None
    fastest, slowest = near[0], near[-1]
    if len(near) >= 3:
        slope = _slope(middles, near)
        fastest = fmean(near) + slope * (middles[0] - fmean(middles))
        slowest = fastest + slope * (middles[-1] - middles[0])
    drop = fastest - slowest
    if slowest <= 0 or drop * statistics.median(_steps(times)) < 0.03 * diameter * leniency:
        return None
    growth = drop / slowest
    return growth if growth > GROWTH * leniency else None
