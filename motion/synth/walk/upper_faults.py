"""Faults above the hips of a whole figure: arms, head and elbows."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from motion.exercises.walk.figure import FOREARM, SIDES, UPPER_ARM, Side, bend_of, knee_of
from motion.exercises.walk.plan import Plan, Pose, pose
from motion.synth.walk.posed import at_least, either_way, moved_by, one_of, with_poses

LEAST_SWING = 6.0
"""Even steps show in swings of so many drawings."""


def even_arms(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """Both arms go from one extreme to the other in even steps."""
    if not plan.recipe.whole or plan.recipe.step_frames / plan.recipe.exposure < LEAST_SWING:
        return None
    return _rearmed(plan, lambda time: time // 1 + math.acos(1 - 2 * (time % 1)) / math.pi)


def same_arms(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """Both arms swing with the legs of their own sides."""
    return _rearmed(plan, lambda time: time + 1) if plan.recipe.whole and plan.recipe.arms >= 5 else None


def _rearmed(plan: Plan, when: Callable[[float], float]) -> Plan:
    """Each drawing with its arms as they are at another time, in steps."""
    recipe, changed = plan.recipe, {}
    for index, own in enumerate(plan.poses):
        there = pose(recipe, recipe.gait.time_of(when(own.step + own.phase)) * recipe.step_frames, own.frames).landmarks
        (x, y), (nx, ny) = own.landmarks["neck"], there["neck"]
        arms = {
            name: moved_by(there[name], x - nx, y - ny) for side in SIDES for name in (f"elbow_{side}", f"hand_{side}")
        }
        changed[index] = replace(own, landmarks={**own.landmarks, **arms})
    return with_poses(plan, changed)


def head_jump(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The head of one drawing too far along or back."""
    if not plan.recipe.whole:
        return None
    at = int(rng.integers(2, len(plan.poses) - 2))
    own = plan.poses[at]
    speed = plan.recipe.gait.step / plan.recipe.step_frames * own.frames
    off = times * max(0.18 * speed, at_least(plan, 0.03, 2)) * either_way(rng)
    moved = {**own.landmarks, "head": moved_by(own.landmarks["head"], off, 0.0)}
    return with_poses(plan, {at: replace(own, x=own.x + off, landmarks=moved)})


def elbow_backwards(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """An elbow on the wrong side of its arm; ``form.backwards``."""
    leg = plan.recipe.gait.leg
    chosen = one_of(
        rng,
        [
            (side, i)
            for i, p in enumerate(plan.poses)
            for side in SIDES
            if plan.recipe.whole and 8 * times <= -_elbow(plan, p, side) <= 16 * times + 8
        ],
    )
    if chosen is None:
        return None
    side, at = chosen
    own = plan.poses[at]
    neck, hand = own.landmarks["neck"], own.landmarks[f"hand_{side}"]
    elbow = knee_of(neck, hand, UPPER_ARM * leg, FOREARM * leg, plan.recipe.facing)
    return with_poses(plan, {at: replace(own, landmarks={**own.landmarks, f"elbow_{side}": elbow})})


def _elbow(plan: Plan, one: Pose, side: Side) -> float:
    at = one.landmarks
    return bend_of(at["neck"], at[f"elbow_{side}"], at[f"hand_{side}"], plan.recipe.facing)
