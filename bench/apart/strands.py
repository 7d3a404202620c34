"""Chains and tails drawn apart: planned and drawn here alone, with what is true of every drawing.

Angles go by a cosine, each part some frames after the one above, or as links hang freely: many short steps of a chain
of points held at fixed distances.
"""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.apart.pictures import FILLS, INKS, Colour, Picture

Points = NDArray[np.float64]
FINER, SHIFT = 4, 5
SIZES = ((800, 600), (960, 540), (1280, 720))
TAIL_PARTS = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class Strand:
    """A clip of something that hangs: ``points`` (drawings, parts + 1, 2) from the pivot to the end, px.

    ``weight`` is a weight's width at its end, 0 for none; ``frames`` how long each drawing shows; ``drag`` by how many
    frames each part comes after the one above, None where it hangs freely. ``at`` gives (n, parts + 1, 2) points at any
    times (frames from the first drawing), where it does not; ``weights`` are each drawing's own, where they differ.
    ``apart`` is, by drawing, which joint has come apart (from 1) and by how many px to the right and down.
    """

    hangs: str
    width: int
    height: int
    fps: float
    points: Points
    frames: tuple[int, ...]
    weight: float
    drag: float | None
    per_swing: float
    at: Callable[[Points], Points] | None = None
    weights: Mapping[int, float] = field(default_factory=dict)
    apart: Mapping[int, tuple[int, float, float]] = field(default_factory=dict)

    @property
    def length(self) -> float:
        """Along it, px."""
        return float(np.hypot(*np.diff(self.points[0], axis=0).T).sum())


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """How it is drawn, widths px: ``wide`` at the pivot, ``thin`` at the end; links as capsules, bars or beads."""

    links: str
    wide: float
    thin: float
    outline: float
    hook: bool
    paper: Colour
    ink: Colour
    fill: Colour


def look(rng: random.Random, strand: Strand) -> Look:
    """Any look."""
    part = strand.length / (len(strand.points[0]) - 1)
    wide = (
        rng.uniform(4, min(36.0, 0.4 * part)) if strand.hangs == "chain" else rng.choice([2.0, 5.0, 12.0, 26.0, 40.0])
    )
    paper = rng.choice([(255, 255, 255), (246, 241, 228), (216, 226, 236)])
    outline = rng.choice([0.0, 0.0, 2.0, 3.0]) if wide > 8 else 0.0
    return Look(
        links=rng.choice(["capsules", "bars", "beads"]),
        wide=wide,
        thin=wide if strand.hangs == "chain" or rng.random() < 0.4 else max(1.5, wide * rng.uniform(0.2, 0.7)),
        outline=outline,
        hook=rng.random() < 0.6,
        paper=paper,
        ink=rng.choice(INKS),
        # An outline alone is filled with paper.
        fill=paper if outline and rng.random() < 0.4 else rng.choice(FILLS),
    )


def plan(rng: random.Random, hangs: str, *, drag: float | None = -1.0, weight: bool | None = None) -> Strand:
    """A good one; ``drag`` None hangs freely, -1 drags by any frames."""
    width, height = rng.choice(SIZES)
    parts = rng.randint(2, 5) if hangs == "chain" else TAIL_PARTS
    reach = height * rng.uniform(0.55, 0.72)
    pivot = np.array([width / 2 + rng.uniform(-30, 30), height * rng.uniform(0.06, 0.12)])
    if hangs == "chain":
        shares = np.array([rng.uniform(0.8, 1.25) for _ in range(parts)])
        lengths = reach * shares / shares.sum()
    else:
        lengths = np.full(parts, reach / parts)
    per_swing, swings = rng.uniform(10, 20), rng.randint(3, 5)
    twos = rng.random() < 0.4
    own = rng.uniform(1.2, 2.6) if drag == -1.0 else drag
    step = 2 if twos else 1
    times = np.arange(0, per_swing * swings + 1, step)
    amplitude, keeps = math.radians(rng.uniform(20, 42)), rng.choice([1.0, 0.9, 0.8])
    at = None
    if own is None:
        points = _free(pivot, lengths, amplitude, per_swing, times)
    else:
        late = np.arange(parts) * own if hangs == "chain" else np.linspace(0, 3 * own, parts)

        def at(times: Points) -> Points:
            clock = times[:, None] - late[None, :]
            swung = amplitude * np.cos(math.pi * clock / per_swing) * keeps ** np.maximum(0.0, clock / per_swing)
            return _hung(pivot, lengths, swung)

        points = at(times)
    with_weight = rng.random() < 0.5 if weight is None else weight
    return Strand(
        hangs=hangs,
        width=width,
        height=height,
        fps=24.0,
        points=points,
        frames=(step,) * len(times),
        weight=reach * rng.uniform(0.12, 0.18) if with_weight else 0.0,
        drag=own,
        per_swing=per_swing,
        at=at,
    )


def settling(rng: random.Random, hangs: str, *, together: bool) -> Strand:
    """One that comes to rest part by part; or, with parts that follow less and less, all at once."""
    whole = plan(rng, hangs, drag=2.0, weight=False)
    parts = len(whole.points[0]) - 1
    lengths = np.hypot(*np.diff(whole.points[0], axis=0).T)
    swings, step = rng.randint(4, 6), whole.frames[0]
    stops = swings * whole.per_swing
    times = np.arange(0, stops + 12 + 2.0 * parts, step) if hangs == "chain" else np.arange(0, stops + 20, step)
    late = np.arange(parts) * 2.0 if hangs == "chain" else np.linspace(0, 8.0, parts)
    ahead = np.clip(1 - times / (0.75 * stops), 0, 1) if together else np.ones(len(times))
    clock = times[:, None] - late[None, :] * ahead[:, None]
    amplitude = math.radians(rng.uniform(24, 36))
    left = np.clip(1 - np.maximum(clock, 0) / stops, 0, 1) ** 1.5
    swung = amplitude * np.cos(math.pi * np.maximum(clock, 0) / whole.per_swing) * left
    points = _hung(whole.points[0, 0], lengths, swung)
    frames = [step] * len(times)
    frames[-1] = 8
    return replace(whole, points=points, frames=tuple(frames), at=None)


def _hung(pivot: Points, lengths: Points, angles: Points) -> Points:
    """(n, parts + 1, 2) points from the pivot on, parts at ``angles`` (n, parts) from straight down, to the right."""
    ways = np.stack([np.sin(angles), np.cos(angles)], axis=-1) * lengths[None, :, None]
    ends = pivot + np.cumsum(ways, axis=1)
    return np.concatenate([np.broadcast_to(pivot, (len(angles), 1, 2)), ends], axis=1)


def _free(pivot: Points, lengths: Points, amplitude: float, per_swing: float, times: Points) -> Points:
    """As a chain of equal weights hangs, let go from a straight line: position steps, then lengths set right."""
    turn = np.array([math.sin(amplitude), math.cos(amplitude)])
    now = np.concatenate([[pivot], pivot + np.cumsum(lengths)[:, None] * turn])
    last = now.copy()
    fine = 40
    # A small swing of a stiff line takes pi sqrt(L / g); a hanging chain is a little quicker.
    gravity = (math.pi / (per_swing * fine)) ** 2 * 0.75 * float(lengths.sum())
    found = []
    for tick in range(int(times[-1]) * fine + 1):
        if tick % fine == 0 and tick // fine in times:
            ways = np.diff(now, axis=0)
            found.append(np.arctan2(ways[:, 0], ways[:, 1]))
        ahead = now + (now - last) * 0.99998
        ahead[1:, 1] += gravity
        last, now = now, ahead
        for _ in range(30):
            now[0] = pivot
            for k, length in enumerate(lengths):
                away = now[k + 1] - now[k]
                far = float(np.hypot(*away))
                off = away * (1 - length / far)
                if k == 0:
                    now[1] -= off
                else:
                    now[k] += off / 2
                    now[k + 1] -= off / 2
    return _hung(pivot, lengths, np.array(found))


def drawings(strand: Strand, drawn: Look) -> list[tuple[Picture, int]]:
    """A picture of each drawing, and the frames for which it shows."""
    behind = np.full((strand.height, strand.width, 3), drawn.paper, np.uint8)
    behind[round(0.94 * strand.height) :] = (130, 122, 110)
    if drawn.hook:
        x, y = strand.points[0, 0]
        cv2.rectangle(behind, (round(x) - 40, 0), (round(x) + 40, max(2, round(y) - 6)), (70, 66, 60), -1)
    return [(_laid(behind, k, strand, drawn), n) for k, n in enumerate(strand.frames)]


def _laid(behind: Picture, number: int, strand: Strand, drawn: Look) -> Picture:
    points, weight = strand.points[number], strand.weights.get(number, strand.weight)
    joint, *moved = strand.apart.get(number, (0, 0.0, 0.0))
    room = drawn.wide + weight / 2 + 12 + abs(moved[0]) + abs(moved[1])
    low, high = np.floor(points.min(axis=0) - room).astype(int), np.ceil(points.max(axis=0) + room).astype(int)
    left, top = max(0, low[0]), max(0, low[1])
    right, bottom = min(strand.width, high[0]), min(strand.height, high[1])
    part = behind[top:bottom, left:right]
    fine = np.array(cv2.resize(part, None, fx=FINER, fy=FINER, interpolation=cv2.INTER_NEAREST), np.uint8)
    before = fine.copy()
    own = points - np.array([left, top])
    layers = [(0.0, drawn.ink), (drawn.outline, drawn.fill)] if drawn.outline else [(0.0, drawn.fill)]
    if strand.hangs == "tail":
        for inset, colour in layers:
            _tail(fine, own, drawn, inset, colour)
    else:
        for link, (one, other) in enumerate(itertools.pairwise(own)):
            begins = one + np.array(moved) if joint and link == joint else one
            for inset, colour in layers:
                _link(fine, begins, other, drawn, inset, colour)
    if weight:
        _disc(fine, own[-1], weight / 2, drawn.ink)
        _disc(fine, own[-1], weight / 2 - 3, drawn.fill)
    picture = behind.copy()
    small = cv2.resize(fine, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    changed = (fine != before).any(axis=2).astype(np.uint8) * 255
    near = cv2.resize(changed, (right - left, bottom - top), interpolation=cv2.INTER_AREA) > 0
    picture[top:bottom, left:right][near] = small[near]
    return picture


def _at(point: Points) -> Points:
    return (np.asarray(point) + 0.5) * FINER - 0.5


def _area(fine: Picture, outline: Points, colour: Colour) -> None:
    cv2.fillPoly(fine, [np.rint(_at(outline) * (1 << SHIFT)).astype(np.int32)], colour, cv2.LINE_8, SHIFT)


def _disc(fine: Picture, centre: Points, radius: float, colour: Colour) -> None:
    turns = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    _area(fine, np.asarray(centre) + radius * np.stack([np.cos(turns), np.sin(turns)], axis=1), colour)


def _link(fine: Picture, one: Points, other: Points, drawn: Look, inset: float, colour: Colour) -> None:
    half = drawn.wide / 2 - inset
    way = (other - one) / float(np.hypot(*(other - one)))
    across = np.array([-way[1], way[0]])
    if drawn.links == "beads":
        length = float(np.hypot(*(other - one)))
        count = max(2, round(length / (0.8 * drawn.wide)) + 1)
        for share in np.linspace(0, 1, count):
            _disc(fine, one + share * (other - one), half, colour)
        return
    _area(
        fine, np.array([one + half * across, other + half * across, other - half * across, one - half * across]), colour
    )
    for end in (one, other):
        # Bars have round ends as well: their joints turn.
        _disc(fine, end, half, colour)


def _tail(fine: Picture, points: Points, drawn: Look, inset: float, colour: Colour) -> None:
    halves = np.maximum(0.4, np.linspace(drawn.wide, drawn.thin, len(points)) / 2 - inset)
    ways = np.gradient(points, axis=0)
    ways /= np.hypot(ways[:, 0], ways[:, 1])[:, None]
    across = np.stack([-ways[:, 1], ways[:, 0]], axis=1) * halves[:, None]
    _area(fine, np.concatenate([points + across, (points - across)[::-1]]), colour)
    for end, half in ((points[0], halves[0]), (points[-1], halves[-1])):
        _disc(fine, end, float(half), colour)
