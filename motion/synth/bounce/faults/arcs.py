"""Faults of the arc."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from motion.exercises.bounce.plan import Plan, bounce
from motion.synth.bounce.faults.plant import (
    Planted,
    in_air,
    inner,
    left_of,
    some_of,
    told,
    tolerance_px,
    top_of,
    whole_hops,
    with_poses,
)


def arc_off_path(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing shifted across the path."""
    at = some_of(inner(plan), rng) if plan.recipe.speed_x else None
    if at is None:
        return None
    before, here, after = plan.poses[at - 1 : at + 2]
    dx, dy = after.x - before.x, after.y - before.y
    length = math.hypot(dx, dy)
    off = times * tolerance_px(plan, 0.07, 2.0) * (1 if rng.random() < 0.5 else -1)
    moved = replace(here, x=here.x - dy / length * off, y=here.y + dx / length * off)
    return told(with_poses(plan, {at: moved}), "arc.off_path", at, at)


def arc_rising_tops(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hop that is higher than the one before it, in the time that its height calls for."""
    recipe = plan.recipe
    at = int(rng.integers(len(recipe.kept)))
    height = recipe.drop_px * float(np.prod([k**2 for k in recipe.kept[:at]]))
    gains = math.sqrt((height + times * 0.1 * recipe.diameter) / height)
    higher = bounce(replace(recipe, kept=(*recipe.kept[:at], gains, *recipe.kept[at + 1 :])))
    own = in_air(higher, at + 1)
    fits = own and min(p.y - p.major / 2 for p in higher.poses) > 4 and recipe.speed_x > 0
    inside = all(0 < p.x < recipe.width for p in higher.poses)
    if not fits or not inside:
        return None
    top = top_of(higher, at + 1)
    return told(higher, "arc.rising_tops", top, top)


def arc_leaning(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """An arc pushed over to one side, more the higher; or one whose rise is wider than its fall."""
    hop = _wide_hop(plan, rng, least=5)
    if hop is None:
        return None
    air, flight = in_air(plan, hop), plan.flights[hop]
    width = abs(plan.recipe.speed_x) * (flight.lands - flight.left)
    off = times * max(0.08 * width, tolerance_px(plan, 0.07, 2.0)) * (1 if rng.random() < 0.5 else -1)
    if abs(off) > 0.35 * width:
        return None
    pushed = rng.random() < 0.5
    moved = {}
    for i in air:
        part = (plan.poses[i].x - plan.poses[air[0] - 1].x) / (plan.poses[air[-1] + 1].x - plan.poses[air[0] - 1].x)
        by = 4 * part * (1 - part) if pushed else float(np.interp(part, [0, 0.5, 1], [0, 1, 0]))
        x = plan.poses[i].x + off * by
        moved[i] = replace(plan.poses[i], x=x, y=plan.poses[i].y + plan.ground_at(x) - plan.ground_at(plan.poses[i].x))
    return told(with_poses(plan, moved), "arc.leaning", air[0], air[-1])


def arc_straight(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hop whose drawings lie on lines from the contacts to the top that are straight, or nearly so."""
    hop = _wide_hop(plan, rng, least=5)
    if hop is None or plan.recipe.halves:
        return None
    air, top, share = in_air(plan, hop), top_of(plan, hop), left_of(0.35, times)
    high, size = plan.poses[top], plan.recipe.diameter
    moved = {}
    for foot, leg in (
        (plan.poses[air[0] - 1], air[: air.index(top)]),
        (plan.poses[air[-1] + 1], air[air.index(top) :]),
    ):
        base = plan.ground_at(foot.x) - size / 2
        bulge = (base - high.y) / 4 * abs(foot.x - high.x) / math.hypot(foot.x - high.x, base - high.y)
        if bulge < max(0.2 * size, 6.0):
            return None
        for i in leg:
            # By its height on the arc, so that it slows and gathers speed as before.
            drop = (plan.poses[i].y - high.y) / (base - high.y)
            part = drop if share == 0 else (math.sqrt((1 - share) ** 2 + 4 * share * drop) - (1 - share)) / (2 * share)
            moved[i] = replace(plan.poses[i], x=high.x + part * (foot.x - high.x))
    return told(with_poses(plan, moved), "arc.straight", air[0], air[-1])


def _wide_hop(plan: Plan, rng: np.random.Generator, least: int) -> int | None:
    """A whole hop of so many drawings in the air, of a ball that goes across."""
    hops = [
        h
        for h in whole_hops(plan)
        if len(in_air(plan, h)) >= least and plan.poses[in_air(plan, h)[0] - 1].role == "contact"
    ]
    return some_of(hops, rng) if abs(plan.recipe.speed_x) > 0 else None
