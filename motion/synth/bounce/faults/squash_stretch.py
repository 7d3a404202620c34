"""Faults of the shape."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from motion.exercises.bounce import shapes
from motion.exercises.bounce.plan import Plan, Pose
from motion.synth.bounce.faults.plant import Planted, between, in_air, inner, left_of, some_of, told, top_of, with_poses


def volume_changes(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing with too much or too little ball."""
    places = [i for i, p in enumerate(plan.poses) if p.role == "air"]
    at = some_of(places, rng)
    if at is None:
        return None
    share = 1 + times * 0.12 * (1 if rng.random() < 0.5 else -1)
    pose = plan.poses[at]
    grown = replace(pose, major=pose.major * math.sqrt(share), minor=pose.minor * math.sqrt(share))
    return told(with_poses(plan, {at: grown}), "volume.changes", at, at)


def squash_in_air(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A flat drawing in the air, next to a contact."""
    flatness = 1 - times * 0.12
    places = [
        i
        for i, p in enumerate(plan.poses)
        if p.role == "air"
        and _steep(plan, i)
        and plan.ground_at(p.x) - p.y - plan.recipe.diameter * math.sqrt(flatness) / 2 > 0.2 * plan.recipe.diameter
    ]
    at = some_of(places, rng)
    if at is None:
        return None
    pose = plan.poses[at]
    long = plan.recipe.diameter / math.sqrt(flatness)
    flat = replace(pose, major=long, minor=long * flatness, angle=0.0)
    return told(with_poses(plan, {at: flat}), "squash.in_air", at, at)


def _steep(plan: Plan, at: int) -> bool:
    if not 0 < at < len(plan.poses) - 1:
        return False
    before, after = plan.poses[at - 1], plan.poses[at + 1]
    return math.degrees(math.atan2(abs(after.y - before.y), abs(after.x - before.x) + 1e-6)) > 30


def stretch_missing(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """Round, or hardly longer, drawings on both sides of a fast contact, where a soft ball should be long."""
    at = some_of([i for i in _fast_contacts(plan) if i + 1 < len(plan.poses)], rng) if plan.recipe.stretch > 1 else None
    if at is None or plan.poses[at + 1].role != "air":
        return None
    ratio = 1 + left_of(0.12, times)
    beside = {i: _reshaped(plan, plan.poses[i], ratio, plan.poses[i].angle) for i in (at - 1, at + 1)}
    return told(with_poses(plan, beside), "stretch.missing", at - 1, at + 1)


def squash_missing(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A round, or hardly flatter, drawing on a fast contact of a soft ball."""
    at = some_of(_fast_contacts(plan), rng) if plan.recipe.squash > 1 else None
    if at is None:
        return None
    flat = _reshaped(plan, plan.poses[at], 1 / (1 - left_of(0.08, times)), 0.0)
    pose = replace(flat, y=plan.ground_at(flat.x) - flat.minor / 2)
    return told(with_poses(plan, {at: pose}), "squash.missing", at, at)


def stretch_across(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A stretched drawing in full flight, turned off its path."""
    poses, size = plan.poses, plan.recipe.diameter
    places = [i for i in inner(plan) if between(poses[i - 1], poses[i]) > 0.4 * size and poses[i].major > 1.1 * size]
    at = some_of(places, rng)
    if at is None:
        return None
    before, after = poses[at - 1], poses[at + 1]
    way = math.degrees(math.atan2(before.y - after.y, after.x - before.x))
    turned = way + times * 18.0 * (1 if rng.random() < 0.5 else -1)
    return told(with_poses(plan, {at: _reshaped(plan, poses[at], 1.3, turned)}), "stretch.across", at, at)


def stretch_at_top(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A long drawing at a top, where a soft ball should be round; along its path, so that it is no squashed one."""
    if plan.recipe.stretch == 1 or plan.recipe.speed_x == 0:
        return None
    size = plan.recipe.diameter
    tops = [top_of(plan, h) for h in sorted({p.hop for p in plan.poses}) if len(in_air(plan, h)) > 2]
    at = some_of([i for i in tops if plan.ground_at(plan.poses[i].x) - plan.poses[i].y > 2 * size], rng)
    if at is None:
        return None
    before, after = plan.poses[max(0, at - 1)], plan.poses[min(len(plan.poses) - 1, at + 1)]
    way = math.degrees(math.atan2(before.y - after.y, after.x - before.x))
    return told(
        with_poses(plan, {at: _reshaped(plan, plan.poses[at], 1 + times * 0.12, way)}), "stretch.at_top", at, at
    )


def shape_unwanted(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hard ball that is long in one drawing, along its path."""
    at = some_of(inner(plan), rng) if plan.recipe.stretch == 1 else None
    if at is None:
        return None
    before, after = plan.poses[at - 1], plan.poses[at + 1]
    way = math.degrees(math.atan2(before.y - after.y, after.x - before.x))
    return told(
        with_poses(plan, {at: _reshaped(plan, plan.poses[at], 1 + times * 0.08, way)}), "shape.unwanted", at, at
    )


def _fast_contacts(plan: Plan) -> list[int]:
    """Indices of contact drawings with two drawings in the air before, more than 0.6 D apart."""
    poses = plan.poses
    return [
        i
        for i, p in enumerate(poses)
        if p.role == "contact"
        and i >= 2
        and poses[i - 1].role == poses[i - 2].role == "air"
        and between(poses[i - 2], poses[i - 1]) > 0.6 * plan.recipe.diameter
    ]


def _reshaped(plan: Plan, pose: Pose, ratio: float, angle: float) -> Pose:
    """The pose with as much ball, its axes in that ratio and turned to that angle."""
    ball = shapes.axes(plan.recipe.diameter, ratio, angle)
    return replace(pose, major=ball.major, minor=ball.minor, angle=ball.angle)
