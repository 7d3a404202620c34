"""What the soles tell: how high a foot is, how far it goes over the ground, and when it stands."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from motion.exercises.walk.figure import Side
from motion.exercises.walk.stance import Sole, standing
from motion.exercises.walk.steps import Stand, Step, Walked
from motion.track import Figure, Ground

FLAT = 0.20
"""A foot lies flat whose sole rises or falls by no more than such a share of its length."""
ALOFT_GOES, ALOFT_HIGH = 0.1, 0.02
STILL_GOES, STILL_HIGH = 0.25, 0.004
"""A foot is not down that goes forward by such a share of the walk's own travel, and is so much of a leg off it."""
BREAKS, SAME_PLACE = 4, 0.12
"""For so few drawings a foot that comes down again within so much of a leg was not off its place."""
LANDS_LOW, LANDS_NEAR = 0.02, 0.06
"""In the clip's last drawing a foot lands that is so low, and as far ahead as feet land, to such a share of the leg."""


def sole_height(figure: Figure | None, side: Side, ground: Ground) -> float | None:
    """How high the lowest point of a foot is above the ground, px; None where it does not show."""
    if figure is None:
        return None
    ends = [p for end in ("heel", "toe") if (p := figure.at(f"{end}_{side}")) is not None]
    if not ends:
        return None
    # A round foot reaches lower than its ends; on a slope its lowest end need not be the one nearest to the ground.
    below = max(0.0, figure.lows.get(side, -math.inf) - max(y for _, y in ends))
    return min(ground.y_at(x) - y for x, y in ends) - below


def height_at_most(figure: Figure | None, side: Side, ground: Ground) -> float | None:
    """How high a foot's lowest point is at most, px: of one that hides in part how high the lowest is that shows."""
    shown = sole_height(figure, side, ground)
    if shown is not None or figure is None or side not in figure.lows:
        return shown
    ends = [at[0] for end in ("heel", "toe") if (at := figure.points.get(f"{end}_{side}")) is not None]
    return max(ground.y_at(x) for x in ends) - figure.lows[side] if ends else None


def lowest_height(figure: Figure, ground: Ground) -> float | None:
    """How high the lowest of a drawing's ink is above the ground, px; None where none shows.

    Under a slope it is not known where it lies; of all places where it may it is the one that is nearest to the ground.
    """
    if figure.low is None or figure.span is None:
        return None
    ends = [ground.y_at(x) - figure.low for x in figure.span]
    return max(min(ends), min(0.0, max(ends)))


def sole_travel(one: Step, other: Step, side: Side, facing: float, belt: float) -> float | None:
    """How far the steadier end of a foot's sole goes over the ground from a drawing to the next, px forward."""
    ground = belt * (other.clock - one.clock)
    moves = [
        m - facing * ground for end in ("heel", "toe") if (m := _goes(one, other, f"{end}_{side}", facing)) is not None
    ]
    return min(moves, key=abs) if moves else None


def _goes(one: Step, other: Step, name: str, facing: float) -> float | None:
    """How far a landmark goes from a drawing to the next, px forward; None where it does not show in both."""
    a, b = one.at(name), other.at(name)
    return None if a is None or b is None else facing * (b[0] - a[0])


def _travel(one: Step, other: Step, side: Side, facing: float, belt: float) -> float | None:
    """How far a foot goes over the ground, by its sole; where that does not show, by its ankle."""
    travel = sole_travel(one, other, side, facing, belt)
    if travel is not None:
        return travel
    ankle = _goes(one, other, f"ankle_{side}", facing)
    return None if ankle is None else ankle - facing * belt * (other.clock - one.clock)


def lower_end(one: Step, other: Step, side: Side) -> float | None:
    """How far along the frame a foot's end goes that is the lower one in both drawings, px."""
    ends = []
    for end in ("heel", "toe"):
        a, b = one.at(f"{end}_{side}"), other.at(f"{end}_{side}")
        if a is not None and b is not None:
            ends.append((a[1] + b[1], b[0] - a[0]))
    return max(ends)[1] if ends else None


def support_of(steps: Sequence[Step], side: Side, walked: Walked) -> tuple[bool, ...]:
    """In which drawings a foot stands, by how low it is and how little it goes."""
    following = [*steps[1:], replace(steps[0], clock=steps[-1].clock + steps[-1].frames) if walked.cycle else None]
    travels, ways = list[float | None](), []
    for one, other in zip(steps, following, strict=True):
        travels.append(None if other is None else _travel(one, other, side, walked.facing, walked.belt))
        ways.append(walked.speed * (one.frames if other is None else max(0.5, other.clock - one.clock)))
    soles = [
        Sole(height=sole_height(step.figure, side, walked.ground), travel=travel)
        for step, travel in zip(steps, _through_hiding(steps, travels, side, walked), strict=True)
    ]
    return tuple(standing(soles, ways, walked.leg, cycle=walked.cycle))


def _through_hiding(
    steps: Sequence[Step], travels: Sequence[float | None], side: Side, walked: Walked
) -> list[float | None]:
    """How far a foot goes to each next drawing, where it hides as well: what it has gone by then, in even parts."""
    found = list(travels)
    hides = itertools.groupby(range(len(steps) - 1), key=lambda i: travels[i] is None)
    for run in (list(own) for hidden, own in hides if hidden):
        first, last = run[0], run[-1] + 1
        whole = _travel(steps[first], steps[last], side, walked.facing, walked.belt)
        lasts = steps[last].clock - steps[first].clock
        if whole is None or len(run) < 2 or lasts <= 0:
            continue
        for i in run:
            found[i] = whole * (steps[i + 1].clock - steps[i].clock) / lasts
    return found


def landed(steps: Sequence[Step], side: Side, support: Sequence[bool], walked: Walked) -> tuple[bool, ...]:
    """The same where a foot stands only while it is down: as it lands and as it leaves it is low, and goes forward.

    A foot that comes down in the last drawing, as far ahead as feet land, stands there.
    """
    found, facing, leg = list(support), walked.facing, walked.leg
    for index in range(len(steps) - 1):
        if not found[index] or (found[index - 1] if index else walked.cycle or not _on_heel(steps[0], side)):
            continue
        travel = sole_travel(steps[index], steps[index + 1], side, facing, walked.belt)
        high = sole_height(steps[index].figure, side, walked.ground)
        way = walked.speed * (steps[index + 1].clock - steps[index].clock)
        if travel is not None and high is not None and _goes_on(travel, high, way, leg):
            found[index] = False
    for index in range(1, len(steps) - 1):
        if not found[index] or found[index + 1] or not found[index - 1]:
            continue
        travel = sole_travel(steps[index - 1], steps[index], side, facing, walked.belt)
        high = sole_height(steps[index].figure, side, walked.ground)
        way = walked.speed * (steps[index].clock - steps[index - 1].clock)
        if travel is not None and high is not None and _goes_on(travel, high, way, leg):
            found[index] = False
    if not walked.cycle and len(steps) > 1 and not found[-1] and not found[-2]:
        high = sole_height(steps[-1].figure, side, walked.ground)
        reach = [
            v for i in range(1, len(steps)) if found[i] and not found[i - 1] and (v := ahead_of(steps[i], side, facing))
        ]
        own = ahead_of(steps[-1], side, facing)
        if high is not None and own is not None and reach and high < LANDS_LOW * leg:
            found[-1] = abs(own - float(np.median(reach))) < LANDS_NEAR * leg
    return tuple(found)


def _on_heel(step: Step, side: Side) -> bool:
    """Whether a foot comes down on its heel, as it does where a clip begins while it lands."""
    heel, toe = step.at(f"heel_{side}"), step.at(f"toe_{side}")
    return heel is not None and toe is not None and toe[1] < heel[1] and not lies_flat(step, side)


def _goes_on(travel: float, high: float, walked: float, leg: float) -> bool:
    """Whether a foot that is this high is still on its way, or again; the higher it is, the less it need go."""
    if high > ALOFT_HIGH * leg:
        return travel > ALOFT_GOES * walked + 0.002 * leg
    return travel > STILL_GOES * walked and high > STILL_HIGH * leg


def unbroken(steps: Sequence[Step], side: Side, support: Sequence[bool], walked: Walked) -> tuple[bool, ...]:
    """The same where a foot that comes down where it stood has stood there all along: it took no step."""
    found = list(support)
    runs = [[i for i, _ in g] for _, g in itertools.groupby(enumerate(support), key=lambda one: one[1])]
    for before, between, after in zip(runs, runs[1:], runs[2:], strict=False):
        if support[between[0]] or len(between) > BREAKS:
            continue
        one, other = (_usual_place(steps, side, run, walked) for run in (before, after))
        if one is not None and other is not None and abs(other - one) < SAME_PLACE * walked.leg:
            for index in between:
                found[index] = True
    return tuple(found)


def _usual_place(steps: Sequence[Step], side: Side, run: Sequence[int], walked: Walked) -> float | None:
    """Where a foot lies flat over the ground in a run of drawings, px forward; None where it never does."""
    places = [p for i in run if (p := _flat_place(steps[i], side, walked)) is not None]
    return float(np.median(places)) if places else None


def stands_of(steps: Sequence[Step], side: Side, support: Sequence[bool], walked: Walked) -> list[Stand]:
    """Each time that a foot stands, in order."""
    found = []
    count = len(steps)
    runs = [(k, [i for i, _ in g]) for k, g in itertools.groupby(enumerate(support), key=lambda one: one[1])]
    for stands, run in runs:
        if not stands:
            continue
        around = walked.cycle and not all(support)
        found.append(
            Stand(
                side=side,
                first=run[0],
                last=run[-1],
                lands=run[0] > 0 or (around and not support[-1]),
                leaves=run[-1] < count - 1 or (around and not support[0]),
                place=_usual_place(steps, side, run, walked),
            )
        )
    return found


def lies_flat(step: Step, side: Side) -> bool:
    """Whether a foot's sole shows, and lies flat."""
    heel, toe = step.at(f"heel_{side}"), step.at(f"toe_{side}")
    return heel is not None and toe is not None and abs(toe[1] - heel[1]) <= FLAT * math.dist(heel, toe)


def _flat_place(step: Step, side: Side, walked: Walked) -> float | None:
    """Where a foot that lies flat is over the ground, px forward."""
    heel, toe = step.at(f"heel_{side}"), step.at(f"toe_{side}")
    if heel is None or toe is None or not lies_flat(step, side):
        return None
    return walked.facing * ((heel[0] + toe[0]) / 2 - walked.belt * step.clock)


def ahead_of(step: Step, side: Side, facing: float) -> float | None:
    """How far a heel is ahead of the hips, px."""
    hip, heel = step.at("hip"), step.at(f"heel_{side}")
    heel = heel or step.at(f"ankle_{side}")
    return facing * (heel[0] - hip[0]) if hip and heel else None
