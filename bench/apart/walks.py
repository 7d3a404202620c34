"""Walks planned apart: real people's joint angles over a stride, and the trade's four drawings of a step.

Lengths in px, y down, the figure walks to the right and is mirrored afterwards. Nothing here knows the core's ideal.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.interpolate import CubicSpline, PchipInterpolator

from bench.apart import walkers
from bench.apart.standing import Standing

Point = tuple[float, float]
# Degrees over a stride in tenths from a foot's own contact, as gait laboratories publish them for grown people who walk
# at ease: thigh forward, knee bent, foot up.
HIP = (30, 26, 18, 9, 0, -8, -6, 10, 25, 32, 30)
KNEE = (5, 17, 15, 8, 5, 12, 38, 61, 50, 18, 5)
ANKLE = (0, -5, 3, 7, 10, 7, -18, -8, 0, 1, 0)
_TENTHS = np.linspace(0, 1, 11)
_CURVES = CubicSpline(_TENTHS, np.column_stack([HIP, KNEE, ANKLE]), bc_type="periodic")
FLAT = (0.12, 0.42)
LOWEST, STEADIED, CLEARS = 0.06, 0.3, 0.045
SIDES = ("near", "far")
Curve = Callable[[float], float]
Limb = Callable[[float], tuple[Point, float]]
"""At a share of a stride: the ankle from the hip, and how far the toes are up, radians."""
Feet = Callable[[float, float], tuple[Point, float]]
"""At a time in steps, and how late its side is: the ankle, and how far the toes are up."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """How somebody walks and how it is timed. ``leg`` px; ``step`` and others in legs; ``drawings`` a step.

    ``limp`` is how many drawings more every other step has, and the others less. ``slope`` is by how many degrees the
    ground climbs to the right of the picture; who ``enters`` begins outside of it, and leaves it; ``stands`` tells for
    how many frames it stands before its first step, and after its last.
    """

    kind: str
    leg: float
    drawings: int
    exposure: str
    steps: int
    across: bool
    facing: float
    step: float
    rise: float
    lift: float
    bent: float
    foot: float
    high: float
    back: float
    body: float
    width: int
    height: int
    ground: float
    fps: float
    begins: float
    loop: bool
    wobble: float
    upper: walkers.Upper | None = None
    limp: int = 0
    slope: float = 0.0
    enters: bool = False
    stands: tuple[int, int] | None = None

    def ground_at(self, x: float) -> float:
        """The y of the ground at some px from the left."""
        return self.ground - math.tan(math.radians(self.slope)) * (x - self.width / 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Posed:
    """One drawing: landmarks px in the frame, the centre and size of the body, or of the head where it has one.

    ``frames`` is for how many it shows.
    """

    points: dict[str, Point]
    body: tuple[float, float, float, float]
    frames: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Walk:
    """The drawings of a clip; ``contacts`` are (drawing from 0, side)."""

    manner: Manner
    drawings: tuple[Posed, ...]
    contacts: tuple[tuple[int, str], ...]


def manner(rng: random.Random) -> Manner:
    """Any."""
    width, height = rng.choice([(960, 540), (960, 540), (1280, 720), (800, 600)])
    leg = height * rng.uniform(0.24, 0.40)
    across, loop = rng.random() < 0.4, rng.random() < 0.3
    ground = height * rng.uniform(0.86, 0.93)
    return Manner(
        kind=rng.choice(["person", "person", "keys"]),
        leg=leg,
        drawings=rng.choice([6, 8, 8, 10, 12, 12, 14]),
        exposure=rng.choice(["ones", "ones", "twos", "mixed"]),
        steps=4 if loop else rng.choice([3, 4, 4, 5]),
        across=across,
        facing=1.0 if rng.random() < 0.6 else -1.0,
        step=rng.uniform(0.55, 0.85),
        rise=rng.uniform(0.03, 0.09),
        lift=rng.uniform(0.06, 0.16),
        bent=rng.uniform(0.02, 0.07),
        foot=rng.uniform(0.24, 0.33),
        high=rng.uniform(0.06, 0.10),
        back=rng.uniform(0.04, 0.09),
        body=rng.uniform(0.42, 0.7),
        width=width,
        height=height,
        ground=ground,
        fps=rng.choice([24.0, 24.0, 25.0, 12.0]),
        begins=0.0 if loop else rng.choice([0.0, 0.0, 0.3, 0.6]),
        loop=loop,
        wobble=rng.choice([0.0, 0.0, 0.004, 0.008]),
    )


def plan(rng: random.Random, *, whole: bool = False, course: str = "plain") -> Walk:
    """A good walk that stays in the frame, of a body on legs or of a whole figure, on one of the ``COURSES``."""
    while True:
        own = manner(rng)
        if whole:
            own = replace(own, upper=walkers.upper(rng), leg=0.72 * own.leg)
        own = COURSES[course](own, rng)
        walk = _walk(own, rng)
        if walk is not None and (own.enters or all(inside(own, d) for d in walk.drawings)):
            return walk


def _sloping(own: Manner, rng: random.Random) -> Manner:
    return replace(own, slope=rng.choice([-1, 1]) * rng.uniform(2, 7), ground=0.8 * own.height, leg=0.9 * own.leg)


def _through(own: Manner, rng: random.Random) -> Manner:
    steps = math.ceil(1.5 * own.width / (own.step * own.leg)) + 1
    drawings = rng.choice([6, 8, 8, 10])
    return replace(own, across=True, enters=True, loop=False, begins=rng.random(), steps=steps, drawings=drawings)


def _standing(own: Manner, rng: random.Random) -> Manner:
    stands = rng.randint(3, 10), rng.randint(3, 10)
    return replace(own, across=True, loop=False, begins=0.0, steps=rng.choice([4, 5, 6]), stands=stands, kind="keys")


def _long(own: Manner, rng: random.Random) -> Manner:
    return replace(own, across=False, loop=False, steps=200 // own.drawings)


def _short(own: Manner, rng: random.Random) -> Manner:
    return replace(own, steps=rng.choice([1, 2]), drawings=8, exposure="ones", loop=False, begins=0.0)


COURSES: dict[str, Callable[[Manner, random.Random], Manner]] = {
    "plain": lambda own, rng: own,
    "slope": _sloping,
    "through": _through,
    "stands": _standing,
    "long": _long,
    "short": _short,
}
"""Ways that a good walk may go: as it comes, on a slope, through the picture, from standing to a stop, long, short."""


def again(walk: Walk, **changed: Any) -> Walk | None:
    """The same walk with something of its manner changed; None where it cannot be walked so."""
    own = replace(walk.manner, wobble=0.0, **changed)
    walked = _walk(own, random.Random(0))
    return walked if walked is not None and all(inside(own, d) for d in walked.drawings) else None


def inside(own: Manner, drawing: Posed) -> bool:
    """Whether a drawing lies within the frame, with some room around."""
    xs = [p[0] for p in drawing.points.values()]
    x, y, wide, tall = drawing.body
    return min(*xs, x - wide / 2) > 12 and max(*xs, x + wide / 2) < own.width - 12 and y - tall / 2 > 12


def _walk(own: Manner, rng: random.Random) -> Walk | None:
    count = own.steps * own.drawings + (0 if own.loop else 1)
    shown = [frames_of(own, index) for index in range(count)]
    step = sum(frames_of(own, index) for index in range(own.drawings))
    times = [own.begins + sum(shown[:k]) / step for k in range(count)] if not own.limp else _limping(own)
    if own.stands is not None:
        shown[0], shown[-1] = own.stands
    shown = shown if not own.limp else [1 + (own.exposure == "twos")] * len(times)
    model = _model(own)
    if model is None:
        return None
    speed = model.speed
    poses = []
    for time in times:
        places = model.at(time)
        if places is None:
            return None
        shift = 0.0 if own.across else -speed * time
        if own.upper is not None:
            places |= walkers.above(own.upper, places["hip"], time, own.leg)
        poses.append({name: (x + shift, y) for name, (x, y) in places.items()})
    middle = own.width / 2 if not own.across else own.width * (-0.25 if own.enters else 0.16)
    left = poses[0]["hip"][0]
    turn = math.radians(-own.slope * own.facing)
    drawn = []
    for index, pose in enumerate(poses):
        moved = {n: _turned((middle + x - left, y), own.width / 2, turn) for n, (x, y) in pose.items()}
        moved = {n: (x, own.ground + y) for n, (x, y) in moved.items()}
        if own.wobble:
            moved = {n: shaken(p, own.wobble * own.leg, rng) for n, p in moved.items()}
        if own.facing < 0:
            moved = {n: (own.width - 1 - x, y) for n, (x, y) in moved.items()}
        drawn.append(Posed(points=moved, body=body_of(own, moved), frames=shown[index]))
    contacts = [
        (next(i for i, t in enumerate(times) if t >= k - 1e-6), SIDES[k % 2])
        for k in range(-1, own.steps + 3)
        if times[0] - 1e-6 <= k <= times[-1] + 1e-6
    ]
    return Walk(manner=own, drawings=tuple(drawn), contacts=tuple(contacts))


def _turned(point: Point, about: float, turn: float) -> Point:
    """A point turned by some radians about that place of the ground."""
    c, s = math.cos(turn), math.sin(turn)
    return about + c * (point[0] - about) - s * point[1], s * (point[0] - about) + c * point[1]


def _model(own: Manner) -> _Model | None:
    if own.stands is not None:
        model = Standing(own)
        return _Model(own, (lambda t: model.hip(t)[0], lambda t: model.hip(t)[1]), model.ankle, 0.0, whole=True)
    return _person(own) if own.kind == "person" else _keys(own)


def _limping(own: Manner) -> list[float]:
    """The times of drawings of which every other step has more, in steps."""
    counts = [own.drawings + (own.limp if k % 2 else -own.limp) for k in range(own.steps)]
    return [k + j / count for k, count in enumerate(counts) for j in range(count)] + [float(own.steps)]


def body_of(own: Manner, points: dict[str, Point]) -> tuple[float, float, float, float]:
    """The middle of a body, or of a whole figure's head, and how wide and tall it is, px."""
    if own.upper is not None:
        wide, tall = (v * own.leg for v in own.upper.head)
        return *points["head"], wide, tall
    (x, y), tall = points["hip"], own.body * own.leg
    return x, y - 0.3 * tall, 0.8 * tall, tall


def frames_of(own: Manner, index: int) -> int:
    """For how many frames a drawing shows; mixed: the first half of each step on twos."""
    return {"ones": 1, "twos": 2}.get(own.exposure, 2 if index % own.drawings < own.drawings // 2 else 1)


def shaken(point: Point, by: float, rng: random.Random) -> Point:
    """A point that a hand put some px away."""
    return point[0] + rng.gauss(0, by / 2), point[1] + rng.gauss(0, by / 2)


class _Model:
    """Landmarks at a time in steps, the ground at y = 0, y down. ``speed`` is px a step.

    Curves and feet are those of a stride that recurs, or of the ``whole`` walk.
    """

    def __init__(
        self, own: Manner, hips: tuple[Curve, Curve], feet: Feet, speed: float, *, whole: bool = False
    ) -> None:
        self.own, self.hips, self.feet, self.speed, self.whole = own, hips, feet, speed, whole

    def at(self, time: float) -> dict[str, Point] | None:
        own = self.own
        turn = time if self.whole else time % 2.0
        gone = (time - turn) * self.speed
        hip = float(self.hips[0](turn)) + gone, float(self.hips[1](turn))
        found = {"hip": hip}
        for side, late in (("near", 0.0), ("far", 1.0)):
            ankle, pitch = self.feet(turn, late)
            ankle = ankle[0] + gone, ankle[1]
            knee = _knee(hip, ankle, own.leg / 2)
            if knee is None:
                return None
            heel, toe = sole(own, ankle, pitch)
            found |= {f"knee_{side}": knee, f"ankle_{side}": ankle, f"heel_{side}": heel, f"toe_{side}": toe}
        return found


def sole(own: Manner, ankle: Point, pitch: float) -> tuple[Point, Point]:
    """Heel and toe under an ankle, the toes up by so many radians."""
    c, s = math.cos(pitch), math.sin(pitch)
    ends = []
    for along in (-own.back, own.foot - own.back):
        x, y = along * own.leg, own.high * own.leg
        ends.append((ankle[0] + c * x + s * y, ankle[1] - s * x + c * y))
    return ends[0], ends[1]


def _knee(hip: Point, ankle: Point, link: float) -> Point | None:
    far = math.dist(hip, ankle)
    if far >= 2 * link * 0.9995:
        return None
    aside = math.sqrt(link * link - far * far / 4)
    ux, uy = (ankle[0] - hip[0]) / far, (ankle[1] - hip[1]) / far
    return (hip[0] + ankle[0]) / 2 + aside * uy, (hip[1] + ankle[1]) / 2 - aside * ux


@lru_cache(maxsize=1 << 14)
def _angles(stride: float) -> tuple[float, float, float]:
    """Thigh, knee and how far the toes are up, radians, at a share of a foot's stride."""
    hip, knee, ankle = _CURVES(stride % 1.0).tolist()
    pitch = hip - knee + ankle
    if FLAT[0] <= stride % 1.0 <= FLAT[1]:
        pitch = 0.0
    elif stride % 1.0 < FLAT[0]:
        pitch *= 1 - (stride % 1.0) / FLAT[0]
    elif stride % 1.0 < 0.6:
        pitch *= ((stride % 1.0 - FLAT[1]) / (0.6 - FLAT[1])) ** 0.7
    return math.radians(hip), math.radians(knee), math.radians(pitch)


def _person(own: Manner) -> _Model | None:
    """Joint angles, with the standing foot held to the ground."""
    scale = own.step / 0.75
    fine = np.linspace(0, 2, 161)

    def leg(stride: float) -> tuple[Point, float]:
        hip, knee, pitch = _angles(stride)
        hip, knee = hip * scale, max(0.06, knee)
        link = own.leg / 2
        return (
            link * (math.sin(hip) + math.sin(hip - knee)),
            link * (math.cos(hip) + math.cos(hip - knee)),
        ), pitch

    hips_x, hips_y = [0.0], []
    for k, time in enumerate(fine):
        lows = []
        for late in (0.0, 1.0):
            (x, y), pitch = leg((time - late) / 2)
            heel, toe = sole(own, (x, y), pitch)
            lows.append(max(heel[1], toe[1]))
        hips_y.append(-max(lows))
        if k:
            late = 0.0 if fine[k - 1] < 1 else 1.0
            early = ((fine[k - 1] - late) / 2) % 1.0 < FLAT[0]
            before, after = (_anchor(own, leg((t - late) / 2), heel=early) for t in (fine[k - 1], time))
            hips_x.append(hips_x[-1] - (after - before))
    speed = (hips_x[-1] - hips_x[0]) / 2
    if speed <= 0.3 * own.leg:
        return None
    # People's hips are lowest while both feet stand, and their speed varies by a tenth or two within a step.
    middle = float(np.mean(hips_y)) + own.bent * own.leg * 0.4
    ys = middle + own.rise * own.leg / 2 * np.cos(2 * math.pi * (fine - LOWEST))
    ys[-1] = ys[0]
    drift = STEADIED * (np.array(hips_x) - speed * fine)
    drift[-1] = drift[0]
    smooth_x = CubicSpline(fine, drift, bc_type="periodic")
    for lower in np.arange(0.0, 0.16, 0.01) * own.leg:
        # As high as all that its feet do allows.
        smooth_y = CubicSpline(fine, ys + lower, bc_type="periodic")
        hips = _line(smooth_x, speed), _line(smooth_y, 0.0)
        model = _Model(own, hips, _feet_of(own, hips, leg), speed)
        if all(model.at(float(t)) is not None for t in fine[::4]):
            return model
    return None


def _line(curve: CubicSpline, speed: float) -> Curve:
    return lambda t: float(curve(t)) + speed * t


def _anchor(own: Manner, leg: tuple[Point, float], *, heel: bool) -> float:
    """How far forward of the hips the end is on which a foot stands."""
    back, front = sole(own, leg[0], leg[1])
    return back[0] if heel else front[0]


def _feet_of(own: Manner, hips: tuple[Curve, Curve], leg: Limb) -> Feet:
    """Feet that stand where they landed, and swing as their joints have them."""
    hx, hy = hips

    def feet(turn: float, late: float) -> tuple[Point, float]:
        stride = ((turn - late) / 2) % 1.0
        landed = turn - 2 * stride
        (_, y), pitch = leg(stride)
        start = placed(landed)
        heel0, _ = sole(own, start[0], start[1])
        flat_toe = heel0[0] + own.foot * own.leg
        if stride < 0.58:
            heel, toe = sole(own, (0.0, 0.0), pitch)
            if stride <= FLAT[1]:
                return (heel0[0] - heel[0], -max(heel[1], toe[1])), pitch
            return (flat_toe - toe[0], -toe[1]), pitch
        # From where it left to where it lands next, by its joints, with what both ends are off spread over the way.
        share = (stride - 0.58) / 0.42
        eased = share * share * (3 - 2 * share)
        gone = eased
        here = (0.0, float(hy(turn)) + y)
        leave, _ = feet(landed + 2 * 0.5799, late)
        (_, ly), _ = leg(0.58)
        off0 = (0.0, leave[1] - (float(hy(landed + 1.16)) + ly))
        nxt = placed(landed + 2)
        (_, ey), _ = leg(0.0)
        off1 = (0.0, nxt[0][1] - (float(hy(landed + 2)) + ey))
        y_off = off0[1] + (off1[1] - off0[1]) * eased
        forward = leave[0] + (nxt[0][0] - leave[0]) * gone
        ankle = forward, here[1] + y_off - CLEARS * own.leg * math.sin(math.pi * share)
        low = max(p[1] for p in sole(own, ankle, pitch))
        return (ankle[0], ankle[1] - max(0.0, low)), pitch

    def placed(time: float) -> tuple[Point, float]:
        (x, _), pitch = leg(0.0)
        heel, toe = sole(own, (0.0, 0.0), pitch)
        return (float(hx(time)) + x, -max(heel[1], toe[1])), pitch

    return feet


def _keys(own: Manner) -> _Model | None:
    """Contact, down, passing, up, drawn one by one and eased between."""
    speed = own.step * own.leg
    reach = own.leg * (1 - own.bent)
    half = speed / 2
    lowest = -(own.high * own.leg + math.sqrt(max(1.0, reach**2 - half**2))) * 0.985
    rise = own.rise * own.leg
    phases = np.array([0.0, 0.2, 0.5, 0.75, 1.0])
    heights = lowest - rise * np.array([0.55, 0.0, 0.75, 1.0, 0.55])
    both = np.concatenate([phases[:-1], phases + 1])
    hy = CubicSpline(both, np.concatenate([heights[:-1], heights]), bc_type="periodic")
    lift = own.lift * own.leg
    up = PchipInterpolator([1.1, 1.3, 1.5, 1.75, 2.0], [0.0, 0.8 * lift, lift, 0.6 * lift, 0.0])
    go = PchipInterpolator([1.1, 1.3, 1.5, 1.75, 2.0], [0.0, 0.35, 0.95, 1.6, 2.0])
    roll = PchipInterpolator([0, 0.18, 0.8, 1.1, 1.5, 1.8, 2.0], np.radians([20, 0, 0, -28, -8, 12, 20]))

    def feet(turn: float, late: float) -> tuple[Point, float]:
        since = (turn - late) % 2.0
        landed = turn - since
        pitch = float(roll(since))
        place = (landed + 0.5) * speed - 0.5 * own.foot * own.leg + own.back * own.leg
        heel, toe = sole(own, (0.0, 0.0), pitch)
        if since <= 0.5:
            return (place - own.back * own.leg - heel[0], -max(heel[1], toe[1])), pitch
        front = place + (own.foot - own.back) * own.leg
        if since <= 1.1:
            return (front - toe[0], -max(heel[1], toe[1])), pitch
        left = front - sole(own, (0.0, 0.0), float(roll(1.1)))[1][0]
        nxt = place + 2 * speed - own.back * own.leg - sole(own, (0.0, 0.0), float(roll(2.0)))[0][0]
        share = float(go(since)) / 2
        return (left + share * (nxt - left), -max(heel[1], toe[1]) - float(up(since))), pitch

    return _Model(own, (lambda t: speed * t, _line(hy, 0.0)), feet, speed)


def with_drawings(walk: Walk, changed: dict[int, Posed]) -> Walk:
    """The walk with some drawings put in place of its own."""
    return replace(walk, drawings=tuple(changed.get(i, d) for i, d in enumerate(walk.drawings)))
