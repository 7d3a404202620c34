"""The ideal bounce drawn out: one pose a drawing, with a contact drawing wherever a hop meets the ground.

The same plan is the brief's guide, what the generator draws, and what a guide's own checks look at.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from motion.exercises.bounce import shapes
from motion.exercises.bounce.ideal import Flight, dropped
from motion.exercises.bounce.shapes import Axes, Role

End = Literal["top", "rest", "leaves", "cycle"]

GONE_D = 0.25
"""A ball that leaves is drawn until its centre is so far (in diameters) outside the frame."""
MOST_DRAWINGS = 4000
"""Where a plan is broken off, whatever was asked."""


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
    """A bounce to plan. Lengths in px, times in frames; ``kept`` has one share of speed for each contact.

    The ball falls ``drop_px`` in ``fall_frames``; the clip begins ``lead`` frames before its first top. ``stretch``
    and ``squash`` are the greatest ratios of the axes along a fast path and on the ground. It ends at the last hop's
    top, at rest after ``rest`` drawings that roll to a stop (the last one held ``last_hold`` frames longer), outside
    the frame, or one exposure before the first top comes round again. ``halves`` places the in-betweens by halves
    instead of by gravity; ``top_hold`` holds each top; ``shares`` sets single drawings (counted from 1) at a share of
    the way from the key before to the key after.
    """

    width: int = 960
    height: int = 540
    fps: float = 24.0
    diameter: float = 60.0
    ground_y: float = 450.0
    slope: float = 0.0
    drop_px: float = 280.0
    fall_frames: float = 7.3
    lead: float = 0.0
    kept: tuple[float, ...] = (0.8, 0.78, 0.8)
    start_x: float = 120.0
    speed_x: float = 18.0
    exposure: int = 1
    stretch: float = 1.3
    squash: float = 1.35
    halves: bool = False
    end: End = "top"
    rest: int = 0
    last_hold: int = 0
    top_hold: int = 0
    shares: tuple[tuple[int, float], ...] = ()

    @property
    def gravity(self) -> float:
        """Px per frame²: g = 2 h / t²."""
        return 2 * self.drop_px / self.fall_frames**2


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """The poses of a clip with what they were made from."""

    recipe: Recipe
    poses: tuple[Pose, ...]
    flights: tuple[Flight, ...]

    @property
    def width(self) -> int:
        return self.recipe.width

    @property
    def height(self) -> int:
        return self.recipe.height

    @property
    def fps(self) -> float:
        return self.recipe.fps

    @property
    def floor(self) -> tuple[float, float]:
        """The ground's y in the middle of the frame, px, and its slope."""
        return self.recipe.ground_y, self.recipe.slope

    @property
    def gravity(self) -> float:
        return self.recipe.gravity

    def first_frame(self, index: int) -> int:
        """The first frame of the pose at ``index`` (from 0)."""
        return 1 + sum(p.frames for p in self.poses[:index])

    @property
    def frames(self) -> int:
        return sum(p.frames for p in self.poses)

    def ground_at(self, x: float) -> float:
        """The ground's y under ``x``."""
        return ground_at(self.recipe, x)


def ground_at(recipe: Recipe, x: float) -> float:
    """The ground's y under ``x``, px."""
    return recipe.ground_y + recipe.slope * (x - recipe.width / 2)


def bounce(recipe: Recipe) -> Plan:
    """Plan a bounce. A true contact between two frames is shown by the drawing that is nearest to it in time."""
    flights = dropped(recipe.drop_px, recipe.gravity, recipe.kept, 1 + recipe.lead)
    poses = _in_the_air(recipe, flights)
    if recipe.halves:
        # A cycle's last drawings go towards the first top, which comes next.
        coming = [replace(poses[0], hop=poses[-1].hop)] if recipe.end == "cycle" else []
        poses = _by_halves(recipe, [*poses, *coming])[: len(poses)]
    if recipe.end == "rest":
        poses += _coming_to_rest(recipe, flights)
    if recipe.shares:
        poses = _shared(recipe, flights, poses)
    if recipe.top_hold:
        poses = _hold_tops(poses, recipe.top_hold)
    return Plan(recipe=recipe, poses=tuple(poses), flights=tuple(flights))


def keys_of(plan: Plan) -> list[int]:
    """Indices of the key drawings: the first and the last, each contact, and each hop's highest drawing.

    What rolls or lies still has its first and its last drawing as keys. Drawings that were set at a share by hand
    are in-betweens, however high they stand now.
    """
    recipe = plan.recipe
    return _keys(bounce(replace(recipe, shares=())).poses if recipe.shares else plan.poses)


def _keys(poses: Sequence[Pose]) -> list[int]:
    keys = {0, len(poses) - 1}
    keys |= {i for i, p in enumerate(poses) if p.role == "contact"}
    for hop in {p.hop for p in poses}:
        own = [i for i, p in enumerate(poses) if p.hop == hop and p.role == "air"]
        if own:
            keys.add(min(own, key=lambda i: poses[i].y))
    return sorted(keys)


def shares_of(plan: Plan) -> dict[int, float]:
    """How far each in-between (index from 0) is on its way from the key before to the key after, 0 to 1.

    Measured along the path; contacts count where the ball truly lands.
    """
    by_hand, shares = dict(plan.recipe.shares), dict[int, float]()
    for before, after in itertools.pairwise(keys_of(plan)):
        for index in range(before + 1, after):
            if plan.poses[index].role == "air":
                shares[index] = by_hand.get(index + 1) or _ideal_share(plan, before, index, after)
            else:
                way = plan.poses[after].x - plan.poses[before].x
                shares[index] = (plan.poses[index].x - plan.poses[before].x) / way if way else 1.0
    return shares


def _ideal_share(plan: Plan, before: int, index: int, after: int) -> float:
    flight, step = plan.flights[plan.poses[index].hop], plan.recipe.exposure
    span = _times(before, after, plan.poses, flight, step)
    return _share_of_time(plan.recipe, flight, span, 1.0 + index * step)


def _in_the_air(recipe: Recipe, flights: list[Flight]) -> list[Pose]:
    """Every drawing up to the last top, the landing into rest (left out), or the edge of the frame."""
    step = recipe.exposure
    landings = [f.lands for f in flights[:-1]]
    if recipe.end == "rest":
        landings.append(flights[-1].lands)
    shown = {_grid(time, step): i for i, time in enumerate(landings)}
    last = flights[-1]
    end = {
        "top": math.floor((last.left + last.lands) / 2 + 0.5),
        "rest": _grid(last.lands, step) - step,
        "cycle": math.floor((last.left + last.lands) / 2 + 0.5) - step,
        "leaves": MOST_DRAWINGS * step,
    }[recipe.end]
    poses: list[Pose] = []
    for time in range(1, min(end, MOST_DRAWINGS * step) + 1, step):
        hop = sum(time > landing for landing in landings)
        x = x_at(recipe, time)
        gone = not -GONE_D * recipe.diameter <= x <= recipe.width - 1 + GONE_D * recipe.diameter
        if recipe.end == "leaves" and (gone or time >= last.lands):
            break
        if time in shown:
            poses.append(contact_pose(recipe, flights, shown[time]))
        else:
            poses.append(air_pose(recipe, flights[min(hop, len(flights) - 1)], hop, float(time)))
    return poses


def x_at(recipe: Recipe, time: float) -> float:
    """Where the ball is across the picture at a time in frames, px: at constant speed."""
    return recipe.start_x + recipe.speed_x * (time - 1)


def _grid(time: float, step: int) -> int:
    return 1 + step * math.floor((time - 1) / step + 0.5)


def air_pose(recipe: Recipe, flight: Flight, hop: int, time: float) -> Pose:
    """The drawing of a flight at a time in frames."""
    x, height = x_at(recipe, time), max(0.0, flight.height(time))
    step = (recipe.speed_x * recipe.exposure, flight.rise_speed(time) * recipe.exposure)
    phase = abs(2 * (time - flight.left) / (flight.lands - flight.left) - 1)
    ball = shapes.stretched(recipe.diameter, recipe.stretch, step, phase, height)
    y = ground_at(recipe, x) - recipe.diameter / 2 - height
    return _pose(recipe, x, y, ball, "air", hop)


def contact_pose(recipe: Recipe, flights: Sequence[Flight], hop: int) -> Pose:
    """The drawing on the ground at the end of a hop, where the ball truly lands."""
    x = x_at(recipe, flights[hop].lands)
    impact, hardest = (-f.rise_speed(f.lands) * recipe.exposure for f in (flights[hop], flights[0]))
    ball = shapes.squashed(recipe.diameter, recipe.squash, impact, hardest)
    return _pose(recipe, x, ground_at(recipe, x) - shapes.half_height(ball), ball, "contact", hop)


def _coming_to_rest(recipe: Recipe, flights: list[Flight]) -> list[Pose]:
    """The landing, and drawings that roll to a stop with a speed that falls evenly to nought."""
    hop, lands = len(flights) - 1, flights[-1].lands
    poses = [contact_pose(recipe, flights, hop)]
    stops = rolling_frames(recipe, lands)
    for i in range(1, recipe.rest):
        rolled = max(0.0, stops - (recipe.rest - 1 - i) * recipe.exposure)
        x = poses[0].x + recipe.speed_x * (rolled - rolled**2 / (2 * stops))
        y = ground_at(recipe, x) - recipe.diameter / 2
        poses.append(_pose(recipe, x, y, shapes.axes(recipe.diameter, 1.0), "rest", hop))
    poses[-1] = replace(poses[-1], frames=poses[-1].frames + recipe.last_hold)
    return poses


def rolling_frames(recipe: Recipe, lands: float) -> float:
    """Frames from when the ball truly lands to its last drawing, at which it stops; 0 where it does not roll."""
    last = _grid(lands, recipe.exposure) + (recipe.rest - 1) * recipe.exposure
    return max(0.0, last - lands) if recipe.rest > 1 else 0.0


def _pose(recipe: Recipe, x: float, y: float, ball: Axes, role: Role, hop: int) -> Pose:
    return Pose(
        x=x,
        y=y,
        major=ball.major,
        minor=ball.minor,
        angle=ball.angle,
        frames=recipe.exposure,
        role=role,
        hop=hop,
    )


def _hold_tops(poses: list[Pose], extra: int) -> list[Pose]:
    out = list(poses)
    for hop in {p.hop for p in poses if p.role == "air"}:
        own = [i for i, p in enumerate(poses) if p.hop == hop and p.role == "air"]
        top = min(own, key=lambda i: poses[i].y)
        if top not in (own[0], own[-1]):
            out[top] = replace(out[top], frames=out[top].frames + extra)
    return out


def _shared(recipe: Recipe, flights: list[Flight], poses: list[Pose]) -> list[Pose]:
    """Single drawings moved along their arc to a share of the way between the keys beside them."""
    out, keys = list(poses), _keys(poses)
    for number, share in recipe.shares:
        index = number - 1
        if not 0 <= index < len(poses) or index in keys or poses[index].role != "air":
            continue
        before = max(k for k in keys if k < index)
        after = min(k for k in keys if k > index)
        flight = flights[poses[index].hop]
        time = _time_of_share(recipe, flight, _times(before, after, poses, flight, recipe.exposure), share)
        out[index] = air_pose(recipe, flight, poses[index].hop, time)
    return out


def _times(before: int, after: int, poses: Sequence[Pose], flight: Flight, step: int) -> tuple[float, float]:
    """When the move between two keys begins and ends: contacts at their true time, tops on their frame."""
    first, last = 1.0 + before * step, 1.0 + after * step
    if poses[before].role != "air":
        first = max(flight.left, first - step)
    if poses[after].role != "air":
        last = min(flight.lands, last + step)
    return first, last


def _time_of_share(recipe: Recipe, flight: Flight, span: tuple[float, float], share: float) -> float:
    times, length = _along(recipe, flight, span)
    return float(np.interp(share * length[-1], length, times))


def _share_of_time(recipe: Recipe, flight: Flight, span: tuple[float, float], time: float) -> float:
    times, length = _along(recipe, flight, span)
    return float(np.interp(time, times, length) / length[-1]) if length[-1] else 0.0


def _along(
    recipe: Recipe, flight: Flight, span: tuple[float, float]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Times (n,) of a move, and how much path (n,) px lies behind the ball at each."""
    times = np.linspace(*span, 200)
    xs, ys = recipe.speed_x * times, 0.5 * flight.gravity * (times - flight.left) * (flight.lands - times)
    return times, np.concatenate([[0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])


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
    low, high = poses[side[0]], poses[side[-1]]
    base = ground_at(recipe, low.x) - recipe.diameter / 2
    # Along the arc from the contact (0) to the top (1): across evenly, up by the parabola.
    across = np.linspace(0, 1, 400)
    xs = low.x + (high.x - low.x) * across
    ys = base + (high.y - base) * (1 - (1 - across) ** 2)
    length = np.concatenate([[0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])
    towards_top = 1 if side[-1] > side[0] else -1
    for place, index in enumerate(side[1:-1], start=1):
        beside = [(1 - 0.5 ** (place + k)) * length[-1] for k in (-1, 0, 1)]
        px, py = np.interp(beside, length, xs), np.interp(beside, length, ys)
        step = towards_top * (px[2] - px[0]) / 2, -towards_top * (py[2] - py[0]) / 2
        phase, height = 1 - float(np.interp(beside[1], length, across)), base - float(py[1])
        ball = shapes.stretched(recipe.diameter, recipe.stretch, step, phase, max(0.0, height))
        moved = _pose(recipe, float(px[1]), float(py[1]), ball, "air", out[index].hop)
        out[index] = replace(moved, frames=out[index].frames)
