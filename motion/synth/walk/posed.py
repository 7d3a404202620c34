"""Poses of a walk changed by hand: a foot, the hips or all of it moved, knees where the leg asks for them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from motion.exercises.walk.figure import SIDES, THIGH, UPPER_LANDMARKS, Place, Side, knee_of
from motion.exercises.walk.plan import Plan, Pose

Plant = Callable[[Plan, np.random.Generator, float], Plan | None]
"""Plants a fault at so many times its tolerance; None where there is no room for it."""
FOOT = ("ankle", "heel", "toe")
REACH = 0.9995


def with_poses(plan: Plan, changed: dict[int, Pose]) -> Plan:
    """The plan with some poses, by index, put in place of its own."""
    return replace(plan, poses=tuple(changed.get(i, p) for i, p in enumerate(plan.poses)))


def kneed(plan: Plan, one: Pose, side: Side) -> Pose | None:
    """The pose with a side's knee where hip and ankle ask for it; None where the leg does not reach."""
    leg = plan.recipe.gait.leg
    hip, ankle = one.landmarks["hip"], one.landmarks[f"ankle_{side}"]
    if math.dist(hip, ankle) > REACH * leg:
        return None
    knee = knee_of(hip, ankle, THIGH * leg, (1 - THIGH) * leg, plan.recipe.facing)
    return replace(one, landmarks={**one.landmarks, f"knee_{side}": knee})


def foot_moved(plan: Plan, one: Pose, side: Side, dx: float, dy: float) -> Pose | None:
    """The pose with a foot moved by so many px, and its knee with it; None where the leg does not reach."""
    moved = {f"{j}_{side}": moved_by(one.landmarks[f"{j}_{side}"], dx, dy) for j in FOOT}
    return kneed(plan, replace(one, landmarks={**one.landmarks, **moved}), side)


def hips_moved(plan: Plan, one: Pose, dx: float, dy: float) -> Pose | None:
    """The pose with its hips, and all above them, moved by so many px while the feet stay; None: a leg is too short."""
    upper = {name: moved_by(at, dx, dy) for name, at in one.landmarks.items() if name in ("hip", *UPPER_LANDMARKS)}
    moved: Pose | None = replace(one, x=one.x + dx, y=one.y + dy, landmarks={**one.landmarks, **upper})
    for side in SIDES:
        moved = moved and kneed(plan, moved, side)
    return moved


def figure_moved(one: Pose, dx: float, dy: float) -> Pose:
    """The whole figure moved by so many px."""
    return replace(
        one, x=one.x + dx, y=one.y + dy, landmarks={n: moved_by(at, dx, dy) for n, at in one.landmarks.items()}
    )


def moved_by(at: Place, dx: float, dy: float) -> Place:
    return at[0] + dx, at[1] + dy


def at_least(plan: Plan, share: float, least: float) -> float:
    return max(share * plan.recipe.gait.leg, least * max(1.0, plan.width / 960))


def swings_of(plan: Plan) -> list[tuple[Side, list[int]]]:
    """Each side's swings, as indices from the last standing drawing to the one that lands."""
    found: list[tuple[Side, list[int]]] = []
    for side in SIDES:
        standing = [side in p.support for p in plan.poses]
        leaves = [i for i in range(len(standing) - 1) if standing[i] and not standing[i + 1]]
        found += [(side, list(range(i, standing.index(True, i + 1) + 1))) for i in leaves if True in standing[i + 1 :]]
    return found


def stands_of(plan: Plan) -> list[tuple[Side, list[int]]]:
    """Each side's stands, as indices."""
    found: list[tuple[Side, list[int]]] = []
    for side in SIDES:
        groups = itertools.groupby(enumerate(plan.poses), key=lambda one: side in one[1].support)
        found += [(side, [i for i, _ in group]) for stands, group in groups if stands]
    return found


def one_of(rng: np.random.Generator, choices: Sequence[tuple[Side, int]]) -> tuple[Side, int] | None:
    return choices[int(rng.integers(len(choices)))] if choices else None


def either_way(rng: np.random.Generator) -> float:
    return 1.0 if rng.random() < 0.5 else -1.0


def over_ground(plan: Plan, index: int, name: str) -> Place:
    x, y = plan.poses[index].landmarks[name]
    return x - plan.recipe.belt * (plan.first_frame(index) - 1), y
