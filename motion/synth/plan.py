"""What a careful student would draw for a bounce: one pose a drawing."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from motion.exercises.bounce.ideal import Flight, dropped

Role = Literal["air", "contact", "rest"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pose:
    """One drawing: centre and axes in px, the axes' angle in degrees, and its exposure in frames.

    ``hop`` counts from 0 (the first fall); a contact belongs to the hop that it ends.
    """

    x: float
    y: float
    major: float
    minor: float
    angle: float
    frames: int
    role: Role
    hop: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Recipe:
    """A bounce to plan. Lengths in px, times in frames; ``kept`` has one entry a contact.

    ``stretch`` and ``squash`` are the greatest ratios of the axes along a fast path and on the ground; ``halves``
    places the in-betweens by halves instead of by gravity; ``rest`` is how many drawings roll on at the end.
    """

    width: int = 960
    height: int = 540
    fps: float = 24.0
    diameter: float = 60.0
    ground_y: float = 450.0
    slope: float = 0.0
    drop_px: float = 280.0
    fall_frames: float = 7.3
    kept: tuple[float, ...] = (0.8, 0.78, 0.8)
    start_x: float = 120.0
    speed_x: float = 18.0
    exposure: int = 1
    stretch: float = 1.3
    squash: float = 1.35
    halves: bool = False
    rest: int = 0
    top_hold: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """The poses of a clip with what they were made from."""

    recipe: Recipe
    poses: tuple[Pose, ...]
    gravity: float
    flights: tuple[Flight, ...]

    def first_frame(self, index: int) -> int:
        """The first frame of the pose at ``index`` (from 0)."""
        return 1 + sum(p.frames for p in self.poses[:index])

    @property
    def frames(self) -> int:
        return sum(p.frames for p in self.poses)

    def ground_at(self, x: float) -> float:
        """The ground's y under ``x``."""
        return self.recipe.ground_y + self.recipe.slope * (x - self.recipe.width / 2)


def bounce(recipe: Recipe) -> Plan:
    """Plan a dropped ball: fall, contacts and hops, up to the last hop's top or a rest."""
    gravity = 2 * recipe.drop_px / recipe.fall_frames**2
    flights = dropped(recipe.drop_px, gravity, recipe.kept)
    step = recipe.exposure
    landings = [f.lands for f in flights[:-1]]
    shown = {_grid(time, step): i for i, time in enumerate(landings)}
    last = flights[-1]
    end = _grid(last.lands, step) if recipe.rest else math.floor((last.left + last.lands) / 2 + 0.5)
    poses: list[Pose] = []
    for time in range(1, end + 1, step):
        if time in shown:
            poses.append(_contact_pose(recipe, landings[shown[time]], shown[time], gravity, flights))
        elif recipe.rest and time + step > end:
            break
        else:
            hop = sum(time > landing for landing in landings)
            poses.append(_air_pose(recipe, flights[hop], hop, float(time)))
    if recipe.halves:
        poses = _by_halves(recipe, poses)
    if recipe.rest:
        poses += _rolling(recipe, poses[-1], len(flights) - 1)
    if recipe.top_hold:
        poses = _hold_tops(poses, recipe.top_hold)
    return Plan(recipe=recipe, poses=tuple(poses), gravity=gravity, flights=tuple(flights))


def _grid(time: float, step: int) -> int:
    return 1 + step * math.floor((time - 1) / step + 0.5)


def _ground(recipe: Recipe, x: float) -> float:
    return recipe.ground_y + recipe.slope * (x - recipe.width / 2)


def _air_pose(recipe: Recipe, flight: Flight, hop: int, time: float) -> Pose:
    x = recipe.start_x + recipe.speed_x * (time - 1)
    height = max(0.0, flight.height(time))
    up = flight.rise_speed(time)
    y = _ground(recipe, x) - recipe.diameter / 2 - height
    fastest = math.hypot(recipe.speed_x, math.sqrt(2 * flight.gravity * recipe.drop_px))
    speed = math.hypot(recipe.speed_x, up)
    ratio = 1 + (recipe.stretch - 1) * min(1.0, (speed / fastest)) ** 2 if recipe.stretch > 1 else 1.0
    angle = math.degrees(math.atan2(up, recipe.speed_x)) if speed > 0 else 0.0
    if math.hypot(recipe.speed_x, up) < 0.3 * recipe.diameter:
        ratio = 1.0
    # A stretched ball just off the ground must not reach into it.
    while ratio > 1.01 and _half_height(recipe.diameter, ratio, angle) > recipe.diameter / 2 + height:
        ratio = 1 + (ratio - 1) * 0.8
    return _pose(recipe.diameter, x, y, max(1.0, ratio), angle, recipe.exposure, "air", hop)


def _contact_pose(recipe: Recipe, landing: float, hop: int, gravity: float, flights: list[Flight]) -> Pose:
    x = recipe.start_x + recipe.speed_x * (landing - 1)
    speed = 0.5 * gravity * (flights[hop].lands - flights[hop].left)
    first = 0.5 * gravity * (flights[0].lands - flights[0].left)
    ratio = 1 + (recipe.squash - 1) * speed / first
    half = recipe.diameter / math.sqrt(ratio) / 2
    return _pose(recipe.diameter, x, _ground(recipe, x) - half, ratio, 0.0, recipe.exposure, "contact", hop)


def _rolling(recipe: Recipe, last: Pose, hop: int) -> list[Pose]:
    poses = []
    speed = recipe.speed_x * recipe.exposure
    x = last.x + speed
    for i in range(recipe.rest):
        y = _ground(recipe, x) - recipe.diameter / 2
        poses.append(_pose(recipe.diameter, x, y, 1.0, 0.0, recipe.exposure, "contact" if i == 0 else "rest", hop))
        speed *= 0.8
        x += speed
    return poses


def _half_height(diameter: float, ratio: float, angle: float) -> float:
    turn = math.radians(angle)
    return 0.5 * diameter * math.hypot(math.sqrt(ratio) * math.sin(turn), math.cos(turn) / math.sqrt(ratio))


def _pose(diameter: float, x: float, y: float, ratio: float, angle: float, frames: int, role: Role, hop: int) -> Pose:
    long = diameter * math.sqrt(ratio)
    return Pose(x=x, y=y, major=long, minor=diameter**2 / long, angle=angle, frames=frames, role=role, hop=hop)


def _hold_tops(poses: list[Pose], extra: int) -> list[Pose]:
    from dataclasses import replace

    out = list(poses)
    for hop in {p.hop for p in poses if p.role == "air"}:
        own = [i for i, p in enumerate(poses) if p.hop == hop and p.role == "air"]
        top = min(own, key=lambda i: poses[i].y)
        if top not in (own[0], own[-1]):
            out[top] = replace(out[top], frames=out[top].frames + extra)
    return out


def _by_halves(recipe: Recipe, poses: list[Pose]) -> list[Pose]:
    """In-betweens at half of the gap, half of the half, and so on towards each top, along the same arc."""
    out = list(poses)
    for hop in sorted({p.hop for p in poses}):
        own = [i for i, p in enumerate(poses) if p.hop == hop and p.role == "air"]
        if len(own) < 3:
            continue
        top = min(own, key=lambda i: poses[i].y)
        rise = [i for i in range(own[0] - 1, top + 1) if i >= 0]
        fall = [i for i in range(own[-1] + 1, top - 1, -1) if i < len(poses)]
        for side in (rise, fall):
            if len(side) >= 3 and poses[side[0]].role == "contact":
                _halve(recipe, out, poses, side)
    return out


def _halve(recipe: Recipe, out: list[Pose], poses: list[Pose], side: list[int]) -> None:
    from dataclasses import replace

    low, high = poses[side[0]], poses[side[-1]]
    base = _ground(recipe, low.x) - recipe.diameter / 2
    # Along the arc from the contact (0) to the top (1): across evenly, up by the parabola.
    across = np.linspace(0, 1, 400)
    xs = low.x + (high.x - low.x) * across
    ys = base + (high.y - base) * (1 - (1 - across) ** 2)
    length = np.concatenate([[0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])
    for place, index in enumerate(side[1:-1], start=1):
        at = (1 - 0.5**place) * length[-1]
        out[index] = replace(out[index], x=float(np.interp(at, length, xs)), y=float(np.interp(at, length, ys)))
