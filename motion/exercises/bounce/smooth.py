"""Where a drawing would lie between its own neighbours, and which drawings do not lie there.

Students may space by gravity or by halves, on ones, on twos or mixed; all of these are smooth. So each drawing is
compared with several smooth motions through its neighbours, and only counts as off when it fits none of them.
The distance across the path is judged by the shape of the path alone, whatever the time.
"""

from __future__ import annotations

import math
from bisect import bisect
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from motion import curves
from motion.exercises.bounce import halves
from motion.ranks import median

Points = NDArray[np.float64]
"""(n, 2) px: x, and height up."""

JUMP_GAP_SHARE = 0.18
JUMP_D = 0.05
ARC_D = 0.07
ARC_PX = 2.0
# The clip's first and last drawing have neighbours on one side only, which tells less surely where they belong.
OPEN_END = 1.6
OPEN_END_OF_FEW, TOO_FEW = 2.4, 3
SIDE_END = 1.25
FEW = 5
NEAR_END = 5
# How many drawings of one run may be called misplaced before it is not a matter of single drawings any more.
MOST_OUTLIERS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Tolerances:
    """Allowed distances in px: ``jump_share`` of the local gap but at least ``jump_least``; ``across``."""

    jump_share: float
    jump_least: float
    across: float
    judge_across: bool


def tolerances(diameter: float, leniency: float, width: int, in_place: bool) -> Tolerances:
    """The default tolerances for a ball of that diameter in a frame of that width."""
    scale = max(1.0, width / 960)
    return Tolerances(
        jump_share=JUMP_GAP_SHARE * leniency,
        jump_least=JUMP_D * diameter * leniency,
        across=max(ARC_D * diameter, ARC_PX * scale) * leniency,
        judge_across=not in_place,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """Neighbouring drawings in the air: where they lie (n, 2), and when, on one or more clocks (n,) in frames.

    ``before`` and ``after`` (2,) are where the contacts beside them lie, None where there is none. ``halved`` tells
    that the clip is spaced by halves; ``gravity`` is the clip's own, px per frame², None where it is not to be used.
    """

    points: Points
    clocks: tuple[NDArray[np.float64], ...]
    before: NDArray[np.float64] | None = None
    after: NDArray[np.float64] | None = None
    halved: bool = False
    gravity: float | None = None

    def part(self, chosen: Sequence[int]) -> Run:
        """Some of the drawings, ascending, with the contacts where they are still next to them."""
        rows = list(chosen)
        return Run(
            points=self.points[rows],
            clocks=tuple(c[rows] for c in self.clocks),
            before=self.before if rows and rows[0] == 0 else None,
            after=self.after if rows and rows[-1] == len(self.points) - 1 else None,
            halved=self.halved,
            gravity=self.gravity,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Misfit:
    """How far one drawing is off: px along the path (forwards +) and across it (to its left +).

    ``place`` (2,) is where it belongs, ``tolerance_along`` the jump tolerance there.
    """

    along: float
    across: float
    place: NDArray[np.float64]
    tolerance_along: float
    tolerance_across: float

    @property
    def jump_ratio(self) -> float:
        return abs(self.along) / self.tolerance_along

    @property
    def arc_ratio(self) -> float:
        return abs(self.across) / self.tolerance_across

    @property
    def ratio(self) -> float:
        return max(self.jump_ratio, self.arc_ratio)


def misfits(run: Run, left_out: frozenset[int], allowed: Tolerances) -> list[Misfit | None]:
    """Each drawing against the smooth motion of the others, those in ``left_out`` not used as neighbours.

    None for drawings with too few neighbours.
    """
    return [_misfit(run, i, left_out, allowed) for i in range(len(run.points))]


# A drawing that fits one smooth motion this well, in tolerances, need not be held against the others.
WELL = 0.5


def _misfit(run: Run, index: int, left_out: frozenset[int], allowed: Tolerances) -> Misfit | None:
    others = [j for j in range(len(run.points)) if j != index and j not in left_out]
    if len(others) < 3:
        return None
    at_once = _well_placed(run, index, others, allowed)
    if at_once is not None:
        return at_once
    best: Misfit | None = None
    for misfit in _held_against(run, index, others, allowed):
        best = misfit if best is None or misfit.jump_ratio < best.jump_ratio else best
        if best.jump_ratio <= WELL:
            break
    if best is None:
        return None
    across = _across(run, index, others, best.across, allowed) if allowed.judge_across else 0.0
    slack = _slack(run, index, others)
    return replace(
        best,
        across=across,
        tolerance_along=best.tolerance_along * slack,
        tolerance_across=best.tolerance_across * slack,
    )


def _well_placed(run: Run, index: int, others: list[int], allowed: Tolerances) -> Misfit | None:
    """The misfit of a drawing that lies so near to where its nearest neighbours lead that no more need be asked."""
    clock, chosen = run.clocks[0], _nearest(index, others)
    place = _led_to(run.points, clock, chosen, float(clock[index]))
    off = math.hypot(*(run.points[index] - place).tolist())
    least = min(allowed.jump_least, allowed.across) if allowed.judge_across else allowed.jump_least
    if off > WELL * least:
        return None
    return Misfit(along=off, across=0.0, place=place, tolerance_along=least, tolerance_across=allowed.across)


def _nearest(index: int, others: list[int]) -> list[int]:
    """Two drawings on each side of one, or where there are not so many, the three nearest; ``others`` ascend."""
    place = bisect(others, index)
    if 2 <= place <= len(others) - 2:
        return others[place - 2 : place + 2]
    return sorted(others, key=lambda j: (abs(j - index), j))[:3]


def _led_to(points: Points, clock: NDArray[np.float64], chosen: list[int], time: float) -> NDArray[np.float64]:
    """(2,) where the polynomial through the chosen drawings is at a time (Lagrange)."""
    times = clock[chosen].tolist()
    weights = []
    for own in times:
        above = below = 1.0
        for other in times:
            if other != own:
                above *= time - other
                below *= own - other
        weights.append(above / below)
    return np.asarray(np.array(weights) @ points[chosen])


def _slack(run: Run, index: int, others: list[int]) -> float:
    """How much more is allowed to a drawing that has neighbours in the air on one side only."""
    at_start, at_end = index == 0, index == len(run.points) - 1
    if (at_start and run.before is None) or (at_end and run.after is None):
        return OPEN_END if len(others) > TOO_FEW else OPEN_END_OF_FEW
    if at_start or at_end:
        return SIDE_END if len(others) >= FEW else OPEN_END
    return 1.0


def _held_against(run: Run, index: int, others: list[int], allowed: Tolerances) -> Iterator[Misfit]:
    """A drawing against one smooth motion after the other."""
    by_halves = halves.places(run.points, run.before, run.after, index, others, run.halved)
    if by_halves and halves.settles(run.points, run.before, run.after, index, by_halves[0]):
        yield _from_place(run.points, by_halves[0], index, others, allowed)
        return
    for clock in run.clocks:
        for curve in _smooth_curves(run.points, clock, index, others):
            yield _against(run.points, curve, clock[index], index, others, clock, allowed)
        if run.gravity is not None and index in (0, len(run.points) - 1):
            # Beyond its neighbours a drawing is told by few, which the clip's own gravity steadies.
            near = sorted(others, key=lambda j: abs(j - index))[:NEAR_END]
            flight = _in_flight(run.points, clock, near, run.gravity)
            yield _against(run.points, flight, clock[index], index, others, clock, allowed)
    for place in by_halves:
        yield _from_place(run.points, place, index, others, allowed)


def _across(run: Run, index: int, others: list[int], in_time: float, allowed: Tolerances) -> float:
    """How far a drawing lies beside the path, by its neighbours or by the hop's whole arc, whichever is kinder."""
    near = _beside_neighbours(run, index, others)
    if near is not None and abs(near) <= WELL * allowed.across:
        return near
    arc = _beside_arc(run, index, others)
    # Beyond the others a few of them tell the arc badly where it is steep, and the flight in time steadies it.
    flown = in_time if near is None and not run.halved else None
    told = [off for off in (near, arc, flown) if off is not None]
    if not told:
        # Where the spacing is by halves, a curve in time says nothing about the path.
        return 0.0 if run.halved else in_time
    return min(told, key=abs)


def _beside_neighbours(run: Run, index: int, others: list[int]) -> float | None:
    """How far a drawing lies above (+) or below the curve through its neighbours on both sides, px across it.

    Two on each side, the contacts included; None where there are fewer than three in all or none on one side, or
    where they do not lie in order along their chord.
    """
    here = run.points[index]
    before = [run.points[j] for j in others if j < index]
    after = [run.points[j] for j in others if j > index]
    before = ([] if run.before is None else [run.before]) + before
    after = after + ([] if run.after is None else [run.after])
    before, after = before[-2:], after[:2]
    if not before or not after or len(before) + len(after) < 3:
        return None
    beside = np.array([*before, *after]) - here
    upright = _off_curve(*beside.T)
    if upright is not None:
        return upright
    # A path that runs straight up or turns back is looked at along its chord.
    chord = after[0] - before[-1]
    length = float(np.hypot(*chord))
    if length < 1e-6:
        return None
    turn = np.array([[chord[0], chord[1]], [-chord[1], chord[0]]]) / length
    off = _off_curve(*(turn @ beside.T))
    return off if off is None or chord[0] >= 0 else -off


def _off_curve(along: NDArray[np.float64], across: NDArray[np.float64]) -> float | None:
    """How far the origin lies above the curve through points in order along an axis, px across the curve."""
    reach = float(along.max() - along.min())
    if reach < 1e-6 or ((along[1:] - along[:-1]) * np.sign(along[-1] - along[0]) < 0.02 * reach).any():
        return None
    curve = curves.fit(along / reach, across, len(along) - 1)
    # At the origin only the two lowest coefficients count.
    return float(-curve[-1] / math.hypot(1.0, curve[-2] / reach))


def _from_place(
    points: Points, place: NDArray[np.float64], index: int, others: list[int], allowed: Tolerances
) -> Misfit:
    """A drawing against a place worked out otherwise than from a curve in time."""
    ends, gaps = _neighbours(points, place, index, others)
    way = ends[-1] - ends[0] if len(ends) > 1 else place - ends[0]
    size = float(np.hypot(*way))
    tangent = way / size if size > 1e-6 else np.array([0.0, 1.0])
    off = points[index] - place
    return Misfit(
        along=float(tangent @ off),
        across=float(tangent[0] * off[1] - tangent[1] * off[0]) if allowed.judge_across else 0.0,
        place=place,
        tolerance_along=max(allowed.jump_share * min(gaps), allowed.jump_least),
        tolerance_across=allowed.across,
    )


def _neighbours(
    points: Points, place: NDArray[np.float64], index: int, others: list[int]
) -> tuple[list[NDArray[np.float64]], list[float]]:
    """The nearest drawings before and after, and how far each is from a place, per drawing passed."""
    before = max((j for j in others if j < index), default=None)
    after = min((j for j in others if j > index), default=None)
    beside = [j for j in (before, after) if j is not None]
    return [points[j] for j in beside], [float(np.hypot(*(points[j] - place))) / abs(j - index) for j in beside]


def _beside_arc(run: Run, index: int, others: list[int]) -> float | None:
    """How far a drawing lies above (+) or below the arc through the others, px across it; None with too few.

    The arc is height as a parabola of x: the shape of the path, whatever the time. The contacts help where there
    are few drawings.
    """
    beside = [] if len(others) >= FEW else [p for p in (run.before, run.after) if p is not None]
    told = np.array([*run.points[others], *beside])
    if len(told) < 4 or np.ptp(told[:, 0]) < 1e-3:
        return None
    middle, reach = float(told[:, 0].mean()), float(np.ptp(told[:, 0]))
    x, y = (told[:, 0] - middle) / reach, told[:, 1]
    here = (float(run.points[index, 0]) - middle) / reach
    curve = curves.fit(x, y, 2)
    for _ in range(6):
        lean = np.hypot(1, _slope_at(curve, x) / reach)
        off = np.abs(y - curves.at(curve, x)) / lean
        spread = max(0.3, 1.4826 * median(off))
        curve = curves.fit(x, y, 2, (1 / lean / np.maximum(1.0, off / (2 * spread))) ** 2)
    slope = float(_slope_at(curve, here)) / reach
    return float((run.points[index, 1] - curves.at(curve, here)) / np.hypot(1, slope))


def _slope_at(parabola: NDArray[np.float64], x: NDArray[np.float64] | float) -> NDArray[np.float64]:
    return np.asarray(2 * parabola[0] * x + parabola[1])


FINELY = np.linspace(-1.0, 1.0, 81)
"""Where along a motion, from the drawing before to the one after, a drawing's place is looked for."""
Curve = Callable[[NDArray[np.float64]], Points]


def _smooth_curves(points: Points, clock: NDArray[np.float64], index: int, others: list[int]) -> Iterator[Curve]:
    """Smooth motions through the nearest neighbours: parabola, cubic, and the whole run's parabola."""
    nearest = _nearest(index, others)
    yield _through(points, clock, nearest, len(nearest) - 1)
    if len(nearest) == 3 and len(others) >= 4:
        by_nearness = sorted(others, key=lambda j: (abs(j - index), j))
        yield _through(points, clock, by_nearness[:4], 3)
    if len(others) >= 4:
        yield _through(points, clock, others, 2)


def _through(points: Points, clock: NDArray[np.float64], chosen: list[int], degree: int) -> Curve:
    times = clock[chosen]
    middle, reach = float(times.mean()), float(np.ptp(times)) or 1.0
    fitted = curves.fit((times - middle) / reach, points[chosen], degree)

    def curve(moments: NDArray[np.float64]) -> Points:
        return curves.at(fitted, (moments - middle) / reach)

    return curve


def _in_flight(points: Points, clock: NDArray[np.float64], chosen: list[int], gravity: float) -> Curve:
    """Even motion across and constant gravity (px per frame²) upright, through the chosen drawings."""
    times = clock[chosen]
    middle = float(times.mean())
    bend = np.array([0.0, -gravity / 2])
    straight = points[chosen] - bend * (times - middle)[:, None] ** 2
    fitted = curves.fit(times - middle, straight, 1)

    def curve(moments: NDArray[np.float64]) -> Points:
        return np.asarray(curves.at(fitted, moments - middle) + bend * (moments - middle)[:, None] ** 2)

    return curve


def _against(
    points: Points,
    curve: Curve,
    time: float,
    index: int,
    others: list[int],
    clock: NDArray[np.float64],
    allowed: Tolerances,
) -> Misfit:
    place = curve(np.array([time]))[0]
    _, gaps = _neighbours(points, place, index, others)
    step = min(abs(clock[j] - time) for j in others)
    along, across = _split(points[index], curve, time, step)
    return Misfit(
        along=along,
        across=across if allowed.judge_across else 0.0,
        place=place,
        tolerance_along=max(allowed.jump_share * min(gaps), allowed.jump_least),
        tolerance_across=allowed.across,
    )


def _split(point: NDArray[np.float64], curve: Curve, time: float, step: float) -> tuple[float, float]:
    """A drawing's distance from its place as px along the curved path and px across it."""
    path = curve(time + step * FINELY)
    lengths = np.zeros(len(path))
    np.cumsum(np.hypot(*(path[1:] - path[:-1]).T), out=lengths[1:])
    away = np.hypot(*(path - point).T)
    # Over the top of a bounce in place the path runs back on itself: of places equally near, the one in time counts.
    near = np.flatnonzero(away <= away.min() + lengths[-1] / 80)
    nearest = int(near[np.argmin(np.abs(near - 40))])
    tangent = path[min(80, nearest + 1)] - path[max(0, nearest - 1)]
    size = float(np.hypot(*tangent))
    if size < 1e-6:
        return float(point[1] - path[40][1]), float(point[0] - path[40][0])
    tangent = tangent / size
    off = point - path[nearest]
    across = float(tangent[0] * off[1] - tangent[1] * off[0])
    along = float(lengths[nearest] - lengths[40] + tangent @ off)
    return along, across


@dataclass(frozen=True, slots=True, kw_only=True)
class Misplaced:
    """Drawings of a run that lie off, each with its misfit, and whether the rest is smooth without them."""

    off: dict[int, Misfit]
    clean: bool


def misplaced(run: Run, allowed: Tolerances) -> Misplaced:
    """The fewest drawings that, taken out, leave a smooth run: the largest fault explained first.

    A misplaced drawing also bends the motion that its neighbours are compared with, so it is not the drawing
    that is furthest off that is taken out, but the one without which the rest fits best.
    """
    out: frozenset[int] = frozenset()
    most = min(MOST_OUTLIERS, len(run.points) // 3)
    found = misfits(run, out, allowed)
    excess = _excess(found, out)
    while excess > 0 and len(out) < most:
        suspects = {i: m.ratio for i, m in enumerate(found) if m is not None and m.ratio > 1}
        without = {i: misfits(run, out | {i}, allowed) for i in suspects if i not in out}
        trials = {i: _excess(told, out | {i}) for i, told in without.items()}
        # Where leaving out either of two makes the rest smooth, it is the one that lies further off.
        best = min(trials, key=lambda i: (trials[i], -suspects[i]), default=None)
        if best is None or trials[best] >= excess:
            break
        out, excess, found = out | {best}, trials[best], without[best]
    off = {i: m for i in sorted(out) if (m := found[i]) is not None and m.ratio > 1}
    return Misplaced(off=off, clean=excess <= 0)


def _excess(found: Sequence[Misfit | None], left_out: frozenset[int]) -> float:
    """How much the drawings that are not left out exceed their tolerances, 0 for a smooth run."""
    return sum(max(0.0, m.ratio - 1) for i, m in enumerate(found) if m is not None and i not in left_out)
