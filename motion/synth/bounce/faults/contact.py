"""Faults of the contact."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from motion.exercises.bounce.plan import Plan, Pose
from motion.synth.bounce.faults.plant import Planted, some_of, told, tolerance_px, with_poses


def _contact(plan: Plan, rng: np.random.Generator, times: float, way: int, code: str) -> tuple[Plan, Planted] | None:
    places = [i for i, p in enumerate(plan.poses) if p.role == "contact"]
    if not places:
        return None
    at = int(rng.choice(places))
    off = times * tolerance_px(plan, 0.04, 2.0)
    pose = plan.poses[at]
    return told(with_poses(plan, {at: replace(pose, y=pose.y + way * off)}), code, at, at)


def contact_gap(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A contact drawing that hangs above the ground."""
    return _contact(plan, rng, times, -1, "contact.gap")


def contact_through(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A contact drawing sunk into the ground."""
    return _contact(plan, rng, times, 1, "contact.through")


def contact_missed(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """No drawing at the ground: either the drawing before stays for its frames, or the flights go on past it."""
    poses = plan.poses
    places = [
        i
        for i, p in enumerate(poses)
        if p.role == "contact" and 0 < i < len(poses) - 1 and poses[i + 1].role == "air" and _far_between(plan, i)
    ]
    at = some_of(places, rng)
    if at is None:
        return None
    if plan.recipe.halves or rng.random() < 0.5:
        held = replace(poses[at - 1], frames=poses[at - 1].frames + poses[at].frames)
        first = plan.first_frame(at - 1)
        changed = (*poses[: at - 1], held, *poses[at + 1 :])
        return replace(plan, poses=changed), Planted(
            code="contact.missed", first_frame=first, last_frame=first + held.frames
        )
    flown = _in_flight(plan, at)
    if flown is None:
        return None
    first = plan.first_frame(at)
    return replace(plan, poses=(*poses[:at], flown, *poses[at + 1 :])), Planted(
        code="contact.missed", first_frame=first - 1, last_frame=first + 1
    )


def _far_between(plan: Plan, at: int) -> bool:
    """Whether the drawings beside a contact are far enough off the ground to leave it out."""
    beside = (plan.poses[at - 1], plan.poses[at + 1])
    return all(plan.ground_at(p.x) - p.y > 0.75 * plan.recipe.diameter for p in beside)


def _in_flight(plan: Plan, at: int) -> Pose | None:
    """The drawing that the flights themselves show on the contact's frame; None where that one touches."""
    # In time without the holds at the tops.
    pose, frame = plan.poses[at], 1.0 + at * plan.recipe.exposure
    flight = next((f for f in plan.flights if f.left <= frame <= f.lands), plan.flights[pose.hop])
    height = flight.height(frame)
    if height < 0.32 * plan.recipe.diameter or abs(frame - plan.flights[pose.hop].lands) < 0.35 * pose.frames:
        return None
    size = plan.recipe.diameter
    x = plan.recipe.start_x + plan.recipe.speed_x * (frame - 1)
    return replace(pose, x=x, y=plan.ground_at(x) - size / 2 - height, major=size, minor=size, angle=0.0, role="air")


def contact_slides(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A contact of two drawings, the second too far along the ground."""
    at = some_of(_between_flights(plan), rng)
    if at is None:
        return None
    pose, recipe = plan.poses[at], plan.recipe
    if recipe.stretch == 1 and 2 * pose.frames > 3:
        return None  # A hard ball would also stay down too long.
    off = times * max(0.1 * recipe.diameter, abs(recipe.speed_x) * (pose.frames + recipe.exposure / 2))
    off *= 1 if recipe.speed_x else int(rng.choice([-1, 1]))
    x = pose.x + off
    if not recipe.diameter < x < recipe.width - recipe.diameter:
        return None
    slid = replace(pose, x=x, y=pose.y + plan.ground_at(x) - plan.ground_at(pose.x))
    poses = (*plan.poses[: at + 1], slid, *plan.poses[at + 1 :])
    return told(replace(plan, poses=poses), "contact.slides", at, at + 1)


def contact_sticks(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A contact that is held for too long."""
    at = some_of(_between_flights(plan), rng)
    if at is None:
        return None
    # As the softest brief that the plan can be for allows.
    frames = math.ceil(times * (6 if plan.recipe.stretch > 1 else 3))
    return told(with_poses(plan, {at: replace(plan.poses[at], frames=frames)}), "contact.sticks", at, at)


def _between_flights(plan: Plan) -> list[int]:
    """Indices of the contact drawings with drawings in the air on both sides."""
    poses = plan.poses
    return [
        i
        for i, p in enumerate(poses)
        if p.role == "contact" and 0 < i < len(poses) - 1 and poses[i - 1].role == poses[i + 1].role == "air"
    ]
