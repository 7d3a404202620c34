"""A walk as read from its track: facing, ground, belt, which foot stands, contacts, steps, and each drawing's phase."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from motion.brief import Brief
from motion.exercises.walk.alternation import alternating
from motion.exercises.walk.asked import asked_of
from motion.exercises.walk.figure import OTHER, SIDES, Place, Side
from motion.exercises.walk.gait import gait_of
from motion.exercises.walk.resting import without_rests
from motion.exercises.walk.sides import sorted_arms, sorted_sides
from motion.exercises.walk.soles import lower_end, sole_height
from motion.exercises.walk.steps import Contact, Pace, Stand, Step, Walked, travel_between
from motion.exercises.walk.truth import FIGURE
from motion.track import Ground, Track

FEWEST = 4
HELD_LEAST, HELD_TIMES = 1, 1.4
"""A drawing is held that shows so many frames longer than those around, and than the way to the next one takes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A walk. ``facing`` is 1 to the right; ``belt`` px a frame by which the ground passes under it, to the right.

    ``speed`` is how many px a frame it goes over the ground. ``swapped`` are drawings (indices) whose near and far leg
    are the other way round than before and after.
    """

    steps: tuple[Step, ...]
    facing: float
    leg: float
    ground: Ground
    belt: float
    speed: float
    across: bool
    stands: tuple[Stand, ...]
    contacts: tuple[Contact, ...]
    paces: tuple[Pace, ...]
    support: Mapping[Side, tuple[bool, ...]]
    swapped: tuple[int, ...]
    told: bool

    def height(self, place: Place) -> float:
        """How high a point is above the ground, px."""
        return self.ground.y_at(place[0]) - place[1]

    def sole(self, step: Step, side: Side) -> float | None:
        """How high the lowest point of a side's foot is above the ground, px; None where it does not show."""
        return sole_height(step.figure, side, self.ground)

    def over_ground(self, step: Step, place: Place) -> Place:
        """A point's place against the ground: px forward, and px up."""
        return self.facing * (place[0] - self.belt * step.clock), self.height(place)

    def phase(self, index: int) -> tuple[int, float] | None:
        """In which step a drawing lies, and how much of it has gone by; None before the first and after the last."""
        clock = self.steps[index].clock
        for pace in self.paces:
            if pace.start.time - 1e-6 <= clock < pace.end.time - 1e-6:
                return pace.number, (clock - pace.start.time) / max(1e-6, pace.frames)
        return None

    def stands_at(self, index: int, side: Side) -> bool:
        return self.support[side][index]

    def swings(self, side: Side) -> list[tuple[int, int]]:
        """Where a foot swings, from its last standing drawing to the one in which it lands, as indices."""
        own = [s for s in self.stands if s.side == side]
        return [(a.last, b.first) for a, b in itertools.pairwise(own) if b.lands]


def read(track: Track, brief: Brief) -> Reading | None:
    """A walk from its track; None where nothing was found to read."""
    steps = _steps(track)
    seen = [s for s in steps if s.figure is not None]
    ground = track.ground
    if len(seen) < FEWEST or ground is None:
        return None
    jointed = [s for s in seen if s.figure and s.figure.points]
    told = len(jointed) >= FEWEST
    facing = _facing(jointed, brief)
    leg = _leg(jointed) if told else _leg_by_outline(seen, ground)
    across = asked_of(brief).path == "across"
    if not told or leg is None:
        return _by_outline(steps, facing, leg or 1.0, ground, across=across)
    told_apart = asked_of(brief).sides == "told"
    steps, swapped = sorted_sides(steps, leg, told_apart=told_apart)
    belt, speed = _belt(steps, facing, ground, across=across)
    steps = _without_holds(steps, facing, belt, speed)
    belt, speed = _belt(steps, facing, ground, across=across)
    walked = Walked(facing=facing, belt=belt, speed=speed, leg=leg, ground=ground, cycle=brief.loop)
    gait = gait_of(steps, walked)
    if not told_apart:
        steps, gait = alternating(steps, gait, walked)
        steps = sorted_arms(steps, leg)
    paces = _paces(gait.contacts, gait.stands, steps, facing, belt, cycle=brief.loop, across=across)
    if not brief.loop:
        paces = without_rests(paces, steps, facing, speed, across=across)
    return Reading(
        steps=tuple(steps),
        facing=facing,
        leg=leg,
        ground=ground,
        belt=belt,
        speed=speed,
        across=across,
        stands=gait.stands,
        contacts=gait.contacts,
        paces=paces,
        support=gait.support,
        swapped=swapped,
        told=True,
    )


def _steps(track: Track) -> list[Step]:
    figures, bodies = track.figures(FIGURE), track.shapes
    found = []
    for index, e in enumerate(track.exposures):
        body = bodies[e.drawing - 1]
        found.append(
            Step(
                index=index,
                drawing=e.drawing,
                frame=e.first_frame,
                frames=e.frames,
                clock=float(e.first_frame - 1),
                figure=figures[e.drawing - 1],
                body=body,
            )
        )
    return found


def _facing(steps: Sequence[Step], brief: Brief) -> float:
    asked = asked_of(brief).direction
    ahead = [
        toe[0] - heel[0]
        for s in steps
        for side in SIDES
        if (toe := s.at(f"toe_{side}")) is not None and (heel := s.at(f"heel_{side}")) is not None
    ]
    if ahead:
        return 1.0 if float(np.median(ahead)) >= 0 else -1.0
    return -1.0 if asked == "left" else 1.0


def _leg(steps: Sequence[Step]) -> float | None:
    """The leg's length: thigh and shin, the medians of what shows."""
    lengths: dict[str, list[float]] = {"thigh": [], "shin": []}
    for step, side in itertools.product(steps, SIDES):
        hip, knee, ankle = (step.at(n) for n in ("hip", f"knee_{side}", f"ankle_{side}"))
        if hip and knee:
            lengths["thigh"].append(math.dist(hip, knee))
        if knee and ankle:
            lengths["shin"].append(math.dist(knee, ankle))
    if not lengths["thigh"] or not lengths["shin"]:
        return None
    return float(np.median(lengths["thigh"]) + np.median(lengths["shin"]))


def _leg_by_outline(steps: Sequence[Step], ground: Ground) -> float | None:
    """Roughly, from the body's middle down to the ground, where joints do not tell."""
    rooms = [ground.y_at(s.body.x) - s.body.y - s.body.height / 3 for s in steps if s.body is not None]
    return float(np.median(rooms)) if rooms and float(np.median(rooms)) > 8 else None


def _belt(steps: Sequence[Step], facing: float, ground: Ground, *, across: bool) -> tuple[float, float]:
    """By how many px a frame the ground passes under the figure, and how many it goes over the ground."""
    if across:
        told = [
            travel / (b.clock - a.clock)
            for a, b in itertools.pairwise(steps)
            if b.clock > a.clock and (travel := travel_between(a, b)) is not None
        ]
        return 0.0, max(1e-3, facing * float(np.median(told)) if told else 1e-3)
    moves = []
    for one, other in itertools.pairwise(steps):
        time = other.clock - one.clock
        heights = [(h, side) for side in SIDES if (h := sole_height(one.figure, side, ground)) is not None]
        if time <= 0 or not heights:
            continue
        travel = lower_end(one, other, min(heights)[1])
        if travel is not None and facing * travel <= 0:
            moves.append(travel / time)
    belt = float(np.median(moves)) if moves else 0.0
    return belt, max(1e-3, -facing * belt)


def _without_holds(steps: Sequence[Step], facing: float, belt: float, speed: float) -> list[Step]:
    """The same with clocks from which holds are taken out.

    A drawing is held that shows longer than those around it, while the way to the next one is no longer than theirs.
    """
    frames = np.array([s.frames for s in steps], dtype=np.float64)
    clock, found = 0.0, []
    for index, step in enumerate(steps):
        beside = np.delete(frames[max(0, index - 3) : index + 4], min(index, 3))
        usual = float(np.median(beside)) if len(beside) else step.frames
        extra = 0
        last = index == len(steps) - 1
        if step.frames >= usual + HELD_LEAST and not last:
            needed = _takes(step, steps[index + 1], facing, belt, speed)
            if needed is None or step.frames >= HELD_TIMES * max(needed, 0.5):
                # Where exposures are mixed the way to the next drawing tells which of them it would have had.
                longest = float(beside.max()) if len(beside) else usual
                own = longest if needed is None else float(np.clip(needed, beside.min(), longest))
                extra = max(0, int(step.frames - max(1.0, round(own))))
        found.append(replace(step, clock=clock, held=extra))
        clock += step.frames - extra
    return found


def _takes(one: Step, other: Step, facing: float, belt: float, speed: float) -> float | None:
    """How many frames the way from a drawing to the next one takes at the clip's own pace; None where none shows."""
    if abs(belt) < 1e-6:
        travel = travel_between(one, other)
        return None if travel is None else facing * travel / speed
    travels = [-facing * t for side in SIDES if (t := lower_end(one, other, side)) is not None]
    return max(travels) / speed if travels else None


def _paces(
    contacts: Sequence[Contact],
    stands: Sequence[Stand],
    steps: Sequence[Step],
    facing: float,
    belt: float,
    *,
    cycle: bool,
    across: bool,
) -> tuple[Pace, ...]:
    """The steps, from each contact to the next one of the other foot; in a cycle the last leads to the first."""
    places = {(s.side, s.first): s.place for s in stands}
    row = list(contacts)
    period = steps[-1].clock + steps[-1].frames
    if cycle and len(row) > 1 and row[0].side != row[-1].side:
        row.append(row[0].after(period))
    found: list[Pace] = []
    for start, end in itertools.pairwise(row):
        if start.side == end.side:
            continue
        one, other = places.get((start.side, start.index)), places.get((end.side, end.index))
        wraps = end.time >= period - 1e-6 and cycle
        # How far a cycle across leads on from its last step to its first is not to be seen.
        if one is None or other is None or (wraps and across):
            length = None
        else:
            length = other - one - (facing * belt * period if wraps else 0.0)
        found.append(Pace(number=len(found) + 1, side=end.side, start=start, end=end, length=length))
    return tuple(found)


def _by_outline(steps: Sequence[Step], facing: float, leg: float, ground: Ground, *, across: bool) -> Reading:
    """What the outline tells where joints do not: contacts where the legs are widest apart."""
    spans = [(s, s.figure.span) for s in steps if s.figure is not None and s.figure.span is not None]
    widths = np.array([b - a for _, (a, b) in spans])
    contacts = []
    side: Literal["near", "far"] = "near"
    for k in _widest(widths, leg):
        step = spans[k][0]
        contacts.append(Contact(side=side, index=step.index, time=step.clock))
        side = OTHER[side]
    bodies = [s for s in steps if s.body is not None]
    moves = [
        (b.body.x - a.body.x) / (b.clock - a.clock)
        for a, b in itertools.pairwise(bodies)
        if a.body and b.body and b.clock > a.clock
    ]
    return Reading(
        steps=tuple(steps),
        facing=facing,
        leg=leg,
        ground=ground,
        belt=0.0,
        speed=max(1e-3, facing * float(np.median(moves)) if moves and across else 1e-3),
        across=across,
        stands=(),
        contacts=tuple(contacts),
        paces=tuple(
            Pace(number=n, side=b.side, start=a, end=b, length=None)
            for n, (a, b) in enumerate(itertools.pairwise(contacts), start=1)
        ),
        support={side: (False,) * len(steps) for side in SIDES},
        swapped=(),
        told=False,
    )


def _widest(widths: np.ndarray[tuple[int], np.dtype[np.float64]], leg: float) -> list[int]:
    """Where feet are widest apart, each time that they go apart and together again."""
    if len(widths) < FEWEST or float(np.ptp(widths)) < 0.25 * leg:
        return []
    middle = (float(widths.max()) + float(widths.min())) / 2
    found = []
    for wide, run in itertools.groupby(range(len(widths)), key=lambda i: bool(widths[i] > middle)):
        if wide:
            found.append(max(run, key=lambda i: float(widths[i])))
    return found
