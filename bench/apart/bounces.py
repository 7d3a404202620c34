"""Bounces planned without the core's own plan: each drawing where physics, or a student's halves, would have it."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

Kind = Literal["air", "contact", "rest"]
SIZES = ((960, 540), (960, 540), (1280, 720), (1920, 1080), (720, 576), (640, 360), (800, 800))
RATES = (24, 24, 24, 12, 25, 30)
STRETCH = {"soft": 0.45, "firm": 0.12, "hard": 0.0}
"""How much longer a ball gets at its fastest."""
FIRM_SQUASH = 0.95


@dataclass(slots=True, kw_only=True)
class Ball:
    """One drawing: px, half axes along and across ``angle`` (degrees, counter-clockwise), frames it is exposed for."""

    x: float
    y: float
    along: float
    across: float
    angle: float
    frames: int
    kind: Kind
    hop: int

    @property
    def below(self) -> float:
        """How far its lowest point lies below its middle, px."""
        turn = math.radians(self.angle)
        return math.hypot(self.along * math.sin(turn), self.across * math.cos(turn))

    @property
    def ratio(self) -> float:
        return self.along / self.across

    def shape(self, diameter: float, ratio: float, angle: float) -> None:
        """As much ball as a round one, its axes in that ratio."""
        self.along, self.across, self.angle = diameter / 2 * math.sqrt(ratio), diameter / 2 / math.sqrt(ratio), angle


@dataclass(slots=True, kw_only=True)
class Wish:
    """What may be asked of a bounce instead of being left to chance."""

    material: str | None = None
    end: str | None = None
    halves: bool | None = None
    in_place: bool | None = None
    aligned: bool | None = None
    longer: dict[int, int] = field(default_factory=dict)
    """Frames more for a hop, by its number."""
    kept_more: dict[int, float] = field(default_factory=dict)
    """Share of the speed more that is kept at a contact, by its number."""
    undrawn: int | None = None
    """The contact that no drawing is placed at."""


@dataclass(slots=True, kw_only=True)
class Bounce:
    """A clip's drawings in order, and what they were planned from; px and frames."""

    width: int
    height: int
    fps: int
    diameter: float
    ground: float
    gravity: float
    speed: float
    exposure: int
    material: str
    halves: bool
    in_place: bool
    kept: float
    contacts: list[float]
    tops: list[float]
    wobble: float
    balls: list[Ball] = field(default_factory=list)

    @property
    def base(self) -> float:
        """The y of a round ball's middle on the ground."""
        return self.ground - self.diameter / 2

    def frames_of(self, which: list[int]) -> tuple[int, int]:
        """The first and the last frame of some drawings, counted from 1."""
        ends = np.cumsum([b.frames for b in self.balls])
        return int(ends[min(which)] - self.balls[min(which)].frames + 1), int(ends[max(which)])

    def flights(self, least: int = 1) -> list[tuple[int | None, list[int], int | None]]:
        """For each hop the contact before, its drawings in the air, and the contact after; so many at least."""
        contacts = [i for i, b in enumerate(self.balls) if b.kind == "contact"]
        found: list[tuple[int | None, list[int], int | None]] = []
        for before, after in zip([None, *contacts], [*contacts, None], strict=True):
            between = range(0 if before is None else before + 1, len(self.balls) if after is None else after)
            air = [i for i in between if self.balls[i].kind == "air"]
            if len(air) >= least:
                found.append((before, air, after))
        return found

    def top_of(self, air: list[int]) -> int:
        return min(air, key=lambda i: self.balls[i].y)

    def gap(self, one: int, other: int) -> float:
        a, b = self.balls[one], self.balls[other]
        return math.hypot(b.x - a.x, b.y - a.y)


def plan(rng: random.Random, wish: Wish) -> Bounce:
    """A bounce of any kind as far as nothing was wished."""
    bounce = _facts(rng, wish)
    half_hop = (bounce.contacts[-1] - bounce.contacts[-2] if len(bounce.contacts) > 1 else bounce.contacts[0]) * 0.4
    end = wish.end or rng.choice(["cut", "rest", "top"])
    last = round((bounce.contacts[-1] + {"top": half_hop, "cut": bounce.exposure, "rest": 0}[end]) / bounce.exposure)
    start = bounce.width / 2
    if not bounce.in_place:
        start = bounce.diameter * 0.9 if bounce.speed > 0 else bounce.width - bounce.diameter * 0.9
    squash = {"soft": rng.uniform(0.66, 0.8), "firm": FIRM_SQUASH, "hard": 1.0}[bounce.material]
    at = {round(t / bounce.exposure): k for k, t in enumerate(bounce.contacts) if k != wish.undrawn}
    for i in range(last + 1):
        time = bounce.contacts[at[i]] if i in at else i * bounce.exposure
        bounce.balls.append(_contact(bounce, start, at[i], squash) if i in at else _flying(bounce, start, time))
    if bounce.halves:
        _by_halves(bounce)
    for ball in bounce.balls:
        if ball.kind == "air":
            ball.y = min(ball.y, bounce.ground - 0.5 - ball.below)
    if end == "rest":
        roll_out(bounce)
    unsteady(bounce, rng)
    return bounce


def _facts(rng: random.Random, wish: Wish) -> Bounce:
    width, height = rng.choice(SIZES)
    diameter, exposure = rng.uniform(36, 96) * width / 960, rng.choice([1, 1, 2])
    halves = rng.random() < 0.25 if wish.halves is None else wish.halves
    aligned = (halves or rng.random() < 0.6) if wish.aligned is None else wish.aligned
    in_place = rng.random() < 0.2 if wish.in_place is None else wish.in_place
    ground, kept = round(height * rng.uniform(0.8, 0.9)) - 0.5, rng.uniform(0.68, 0.88)
    drop, falls = (ground - diameter) * rng.uniform(0.6, 0.85), exposure * rng.randint(5 + (exposure == 1), 8)
    gravity = 2 * drop / falls**2
    contacts, tops, speed = [float(falls)], [drop], gravity * falls
    for k in range(rng.randint(3, 4)):
        arrived, speed = speed, speed * kept + speed * wish.kept_more.get(k, 0.0)
        time = 2 * speed / gravity
        if aligned:
            time = max(4, round(time / exposure)) * exposure
            speed = gravity * time / 2
            if abs(speed / arrived - kept) > 0.07:
                break
        if time < 4 * exposure:
            break
        contacts.append(contacts[-1] + time + wish.longer.get(k + 1, 0))
        tops.append(gravity * time**2 / 8)
    way = rng.choice([-1, 1]) * rng.uniform(0.5, 0.7) * (width - 2 * diameter) / (contacts[-1] * 1.2)
    return Bounce(
        width=width,
        height=height,
        fps=rng.choice(RATES),
        diameter=diameter,
        ground=ground,
        gravity=gravity,
        speed=0.0 if in_place else way,
        exposure=exposure,
        material=wish.material or rng.choice(["soft", "soft", "firm", "hard"]),
        halves=halves,
        in_place=in_place,
        kept=kept,
        contacts=contacts,
        tops=tops,
        wobble=rng.choice([0.0, 0.005, 0.01]),
    )


def _at(bounce: Bounce, time: float) -> tuple[float, float, int]:
    """Height above where it rests, speed up, and number of the hop at a time; px, frames."""
    times = bounce.contacts
    if time <= times[0]:
        return bounce.tops[0] - bounce.gravity * time**2 / 2, -bounce.gravity * time, 0
    hop = next((k for k in range(1, len(times)) if time <= times[k]), len(times))
    usual = times[-1] - times[-2] if len(times) > 1 else 2 * times[0]
    lasts = times[hop] - times[hop - 1] if hop < len(times) else usual * bounce.kept
    top = bounce.tops[hop] if hop < len(times) else bounce.gravity * lasts**2 / 8
    since, pull = time - times[hop - 1], 8 * top / lasts**2
    return max(0.0, pull / 2 * since * (lasts - since)), pull * (lasts / 2 - since), hop


def _flying(bounce: Bounce, start: float, time: float) -> Ball:
    height, rises, hop = _at(bounce, time)
    ball = Ball(
        x=start + bounce.speed * time,
        y=bounce.base - height,
        along=0.0,
        across=0.0,
        angle=0.0,
        frames=bounce.exposure,
        kind="air",
        hop=hop,
    )
    leaves_at = math.sqrt(2 * bounce.gravity * bounce.tops[min(hop, len(bounce.tops) - 1)])
    move = math.hypot(bounce.speed, rises) * bounce.exposure / bounce.diameter
    longer = min(1.0, max(0.0, (move - 0.1) / 0.35)) * min(1.0, abs(rises) / leaves_at) ** 0.7
    ball.shape(bounce.diameter, 1 + STRETCH[bounce.material] * longer, _degrees(bounce.speed, rises))
    return ball


def _degrees(right: float, up: float) -> float:
    return math.degrees(math.atan2(up, right))


def _contact(bounce: Bounce, start: float, number: int, squash: float) -> Ball:
    flat = 1 - (1 - squash) * 0.97**number
    across = bounce.diameter / 2 * math.sqrt(flat)
    return Ball(
        x=start + bounce.speed * bounce.contacts[number],
        y=bounce.ground - across,
        along=across / flat,
        across=across,
        angle=0.0,
        frames=bounce.exposure,
        kind="contact",
        hop=number,
    )


def _by_halves(bounce: Bounce) -> None:
    """The drawings of each side at half, quarter, eighth of the way along the arc from the top to the contact."""
    for before, air, after in bounce.flights(2):
        top = air[0] if before is None else (before + after) // 2 if after is not None else air[-1]
        if before is not None and after is not None:
            high = min(bounce.balls[i].y for i in air)
            ball = bounce.balls[top]
            ball.x, ball.y = (bounce.balls[before].x + bounce.balls[after].x) / 2, high
            ball.shape(bounce.diameter, 1.0, 0.0)
        for foot in (before, after):
            if foot is not None and (after is not None or before is None):
                side_by_halves(bounce, top, foot)


def side_by_halves(bounce: Bounce, top: int, foot: int) -> None:
    high, low, count, way = bounce.balls[top], bounce.balls[foot], abs(foot - top), 1 if foot > top else -1
    fall, reach = bounce.base - high.y, low.x - high.x
    parts = np.linspace(0, 1, 600)
    path = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(parts * reach), np.diff(fall * parts**2)))])
    last = (high.x, high.y)
    for j in range(1, count):
        part = float(np.interp(0.5 ** (count - j) * path[-1], path, parts))
        ball = bounce.balls[top + way * j]
        ball.x, ball.y = high.x + part * reach, high.y + fall * part**2
        move = math.hypot(ball.x - last[0], ball.y - last[1]) / bounce.diameter
        longer = min(1.0, max(0.0, (move - 0.1) / 0.3)) * max(0.0, min(1.0, 1.3 * part - 0.3))
        ball.shape(bounce.diameter, 1 + STRETCH[bounce.material] * longer, _degrees(reach, -2 * fall * part))
        last = (ball.x, ball.y)


def roll_out(bounce: Bounce) -> None:
    """From the last contact the ball rolls to a stop, where it is held."""
    last = max(i for i, b in enumerate(bounce.balls) if b.kind == "contact")
    del bounce.balls[last + 1 :]
    step, x = bounce.speed * bounce.exposure, bounce.balls[-1].x
    while abs(step) > max(1.5, 0.03 * bounce.diameter):
        step *= 0.7
        x += step
        ball = replace(bounce.balls[last], x=x, y=bounce.base, kind="rest", hop=-1)
        ball.shape(bounce.diameter, 1.0, 0.0)
        bounce.balls.append(ball)
    bounce.balls[-1].frames = 4 * bounce.exposure


def unsteady(bounce: Bounce, rng: random.Random) -> None:
    """The hand's own wobble: place and size in the air, size alone on the ground."""
    far = bounce.wobble * bounce.diameter
    for ball in bounce.balls:
        if not far:
            continue
        grown = 1 + rng.uniform(-0.01, 0.01)
        ball.along, ball.across = ball.along * grown, ball.across * grown
        if ball.kind == "air":
            ball.x, ball.y = ball.x + rng.uniform(-far, far), ball.y + rng.uniform(-far, far)
        else:
            ball.y = bounce.ground - ball.below
