"""Faults planted at 2.5 times their tolerance, or whole where they are the lack of something.

Each takes a bounce and tells which of its drawings, by index, it made wrong; none where the bounce has no room for it.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from bench.apart.bounces import Ball, Bounce, Wish

TIMES = 2.5
Plant = Callable[[random.Random, Bounce], list[int]]
NOWHERE: list[int] = []


def _least_px(bounce: Bounce, px: float) -> float:
    return px * max(1.0, bounce.width / 960)


def _inner(rng: random.Random, bounce: Bounce, least: int = 5) -> int | None:
    """A drawing in the air with others on both sides, no top."""
    places = [i for _, air, _ in bounce.flights(least) for i in air[1:-1] if i != bounce.top_of(air)]
    return rng.choice(places) if places else None


def _way(bounce: Bounce, at: int) -> tuple[float, float]:
    before, after = bounce.balls[at - 1], bounce.balls[at + 1]
    far = math.hypot(after.x - before.x, after.y - before.y) or 1.0
    return (after.x - before.x) / far, (after.y - before.y) / far


def jump(rng: random.Random, bounce: Bounce) -> list[int]:
    """One drawing too far along its path, or too far back."""
    at = _inner(rng, bounce)
    if at is None:
        return NOWHERE
    gap, (right, down), ball = min(bounce.gap(at - 1, at), bounce.gap(at, at + 1)), _way(bounce, at), bounce.balls[at]
    far = TIMES * max(0.18 * gap, 0.05 * bounce.diameter) * rng.choice([-1, 1])
    ball.x, ball.y = ball.x + right * far, ball.y + down * far
    return [at]


def off_path(rng: random.Random, bounce: Bounce) -> list[int]:
    """One drawing beside its path."""
    at = None if bounce.in_place else _inner(rng, bounce)
    if at is None:
        return NOWHERE
    (right, down), ball = _way(bounce, at), bounce.balls[at]
    far = TIMES * max(0.07 * bounce.diameter, _least_px(bounce, 2)) * rng.choice([-1, 1])
    ball.x, ball.y = ball.x - down * far, ball.y + right * far
    return [at]


def _side(rng: random.Random, bounce: Bounce, sides: str, least: int) -> tuple[int, int] | None:
    """A top and the contact beside it, so many drawings apart."""
    found = []
    for before, air, after in bounce.flights():
        top = bounce.top_of(air)
        ends = ([before] if "rise" in sides else []) + ([after] if "fall" in sides else [])
        found += [(top, end) for end in ends if end is not None and abs(end - top) >= least]
    return rng.choice(found) if found else None


def _respaced(bounce: Bounce, side: tuple[int, int], fallen: Callable[[float], float]) -> list[int]:
    """A side's drawings at such shares of its height, told by the share of its time, on the same arc."""
    top, foot = side
    high, low, count, way = bounce.balls[top], bounce.balls[foot], abs(foot - top), 1 if foot > top else -1
    for j in range(1, count):
        ball, part = bounce.balls[top + way * j], fallen(j / count)
        ball.x, ball.y = high.x + (low.x - high.x) * math.sqrt(part), high.y + (bounce.base - high.y) * part
        ball.y = min(ball.y, bounce.ground - 0.5 - ball.below)
    return [top + way * j for j in range(count)]


def even(rng: random.Random, bounce: Bounce) -> list[int]:
    """A rise or a fall in even steps along its arc."""
    side = _side(rng, bounce, "rise or fall", 4)
    if side is None:
        return NOWHERE
    high, low = (bounce.balls[i] for i in side)
    parts = np.linspace(0, 1, 400)
    steps = np.hypot(np.diff(parts * (low.x - high.x)), np.diff((bounce.base - high.y) * parts**2))
    path = np.concatenate([[0.0], np.cumsum(steps)])
    return _respaced(bounce, side, lambda time: float(np.interp(time * path[-1], path, parts)) ** 2)


def _backwards(rng: random.Random, bounce: Bounce, which: str) -> list[int]:
    side = _side(rng, bounce, which, 5)
    return NOWHERE if side is None else _respaced(bounce, side, lambda time: time * (2 - time))


def hangs(rng: random.Random, bounce: Bounce) -> list[int]:
    """A top that is held, or about which more drawings crowd."""
    whole = [(a, air, b) for a, air, b in bounce.flights(5) if a is not None and b is not None]
    if not whole or bounce.halves:
        return NOWHERE
    before, air, after = rng.choice(whole)
    assert before is not None and after is not None
    top = bounce.top_of(air)
    more = math.ceil(TIMES * max(2, 0.25 * (after - before) * bounce.exposure * math.sqrt(0.1)))
    if rng.random() < 0.5:
        bounce.balls[top].frames += more
        return [top]
    ball, next_one, count = bounce.balls[top], bounce.balls[top + 1], math.ceil(more / bounce.exposure)
    shares = [(j + 1) / (count + 1) for j in range(count)]
    bounce.balls[top + 1 : top + 1] = [
        replace(ball, x=ball.x + 0.25 * s * (next_one.x - ball.x), y=ball.y + 0.08 * s * s * (next_one.y - ball.y))
        for s in shares
    ]
    return list(range(top, top + count + 1))


def dead_stop(rng: random.Random, bounce: Bounce) -> list[int]:
    """A ball that rolls at full speed and stands."""
    contacts = [i for i, b in enumerate(bounce.balls) if b.kind == "contact"]
    if bounce.in_place or len(contacts) < 2:
        return NOWHERE
    last, step = contacts[-1], bounce.speed * bounce.exposure
    usual = sum(bounce.gap(i, i + 1) for i in range(contacts[-2], last)) / (last - contacts[-2])
    ends = bounce.balls[last].x + 4 * step
    if abs(step) < 0.6 * usual or not bounce.diameter / 2 < ends < bounce.width - bounce.diameter / 2:
        return NOWHERE
    del bounce.balls[last + 1 :]
    for j in range(1, 5):
        ball = replace(bounce.balls[last], x=bounce.balls[last].x + j * step, y=bounce.base, kind="rest")
        ball.shape(bounce.diameter, 1.0, 0.0)
        bounce.balls.append(ball)
    bounce.balls[-1].frames = 8
    return [last + 3, last + 4]


def _arc(rng: random.Random, bounce: Bounce) -> tuple[int, list[int], int] | None:
    wide = [
        (a, air, b)
        for a, air, b in bounce.flights(5)
        if a is not None and b is not None and abs(bounce.balls[b].x - bounce.balls[a].x) > 1.2 * bounce.diameter
    ]
    return None if bounce.in_place or not wide else rng.choice(wide)


def leaning(rng: random.Random, bounce: Bounce) -> list[int]:
    """An arc pushed over to one side."""
    arc = _arc(rng, bounce)
    if arc is None:
        return NOWHERE
    before, air, after = arc
    off = TIMES * 0.08 * abs(bounce.balls[after].x - bounce.balls[before].x)
    if off < TIMES * max(0.07 * bounce.diameter, _least_px(bounce, 2)):
        return NOWHERE
    high, way = bounce.balls[bounce.top_of(air)].y, rng.choice([-1, 1])
    for i in air:
        bounce.balls[i].x += way * off * (bounce.base - bounce.balls[i].y) / (bounce.base - high)
    return air


def straight(rng: random.Random, bounce: Bounce) -> list[int]:
    """An arc whose legs are straight."""
    arc = _arc(rng, bounce)
    if arc is None:
        return NOWHERE
    before, air, after = arc
    top = bounce.balls[bounce.top_of(air)]
    for i in air:
        ball, foot = bounce.balls[i], bounce.balls[before if i < bounce.top_of(air) else after]
        ball.x = foot.x + (top.x - foot.x) * (bounce.base - ball.y) / (bounce.base - top.y)
    return air


def _in_air(rng: random.Random, bounce: Bounce, fits: Callable[[int, Ball], bool]) -> int | None:
    places = [i for _, air, _ in bounce.flights() for i in air if 0 < i < len(bounce.balls) - 1]
    places = [i for i in places if fits(i, bounce.balls[i])]
    return rng.choice(places) if places else None


def volume(rng: random.Random, bounce: Bounce) -> list[int]:
    """One drawing with too much ball, or too little."""
    high = 1.3 * bounce.diameter
    at = _in_air(rng, bounce, lambda _, b: bounce.ground - b.y > high)
    if at is not None:
        grown = math.sqrt(1 + TIMES * 0.12 * rng.choice([-1, 1]))
        bounce.balls[at].along, bounce.balls[at].across = (
            bounce.balls[at].along * grown,
            bounce.balls[at].across * grown,
        )
    return NOWHERE if at is None else [at]


def _fast_contacts(bounce: Bounce) -> list[int]:
    far = 0.65 * bounce.diameter
    return [i for i, b in enumerate(bounce.balls[:-1]) if b.kind == "contact" and i > 1 and bounce.gap(i - 1, i) > far]


def stretch_missing(rng: random.Random, bounce: Bounce) -> list[int]:
    """A soft ball that stays round in the air."""
    fast = [i for i in _fast_contacts(bounce) if bounce.gap(i - 2, i - 1) > 0.6 * bounce.diameter]
    if not fast or bounce.halves:
        return NOWHERE
    for ball in bounce.balls:
        if ball.kind == "air":
            ball.shape(bounce.diameter, 1.0, 0.0)
    return [fast[0] - 1, fast[0], fast[0] + 1]


def stretch_across(rng: random.Random, bounce: Bounce) -> list[int]:
    """A long drawing that is turned off its path."""
    far, high = 0.45 * bounce.diameter, 1.3 * bounce.diameter

    def fits(i: int, ball: Ball) -> bool:
        fast = bounce.gap(i - 1, i) > far and bounce.gap(i, i + 1) > far
        return ball.ratio > 1.17 and fast and bounce.ground - ball.y > high

    at = _in_air(rng, bounce, fits)
    if at is not None:
        bounce.balls[at].angle += TIMES * 18 * rng.choice([-1, 1])
    return NOWHERE if at is None else [at]


def stretch_at_top(rng: random.Random, bounce: Bounce) -> list[int]:
    """A top that is long, any way near to level."""
    whole = [air for a, air, b in bounce.flights(5) if a is not None and b is not None]
    if not whole:
        return NOWHERE
    top = bounce.top_of(rng.choice(whole))
    bounce.balls[top].shape(bounce.diameter, 1 + TIMES * 0.12, rng.choice([0, 0, 20, -20]))
    return [top]


def squash_missing(rng: random.Random, bounce: Bounce) -> list[int]:
    """A round contact that a soft ball reaches fast."""
    fast = _fast_contacts(bounce)
    if not fast:
        return NOWHERE
    at = rng.choice(fast)
    bounce.balls[at].shape(bounce.diameter, 1.0, 0.0)
    bounce.balls[at].y = bounce.base
    return [at]


def squash_in_air(rng: random.Random, bounce: Bounce) -> list[int]:
    """A flat drawing on a steep part of the path."""
    high = 0.9 * bounce.diameter
    at = _in_air(rng, bounce, lambda i, b: bounce.ground - b.y > high and abs(_way(bounce, i)[1]) > 0.65)
    if at is not None:
        bounce.balls[at].shape(bounce.diameter, 1 / (1 - TIMES * 0.12), 0.0)
    return NOWHERE if at is None else [at]


def unwanted(rng: random.Random, bounce: Bounce) -> list[int]:
    """A long drawing of a ball that should keep its shape."""
    high = 1.3 * bounce.diameter
    at = _in_air(rng, bounce, lambda _, b: bounce.ground - b.y > high)
    if at is not None:
        right, down = _way(bounce, at)
        ratio = 1 + TIMES * {"hard": 0.08, "firm": 0.25}[bounce.material]
        bounce.balls[at].shape(bounce.diameter, ratio, math.degrees(math.atan2(-down, right)))
    return NOWHERE if at is None else [at]


def _contact(rng: random.Random, bounce: Bounce) -> int | None:
    places = [before for before, air, _ in bounce.flights() if before and before == air[0] - 1]
    return rng.choice(places) if places else None


def gap(rng: random.Random, bounce: Bounce) -> list[int]:
    """A contact that hangs."""
    at, off = _contact(rng, bounce), TIMES * max(0.04 * bounce.diameter, _least_px(bounce, 2))
    if at is None or off > 0.28 * bounce.diameter:
        return NOWHERE
    bounce.balls[at].y -= off
    return [at]


def through(rng: random.Random, bounce: Bounce) -> list[int]:
    """A contact that goes into the ground."""
    at = _contact(rng, bounce)
    if at is not None:
        bounce.balls[at].y += TIMES * max(0.04 * bounce.diameter, _least_px(bounce, 2))
    return NOWHERE if at is None else [at]


def slides(rng: random.Random, bounce: Bounce) -> list[int]:
    """A contact of two drawings between which it skids."""
    at, carried = _contact(rng, bounce), abs(bounce.speed) * bounce.exposure
    far = math.copysign(carried + TIMES * max(0.1 * bounce.diameter, carried), bounce.speed)
    if at is None or not all(0 < b.x + far < bounce.width for b in bounce.balls[at:]):
        return NOWHERE
    bounce.balls.insert(at + 1, replace(bounce.balls[at]))
    for ball in bounce.balls[at + 1 :]:
        ball.x += far
    return [at, at + 1]


def sticks(rng: random.Random, bounce: Bounce) -> list[int]:
    """A contact that is held."""
    at = _contact(rng, bounce)
    if at is not None:
        usual = {"hard": 3, "firm": 4, "soft": 6}[bounce.material] * bounce.fps / 24
        bounce.balls[at].frames = math.ceil(TIMES * usual)
    return NOWHERE if at is None else [at]


def hold(rng: random.Random, bounce: Bounce) -> list[int]:
    """A drawing held in the middle of a rise or a fall."""
    places = []
    for _, air, _ in bounce.flights(5):
        low = bounce.base - 0.75 * (bounce.base - bounce.balls[bounce.top_of(air)].y)
        places += [i for i in air[1:-1] if bounce.balls[i].y > low and i > 1]
    if not places:
        return NOWHERE
    at = rng.choice(places)
    bounce.balls[at].frames = bounce.exposure + 3
    return [at]


def _hop(number: int) -> Plant:
    return lambda _, bounce: [i for i, b in enumerate(bounce.balls) if b.kind == "air" and b.hop == number]


def _beside(number: int) -> Plant:
    def told(_: random.Random, bounce: Bounce) -> list[int]:
        found = [i for i, b in enumerate(bounce.balls) if b.kind == "contact" and abs(b.hop - number) <= 1]
        return found if len(found) > 1 and len(bounce.contacts) > max(3, number + 1) else NOWHERE

    return told


def _undrawn(rng: random.Random, bounce: Bounce) -> list[int]:
    if len(bounce.contacts) < 3:
        return NOWHERE
    at = bounce.contacts[1] / bounce.exposure
    return [int(at), int(at) + 1] if 0.42 < at % 1 < 0.58 and int(at) + 2 < len(bounce.balls) else NOWHERE


SOFT, STIFF = Wish(material="soft"), Wish(material="hard")
BY_GRAVITY = Wish(halves=False, aligned=False)
PLANTS: dict[str, tuple[Wish, Plant]] = {
    "spacing.jump": (Wish(), jump),
    "spacing.even": (Wish(), even),
    "spacing.faster_rising": (Wish(halves=False), lambda rng, b: _backwards(rng, b, "rise")),
    "spacing.slower_falling": (Wish(halves=False), lambda rng, b: _backwards(rng, b, "fall")),
    "spacing.hangs": (Wish(), hangs),
    "spacing.dead_stop": (Wish(end="cut"), dead_stop),
    "arc.off_path": (Wish(in_place=False), off_path),
    "arc.leaning": (Wish(in_place=False), leaning),
    "arc.straight": (Wish(in_place=False), straight),
    "volume.changes": (Wish(), volume),
    "stretch.missing": (SOFT, stretch_missing),
    "stretch.across": (SOFT, stretch_across),
    "stretch.at_top": (SOFT, stretch_at_top),
    "squash.missing": (SOFT, squash_missing),
    "squash.in_air": (Wish(), squash_in_air),
    "shape.unwanted": (STIFF, unwanted),
    "contact.gap": (Wish(), gap),
    "contact.through": (Wish(), through),
    "contact.slides": (Wish(), slides),
    "contact.sticks": (Wish(), sticks),
    "contact.missed": (replace(BY_GRAVITY, undrawn=1), _undrawn),
    "timing.hold": (Wish(halves=False), hold),
    "timing.hop": (Wish(halves=False, longer={2: 6}), _hop(2)),
    "timing.rhythm": (replace(BY_GRAVITY, kept_more={1: -TIMES * 0.12}), _beside(1)),
}
"""What to wish of a bounce for each code, and how its fault is planted there, or where it then is."""
