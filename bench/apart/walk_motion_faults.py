"""Faults of a walk that go over several drawings: it surges, a knee snaps, the legs pass late, its cycle stays open."""

from __future__ import annotations

import itertools
import math
import random
from dataclasses import replace

from bench.apart import walk_faults as single
from bench.apart.walks import Point, Posed, Walk, with_drawings

SURGES, SNAPS, STRAIGHT, QUICKER, LATE = 0.4, 30.0, 6.0, 2.5 * 1.4, (0.27, 0.73)
"""How much of its mean speed the hips' may differ; by how many degrees a knee opens, to within how many of straight at
most, and how many times as quickly as before and after; when the legs pass that do so at the wrong time, in steps."""


def surges(rng: random.Random, walk: Walk) -> single.Planted | None:
    """Across: the hips rush and stall within one step, over feet that are where they were."""
    own = walk.manner
    if not own.across or own.exposure == "mixed":
        return None
    first = own.drawings * rng.randrange(1, own.steps - 1)
    far, changed = single.TIMES * SURGES * single.step_of(walk) / (2 * math.pi), dict[int, Posed]()
    for index in range(first, first + own.drawings):
        dx = own.facing * far * math.sin(2 * math.pi * (index - first) / own.drawings)
        moved = single.hips_moved(walk, index, 0.0, dx)
        if moved is None:
            return None
        changed[index] = moved
    return with_drawings(walk, changed), [first, first + own.drawings - 1]


def pops(rng: random.Random, walk: Walk) -> single.Planted | None:
    """A knee that stays bent all through a swing, and is straight in the next drawing."""
    found = []
    for index, side in walk.contacts:
        before = range(index - 3, index)
        if index < 5 or index + 1 >= len(walk.drawings) or _bend(walk, index, side) > STRAIGHT:
            continue
        if any(single.height_of(walk, i, side) < 0.01 * walk.manner.leg for i in before):
            continue
        bend = _bend(walk, index, side) + 1.6 * SNAPS
        bent = {i: _with_bend(walk, i, side, bend) for i in before}
        told = {i: d for i, d in bent.items() if d is not None}
        if len(told) < len(bent):
            continue
        spoilt = with_drawings(walk, told)
        bends = [_bend(spoilt, i, side) for i in range(index - 2, index + 2)]
        opens = [a - b for a, b in itertools.pairwise(bends)]
        if opens[1] > max(1.2 * SNAPS, QUICKER * max(abs(opens[0]), abs(opens[2]))):
            found.append((spoilt, [index]))
    return rng.choice(found) if found else None


def passing(rng: random.Random, walk: Walk) -> single.Planted | None:
    """A foot that swings late, or soon, so that it passes the standing one far from half-way."""
    own = walk.manner
    if own.drawings < 8 or own.exposure == "mixed":
        return None
    late, inner = rng.choice(LATE), [c for c in walk.contacts if c[0] >= own.drawings]
    if not inner:
        return None
    index, side = rng.choice(inner)
    first = index - own.drawings
    power = math.log(0.5) / math.log(late)
    changed = dict[int, Posed]()
    for i in range(first + 1, index):
        share = ((i - first) / own.drawings) ** power
        posed = _foot_at(walk, i, side, first + share * own.drawings)
        if posed is None:
            return None
        changed[i] = posed
    return with_drawings(walk, changed), [first, index]


def open_cycle(rng: random.Random, walk: Walk) -> single.Planted | None:
    """A cycle from whose end drawings are missing."""
    own = walk.manner
    gone = max(1, own.drawings // 4)
    if not own.loop or own.across:
        return None
    shorter = replace(walk, drawings=walk.drawings[:-gone])
    return shorter, [len(shorter.drawings) - 1]


def _bend(walk: Walk, index: int, side: str) -> float:
    hip, knee, ankle = (walk.drawings[index].points[n] for n in ("hip", f"knee_{side}", f"ankle_{side}"))
    return math.degrees(math.pi - single.corner(hip, knee, ankle))


def _with_bend(walk: Walk, index: int, side: str, degrees: float) -> Posed | None:
    """A drawing whose foot is drawn up towards the hip, as far as a bend of the knee asks."""
    hip, ankle = (walk.drawings[index].points[n] for n in ("hip", f"ankle_{side}"))
    far = walk.manner.leg * math.cos(math.radians(degrees) / 2)
    if far > math.dist(hip, ankle):
        return walk.drawings[index]
    scale = far / math.dist(hip, ankle) - 1
    return single.with_foot(walk, index, side, scale * (ankle[0] - hip[0]), scale * (ankle[1] - hip[1]))


def _foot_at(walk: Walk, index: int, side: str, when: float) -> Posed | None:
    """A drawing with one foot as it is at another time, in drawings, over the ground."""
    one, belt = int(when), single.belt_of(walk)
    share, each = when - one, walk.drawings[index].frames

    def over_ground(i: int, joint: str) -> Point:
        x, y = walk.drawings[i].points[f"{joint}_{side}"]
        return x - belt * each * i, y

    own = walk.drawings[index]
    points = dict(own.points)
    for joint in ("ankle", "heel", "toe"):
        (ax, ay), (bx, by) = over_ground(one, joint), over_ground(one + 1, joint)
        points[f"{joint}_{side}"] = ax + share * (bx - ax) + belt * each * index, ay + share * (by - ay)
    knee = single.knee_of(walk, points["hip"], points[f"ankle_{side}"])
    return None if knee is None else replace(own, points={**points, f"knee_{side}": knee})


PLANTS: dict[str, single.Plant] = {
    "spacing.surges": surges,
    "spacing.pops": pops,
    "timing.passing": passing,
    "timing.loop": open_cycle,
}
