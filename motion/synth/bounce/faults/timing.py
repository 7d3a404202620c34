"""Faults of timing."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from motion.exercises.bounce.ideal import hop_frames
from motion.exercises.bounce.plan import Plan, bounce
from motion.synth.bounce.faults.plant import Planted, in_air, inner, some_of, told, top_of, whole_hops, with_poses


def timing_hold(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing on the way up or down held too long."""
    places = [
        i
        for i in inner(plan)
        if plan.poses[i].y - plan.poses[top_of(plan, plan.poses[i].hop)].y
        > 0.2 * (plan.ground_at(plan.poses[i].x) - plan.poses[top_of(plan, plan.poses[i].hop)].y)
    ]
    at = some_of(places, rng)
    if at is None:
        return None
    pose = plan.poses[at]
    held = replace(pose, frames=pose.frames + max(2, round(times)))
    return told(with_poses(plan, {at: held}), "timing.hold", at, at)


def timing_hop(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hop drawn with too many drawings for its height, evenly slower throughout."""
    hops = whole_hops(plan)
    if not hops:
        return None
    hop = int(rng.choice(hops))
    own = in_air(plan, hop)
    top = plan.poses[top_of(plan, hop)]
    height = plan.ground_at(top.x) - plan.recipe.diameter / 2 - top.y
    wanted = hop_frames(height, plan.gravity)
    step = plan.recipe.exposure
    extra = math.ceil(times * max(1.2, 0.12 * wanted) / step)
    before, after = plan.poses[own[0] - 1], plan.poses[own[-1] + 1]
    count = len(own) + extra
    drawn = []
    for k in range(1, count + 1):
        part = k / (count + 1)
        x = before.x + (after.x - before.x) * part
        up = 4 * height * part * (1 - part)
        like = plan.poses[own[min(len(own) - 1, round(part * (len(own) + 1)) - 1 if part * (len(own) + 1) >= 1 else 0)]]
        drawn.append(replace(like, x=x, y=plan.ground_at(x) - plan.recipe.diameter / 2 - up))
    poses = plan.poses[: own[0]] + tuple(drawn) + plan.poses[own[-1] + 1 :]
    slow = replace(plan, poses=poses)
    return told(slow, "timing.hop", own[0], own[0] + count - 1)


def timing_rhythm(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A contact that keeps much less speed than the others, or more; each hop in the time its height calls for."""
    recipe = plan.recipe
    if len(recipe.kept) < 3 or recipe.end == "cycle":
        return None
    at = int(rng.integers(len(recipe.kept)))
    usual = float(np.median([k for i, k in enumerate(recipe.kept) if i != at]))
    share = usual + times * 0.12 * (1 if usual + times * 0.12 < 1 and rng.random() < 0.5 else -1)
    off = bounce(replace(recipe, kept=(*recipe.kept[:at], share, *recipe.kept[at + 1 :])))
    low = recipe.drop_px * float(np.prod([k**2 for k in off.recipe.kept]))
    inside = all(0 < p.x < recipe.width and p.y - p.major / 2 > 4 for p in off.poses)
    if share < 0.3 or low < 0.8 * recipe.diameter or not inside:
        return None
    contact = [i for i, p in enumerate(off.poses) if p.role == "contact"][at]
    return told(off, "timing.rhythm", contact, contact)


def timing_loop(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A cycle that does not close: a drawing or two too few at its end, or its last drawings on their way elsewhere."""
    recipe = plan.recipe
    if recipe.end != "cycle":
        return None
    last = len(plan.poses) - 1
    if not recipe.halves and rng.random() < 0.5:
        wanted, poses = times * 0.1 * recipe.diameter, plan.poses
        for cut in range(1, 4):
            poses = plan.poses[:-cut]
            step = recipe.exposure
            depth = recipe.gravity / 2 * (((cut + 1) * step) ** 2 - (cut * step) ** 2 - step**2)
            if depth >= wanted:
                shorter = replace(plan, poses=poses)
                return told(shorter, "timing.loop", last - cut, last - cut)
        return None
    way = times * 0.1 * recipe.diameter * (1 if rng.random() < 0.5 else -1)
    # The last hop drifts aside, gathering from its contact on, so that only the step over the seam is uneven.
    own = in_air(plan, plan.poses[last].hop)
    aside = {i: replace(plan.poses[i], x=plan.poses[i].x + way * (k + 1) / len(own)) for k, i in enumerate(own)}
    return told(with_poses(plan, aside), "timing.loop", last, last)
