"""Faults of pendulums, planted at 2.5 times their tolerance, or whole where they are the lack of something.

Each takes a good pendulum and gives it with the fault, and the drawings, by index, that it concerns; None where the
pendulum has no room for it. A last entry says what a brief must ask for, where a fault needs that.
"""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from bench.apart.swings import Hung, Pendulum

TIMES = 2.5
Planted = tuple[Pendulum, list[int], dict[str, Any]]
Plant = Callable[[random.Random, Pendulum, float], Planted | None]


def least(pendulum: Pendulum, px: float) -> float:
    return px * max(1.0, pendulum.width / 960)


def swings_of(pendulum: Pendulum) -> list[tuple[int, int]]:
    """Index pairs of the extremes of swings that are whole inside the clip, not settling."""
    turns = _turns(pendulum)
    big = [t for t in turns if abs(pendulum.drawings[t].angle) > 9.5]
    return [(a, b) for a, b in itertools.pairwise(turns) if a in big and b in big]


def _turns(pendulum: Pendulum) -> list[int]:
    angles = [d.angle for d in pendulum.drawings]
    found = [i for i in range(1, len(angles) - 1) if (angles[i] - angles[i - 1]) * (angles[i + 1] - angles[i]) < 0]
    merged: list[int] = []
    for turn in found:
        # An unsteady hand makes several small turns about one extreme.
        if merged and turn - merged[-1] <= 3:
            if abs(angles[turn]) > abs(angles[merged[-1]]):
                merged[-1] = turn
        else:
            merged.append(turn)
    return merged


def _inner(rng: random.Random, pendulum: Pendulum) -> int | None:
    """A drawing inside a swing, away from its extremes."""
    places = [i for a, b in swings_of(pendulum) for i in range(a + 2, b - 1)]
    return rng.choice(places) if places else None


def jump(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    at = _inner(rng, pendulum)
    if at is None or pendulum.manner.exposing == "twos at extremes":
        return None
    d = pendulum.drawings
    gap = min(abs(d[at].angle - d[j].angle) for j in (at - 1, at + 1))
    far = max(0.18 * math.radians(gap) * pendulum.length, 0.02 * pendulum.length, least(pendulum, 2))
    turn = math.degrees(times * far / pendulum.length) * rng.choice((-1, 1))
    if abs(turn) > 0.9 * gap:
        return None
    return pendulum.with_drawings({at: replace(d[at], angle=d[at].angle + turn)}), [at], {}


def off_path(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    at = rng.randrange(3, len(pendulum.drawings) - 3)
    far = times * max(0.03 * pendulum.length, least(pendulum, 2)) * rng.choice((-1, 1))
    own = pendulum.drawings[at]
    return pendulum.with_drawings({at: replace(own, length=own.length + far)}), [at], {}


def even(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = [(a, b) for a, b in swings_of(pendulum) if b - a >= 6]
    if not swings or pendulum.manner.exposing == "twos at extremes":
        return None
    a, b = rng.choice(swings)
    d = pendulum.drawings
    start = pendulum.first_frame(a)
    end = pendulum.first_frame(b)
    changed = {}
    for i in range(a + 1, b):
        share = (pendulum.first_frame(i) - start) / (end - start)
        changed[i] = replace(d[i], angle=d[a].angle + share * (d[b].angle - d[a].angle))
    return pendulum.with_drawings(changed), list(range(a, b + 1)), {}


def off_middle(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = [(a, b) for a, b in swings_of(pendulum) if b - a >= 8]
    if not swings or pendulum.manner.law == "halves" or pendulum.manner.exposing == "twos at extremes":
        return None
    a, b = rng.choice(swings)
    frames = pendulum.first_frame(b) - pendulum.first_frame(a)
    off = times * max(1.0, 0.1 * frames)
    if off > 0.3 * frames:
        return None
    d, way = pendulum.drawings, rng.choice((-1, 1))
    half, middle = (d[b].angle - d[a].angle) / 2, (d[a].angle + d[b].angle) / 2
    changed = {}
    for i in range(a + 1, b):
        share = (pendulum.first_frame(i) - pendulum.first_frame(a)) / frames
        # Bent in time: half of the way is gone earlier or later, and both ends stay.
        bent = share + way * off / frames * math.sin(math.pi * share)
        changed[i] = replace(d[i], angle=middle - half * math.cos(math.pi * bent))
    return pendulum.with_drawings(changed), list(range(a, b + 1)), {}


def hangs(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    turns = [b for _, b in swings_of(pendulum)][:-1]
    if not turns or pendulum.loop:
        return None
    at = rng.choice(turns)
    a, b = next(pair for pair in swings_of(pendulum) if pair[1] == at)
    frames = 0.287 * (pendulum.first_frame(b) - pendulum.first_frame(a))
    more = round(times * max(2.0, 0.25 * frames))
    own = pendulum.drawings[at]
    return pendulum.with_drawings({at: replace(own, frames=own.frames + more)}), [at], {}


def dead_stop(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = [(a, b) for a, b in swings_of(pendulum) if b - a >= 5]
    if not swings:
        return None
    a, b = swings[-1]
    at = (a + b) // 2
    kept = list(pendulum.drawings[: at + 1])
    kept[-1] = replace(kept[-1], frames=kept[-1].frames + 8)
    return replace(pendulum, drawings=tuple(kept)), [at - 1, at], {}


def straight(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    d = pendulum.drawings
    swings = [(a, b) for a, b in swings_of(pendulum) if abs(d[b].angle - d[a].angle) > 45 and b - a >= 4]
    if not swings:
        return None
    a, b = rng.choice(swings)
    ends = [pendulum.place(d[i]) for i in (a, b)]
    changed = {}
    for i in range(a + 1, b):
        turn = math.radians(d[i].angle)
        # Where the line at this angle meets the chord from extreme to extreme.
        (x1, y1), (x2, y2) = [(x - pendulum.pivot[0], y - pendulum.pivot[1]) for x, y in ends]
        sx, sy = math.sin(turn), math.cos(turn)
        nx, ny = y2 - y1, x1 - x2
        changed[i] = replace(d[i], length=(nx * x1 + ny * y1) / (nx * sx + ny * sy))
    return pendulum.with_drawings(changed), list(range(a, b + 1)), {}


def rising(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = swings_of(pendulum)
    if len(swings) < 3 or pendulum.loop:
        return None
    a, b = rng.choice(swings[1:])
    d = pendulum.drawings
    angles = [abs(d[i].angle) for i, _ in swings]
    amplitude = sorted(angles)[len(angles) // 2]
    before = max(abs(d[a].angle), abs(d[_before(swings, a)].angle))
    wanted = before + times * max(2.0, 0.06 * amplitude)
    return _stretched(pendulum, b, wanted / abs(d[b].angle))


def _before(swings: list[tuple[int, int]], at: int) -> int:
    return next((a for a, b in swings if b == at), at)


def _stretched(pendulum: Pendulum, at: int, by: float) -> Planted | None:
    """The half swings about an extreme drawn so many times as far, smoothly from the middle on."""
    d, changed = pendulum.drawings, {}
    sign = math.copysign(1.0, d[at].angle)
    i = at
    while i >= 0 and d[i].angle * sign > 0:
        changed[i] = replace(d[i], angle=d[i].angle * by)
        i -= 1
    i = at + 1
    while i < len(d) and d[i].angle * sign > 0:
        changed[i] = replace(d[i], angle=d[i].angle * by)
        i += 1
    if any(abs(c.angle) > 85 for c in changed.values()):
        return None
    return pendulum.with_drawings(changed), [at], {}


def lopsided(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = swings_of(pendulum)
    if len(swings) < 3:
        return None
    angles = sorted(abs(pendulum.drawings[a].angle) for a, _ in swings)
    off = times * 0.12 * angles[len(angles) // 2] * rng.choice((-1, 1))
    if max(angles) + abs(off) > 85:
        return None
    d = pendulum.drawings
    return (
        pendulum.with_drawings({i: replace(own, angle=own.angle + off) for i, own in enumerate(d)}),
        list(range(len(d))),
        {},
    )


def volume(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    at = rng.randrange(1, len(pendulum.drawings) - 1)
    own = pendulum.drawings[at]
    by = math.sqrt(1 + times * 0.12) if rng.random() < 0.5 else math.sqrt(1 - times * 0.12)
    if abs(by - 1) * own.size < 2.5 * least(pendulum, 1):
        return None
    return pendulum.with_drawings({at: replace(own, size=own.size * by)}), [at], {}


def length(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    count = rng.randint(3, 5)
    if len(pendulum.drawings) < count + 6:
        return None
    first = rng.randrange(2, len(pendulum.drawings) - count - 2)
    by = 1 + times * 0.04 * rng.choice((-1, 1))
    d = pendulum.drawings
    at = list(range(first, first + count))
    return pendulum.with_drawings({i: replace(d[i], length=d[i].length * by) for i in at}), at, {}


def pivot(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    at = rng.randrange(1, len(pendulum.drawings) - 1)
    far = times * max(0.02 * pendulum.length, least(pendulum, 2))
    way = rng.uniform(0, 2 * math.pi)
    off = far * math.cos(way), far * math.sin(way)
    return pendulum.with_drawings({at: replace(pendulum.drawings[at], top=off)}), [at], {}


def swing(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = swings_of(pendulum)
    if len(swings) < 4 or pendulum.loop or pendulum.manner.exposing == "twos at extremes":
        return None
    if pendulum.manner.law == "halves":
        return None
    a, b = rng.choice(swings[1:-1] if len(swings) > 4 else swings)
    d = list(pendulum.drawings)
    frames = pendulum.first_frame(b) - pendulum.first_frame(a)
    step = d[a + 1].frames
    more = times * max(1.0, 0.1 * frames) * rng.choice((-1, 1))
    count = max(4, round((frames + more) / step))
    if abs(count * step - frames) < 0.9 * abs(more):
        count += 1 if more > 0 else -1
    if count < 5:
        return None
    half, middle = (d[b].angle - d[a].angle) / 2, (d[a].angle + d[b].angle) / 2
    drawn = [
        Hung(angle=middle - half * math.cos(math.pi * k / count), length=pendulum.length, size=d[a].size, frames=step)
        for k in range(1, count)
    ]
    return replace(pendulum, drawings=(*d[: a + 1], *drawn, *d[b:])), list(range(a, a + count + 1)), {}


def rhythm(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    swings = swings_of(pendulum)
    if len(swings) < 4 or pendulum.loop or pendulum.keeps < 0.8:
        return None
    _, b = rng.choice(swings[1:-1])
    kept = pendulum.keeps - times * 0.12
    by = kept / pendulum.keeps
    # From this extreme on all is smaller: one swing lost more than the others.
    d, changed, i = pendulum.drawings, {}, b
    sign = math.copysign(1.0, d[b].angle)
    while i >= 0 and d[i].angle * sign > 0:
        changed[i] = replace(d[i], angle=d[i].angle * by)
        i -= 1
    for j in range(b + 1, len(d)):
        changed[j] = replace(d[j], angle=d[j].angle * by)
    if min(abs(d[t].angle * by) for t in (b,)) < 9:
        return None
    return pendulum.with_drawings(changed), [b], {}


def hold(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    at = _inner(rng, pendulum)
    if at is None or pendulum.manner.exposing == "twos at extremes":
        return None
    turns = _turns(pendulum)
    near = min(turns, key=lambda t: abs(t - at))
    if abs(pendulum.drawings[at].angle) > 0.8 * abs(pendulum.drawings[near].angle):
        return None
    own = pendulum.drawings[at]
    return pendulum.with_drawings({at: replace(own, frames=own.frames + math.ceil(times))}), [at], {}


def asked_swings(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    turns = swings_of(pendulum)
    if len(turns) < 2 or pendulum.loop or pendulum.manner.ends == "at rest":
        return None
    return pendulum, list(range(len(pendulum.drawings))), {"swings": len(turns) + 4}


def damping(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    if len(swings_of(pendulum)) < 3:
        return None
    low = pendulum.keeps - times * 0.04 - 0.06
    return pendulum, list(range(len(pendulum.drawings))), {"keeps": (low, low + 0.06)}


def weight(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    if len(swings_of(pendulum)) < 2 or pendulum.manner.law == "halves":
        return None
    seconds = pendulum.per_swing / pendulum.fps
    real = 9.81 * (seconds / math.pi) ** 2
    factor = 1.35**times
    return (
        pendulum,
        list(range(len(pendulum.drawings))),
        {"length_m": real * (factor if rng.random() < 0.5 else 1 / factor)},
    )


def loop(rng: random.Random, pendulum: Pendulum, times: float) -> Planted | None:
    if not pendulum.loop or pendulum.manner.law == "halves":
        return None
    # A drawing or two are missing at the end: the seam leaps.
    for gone in (1, 2, 3, 4):
        d = pendulum.drawings[:-gone]
        leap = math.radians(abs(d[-1].angle - pendulum.drawings[-1].angle)) * pendulum.length
        if leap >= 2.2 * times * max(0.02 * pendulum.length, least(pendulum, 2)) and len(d) > 6:
            return replace(pendulum, drawings=d), [len(d) - 1], {}
    return None


PLANTS: dict[str, Plant] = {
    "spacing.even": even,
    "spacing.off_middle": off_middle,
    "spacing.jump": jump,
    "spacing.hangs": hangs,
    "spacing.dead_stop": dead_stop,
    "arc.off_path": off_path,
    "arc.straight": straight,
    "arc.rising_swings": rising,
    "arc.lopsided": lopsided,
    "volume.changes": volume,
    "volume.length": length,
    "contact.pivot": pivot,
    "timing.swing": swing,
    "timing.rhythm": rhythm,
    "timing.hold": hold,
    "timing.swings": asked_swings,
    "timing.damping": damping,
    "timing.weight": weight,
    "timing.loop": loop,
}
