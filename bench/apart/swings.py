"""Pendulums drawn apart: planned here alone, by laws and in manners of their own.

Nothing is shared with the generator of the demo, nor with what is measured: angles come from the law itself, a cosine
or a row of halves, and every kind of good work that a class hands in is among the manners.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import solve_ivp

SIZES = ((640, 360), (800, 600), (960, 540), (1280, 720), (1920, 1080))
LAWS = ("gravity", "sine", "halves")
BEGINS = ("extreme", "mid-swing", "past an extreme")
ENDS = ("extreme", "mid-swing", "at rest", "cycle")
EXPOSINGS = ("ones", "twos", "twos at extremes", "held extremes")


@dataclass(frozen=True, slots=True, kw_only=True)
class Hung:
    """One drawing: the angle from straight down (degrees, to the right), the line's length, the weight's size, frames.

    ``top`` is how far (px) the line's upper end lies off the pivot; ``turn`` how far the weight itself is turned.
    """

    angle: float
    length: float
    size: float
    frames: int
    top: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """How a good pendulum is made."""

    law: str
    begins: str
    ends: str
    exposing: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Pendulum:
    """A clip's drawings around a pivot, in a frame of that size."""

    width: int
    height: int
    fps: float
    pivot: tuple[float, float]
    rest: float
    length: float
    drawings: tuple[Hung, ...]
    manner: Manner
    per_swing: float
    keeps: float
    loop: bool = False
    extremes: tuple[int, ...] = field(default=())

    def place(self, drawing: Hung) -> tuple[float, float]:
        """The weight's centre, px."""
        turn = math.radians(drawing.angle)
        return self.pivot[0] + drawing.length * math.sin(turn), self.pivot[1] + drawing.length * math.cos(turn)

    def first_frame(self, index: int) -> int:
        return 1 + sum(d.frames for d in self.drawings[:index])

    def span(self, concerned: list[int]) -> tuple[int, int]:
        """First and last frame of some drawings."""
        last = max(concerned)
        return self.first_frame(min(concerned)), self.first_frame(last) + self.drawings[last].frames - 1

    def with_drawings(self, changed: dict[int, Hung]) -> Pendulum:
        return replace(self, drawings=tuple(changed.get(i, d) for i, d in enumerate(self.drawings)))


def manner(rng: random.Random) -> Manner:
    """Any manner."""
    law = rng.choice(LAWS)
    ends = rng.choice(ENDS)
    begins = "extreme" if ends == "cycle" or law == "halves" else rng.choice(BEGINS)
    exposing = rng.choice(EXPOSINGS)
    if law == "halves" and ends == "at rest":
        ends = "extreme"
    if ends == "cycle" and exposing == "twos at extremes":
        exposing = "ones"
    return Manner(law=law, begins=begins, ends=ends, exposing=exposing)


def plan(rng: random.Random, how: Manner | None = None) -> Pendulum:
    """A good pendulum."""
    how = how or manner(rng)
    width, height = rng.choice(SIZES)
    fps = rng.choice((12.0, 24.0, 24.0, 25.0, 30.0))
    amplitude = rng.uniform(14, 68)
    rest = 0.0
    pivot = (width * rng.uniform(0.44, 0.56), height * rng.uniform(0.06, 0.2))
    room = min(height - 8 - pivot[1], (0.5 * width - 40) / math.sin(math.radians(amplitude)))
    length = room * rng.uniform(0.6, 0.82)
    size = length * rng.uniform(0.1, 0.3)
    twos = how.exposing == "twos"
    per_swing = rng.randint(9, 24) if not twos else 2 * rng.randint(6, 12)
    keeps = 1.0 if how.ends == "cycle" or rng.random() < 0.2 else rng.uniform(0.72, 0.97)
    swings = rng.randint(3, 6)
    side = rng.choice((-1.0, 1.0))
    angles, turns = _angles(rng, how, amplitude * side, keeps, per_swing // (2 if twos else 1), swings)
    drawings = [Hung(angle=rest + a, length=length, size=size, frames=2 if twos else 1) for a in angles]
    drawings = _exposed(rng, how, drawings, turns)
    wobble = rng.choice((0.0, 0.003, 0.006))
    drawings = [_wobbled(rng, d, wobble) for d in drawings]
    return Pendulum(
        width=width,
        height=height,
        fps=fps,
        pivot=pivot,
        rest=rest,
        length=length,
        drawings=tuple(drawings),
        manner=how,
        per_swing=float(per_swing),
        keeps=keeps,
        loop=how.ends == "cycle",
        extremes=tuple(turns),
    )


def _wobbled(rng: random.Random, drawing: Hung, wobble: float) -> Hung:
    """A hand's unsteadiness, as a share of the line's length, at most one in a hundred."""
    off = max(-0.01, min(0.01, rng.gauss(0, wobble)))
    turn = max(-0.01, min(0.01, rng.gauss(0, wobble)))
    return replace(drawing, length=drawing.length * (1 + off), angle=drawing.angle + math.degrees(turn) * 0.6)


def _angles(
    rng: random.Random, how: Manner, amplitude: float, keeps: float, steps: int, swings: int
) -> tuple[list[float], list[int]]:
    """The angle of each drawing, and which stand at (or next to) an extreme."""
    if how.law == "halves":
        return _halved(how, amplitude, keeps, steps, swings)
    fine = 200
    if how.law == "gravity":
        track = _by_gravity(math.radians(amplitude), keeps, swings + 2, fine)
    else:
        track = _cosine(amplitude, keeps, swings + 2, fine)
    start = 0.0
    if how.begins == "mid-swing":
        start = rng.uniform(0.25, 0.75) * steps
    elif how.begins == "past an extreme":
        start = rng.uniform(0.3, 1.0)
    end = float(swings * steps)
    if how.ends == "mid-swing":
        end += rng.uniform(0.3, 0.7) * steps
    elif how.ends == "cycle":
        end = 2.0 * (swings // 2) * steps - 1
    times = [start + i for i in range(int(end - start + 1e-6) + 1)]
    angles = [_at(track, t / steps * fine) for t in times]
    turns = [i for i in range(1, len(angles) - 1) if (angles[i] - angles[i - 1]) * (angles[i + 1] - angles[i]) < 0]
    if how.ends == "at rest":
        angles = _to_rest(angles, turns, keeps, steps)
    return angles, turns


def _to_rest(angles: list[float], turns: list[int], keeps: float, steps: int) -> list[float]:
    """From the last extreme it eases to the rest line, each gap smaller than the one before, and stays."""
    last = turns[-1] if turns else len(angles) - 1
    begun, start = angles[: last + 1], angles[last]
    count = max(4, steps // 2)
    eased = [start * (0.5 + 0.5 * math.cos(math.pi * (i + 1) / count)) for i in range(count)]
    return [*begun, *eased, *([0.0] * 8)]


def _halved(how: Manner, amplitude: float, keeps: float, steps: int, swings: int) -> tuple[list[float], list[int]]:
    """By halves towards both extremes: the breakdown in the middle, then half of each gap that is left."""
    each = max(2, min(4, steps // 4))
    shares = [0.5 * 0.5**k for k in range(1, each)][::-1]
    inner = [*shares, 0.5, *(1 - s for s in shares[::-1])]
    angles, turns, here = [amplitude], [0], amplitude
    count = 2 * (swings // 2) if how.ends == "cycle" else swings
    for _ in range(max(2, count)):
        there = -here * keeps
        angles += [here + (there - here) * s for s in inner] + [there]
        turns.append(len(angles) - 1)
        here = there
    if how.ends == "cycle":
        angles.pop()
        turns.pop()
    elif how.ends == "mid-swing":
        there = -here * keeps
        angles += [here + (there - here) * s for s in inner[: len(inner) // 2 + 1]]
    return angles, [t for t in turns if 0 < t < len(angles) - 1]


def _by_gravity(amplitude: float, keeps: float, swings: int, fine: int) -> list[float]:
    """Degrees at so many steps a (first) swing."""
    drag = -2 * math.log(keeps) / math.pi if keeps < 1 else 0.0

    def pulled(_: float, state: NDArray[np.float64]) -> tuple[float, float]:
        angle, speed = state
        return speed, -math.sin(angle) - drag * speed

    def turns(at: float, state: NDArray[np.float64]) -> float:
        # It rests at first, which is no turn.
        return float(state[1]) * -math.copysign(1.0, amplitude) if at > 1.0 else 1.0

    turns.terminal, turns.direction = True, -1  # type: ignore[attr-defined]
    whole = {"rtol": 1e-9, "atol": 1e-11, "dense_output": True}
    first = float(solve_ivp(pulled, (0, 60), (amplitude, 0.0), events=turns, **whole).t_events[0][0])
    track = solve_ivp(pulled, (0, first * (swings + 1)), (amplitude, 0.0), **whole).sol
    return [float(v) for v in np.degrees(track(np.arange(fine * (swings + 1)) * first / fine)[0])]


def _cosine(amplitude: float, keeps: float, swings: int, fine: int) -> list[float]:
    rows: list[float] = []
    here = amplitude
    for _ in range(swings + 1):
        there = -here * keeps
        middle, half = (here + there) / 2, (here - there) / 2
        rows += [middle + half * math.cos(math.pi * i / fine) for i in range(fine)]
        here = there
    return rows


def _at(rows: list[float], at: float) -> float:
    low = min(len(rows) - 2, int(at))
    return rows[low] + (at - low) * (rows[low + 1] - rows[low])


def _exposed(rng: random.Random, how: Manner, drawings: list[Hung], turns: list[int]) -> list[Hung]:
    if how.exposing == "held extremes":
        return [replace(d, frames=d.frames + 1) if i in turns else d for i, d in enumerate(drawings)]
    if how.exposing == "twos at extremes":
        # Near an extreme every other drawing is left out, and the one before it stays for both.
        swung = turns[:-1] if how.ends == "at rest" else turns
        near = {i for t in swung for i in (t - 2, t, t + 2)}
        gone = {i + 1 for i in near if i >= 0 and i + 1 < len(drawings) - 1 and i + 1 not in near}
        return [replace(d, frames=2 if i + 1 in gone else 1) for i, d in enumerate(drawings) if i not in gone]
    return drawings
