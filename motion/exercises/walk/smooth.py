"""Landmarks that lie where neither their neighbours nor the same moment of the other steps lead.

A walk has few drawings a step, and its own pattern belongs to it: a swinging foot turns sharply where it leaves the
ground, in every step. So a drawing is off where it lies beside the smooth curve through two neighbours on each side,
and the same landmark, or its other side's, does not do so at that phase of the other steps.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from motion.exercises.walk import grain
from motion.exercises.walk.figure import SIDES, Place, Side
from motion.exercises.walk.reading import Reading
from motion.exercises.walk.steps import Step
from motion.ranks import median

Floats = NDArray[np.float64]
Tolerance = Callable[[float, float], float]
"""A tolerance in px from a share of the leg and a least number of px."""
Follows = Callable[[int, int], bool]
"""Whether a landmark is the same before and after drawings (their indices) between which it hides."""
ALONG, ALONG_LEG, ACROSS_LEG, LEAST_PX = 0.18, 0.03, 0.025, 2.0
NEAR_PHASE = 1.2
"""Drawings of another step that lie so many drawings from this one's phase, or less, show what belongs to the walk."""
EDGE = 0.5
"""Of a swing that is not all there what lies so many drawings before or after all that others show is not judged."""
NEIGHBOURS = 0.8
"""Off where its neighbours lead it, too, a landmark must be by such a share of its tolerance."""
UNCOMPARED = 2.0
"""So many times as far off a landmark must lie where no other step shows what it does at that moment."""
FOOT_HIDES = 1.5
"""Told from pictures, so many times an ankle whose heel and toe hide: it lies where its shin leads."""
LONGEST = 2.5
"""No stride takes so many steps."""
USUAL_FRAMES = 12.0
"""How many frames a step takes where none is told."""
HANDS = tuple(f"hand_{side}" for side in SIDES)
ALL_ALONG = ("head", *HANDS)
"""What besides hips and swinging feet goes on smooth curves, in figures that have it."""
OF_A_STEP = ("hip", "head")
"""Landmarks that do the same in each step; the others do so in each stride, on their own side."""
FEWEST = 5
"""Fewer drawings in a row do not lead one of them."""
AT_ONCE = 4
"""So many drawings of a landmark may be off, each told on its own; more are another fault."""
BRIDGED = 2
"""A hand hides beside the trunk in so many drawings in a row, and is led by those before and after them."""
EVENLY = math.sqrt(1 + 2 * ((4 / 6) ** 2 + (1 / 6) ** 2))
"""By so much a drawing between evenly spaced neighbours seems to be off, where all are off by 1 at random."""
SHARES, SHARES_ABOVE = (0.5, 1.6), (0.25, 2.0)
"""The whole figure is off where its feet, or what is above the hips, are off by so many times what these are."""


def _never(before: int, after: int) -> bool:
    return False


@dataclass(frozen=True, slots=True, kw_only=True)
class Off:
    """How far a landmark lies from where it is led, px: along its path, and across it; and where it is led, px in the
    frame. ``forward`` and ``up`` are the same as seen from where it is led.
    """

    name: str
    index: int
    along: float
    across: float
    along_allowed: float
    across_allowed: float
    belongs: Place
    forward: float
    up: float

    @property
    def along_times(self) -> float:
        return abs(self.along) / self.along_allowed

    @property
    def across_times(self) -> float:
        return abs(self.across) / self.across_allowed

    @property
    def times(self) -> float:
        return max(self.along_times, self.across_times)


@dataclass(frozen=True, eq=False)
class _Row:
    """A landmark over a stretch of drawings: those in which it shows (indices), their times, and places over the ground
    (n, 2).

    ``open`` where it is a swing that the clip does not show from lift-off to contact.
    """

    name: str
    indices: list[int]
    clocks: Floats
    places: Floats
    open: bool = False

    @cached_property
    def residuals(self) -> dict[int, Floats]:
        """By drawing (index) how far it is from where its neighbours lead it, px."""
        inner = range(2, len(self.indices) - 2)
        return {self.indices[at]: _beside(self.clocks, self.places, at) for at in inner}


def off_places(
    reading: Reading,
    px_of: Callable[[str], Tolerance],
    judged: frozenset[int],
    *,
    by_eye: bool,
    told_apart: bool,
    limps: bool,
) -> dict[tuple[str, int], Off]:
    """By landmark and drawing (index), each against its own tolerance; who ``limps`` takes steps of two kinds.

    Told from pictures (``by_eye``), a landmark must leave what it scatters by itself, and a hand is followed past what
    hides it.
    """
    rows = [*_all_along("hip", reading), *_swings(reading), *_all_along("head", reading)]
    for name in HANDS:
        rows += _all_along(name, reading, _past_hiding(name, reading, told_apart=told_apart) if by_eye else _never)
    pattern = _Pattern(reading, rows, by_eye=by_eye, limps=limps)
    scatter = _scatter(rows, pattern) if by_eye else {}
    found: dict[tuple[str, int], Off] = {}
    for row in rows:
        allowed = _Allowed(px_of(row.name), scatter.get(_joint(row.name), []), by_eye)
        own = _off_in(row, reading, allowed, pattern, judged)
        if len(own) <= AT_ONCE:
            found |= {(row.name, off.index): off for off in own if not by_eye or off.times > _least(off, reading)}
    return found


@dataclass(frozen=True, slots=True)
class _Allowed:
    """The tolerance of a landmark, and how far it lies from where it belongs in all drawings, px."""

    px: Tolerance
    scatter: Sequence[float]
    by_eye: bool

    def widened(self, most: float) -> float:
        return grain.widened_by(most, self.scatter)


def _scatter(rows: Sequence[_Row], pattern: _Pattern) -> dict[str, list[float]]:
    """By joint how far it lies from where its neighbours and the other steps lead it, drawing by drawing, px."""
    found: dict[str, list[float]] = {}
    for row in rows:
        for index, own in row.residuals.items() if not row.open else ():
            usual = pattern.usual(row.name, index, own)
            if usual is not None:
                found.setdefault(_joint(row.name), []).append(float(np.hypot(*(own - usual))))
    return found


def _all_along(name: str, reading: Reading, follows: Follows = _never) -> list[_Row]:
    """A landmark from the first drawing to the last; after drawings in which it hides it may be followed further."""
    return _rows(name, _over_ground(name, reading), reading, [(0, len(reading.steps) - 1)], follows)


def _past_hiding(name: str, reading: Reading, *, told_apart: bool) -> Follows:
    """A hand is followed past a few drawings in which it hides.

    Of sides that are drawn alike it may be the other that comes out: it is the same that goes in behind the neck and
    comes out before it, or the other way round, since arms swing against each other.
    """

    def ahead(index: int) -> float:
        step = reading.steps[index]
        hand, neck = step.at(name), step.at("neck")
        return 0.0 if hand is None or neck is None else reading.facing * (hand[0] - neck[0])

    def follows(before: int, after: int) -> bool:
        return after - before <= 1 + BRIDGED and (told_apart or ahead(before) * ahead(after) < 0)

    return follows


def _over_ground(name: str, reading: Reading) -> dict[int, Place]:
    """Where a landmark is over the ground in each drawing (index) in which it shows."""
    return {s.index: reading.over_ground(s, at) for s in reading.steps if (at := s.at(name)) is not None}


def _swings(reading: Reading) -> list[_Row]:
    """Each ankle from where it leaves the ground to where it lands."""
    rows = []
    for side in SIDES:
        name = f"ankle_{side}"
        places = _over_ground(name, reading)
        rows += _rows(name, places, reading, reading.swings(side))
        rows += [replace(row, open=True) for row in _rows(name, places, reading, _open_swings(side, reading))]
    return rows


def _open_swings(side: Side, reading: Reading) -> list[tuple[int, int]]:
    """Swings that begin before the clip, or end after it, as indices of its drawings."""
    own, last = [s for s in reading.stands if s.side == side], len(reading.steps) - 1
    found = [(0, own[0].first)] if own and own[0].lands else []
    return [*found, (own[-1].last, last)] if own and own[-1].leaves else found


def _rows(
    name: str,
    places: Mapping[int, Place],
    reading: Reading,
    stretches: Sequence[tuple[int, int]],
    follows: Follows = _never,
) -> list[_Row]:
    """Stretches of five drawings and more in which the landmark shows, or is followed past some that hide it."""
    rows = []
    for first, last in stretches:
        shown = sorted(i for i in places if first <= i <= last)
        ends = [k for k, (a, b) in enumerate(itertools.pairwise(shown), start=1) if b > a + 1 and not follows(a, b)]
        for start, end in itertools.pairwise([0, *ends, len(shown)]):
            indices = shown[start:end]
            if len(indices) >= FEWEST:
                clocks = np.array([reading.steps[i].clock for i in indices])
                rows.append(_Row(name, indices, clocks, np.array([places[i] for i in indices])))
    return rows


def _beside(clocks: Floats, places: Floats, at: int) -> Floats:
    """(2,) how far a drawing lies from where the cubic through two neighbours on each side leads it (Lagrange), px.

    Between neighbours that lie unevenly apart the cubic magnifies what they are off by: it counts as much less.
    """
    around = [at - 2, at - 1, at + 1, at + 2]
    when, now = clocks[around].tolist(), float(clocks[at])
    weights = np.array([math.prod((now - b) / (a - b) for b in when if b != a) for a in when])
    return np.asarray((places[at] - weights @ places[around]) / max(1.0, math.sqrt(1 + weights @ weights) / EVENLY))


def _off_in(
    row: _Row,
    reading: Reading,
    allowed: _Allowed,
    pattern: _Pattern,
    judged: frozenset[int],
) -> list[Off]:
    """The drawings of a stretch that are off, the worst taken out before the next is looked for."""
    places, found = row.places.copy(), list[Off]()
    for _ in range(AT_ONCE + 1):
        worst: tuple[float, int, Off] | None = None
        for at in range(2, len(row.indices) - 2):
            if row.indices[at] not in judged or any(row.indices[at] == o.index for o in found):
                continue
            off = _off_at(row, places, at, reading, allowed, pattern)
            if off is not None and (worst is None or off.times > worst[0]):
                worst = off.times, at, off
        if worst is None or worst[0] <= 1:
            break
        _, at, off = worst
        found.append(off)
        places[at] = places[at] - _vector(row, places, at, off)
    return found


def _way(places: Floats, at: int) -> Floats:
    way = places[at + 1] - places[at - 1]
    length = float(np.hypot(*way))
    return way / length if length > 1e-6 else np.array([1.0, 0.0])


def _vector(row: _Row, places: Floats, at: int, off: Off) -> Floats:
    way = _way(places, at)
    return np.asarray(off.along * way + off.across * np.array([-way[1], way[0]]))


def _off_at(
    row: _Row,
    places: Floats,
    at: int,
    reading: Reading,
    told: _Allowed,
    pattern: _Pattern,
) -> Off | None:
    index, px = row.indices[at], told.px
    own = _beside(row.clocks, places, at)
    way = _way(places, at)
    aside = np.array([-way[1], way[0]])
    gap = min(
        float(np.hypot(*(places[at + k + 1] - places[at + k]))) / (row.indices[at + k + 1] - row.indices[at + k])
        for k in (-1, 0)
    )
    allowed = max(ALONG * gap * px(1.0, 0.0) / reading.leg, px(ALONG_LEG, LEAST_PX)), px(ACROSS_LEG, LEAST_PX)
    raw = float(own @ way), float(own @ aside)
    if all(abs(r) <= most * NEIGHBOURS for r, most in zip(raw, allowed, strict=True)):
        return None
    usual, sure = pattern.usual(row.name, index, own), _placed(row.name, reading.steps[index])
    if row.open and not (usual is not None and pattern.covers(row.name, index)):
        # How a swing begins and ends can only be told from whole ones.
        return None
    if usual is None and told.by_eye and row.name.startswith("ankle"):
        # A foot turns sharply as it leaves and lands, and of other steps too little shows.
        return None
    if usual is None:
        # The walk's own pattern cannot be told from a fault by any other step.
        usual, allowed, sure = np.zeros(2), (UNCOMPARED * allowed[0], UNCOMPARED * allowed[1]), True
    beside = own - usual
    parts = []
    for axis, beyond, most in zip((way, aside), raw, allowed, strict=True):
        less = float(beside @ axis)
        # Both must be off: of two steps that differ, only the one that leaves its own neighbours is wrong.
        parts.append(less if abs(beyond) > most * NEIGHBOURS and beyond * less > 0 else 0.0)
    limits = allowed if sure else tuple(told.widened(m) for m in allowed)
    if all(abs(p) <= m for p, m in zip(parts, limits, strict=True)):
        return None
    away = parts[0] * way + parts[1] * aside
    led = places[at] - away
    step = reading.steps[index]
    belongs = reading.facing * led[0] + reading.belt * step.clock
    return Off(
        name=row.name,
        index=index,
        along=parts[0],
        across=parts[1],
        along_allowed=allowed[0],
        across_allowed=allowed[1],
        belongs=(float(belongs), reading.ground.y_at(float(belongs)) - float(led[1])),
        forward=float(away[0]),
        up=float(away[1]),
    )


def _placed(name: str, step: Step) -> bool:
    """Whether a person placed a landmark there: then it is where it is."""
    return step.figure is not None and name in step.figure.placed


def _least(off: Off, reading: Reading) -> float:
    """How many times its tolerance a landmark told from pictures must be off that lies in a drawing like this one."""
    step, side = reading.steps[off.index], next((s for s in SIDES if off.name == f"ankle_{s}"), None)
    if side is None or _placed(off.name, step) or reading.sole(step, side) is not None:
        return 1.0
    return FOOT_HIDES


class _Pattern:
    """How far a landmark, or its other side's, is off at each phase of all steps, which belongs to the walk.

    ``by_eye`` where it was told from pictures; who ``limps`` takes steps of two kinds.
    """

    def __init__(self, reading: Reading, rows: Sequence[_Row], *, by_eye: bool, limps: bool) -> None:
        self._reading, self._by_eye, self._limps = reading, by_eye, limps
        self._drawings = np.array([step.drawing for step in reading.steps])
        self._usual = median(np.array([p.frames for p in reading.paces])) if reading.paces else None
        self._phases: dict[tuple[str, int], tuple[int, float] | None] = {}
        self._whole = self._told_of([row for row in rows if not row.open])
        # Swings that are cut by the clip's ends tell less, and by eye are asked as well whether another does the same.
        self._told = self._told_of(rows) if by_eye else self._whole

    def _told_of(self, rows: Sequence[_Row]) -> dict[str, _Told]:
        told: dict[str, list[tuple[str, int, int, float, Floats]]] = {}
        for row in rows:
            for index, off in row.residuals.items():
                phase = self._phase(row.name, index)
                if phase is not None:
                    told.setdefault(_joint(row.name), []).append((row.name, index, *phase, off))
        return {joint: _Told.of(some) for joint, some in told.items()}

    def _phase(self, name: str, index: int) -> tuple[int, float] | None:
        if (name, index) not in self._phases:
            self._phases[name, index] = _stride_phase(name, index, self._reading, self._usual)
        return self._phases[name, index]

    def covers(self, name: str, index: int) -> bool:
        """Whether other steps show what is before and after a drawing's phase, too."""
        when, told = self._phase(name, index), self._whole.get(_joint(name))
        if when is None or told is None:
            return False
        room = EDGE * self._spacing(index)
        return bool(told.phases.min() - room <= when[1] <= told.phases.max() + room)

    def usual(self, name: str, index: int, own: Floats) -> Floats | None:
        """What a drawing that is ``own`` px off has in common with the other steps: the middle of them.

        Steps are drawn at their own phases, and a contact is told to a drawing: of the drawings of another step near
        that phase the one counts that is most like this one. None where no other step shows.
        """
        when, told = self._phase(name, index), self._told.get(_joint(name))
        if when is None or told is None:
            return None
        period = 1.0 if name in OF_A_STEP else 2.0
        apart = np.abs((told.phases - when[1] + period / 2) % period - period / 2)
        close = apart < NEAR_PHASE * self._spacing(index)
        same_step = (told.names == name) & ((told.steps == when[0]) | (told.indices == index))
        # A step that shows the same drawing at that moment says the same once more.
        again = close & (self._drawings[told.indices] == self._drawings[index])
        for side, step in {(told.names[k], told.steps[k]) for k in np.flatnonzero(again)}:
            same_step |= (told.names == side) & (told.steps == step)
        near = np.flatnonzero(close & ~same_step & self._alike(name, when[0], told))
        alike: dict[tuple[str, int], tuple[float, Floats]] = {}
        for k in near:
            key, far = (str(told.names[k]), int(told.steps[k])), math.dist(told.off[k], own)
            if key not in alike or far < alike[key][0]:
                alike[key] = far, told.off[k]
        if not alike:
            return None
        if self._by_eye:
            # Of what pictures tell some steps may be wrong: one that does the same is enough.
            return min(alike.values(), key=lambda one: one[0])[1]
        # A limb may have its own way; or both sides one, of which few steps show.
        of_both, of_own = (
            np.median(np.array(some), axis=0)
            for some in (
                [off for _, off in alike.values()],
                [off for (side, _), (_, off) in alike.items() if side == name] or [np.full(2, np.inf)],
            )
        )
        return np.asarray(min(of_both, of_own, key=lambda usual: math.dist(usual, own)))

    def _spacing(self, index: int) -> float:
        """From a drawing to the next one, in steps."""
        step = self._reading.steps[index]
        return max(step.frames - step.held, 1) / (USUAL_FRAMES if self._usual is None else self._usual)

    def _alike(self, name: str, step: int, told: _Told) -> NDArray[np.bool_]:
        """Which of a joint's residuals are of steps of the same kind: of who limps, those of the same foot."""
        if not self._limps:
            return np.ones(len(told.names), dtype=bool)
        if name in OF_A_STEP:
            return np.asarray((told.steps - step) % 2 == 0)
        return np.asarray(told.names == name)


@dataclass(frozen=True, slots=True, eq=False)
class _Told:
    """Residuals of a joint (n, 2) px with what they are of: side's name, drawing's index, step, and phase."""

    names: NDArray[np.str_]
    indices: NDArray[np.intp]
    steps: NDArray[np.intp]
    phases: Floats
    off: Floats

    @classmethod
    def of(cls, told: Sequence[tuple[str, int, int, float, Floats]]) -> _Told:
        names, indices, steps, phases, off = zip(*told, strict=True)
        return cls(np.array(names), np.array(indices), np.array(steps), np.array(phases), np.array(off))


def _joint(name: str) -> str:
    return name.split("_", maxsplit=1)[0]


def _stride_phase(name: str, index: int, reading: Reading, usual: float | None) -> tuple[int, float] | None:
    """Which step it is, and for a limb how long ago (in steps) the other foot landed: then its own may leave.

    ``usual`` is how many frames a step mostly takes; None where no step is told.
    """
    clock = reading.steps[index].clock
    if name in OF_A_STEP:
        return reading.phase(index)
    side = name.split("_")[1]
    landed = [c.time for c in reading.contacts if c.side != side and c.time <= clock + 1e-6]
    if not landed:
        # The other foot landed before the clip begins: a step before this one's own first contact.
        own = [c.time for c in reading.contacts if c.side == side and c.time >= clock - 1e-6]
        if not own or usual is None:
            return None
        landed = [own[0] - usual]
    since = (clock - landed[-1]) / (math.inf if usual is None else usual)
    # Where no landing is told it may be those of a stride before that, or after.
    strides = math.floor(since / 2) if not 0 <= since < LONGEST else 0
    return round(landed[-1]) + (0 if usual is None else round(2 * strides * usual)), since - 2 * strides
