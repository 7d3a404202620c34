"""Pendulums that are carried: a block, a trolley or a hand travels and stops, and what hangs from it swings on.

Planned here alone: the swing is solved with the base's own acceleration, many short steps a frame; later parts come
some frames after the first.
"""

from __future__ import annotations

import itertools
import math
import random
from dataclasses import dataclass

import cv2
import numpy as np

from bench.apart.pictures import FILLS, INKS, Colour, Picture
from bench.apart.strands import FINER, Points, _area, _disc, _hung, _link, _tail
from bench.apart.strands import Look as StrandLook

FINE = 60
SIZES = ((800, 600), (960, 540), (1280, 720))


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """A clip: ``points`` (drawings, parts + 1, 2) from the pivot on, px; ``base`` (drawings, 2) where the base is.

    ``stops`` is the index of the first drawing in which the base stands still.
    """

    hangs: str
    width: int
    height: int
    points: Points
    base: Points
    frames: tuple[int, ...]
    weight: float
    stops: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """How it is drawn: ``base`` a block, a trolley on its rail or a hand, ``wide`` and ``high`` px."""

    base: str
    wide: float
    high: float
    line: float
    paper: Colour
    ink: Colour
    fill: Colour
    outline: float


def plan(rng: random.Random, hangs: str, *, ease: bool = True) -> Carried:
    """A good one; without ``ease`` the base goes in even steps and stops dead."""
    width, height = rng.choice(SIZES)
    reach, step = height * rng.uniform(0.45, 0.6), rng.choice((1, 1, 2))
    # In whole drawings, so that an even way is even to its end.
    travels, swing = step * rng.randint(16 // step, 30 // step), rng.uniform(9, 15)
    still = step * rng.randint(1, 3)
    last = still + travels + rng.uniform(3.5, 5.0) * swing
    times = np.arange(0, last, step)
    way, far = rng.choice((-1, 1)), width * rng.uniform(0.25, 0.4)
    start = np.array([width / 2 - way * far / 2, height * rng.uniform(0.12, 0.18)])

    def travelled(time: Points) -> Points:
        share = np.clip((time - still) / travels, 0, 1)
        return way * far * (share * share * (3 - 2 * share) if ease else share)

    clock = np.arange(0, last + 1, 1 / FINE)
    at = travelled(clock)
    push = np.gradient(np.gradient(at, clock), clock)
    omega, damped = math.pi / swing, rng.choice((0.0, 0.012, 0.03))
    angle, speed, angles = 0.0, 0.0, []
    for force in push:
        angles.append(angle)
        speed += (-(omega**2) * math.sin(angle) - damped * speed - force / reach * math.cos(angle)) / FINE
        angle += speed / FINE
    course = np.array(angles)
    parts = {"bob": 1, "chain": rng.randint(2, 4), "tail": 24}[hangs]
    late = {"bob": np.zeros(1), "chain": np.arange(parts) * 1.6, "tail": np.linspace(0, 5.0, parts)}[hangs]
    swung = np.interp(np.maximum(0.0, times[:, None] - late[None, :]), clock, course)
    base = start + np.stack([travelled(times), np.zeros(len(times))], axis=1)
    lengths = np.full(parts, reach / parts)
    points = np.concatenate([_hung(b, lengths, swung[k : k + 1]) for k, b in enumerate(base)])
    return Carried(
        hangs=hangs,
        width=width,
        height=height,
        points=points,
        base=base,
        frames=(step,) * len(times),
        weight=reach * rng.uniform(0.14, 0.2) if hangs == "bob" or rng.random() < 0.5 else 0.0,
        stops=int(np.searchsorted(times, still + travels)),
    )


def look(rng: random.Random, carried: Carried) -> Look:
    """Any look."""
    wide = rng.uniform(46, 90)
    line = rng.uniform(2, 6) if carried.hangs == "bob" else rng.uniform(6, 16)
    return Look(
        base=rng.choice(("block", "trolley", "hand")),
        wide=wide,
        high=wide * rng.uniform(0.35, 0.6),
        line=line,
        paper=rng.choice([(255, 255, 255), (246, 241, 228), (216, 226, 236)]),
        ink=rng.choice(INKS),
        fill=rng.choice(FILLS),
        outline=rng.choice((0.0, 3.0)),
    )


def drawings(carried: Carried, drawn: Look) -> list[tuple[Picture, int]]:
    """A picture of each drawing, and the frames for which it shows."""
    behind = np.full((carried.height, carried.width, 3), drawn.paper, np.uint8)
    if drawn.base == "trolley":
        y = round(float(carried.base[0, 1]) - 0.7 * drawn.high)
        cv2.rectangle(behind, (0, y - 3), (carried.width, y), (90, 84, 76), -1)
    return [(_laid(behind, carried, drawn, k), n) for k, n in enumerate(carried.frames)]


def _laid(behind: Picture, carried: Carried, drawn: Look, number: int) -> Picture:
    fine = np.array(cv2.resize(behind, None, fx=FINER, fy=FINER, interpolation=cv2.INTER_NEAREST), np.uint8)
    points = carried.points[number]
    strand = StrandLook(
        links="capsules", wide=drawn.line, thin=drawn.line, outline=0.0, hook=False, paper=drawn.paper,
        ink=drawn.ink, fill=drawn.fill,
    )  # fmt: skip
    if carried.hangs == "tail":
        _tail(fine, points, strand, 0.0, drawn.ink)
    else:
        for one, other in itertools.pairwise(points):
            _link(fine, one, other, strand, 0.0, drawn.ink)
    if carried.weight:
        _disc(fine, points[-1], carried.weight / 2, drawn.ink)
        _disc(fine, points[-1], carried.weight / 2 - 3, drawn.fill)
    _base(fine, carried.base[number], drawn)
    return np.asarray(cv2.resize(fine, (carried.width, carried.height), interpolation=cv2.INTER_AREA), np.uint8)


def _base(fine: Picture, at: Points, drawn: Look) -> None:
    """The base, whose lower edge or middle is the pivot."""
    x, y = at
    half, high = drawn.wide / 2, drawn.high
    layers = [(0.0, drawn.ink), (drawn.outline, drawn.fill)] if drawn.outline else [(0.0, drawn.ink)]
    for inset, colour in layers:
        if drawn.base == "hand":
            turns = np.linspace(0, 2 * np.pi, 60, endpoint=False)
            radius = half * (0.8 + 0.12 * np.cos(3 * turns) + 0.08 * np.sin(5 * turns)) - inset
            _area(
                fine,
                np.array([x, y - 0.3 * high])
                + radius[:, None] * np.stack([np.cos(turns), 0.7 * np.sin(turns)], axis=1),
                colour,
            )
            continue
        top, foot = y - high + inset, y + 4 - inset
        box = np.array(
            [(x - half + inset, top), (x + half - inset, top), (x + half - inset, foot), (x - half + inset, foot)]
        )
        _area(fine, box, colour)
    if drawn.base == "trolley":
        for side in (-0.6, 0.6):
            _disc(fine, np.array([x + side * half, y - high]), 0.16 * drawn.wide, drawn.ink)
