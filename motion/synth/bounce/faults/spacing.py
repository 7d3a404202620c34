"""Faults of spacing: drawings too far along or back, even steps, a top that hangs, a dead stop."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from motion.exercises.bounce.hang import ABOUT_TOP, FRAMES, SHARE
from motion.exercises.bounce.plan import Plan, Pose, air_pose
from motion.synth.bounce.faults.plant import (
    Planted,
    in_air,
    inner,
    left_of,
    some_of,
    told,
    top_of,
    whole_hops,
    with_poses,
)


def spacing_jump(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing shifted along the path."""
    at = some_of(inner(plan), rng)
    if at is None:
        return None
    poses = plan.poses
    before, here, after = poses[at - 1], poses[at], poses[at + 1]
    gaps = [math.hypot(here.x - p.x, here.y - p.y) for p in (before, after)]
    off = times * max(0.18 * min(gaps), 0.05 * plan.recipe.diameter)
    way = 1 if rng.random() < 0.5 else -1
    moved = _along(plan, at, way * off)
    if math.hypot(moved.x - here.x, moved.y - here.y) < 0.9 * off:
        return None  # Over the top of a bounce in place, along the path leads back down.
    return told(with_poses(plan, {at: moved}), "spacing.jump", at, at)


def _along(plan: Plan, at: int, off: float) -> Pose:
    """A pose shifted by px along the arc through it and the two drawings on each side."""
    own = [plan.poses[j] for j in range(at - 2, at + 3)]
    times = np.arange(-2, 3, dtype=float)
    xs, ys = (np.polyfit(times, [getattr(p, axis) for p in own], 4) for axis in ("x", "y"))
    fine = np.linspace(-2, 2, 801)
    px, py = np.polyval(xs, fine), np.polyval(ys, fine)
    length = np.concatenate([[0], np.cumsum(np.hypot(np.diff(px), np.diff(py)))])
    goal = length[400] + off
    return replace(plan.poses[at], x=float(np.interp(goal, length, px)), y=float(np.interp(goal, length, py)))


def spacing_even(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A rise or a fall between a top and a contact in even steps along its arc, or nearly even ones."""
    sides = _sides(plan, least=3)
    if not sides:
        return None
    side = sides[int(rng.integers(len(sides)))]
    share, even = left_of(0.40, times), np.linspace(0, 1, len(side))
    changed = _respaced(plan, side, share * _as_it_is(plan, side) + (1 - share) * even)
    air = [i for i in side if plan.poses[i].role == "air"]
    return told(with_poses(plan, changed), "spacing.even", min(air), max(air))


def spacing_faster_rising(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A rise whose gaps in the air grow over its first half, then shrink to the top."""
    return _unsteady(plan, rng, times, "spacing.faster_rising", [s for s in _sides(plan, least=6) if s[-1] < s[0]])


def spacing_slower_falling(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A fall whose gaps grow from the top, then shrink over its last half."""
    return _unsteady(plan, rng, times, "spacing.slower_falling", [s for s in _sides(plan, least=6) if s[-1] > s[0]])


def _unsteady(
    plan: Plan, rng: np.random.Generator, times: float, code: str, sides: list[list[int]]
) -> tuple[Plan, Planted] | None:
    """One of these sides, the half of it next to its contact slower the nearer to it."""
    if not sides:
        return None
    side = sides[int(rng.integers(len(sides)))]
    steps = len(side) - 1
    gaps = np.empty(steps)
    half = steps // 2 + 1
    # From the contact up: the gaps in the air gain speed over the first half, then lose it evenly.
    gaps[1:half] = np.linspace(1.0, 1.0 + times * 0.12, half - 1)
    gaps[0] = 0.95
    gaps[half:] = np.linspace(gaps[half - 1], 0.3, steps - half + 1)[1:]
    from_top = np.concatenate([[0], np.cumsum(gaps[::-1])]) / gaps.sum()
    changed = _respaced(plan, side, from_top)
    air = [i for i in side if plan.poses[i].role == "air"]
    return told(with_poses(plan, changed), code, min(air), max(air))


def _sides(plan: Plan, least: int) -> list[list[int]]:
    """Runs of indices from a top to the contact below it, both included, with at least so many steps."""
    found = []
    for hop in sorted({p.hop for p in plan.poses}):
        own = in_air(plan, hop)
        if not own:
            continue
        top = top_of(plan, hop)
        for end, step in ((own[0] - 1, -1), (own[-1] + 1, 1)):
            if 0 <= end < len(plan.poses) and plan.poses[end].role == "contact" and abs(end - top) >= least:
                found.append(list(range(top, end + step, step)))
    return found


def _as_it_is(plan: Plan, side: list[int]) -> np.ndarray:
    """The parts of the way along a side's arc at which its drawings lie, by their heights."""
    _, ys, length = _arc_of(plan, side)
    drops = np.clip([plan.poses[i].y for i in side], ys[0], ys[-1])
    return np.asarray(np.interp(drops, ys, length) / length[-1])


def _arc_of(plan: Plan, side: list[int]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points (n,) px of the arc from a side's top to where its contact rests, and how far along it they are."""
    top, low = plan.poses[side[0]], plan.poses[side[-1]]
    base = plan.ground_at(low.x) - plan.recipe.diameter / 2
    across = np.linspace(0, 1, 600)
    xs, ys = top.x + (low.x - top.x) * across, top.y + (base - top.y) * across**2
    return xs, ys, np.concatenate([[0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])


def _respaced(plan: Plan, side: list[int], parts: np.ndarray) -> dict[int, Pose]:
    """The side's air drawings at these parts of the way along their arc from the top to the contact."""
    xs, ys, length = _arc_of(plan, side)
    changed = {}
    for index, part in zip(side[1:-1], parts[1:-1], strict=True):
        goal = part * length[-1]
        changed[index] = replace(
            plan.poses[index], x=float(np.interp(goal, length, xs)), y=float(np.interp(goal, length, ys))
        )
    return changed


def spacing_hangs(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A ball that floats at a top: its drawing there is held too long, or too many lie close about it."""
    hops = [h for h in whole_hops(plan) if len(in_air(plan, h)) >= 5]
    if not hops:
        return None
    hop = int(rng.choice(hops))
    air, top, step = in_air(plan, hop), top_of(plan, hop), plan.recipe.exposure
    called_for = math.sqrt(ABOUT_TOP) * (plan.flights[hop].lands - plan.flights[hop].left)
    whole = math.floor if times < 1 else math.ceil
    extra = whole(times * max(FRAMES, SHARE * called_for) / step) * step
    low = plan.ground_at(plan.poses[top].x) - plan.recipe.diameter / 2
    zone = [i for i in air if low - plan.poses[i].y >= (1 - ABOUT_TOP) * (low - plan.poses[top].y)]
    if plan.recipe.halves or rng.random() < 0.5 or not air[0] < zone[0] <= zone[-1] < air[-1]:
        held = replace(plan.poses[top], frames=plan.poses[top].frames + extra)
        return told(with_poses(plan, {top: held}), "spacing.hangs", zone[0], zone[-1])
    if plan.recipe.top_hold:
        return None
    # The same arc between the drawings beside the zone, in more and closer drawings.
    first, last, count = zone[0] - 1, zone[-1] + 1, len(zone) + extra // step
    times_of = np.linspace(plan.first_frame(first), plan.first_frame(last), count + 2)[1:-1]
    drawn = [air_pose(plan.recipe, plan.flights[hop], hop, float(t)) for t in times_of]
    poses = (*plan.poses[: zone[0]], *drawn, *plan.poses[last:])
    return told(replace(plan, poses=poses), "spacing.hangs", zone[0], zone[0] + count - 1)


def spacing_dead_stop(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A ball that rolls on at full speed and stands still from one drawing to the next."""
    at = next((i for i, p in enumerate(plan.poses) if p.role == "rest"), None)
    if at is None or abs(plan.recipe.speed_x) * plan.recipe.exposure < 0.15 * plan.recipe.diameter:
        return None
    flight = plan.flights[plan.poses[at].hop]
    mean = abs(plan.recipe.speed_x) + flight.gravity * (flight.lands - flight.left) / 8
    share = min(1.0, 0.35 * times * mean / abs(plan.recipe.speed_x))
    # A ball that has lost speed when it lands must roll for that to show.
    rolls = int(rng.integers(0, 4)) if share == 1 else int(rng.integers(2, 5))
    if not 0 < plan.poses[at - 1].x + rolls * plan.recipe.speed_x * plan.recipe.exposure < plan.recipe.width:
        return None
    rolled = [_rolled(plan, plan.poses[at - 1], share * k) for k in range(1, rolls + 1)]
    poses = [*plan.poses[:at], *rolled]
    poses[-1] = replace(poses[-1], frames=poses[-1].frames + int(rng.integers(6, 14)))
    last = len(poses) - 1
    return told(replace(plan, poses=tuple(poses)), "spacing.dead_stop", last - 1, last)


def _rolled(plan: Plan, landed: Pose, drawings: float) -> Pose:
    size = plan.recipe.diameter
    x = landed.x + drawings * plan.recipe.speed_x * plan.recipe.exposure
    return replace(landed, x=x, y=plan.ground_at(x) - size / 2, major=size, minor=size, angle=0.0, role="rest")
