"""What every fault is planted with."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.bounce.plan import Plan, Pose


@dataclass(frozen=True, slots=True, kw_only=True)
class Planted:
    """The fault that is in a plan now: its code and the frames it concerns."""

    code: str
    first_frame: int
    last_frame: int


Fault = Callable[[Plan, np.random.Generator, float], "tuple[Plan, Planted] | None"]
"""Plants a fault at so many times its tolerance; None where the plan has no place for it."""


def with_poses(plan: Plan, changed: dict[int, Pose]) -> Plan:
    """The plan with some poses, by index, put in place of its own."""
    return replace(plan, poses=tuple(changed.get(i, p) for i, p in enumerate(plan.poses)))


def told(plan: Plan, code: str, first: int, last: int) -> tuple[Plan, Planted]:
    """The plan, and the fault that is now on these poses (first and last index)."""
    return plan, Planted(
        code=code,
        first_frame=plan.first_frame(first),
        last_frame=plan.first_frame(last) + plan.poses[last].frames - 1,
    )


def in_air(plan: Plan, hop: int) -> list[int]:
    """Indices of the drawings in the air of a hop."""
    return [i for i, p in enumerate(plan.poses) if p.hop == hop and p.role == "air"]


def top_of(plan: Plan, hop: int) -> int:
    """Index of a hop's highest drawing."""
    return min(in_air(plan, hop), key=lambda i: plan.poses[i].y)


def whole_hops(plan: Plan) -> list[int]:
    """The hops that run from one contact to the next."""
    return [h for h in sorted({p.hop for p in plan.poses}) if 0 < h < plan.poses[-1].hop and in_air(plan, h)]


def inner(plan: Plan) -> list[int]:
    """Drawings in the air with two neighbours in the air on both sides, in hops that run on after them."""
    poses = plan.poses
    return [
        i
        for i in range(2, len(poses) - 2)
        if all(poses[j].role == "air" and poses[j].hop == poses[i].hop for j in range(i - 2, i + 3))
    ]


def tolerance_px(plan: Plan, share: float, least: float) -> float:
    """A tolerance in px: a share of the diameter, at least some px that grow with frames wider than 960."""
    return max(share * plan.recipe.diameter, least * max(1.0, plan.recipe.width / 960))


def left_of(limit: float, times: float) -> float:
    """What is left of something of which there should be at least ``limit``: at 2.5 times nothing."""
    return limit * max(0.0, 1 - (times - 1) / 1.5)


def between(one: Pose, other: Pose) -> float:
    """Px from one drawing to another."""
    return math.hypot(other.x - one.x, other.y - one.y)


def some_of(places: list[int], rng: np.random.Generator) -> int | None:
    """One of these indices; None where there is none."""
    return int(rng.choice(places)) if places else None
