"""Faults planted in the plan of a walk, at so many times their tolerance, or whole where they are a lack."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from motion.exercises.walk.figure import JOINTS, OTHER, SIDES, THIGH, Side, bend_of, knee_of
from motion.exercises.walk.ideal import BOTH, HIGHEST
from motion.exercises.walk.plan import Plan, Pose, Recipe, pose
from motion.synth.walk.posed import (
    FOOT,
    Plant,
    at_least,
    either_way,
    figure_moved,
    foot_moved,
    hips_moved,
    kneed,
    moved_by,
    one_of,
    over_ground,
    stands_of,
    swings_of,
    with_poses,
)
from motion.synth.walk.upper_faults import elbow_backwards, even_arms, head_jump, same_arms


def jump(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """A foot in the middle of its swing, or the whole figure, too far along or back."""
    chosen = one_of(rng, [(side, i) for side, run in swings_of(plan) for i in run[2:-2]])
    if chosen is None:
        return None
    side, at = chosen
    name = f"ankle_{side}"
    before, here, after = (np.array(over_ground(plan, at + k, name)) for k in (-1, 0, 1))
    gap = min(math.dist(before, here), math.dist(here, after))
    off = times * max(0.18 * gap, at_least(plan, 0.03, 2)) * either_way(rng)
    way = (after - before) / max(1e-6, float(np.hypot(*(after - before))))
    moved = foot_moved(plan, plan.poses[at], side, float(off * way[0]), float(off * way[1]))
    return with_poses(plan, {at: moved}) if moved else None


def figure_jump(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The whole figure of one drawing too far along or back."""
    at = int(rng.integers(2, len(plan.poses) - 2))
    speed = plan.recipe.gait.step / plan.recipe.step_frames * plan.poses[at].frames
    off = times * max(0.18 * speed, at_least(plan, 0.03, 2)) * either_way(rng)
    return with_poses(plan, {at: figure_moved(plan.poses[at], off, 0.0)})


def off_path(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """Hips, or a foot in the middle of its swing, beside the arc."""
    off = times * at_least(plan, 0.025, 2) * either_way(rng)
    if rng.random() < 0.5:
        at = int(rng.integers(2, len(plan.poses) - 2))
        moved = hips_moved(plan, plan.poses[at], 0.0, abs(off))
    else:
        chosen = one_of(rng, [(side, i) for side, run in swings_of(plan) for i in run[2:-2]])
        if chosen is None:
            return None
        side, at = chosen
        moved = foot_moved(plan, plan.poses[at], side, 0.0, -abs(off))
    return with_poses(plan, {at: moved}) if moved else None


def surges(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The body slows down in the middle of every step."""
    if not plan.recipe.across:
        return None
    depth = min(0.95, 0.4 * times)
    steps = plan.recipe.step_frames

    def late(time: float) -> float:
        phase = time / steps % 1.0
        return time + steps * depth * math.sin(2 * math.pi * phase) / (2 * math.pi)

    return _retimed(plan, late)


def _retimed(plan: Plan, late: Callable[[float], float]) -> Plan:
    """Each drawing as the figure is at another time."""
    changed = {}
    for index, own in enumerate(plan.poses):
        time = float(plan.first_frame(index) - 1)
        changed[index] = replace(pose(plan.recipe, late(time), own.frames), role=own.role)
    return with_poses(plan, changed)


def pops(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """A knee that stays bent late in its swing, and is straight in the next drawing."""
    for side, run in swings_of(plan):
        bends = [_bend(plan, plan.poses[i], side) for i in run]
        k = int(np.argmin(bends[2:])) + 2
        if bends[k] > 14 or k < 4:
            continue
        wanted = min(75.0, 30.0 * max(1.25, min(times, 1.6)) + 8)
        changed = {run[k]: _bent(plan, plan.poses[run[k]], side, 6.5)}
        for j in range(2, k):
            if bends[j] < wanted:
                changed[run[j]] = _bent(plan, plan.poses[run[j]], side, wanted)
        if all(changed.values()):
            return with_poses(plan, {i: p for i, p in changed.items() if p is not None})
    return None


def _bend(plan: Plan, one: Pose, side: Side) -> float:
    at = one.landmarks
    return bend_of(at["hip"], at[f"knee_{side}"], at[f"ankle_{side}"], plan.recipe.facing)


def _bent(plan: Plan, one: Pose, side: Side, degrees: float) -> Pose | None:
    """The pose with a knee bent by so much, its foot moved along the leg for that."""
    hip, ankle = one.landmarks["hip"], one.landmarks[f"ankle_{side}"]
    far, wanted = math.dist(hip, ankle), plan.recipe.gait.leg * math.cos(math.radians(degrees / 2))
    share = wanted / far - 1
    return foot_moved(plan, one, side, share * (ankle[0] - hip[0]), share * (ankle[1] - hip[1]))


def stride(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """Steps onto one foot longer than onto the other."""
    off = 0.03 * times * plan.recipe.gait.step * plan.recipe.facing
    changed = {}
    for index, own in enumerate(plan.poses):
        moved: Pose | None = foot_moved(plan, own, "near", off, 0.0)
        changed[index] = moved and foot_moved(plan, moved, "far", -off, 0.0)
    return with_poses(plan, {i: p for i, p in changed.items() if p}) if all(changed.values()) else None


def flat(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    return _again(plan, replace(plan.recipe, gait=replace(plan.recipe.gait, rise=0.0)))


def scuffs(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    return _again(plan, replace(plan.recipe, gait=replace(plan.recipe.gait, lift=0.0)))


def _again(plan: Plan, recipe: Recipe) -> Plan:
    """The same drawings of another walk."""
    poses = [pose(recipe, float(plan.first_frame(i) - 1), p.frames, p.role) for i, p in enumerate(plan.poses)]
    return Plan(recipe=recipe, poses=tuple(poses))


def volume(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    at = int(rng.integers(1, len(plan.poses) - 1))
    own, share = plan.poses[at], 1 + 0.12 * times * (1 if rng.random() < 0.6 else -0.9)
    scale = math.sqrt(share)
    return with_poses(plan, {at: replace(own, major=own.major * scale, minor=own.minor * scale)})


def length(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """A shin longer or shorter in one drawing of a swing."""
    chosen = one_of(rng, [(side, i) for side, run in swings_of(plan) for i in run[1:-1]])
    if chosen is None:
        return None
    side, at = chosen
    own, shin = plan.poses[at], (1 - THIGH) * plan.recipe.gait.leg
    share = times * max(0.08, 2 / shin) * (-1 if rng.random() < 0.6 else 1)
    knee, ankle = own.landmarks[f"knee_{side}"], own.landmarks[f"ankle_{side}"]
    dx, dy = share * (ankle[0] - knee[0]), share * (ankle[1] - knee[1])
    moved = {f"{j}_{side}": moved_by(own.landmarks[f"{j}_{side}"], dx, dy) for j in FOOT}
    return with_poses(plan, {at: replace(own, landmarks={**own.landmarks, **moved})})


def backwards(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """A knee on the wrong side of its leg."""
    chosen = one_of(
        rng,
        [
            (side, i)
            for i, p in enumerate(plan.poses)
            for side in SIDES
            if 8 * times <= _bend(plan, p, side) <= 16 * times + 8
        ],
    )
    if chosen is None:
        return None
    side, at = chosen
    own, leg = plan.poses[at], plan.recipe.gait.leg
    hip, ankle = own.landmarks["hip"], own.landmarks[f"ankle_{side}"]
    knee = knee_of(hip, ankle, THIGH * leg, (1 - THIGH) * leg, -plan.recipe.facing)
    return with_poses(plan, {at: replace(own, landmarks={**own.landmarks, f"knee_{side}": knee})})


def slides(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """A standing foot that goes on or back, and stays there until it leaves."""
    stands = [(side, run) for side, run in stands_of(plan) if len(run) >= 5]
    if not stands:
        return None
    side, run = stands[int(rng.integers(len(stands)))]
    start = run[int(rng.integers(2, len(run) - 2))]
    off = times * at_least(plan, 0.03, 2) * either_way(rng)
    changed = {i: foot_moved(plan, plan.poses[i], side, off, 0.0) for i in run if i >= start}
    return with_poses(plan, {i: p for i, p in changed.items() if p}) if all(changed.values()) else None


def _standing(plan: Plan, rng: np.random.Generator) -> tuple[Side, int] | None:
    """A foot in the middle of its stand, flat on the ground."""
    found = []
    for side, run in stands_of(plan):
        for i in run[1:-1]:
            heel, toe = (plan.poses[i].landmarks[f"{end}_{side}"] for end in ("heel", "toe"))
            if abs(heel[1] - toe[1]) < 1 and plan.poses[i].support == (side,):
                found.append((side, i))
    return one_of(rng, found)


def gap(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    chosen = _standing(plan, rng)
    if chosen is None:
        return None
    moved = foot_moved(plan, plan.poses[chosen[1]], chosen[0], 0.0, -times * at_least(plan, 0.025, 2))
    return with_poses(plan, {chosen[1]: moved}) if moved else None


def through(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    chosen = _standing(plan, rng)
    if chosen is None:
        return None
    moved = foot_moved(plan, plan.poses[chosen[1]], chosen[0], 0.0, times * at_least(plan, 0.025, 2))
    return with_poses(plan, {chosen[1]: moved}) if moved else None


def airborne(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The whole figure lifted off in some drawings of a step."""
    at = int(rng.integers(3, len(plan.poses) - 5))
    high = (0.12 + 0.025 * times) * plan.recipe.gait.leg
    return with_poses(plan, {i: figure_moved(plan.poses[i], 0.0, -high) for i in (at, at + 1)})


def limps(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """One step in more drawings than the other."""
    recipe = plan.recipe
    usual = recipe.step_frames / recipe.exposure
    off = math.ceil(times * max(1.0, 0.12 * recipe.step_frames, float(recipe.exposure)) / 2 / recipe.exposure)
    if usual - off < 4:
        return None
    steps = math.floor((plan.frames - 1) / recipe.step_frames + 1e-6)
    poses: list[Pose] = []
    for step in range(steps):
        count = round(usual + (off if step % 2 else -off))
        poses += [
            replace(
                pose(recipe, (step + k / count) * recipe.step_frames, recipe.exposure),
                role="contact" if k == 0 else "between",
            )
            for k in range(count)
        ]
    poses.append(pose(recipe, steps * recipe.step_frames, recipe.exposure, "contact"))
    if not recipe.across:
        poses = [_centred(plan, p) for p in poses]
    return replace(plan, poses=tuple(poses))


def _centred(plan: Plan, one: Pose) -> Pose:
    """In place the hips stay where they are."""
    return figure_moved(one, plan.recipe.start_x - one.landmarks["hip"][0], 0.0)


def down_up(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The hips' wave half a step late: lowest where they should be highest."""
    rise = plan.recipe.gait.rise
    changed = {}
    for index, own in enumerate(plan.poses):
        # Their own wave taken out and put in again half a step later; all a little lower, that legs may reach.
        off = rise * math.cos(2 * math.pi * (own.phase - HIGHEST)) + rise
        changed[index] = hips_moved(plan, own, 0.0, off)
    return with_poses(plan, {i: p for i, p in changed.items() if p}) if all(changed.values()) else None


def passing(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The swinging foot hurries, and then dawdles, in every step; or the other way round."""
    late = either_way(rng)
    recipe = plan.recipe
    changed = {}
    for index, own in enumerate(plan.poses):
        swinging = SIDES[(own.step + 1) % 2]
        if swinging in own.support:
            continue
        share = (own.phase - BOTH) / (1 - BOTH)
        bent = share**2.6 if late > 0 else 1 - (1 - share) ** 2.6
        time = recipe.gait.time_of(own.step + BOTH + (1 - BOTH) * bent) * recipe.step_frames
        there = pose(recipe, time, own.frames)
        gone = (time - (plan.first_frame(index) - 1)) * recipe.belt
        moved = {
            f"{j}_{swinging}": (
                there.landmarks[f"{j}_{swinging}"][0] - gone,
                there.landmarks[f"{j}_{swinging}"][1],
            )
            for j in FOOT
        }
        changed[index] = kneed(plan, replace(own, landmarks={**own.landmarks, **moved}), swinging)
    return with_poses(plan, {i: p for i, p in changed.items() if p}) if all(changed.values()) else None


def hold(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    inner = [i for i, p in enumerate(plan.poses) if 2 <= i < len(plan.poses) - 2 and p.role != "contact"]
    if not inner:
        return None
    at = int(rng.choice(inner))
    own = plan.poses[at]
    held = replace(own, frames=own.frames + math.ceil(times))
    # What follows waits: each drawing is as it was, only later.
    return with_poses(plan, {at: held})


def loop(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """The last drawing away from where the cycle leads."""
    off = times * at_least(plan, 0.04, 2) * either_way(rng)
    last = len(plan.poses) - 1
    return with_poses(plan, {last: figure_moved(plan.poses[last], off, 0.0)})


def legs_swapped(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """Near and far leg changed places in some drawings."""
    apart = [
        i
        for i, p in enumerate(plan.poses)
        if 3 <= i < len(plan.poses) - 4
        and abs(p.landmarks["ankle_near"][0] - p.landmarks["ankle_far"][0]) > 0.4 * plan.recipe.gait.leg
    ]
    if not apart:
        return None
    at = int(rng.choice(apart))
    changed = {}
    for i in (at, at + 1):
        own = plan.poses[i]
        turned = {f"{j}_{OTHER[side]}": own.landmarks[f"{j}_{side}"] for j in JOINTS for side in SIDES}
        changed[i] = replace(own, landmarks={**own.landmarks, **turned})
    return with_poses(plan, changed)


FAULTS: dict[str, Plant] = {
    "spacing.jump": jump,
    "spacing.even": even_arms,
    "spacing.surges": surges,
    "spacing.pops": pops,
    "spacing.stride": stride,
    "arc.off_path": off_path,
    "arc.flat": flat,
    "volume.changes": volume,
    "volume.length": length,
    "form.backwards": backwards,
    "contact.slides": slides,
    "contact.gap": gap,
    "contact.through": through,
    "contact.airborne": airborne,
    "contact.scuffs": scuffs,
    "timing.limps": limps,
    "timing.down_up": down_up,
    "timing.passing": passing,
    "timing.opposite": same_arms,
    "timing.hold": hold,
    "timing.loop": loop,
}
MORE: dict[str, tuple[str, Plant]] = {
    "figure jump": ("spacing.jump", figure_jump),
    "legs swapped": ("spacing.jump", legs_swapped),
    "head jump": ("spacing.jump", head_jump),
    "elbow": ("form.backwards", elbow_backwards),
}
"""Other ways to make a fault, and its code."""
OF_WHOLE = ("spacing.even", "timing.opposite", "head jump", "elbow")
"""What only a whole figure has room for."""
