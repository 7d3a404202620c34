"""The ideal swing drawn out: one pose a drawing, each where the weight is on its first frame.

The same plan is the brief's guide, what the generator draws, and what a guide's own checks look at.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from motion.brief.pendulum import Hangs
from motion.exercises.pendulum.carriage import Carriage
from motion.exercises.pendulum.ideal import Motion

Role = Literal["swing", "rest"]
Place = tuple[float, float]
Course = Callable[[float], float]
FLOOR = 0.94
LATEST = 1 / 3
"""A part comes after the one above by no more than such a share of a swing: else it swings against that."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pose:
    """One drawing: the weight's centre and axes in px, its angle from straight down in degrees, positive to the right.

    ``top`` is where the line's upper end is drawn, px, and ``base`` where what carries it has its hook, where anything
    does; ``joints`` lie between ``top`` and the centre; ``swing`` counts
    from 0, and an extreme belongs to the one that it ends. ``apart`` tells of points of its line, by
    number, where what hangs there begins, if not there. ``time`` is when it is so, in frames from when it was let
    go or what carries it starts, without the frames by which drawings are held.
    """

    x: float
    y: float
    major: float
    minor: float
    angle: float
    frames: int
    role: Role
    swing: int
    hangs_at: float
    top: tuple[float, float]
    joints: tuple[Place, ...] = ()
    apart: tuple[tuple[int, Place], ...] = ()
    time: float = 0.0
    base: Place | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Recipe:
    """A swing to plan. Lengths in px, angles in degrees from straight down to the right, times in frames.

    The weight hangs ``length`` below the pivot, around a rest line that leans by ``rest_angle``; it is let go at
    ``angle`` from that, and takes ``swing_frames`` for its first swing. What a ``carriage`` carries hangs still below
    ``pivot`` at first; its ``angle`` is that at which its first swing of its own begins.
    """

    width: int = 960
    height: int = 540
    fps: float = 24.0
    pivot: tuple[float, float] = (480.0, 60.0)
    length: float = 320.0
    size: float = 64.0
    rest_angle: float = 0.0
    angle: float = -40.0
    swing_frames: float = 19.0
    exposure: int = 1
    shares: tuple[tuple[int, float], ...] = ()
    hangs: Hangs = "bob"
    links: int = 1
    follows: float = 0.0
    bend: float = 0.0
    wide: float = 0.0
    thin: float = 0.0
    weighted: bool = False
    carriage: Carriage | None = None

    def pivot_at(self, time: float) -> Place:
        """Where it hangs from at a time (frames), px."""
        return self.pivot[0] + (self.carriage.at(time) if self.carriage else 0.0), self.pivot[1]


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """The poses of a clip with what they were made from; ``motion`` is None where they were not made by gravity.

    ``course`` is how what hangs at the pivot goes: its angle (degrees from straight down, to the right) by time;
    ``first_swing`` when the first swing of its own begins and ends there.
    """

    recipe: Recipe
    poses: tuple[Pose, ...]
    motion: Motion | None = None
    course: Course | None = field(default=None, compare=False)
    first_swing: tuple[float, float] = (0.0, 0.0)

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
        """Where a floor would be drawn below it: px from the top, and its slope."""
        return FLOOR * self.recipe.height, 0.0

    @property
    def frames(self) -> int:
        return sum(p.frames for p in self.poses)

    def first_frame(self, index: int) -> int:
        """The first frame of the pose at ``index`` (from 0)."""
        return 1 + sum(p.frames for p in self.poses[:index])


def pose(recipe: Recipe, hangs_at: float, frames: int, role: Role = "swing", swing: int = 0) -> Pose:
    """The drawing at an angle (degrees from straight down, positive to the right)."""
    x, y = place(recipe.pivot, recipe.length, hangs_at)
    return Pose(
        x=x,
        y=y,
        major=recipe.size,
        minor=recipe.size,
        angle=0.0,
        frames=frames,
        role=role,
        swing=swing,
        hangs_at=hangs_at,
        top=recipe.pivot,
    )


def place(pivot: Place, length: float, hangs_at: float) -> Place:
    """The point (px) at a length and an angle below a pivot."""
    turn = math.radians(hangs_at)
    return pivot[0] + length * math.sin(turn), pivot[1] + length * math.cos(turn)


def keys_of(plan: Plan) -> list[int]:
    """Indices of the key drawings.

    The first and the last, each at an extreme, where what carries it stops, and where it comes to rest.
    """
    free = stops_at(plan)
    swinging = [i for i, p in enumerate(plan.poses) if p.role == "swing" and i >= free]
    turns = [swinging[k] for k in turns_of([plan.poses[i].hangs_at for i in swinging])]
    resting = [i for i, p in enumerate(plan.poses) if p.role == "rest"]
    return sorted({0, free, len(plan.poses) - 1, *turns, *resting[:1]})


def stops_at(plan: Plan) -> int:
    """The index of the drawing in which what carries it has stopped; 0 where nothing does."""
    carriage = plan.recipe.carriage
    if carriage is None:
        return 0
    return next((i for i, p in enumerate(plan.poses) if p.time >= carriage.frames - 1e-6), len(plan.poses) - 1)


def along(plan: Plan, index: int) -> Callable[[Pose], float]:
    """How far along its way a drawing is near an index: its base's, px, while it is carried; else its angle."""
    return (lambda p: p.top[0]) if index < stops_at(plan) else (lambda p: p.hangs_at)


def turns_of(angles: Sequence[float]) -> list[int]:
    """Indices at which a row of angles turns round; of equal neighbours the first."""
    turns, way = [], 0.0
    for i in range(1, len(angles)):
        step = angles[i] - angles[i - 1]
        if step * way < 0:
            turns.append(
                max(j for j in range(i) if angles[j] == angles[i - 1] and (j == 0 or angles[j - 1] != angles[j]))
            )
        way = step or way
    return turns


def shares_of(plan: Plan) -> dict[int, float]:
    """How far each in-between (index from 0) is on its way from the key before to the key after, 0 to 1."""
    keys, shares = keys_of(plan), dict[int, float]()
    for before, after in itertools.pairwise(keys):
        way = along(plan, before)
        start, end = way(plan.poses[before]), way(plan.poses[after])
        for index in range(before + 1, after):
            far = way(plan.poses[index]) - start
            shares[index] = far / (end - start) if abs(end - start) > 1e-9 else (index - before) / (after - before)
    return shares


def with_shares(plan: Plan, drawn: Callable[[int, float], Pose]) -> Plan:
    """Single drawings moved along their way to the share of it that the recipe sets.

    ``drawn`` gives the drawing of an index at a place of its way: px of its base while that goes, else degrees.
    """
    keys, poses = keys_of(plan), list(plan.poses)
    for number, share in plan.recipe.shares:
        index = number - 1
        if not 0 <= index < len(poses) or index in keys or poses[index].role != "swing":
            continue
        way = along(plan, index)
        start = way(plan.poses[max(k for k in keys if k < index)])
        end = way(plan.poses[min(k for k in keys if k > index)])
        poses[index] = drawn(index, start + share * (end - start))
    return replace(plan, poses=tuple(poses))
