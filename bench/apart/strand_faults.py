"""Faults of chains and tails, planted at 2.5 times their tolerance, or whole where they are the lack of something.

Each makes a good one and gives it with the fault, and the drawings, by index, that it concerns; None where it has no
room for it.
"""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from bench.apart import strands
from bench.apart.strands import Points, Strand

TIMES = 2.5
CUT = 3
"""A swing that begins so few drawings after the clip is cut by its beginning."""
Planted = tuple[Strand, list[int]]
Plant = Callable[[random.Random, str, float], Planted | None]


def _least(strand: Strand, px: float) -> float:
    return px * max(1.0, strand.width / 960)


def _angles(points: Points) -> Points:
    """(n,) of the straight line from the pivot to the end, radians from straight down."""
    away = points[:, -1] - points[:, 0]
    return np.asarray(np.arctan2(away[:, 0], away[:, 1]))


def _turns(strand: Strand) -> list[int]:
    steps = np.diff(_angles(strand.points))
    return [int(k) + 1 for k in np.flatnonzero(steps[:-1] * steps[1:] < 0)]


def _inner(rng: random.Random, strand: Strand) -> int | None:
    """A drawing inside a swing, away from its extremes and from the clip's ends."""
    turns = _turns(strand)
    places = [k for k in range(3, len(strand.points) - 3) if all(abs(k - t) > 2 for t in turns)]
    return rng.choice(places) if places else None


def stiff(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs, drag=0.0)
    return strand, list(range(len(strand.points)))


def leads(rng: random.Random, hangs: str, times: float) -> Planted | None:
    # A tail's four parts come three quarters of a part's drag after each other.
    share = 1.0 if hangs == "chain" else 4 / 3
    strand = strands.plan(rng, hangs, drag=-0.75 * times * share)
    return strand, list(range(len(strand.points)))


def stops_together(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.settling(rng, hangs, together=True)
    each = (len(strand.points[0]) - 1) // (4 if hangs == "tail" else len(strand.points[0]) - 1)
    ways = np.diff(strand.points[:, ::each], axis=1)
    off = np.abs(np.degrees(np.arctan2(ways[..., 0], ways[..., 1])))
    near = np.maximum(1.0, np.degrees(2 / np.hypot(*ways[-1].T)))
    return strand, [int(np.flatnonzero((off > near).any(axis=1))[-1]) + 1]


def jump(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs)
    at = _inner(rng, strand)
    if at is None:
        return None
    angles, points = _angles(strand.points), strand.points.copy()
    reach = float(np.median(np.hypot(*(points[:, -1] - points[:, 0]).T)))
    gap = min(abs(angles[at] - angles[k]) for k in (at - 1, at + 1))
    far = times * max(0.18 * gap * reach, 0.02 * reach, _least(strand, 2)) / reach * rng.choice((-1, 1))
    if abs(far) > 0.9 * gap:
        return None
    away = points[at] - points[at, 0]
    points[at] = points[at, 0] + np.stack(
        [
            away[:, 0] * math.cos(far) + away[:, 1] * math.sin(far),
            away[:, 1] * math.cos(far) - away[:, 0] * math.sin(far),
        ],
        axis=1,
    )
    return replace(strand, points=points), [at]


def length(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs)
    at = _inner(rng, strand)
    if at is None:
        return None
    points, way = strand.points.copy(), rng.choice((-1, 1))
    if hangs == "tail":
        long = float(np.hypot(*np.diff(points[at], axis=0).T).sum())
        by = 1 + way * times * max(0.06, _least(strand, 2) / long)
        points[at] = points[at, 0] + by * (points[at] - points[at, 0])
        return replace(strand, points=points), [at]
    link = rng.randrange(len(points[at]) - 1)
    part = points[at, link + 1] - points[at, link]
    by = way * times * max(0.06, _least(strand, 2) / float(np.hypot(*part)))
    points[at, link + 1 :] += by * part
    return replace(strand, points=points), [at]


def joint(rng: random.Random, hangs: str, times: float) -> Planted | None:
    if hangs == "tail":
        return None
    strand = strands.plan(rng, hangs)
    at = _inner(rng, strand)
    if at is None:
        return None
    number, way = rng.randrange(1, len(strand.points[at]) - 1), rng.uniform(0, 2 * math.pi)
    reach = float(np.median(np.hypot(*(strand.points[:, -1] - strand.points[:, 0]).T)))
    far = times * max(0.02 * reach, _least(strand, 2))
    moved = np.array([far * math.cos(way), far * math.sin(way)])
    points = strand.points.copy()
    # All below it goes along.
    points[at, number + 1 :] += moved
    return replace(strand, points=points, apart={at: (number, float(moved[0]), float(moved[1]))}), [at]


def pivot(rng: random.Random, hangs: str, times: float) -> Planted | None:
    """The upper end beside where it hangs; what hangs below goes back to its place along the first part."""
    strand = strands.plan(rng, hangs)
    at = _inner(rng, strand)
    if at is None:
        return None
    points, way = strand.points.copy(), rng.uniform(0, 2 * math.pi)
    reach = float(np.median(np.hypot(*(points[:, -1] - points[:, 0]).T)))
    far = times * max(0.02 * reach, _least(strand, 2))
    back = len(points[at]) // 3 if hangs == "tail" else 1
    shares = np.maximum(0.0, 1 - np.arange(len(points[at])) / back)
    points[at] += shares[:, None] * np.array([far * math.cos(way), far * math.sin(way)])
    return replace(strand, points=points), [at]


def hold(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs)
    at = _inner(rng, strand)
    if at is None:
        return None
    frames = list(strand.frames)
    frames[at] += math.ceil(times)
    return replace(strand, frames=tuple(frames)), [at]


def hangs_at_extreme(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs)
    turns = [t for t in _turns(strand)[:-1] if t > CUT]
    if not turns:
        return None
    at, frames = rng.choice(turns), list(strand.frames)
    frames[at] += round(times * max(2.0, 0.25 * 0.287 * strand.per_swing))
    return replace(strand, frames=tuple(frames)), [at]


def even(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs)
    turns = [t for t in _turns(strand) if t > CUT]
    swings = [(a, b) for a, b in itertools.pairwise(turns) if b - a >= 6]
    if not swings or strand.at is None:
        return None
    a, b = rng.choice(swings)
    step = strand.frames[0]
    fine = np.linspace(a * step, b * step, 400)
    angles = _angles(strand.at(fine))
    wanted = np.linspace(angles[0], angles[-1], b - a + 1)
    order = 1 if angles[-1] > angles[0] else -1
    moments = np.interp(order * wanted, order * angles, fine)
    points = strand.points.copy()
    points[a : b + 1] = strand.at(moments)
    return replace(strand, points=points), list(range(a, b + 1))


def volume(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs, weight=True)
    at = _inner(rng, strand)
    if at is None:
        return None
    by = math.sqrt(1 + times * 0.12 * rng.choice((-1, 1)))
    return replace(strand, weights={at: strand.weight * by}), [at]


def dead_stop(rng: random.Random, hangs: str, times: float) -> Planted | None:
    strand = strands.plan(rng, hangs)
    turns = _turns(strand)
    if len(turns) < 2 or turns[-1] - turns[-2] < 5:
        return None
    last = (turns[-1] + turns[-2]) // 2
    frames = [*strand.frames[:last], strand.frames[last] + 8]
    return replace(strand, points=strand.points[: last + 1], frames=tuple(frames)), [last]


PLANTS: dict[str, Plant] = {
    "overlap.stiff": stiff,
    "overlap.leads": leads,
    "overlap.stops_together": stops_together,
    "spacing.jump": jump,
    "spacing.even": even,
    "spacing.hangs": hangs_at_extreme,
    "spacing.dead_stop": dead_stop,
    "volume.length": length,
    "volume.changes": volume,
    "contact.joint": joint,
    "contact.pivot": pivot,
    "timing.hold": hold,
}
