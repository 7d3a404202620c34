"""Good work of every kind that the definitions name: however it is spaced, exposed, begun and ended, it is clean."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from bench.apart.bounces import FIRM_SQUASH, RATES, SIZES, STRETCH, Ball, Bounce, roll_out, side_by_halves, unsteady

Exposing = Literal[
    "ones", "twos", "twos at the tops", "twos on the slow half", "threes at a top", "sides", "hops", "anywhere"
]
Begins = Literal["top", "falling", "rising", "contact"]
Ends = Literal["top", "past a top", "rising", "falling", "contact", "rest"]
FEWEST, MOST = 14, 90
"""Drawings of a clip."""
MOST_TRIED = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """How a good bounce is made: its spacing, exposures, ends, and whether its contacts fall on a drawing."""

    halves: bool
    exposing: Exposing
    begins: Begins
    ends: Ends
    in_place: bool
    on_a_drawing: bool

    @property
    def mixed(self) -> bool:
        """Whether drawings are exposed unlike each other."""
        return self.exposing not in ("ones", "twos")


def manner(rng: random.Random) -> Manner:
    """Any manner; a third by halves at least, more than a third mixed."""
    halves = rng.random() < 0.4
    return Manner(
        halves=halves,
        exposing=rng.choice(get_args(Exposing)),
        begins=rng.choice(get_args(Begins)),
        ends=rng.choice(get_args(Ends)),
        in_place=rng.random() < 0.4,
        on_a_drawing=halves or rng.random() < 0.6,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Flight:
    """A hop in time: when it leaves and meets the ground, frames, and which kind of exposures it has."""

    leaves: float
    lands: float
    number: int

    @property
    def lasts(self) -> float:
        return self.lands - self.leaves

    def share(self, time: float) -> float:
        """From 0 where it leaves the ground to 1 where it lands."""
        return (time - self.leaves) / self.lasts


def plan(rng: random.Random, how: Manner) -> Bounce:
    """A bounce made in that manner, all within the frame."""
    for _ in range(MOST_TRIED):
        bounce = _tried(rng, how)
        if bounce is not None and FEWEST <= len(bounce.balls) <= MOST and _inside(bounce):
            return bounce
    raise ValueError(f"no bounce is made like {how}")


def _inside(bounce: Bounce) -> bool:
    reach = [(b, max(b.along, b.across) + 1) for b in bounce.balls]
    return all(r < b.x < bounce.width - r and r < b.y for b, r in reach)


def _tried(rng: random.Random, how: Manner) -> Bounce | None:
    flights = _flights(rng, how)
    if flights is None:
        return None
    bounce = _facts(rng, how, flights)
    balls = bounce.balls
    times, contacts = _times(rng, how, flights)
    squash = {"soft": rng.uniform(0.66, 0.8), "firm": FIRM_SQUASH, "hard": 1.0}[bounce.material]
    for index, (time, lasts) in enumerate(times):
        flight = next(f for f in flights if time < f.lands - 1e-6 or f is flights[-1])
        if index in contacts:
            balls.append(_contact(bounce, contacts[index], squash, flight.number, lasts))
        else:
            balls.append(_flying(bounce, flight, time, lasts))
    for _, air, _ in bounce.flights():
        high = balls[bounce.top_of(air)].y
        for i in air:
            # Of two that are as high as each other either is the top.
            if balls[i].y - high < max(2.0, 0.05 * bounce.diameter):
                balls[i].shape(bounce.diameter, 1.0, 0.0)
    if how.halves:
        _by_halves(bounce, [t for t, _ in times], flights)
    for ball in balls:
        if ball.kind == "air":
            ball.y = min(ball.y, bounce.ground - 0.5 - ball.below)
    _set_in_the_frame(bounce, rng)
    if not _cut(rng, bounce, how):
        return None
    if how.ends == "rest":
        roll_out(bounce)
    unsteady(bounce, rng)
    return bounce


def _flights(rng: random.Random, how: Manner) -> list[_Flight] | None:
    """Whole hops, of which the first and the last are cut later; each keeps as much speed as the one before."""
    kept, usual = rng.uniform(0.68, 0.9), 2 if how.exposing == "twos" else 1
    least = 5 * usual if how.halves else 4 * usual + 1
    # By halves nobody draws ten gaps, each half of the one before.
    lasts = rng.uniform(10, 15 if how.halves else 26) * usual**0.5
    found, time, before = [], 0.0, None
    for number in range(rng.randint(3, 5)):
        told = lasts if not how.on_a_drawing else float(max(1, round(lasts / usual)) * usual)
        if told < least:
            break
        if before and how.on_a_drawing and abs(told / before - kept) > 0.05:
            return None
        found.append(_Flight(leaves=time, lands=time + told, number=number))
        time, before, lasts = time + told, told, (told if how.on_a_drawing else lasts) * kept
    return found if len(found) >= 3 else None


def _facts(rng: random.Random, how: Manner, flights: Sequence[_Flight]) -> Bounce:
    width, height = rng.choice(SIZES)
    ground = round(height * rng.uniform(0.82, 0.93)) - 0.5
    diameter = math.exp(rng.uniform(math.log(max(8.0, width / 80)), math.log(height / 3)))
    rise = (ground - diameter - 2) * rng.uniform(0.7, 0.95)
    gravity = 8 * rise / flights[0].lasts ** 2
    reach = 0.0 if how.in_place else rng.choice([-1, 1]) * rng.uniform(0.5, 1.0) * (width - 2 * diameter)
    return Bounce(
        width=width,
        height=height,
        # At 12 a second a contact of two frames would stick.
        fps=rng.choice([r for r in RATES if r > 12 or how.exposing == "ones"]),
        diameter=diameter,
        ground=ground,
        gravity=gravity,
        speed=reach / flights[-1].lands,
        exposure=2 if how.exposing == "twos" else 1,
        material=rng.choice(["soft", "soft", "firm", "hard"]),
        halves=how.halves,
        in_place=how.in_place,
        kept=flights[1].lasts / flights[0].lasts,
        contacts=[f.lands for f in flights],
        tops=[gravity * f.lasts**2 / 8 for f in flights],
        wobble=rng.choice([0.0, 0.005, 0.01]),
    )


def _times(
    rng: random.Random, how: Manner, flights: Sequence[_Flight]
) -> tuple[list[tuple[float, int]], dict[int, float]]:
    """When each drawing starts and how long it shows, frames; and which are contacts, with the time that they show."""
    told: list[tuple[float, int]] = []
    twos_up, odd = rng.random() < 0.5, rng.randrange(2)
    time, end = 0, flights[-1].lands
    meets = [0.0, *(f.lands for f in flights)]
    while time < end - 1e-6:
        flight = next((f for f in flights if time < f.lands - 1e-6), flights[-1])
        lasts = _exposure(rng, how, flight, time, twos_up, odd)
        if how.on_a_drawing:
            lasts = min(lasts, round(flight.lands) - time)
        told.append((float(time), lasts))
        time += lasts
    told.append((float(time), 2 if how.exposing == "twos" else 1))
    starts = [t for t, _ in told]
    return told, {min(range(len(starts)), key=lambda i: abs(starts[i] - meet)): meet for meet in meets}


def _exposure(rng: random.Random, how: Manner, flight: _Flight, time: int, twos_up: bool, odd: int) -> int:
    share = flight.share(time)
    rules: dict[Exposing, Callable[[], int]] = {
        "ones": lambda: 1,
        "twos": lambda: 2,
        "twos at the tops": lambda: 2 if abs(share - 0.5) * flight.lasts < 2.6 else 1,
        "twos on the slow half": lambda: 2 if 0.23 < share < 0.74 else 1,
        "threes at a top": lambda: 3 if abs(share + 1 / flight.lasts - 0.5) * flight.lasts <= 1.5 else 1,
        "sides": lambda: 2 if (share < 0.5) == twos_up else 1,
        "hops": lambda: 2 if flight.number % 2 == odd else 1,
        "anywhere": lambda: rng.choice([1, 2]),
    }
    return rules[how.exposing]()


def _flying(bounce: Bounce, flight: _Flight, time: float, frames: int) -> Ball:
    since = time - flight.leaves
    height = max(0.0, bounce.gravity / 2 * since * (flight.lasts - since))
    rises = bounce.gravity * (flight.lasts / 2 - since)
    ball = Ball(
        x=bounce.speed * time,
        y=bounce.base - height,
        along=0.0,
        across=0.0,
        angle=0.0,
        frames=frames,
        kind="air",
        hop=flight.number,
    )
    move = math.hypot(bounce.speed, rises) * frames / bounce.diameter
    fast = min(1.0, abs(rises) / (bounce.gravity * flight.lasts / 2)) ** 0.7
    longer = min(1.0, max(0.0, (move - 0.1) / 0.35)) * fast
    ball.shape(bounce.diameter, 1 + STRETCH[bounce.material] * longer, math.degrees(math.atan2(rises, bounce.speed)))
    return ball


def _contact(bounce: Bounce, meets: float, squash: float, number: int, frames: int) -> Ball:
    flat = 1 - (1 - squash) * 0.97**number
    across = bounce.diameter / 2 * math.sqrt(flat)
    return Ball(
        x=bounce.speed * meets,
        y=bounce.ground - across,
        along=across / flat,
        across=across,
        angle=0.0,
        frames=frames,
        kind="contact",
        hop=number,
    )


def _by_halves(bounce: Bounce, times: Sequence[float], flights: Sequence[_Flight]) -> None:
    """Each side of a hop at half, quarter, eighth of the way along the arc from its top to its contact."""
    for before, air, after in bounce.flights(2):
        if before is None or after is None:
            continue
        flight = flights[bounce.balls[air[0]].hop]
        middle = (flight.leaves + flight.lands) / 2
        top = max((i for i in air if times[i] <= middle), default=air[0])
        ball = bounce.balls[top]
        ball.x = (bounce.balls[before].x + bounce.balls[after].x) / 2
        ball.y = bounce.base - bounce.gravity * flight.lasts**2 / 8
        ball.shape(bounce.diameter, 1.0, 0.0)
        side_by_halves(bounce, top, before)
        side_by_halves(bounce, top, after)


def _set_in_the_frame(bounce: Bounce, rng: random.Random) -> None:
    """In place anywhere, across from one side to the other."""
    xs = [b.x for b in bounce.balls]
    slack = bounce.width - (max(xs) - min(xs)) - 2.4 * bounce.diameter
    left = 1.2 * bounce.diameter + rng.uniform(0, max(0.0, slack)) - min(xs)
    for ball in bounce.balls:
        ball.x += left


def _cut(rng: random.Random, bounce: Bounce, how: Manner) -> bool:
    """Let the clip begin and end as it should; whether there is room for that."""
    flights = [f for f in bounce.flights() if f[0] is not None and f[2] is not None]
    if len(flights) < 3:
        return False
    (before, first, _), (_, last, after) = flights[0], flights[-1]
    assert before is not None and after is not None
    first_top, last_top = bounce.top_of(first), bounce.top_of(last)
    starts = {
        "top": [first_top],
        "falling": list(range(first_top + 1, first[-1])),
        "rising": list(range(before + 1, first_top)),
        "contact": [before],
    }[how.begins]
    stops = {
        "top": [last_top],
        "past a top": [last_top + 1],
        "rising": list(range(last[0] + 1, last_top)),
        "falling": list(range(last_top + 2, last[-1] + 1)),
        "contact": [after],
        "rest": [after],
    }[how.ends]
    if not starts or not stops:
        return False
    start, stop = rng.choice(starts), rng.choice(stops)
    bounce.balls[:] = bounce.balls[start : stop + 1]
    return sum(b.kind == "contact" for b in bounce.balls) >= 2
