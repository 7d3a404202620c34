"""Faults planted in the plan of a pendulum, at so many times their tolerance, or whole where they are a lack."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from motion.exercises.pendulum.hung import hung_again, lateness
from motion.exercises.pendulum.plan import Place, Plan, Pose, keys_of, place, pose

Plant = Callable[[Plan, np.random.Generator, float], Plan | None]


def moved(plan: Plan, index: int, *, angle: float = 0.0, length: float = 0.0) -> Plan:
    """The plan with one weight moved along its arc (degrees) or along its line (px)."""
    own, pivot = plan.poses[index], plan.poses[index].top
    if own.joints:
        turned = [_turned(pivot, p, angle, length / plan.recipe.length) for p in (*own.joints, (own.x, own.y))]
        *joints, (x, y) = turned
        return with_poses(plan, {index: replace(own, x=x, y=y, joints=tuple(joints), hangs_at=own.hangs_at + angle)})
    x, y = place(pivot, plan.recipe.length + length, own.hangs_at + angle)
    return with_poses(plan, {index: replace(own, x=x, y=y, hangs_at=own.hangs_at + angle)})


def _turned(pivot: Place, point: Place, angle: float, longer: float) -> Place:
    """A point turned about the pivot, by degrees to the right, and moved away from it by a share."""
    dx, dy = point[0] - pivot[0], point[1] - pivot[1]
    at = math.degrees(math.atan2(dx, dy)) + angle
    return place(pivot, math.hypot(dx, dy) * (1 + longer), at)


def with_poses(plan: Plan, changed: dict[int, Pose]) -> Plan:
    """The plan with some poses, by index, put in place of its own."""
    return replace(plan, poses=tuple(changed.get(i, p) for i, p in enumerate(plan.poses)))


def swings_of(plan: Plan) -> list[tuple[int, int]]:
    """Index pairs of the extremes between which it swings."""
    keys = [k for k in keys_of(plan) if plan.poses[k].role == "swing"]
    return list(itertools.pairwise(keys))


def _inner(plan: Plan, rng: np.random.Generator) -> int | None:
    places = [i for a, b in swings_of(plan) for i in range(a + 2, b - 1)]
    return int(rng.choice(places)) if places else None


def _px(plan: Plan, px: float) -> float:
    return px * max(1.0, plan.width / 960)


def jump(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    at = _inner(plan, rng)
    if at is None:
        return None
    poses, length = plan.poses, plan.recipe.length
    gap = min(abs(poses[at].hangs_at - poses[j].hangs_at) for j in (at - 1, at + 1))
    off = times * max(0.18 * math.radians(gap) * length, 0.02 * length, _px(plan, 2))
    return moved(plan, at, angle=math.degrees(off / length) * (1 if rng.random() < 0.5 else -1))


def off_path(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    at = _inner(plan, rng)
    off = times * max(0.03 * plan.recipe.length, _px(plan, 2))
    return None if at is None else moved(plan, at, length=off * (1 if rng.random() < 0.5 else -1))


def even(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = [(a, b) for a, b in swings_of(plan) if b - a >= 6]
    if not swings:
        return None
    a, b = swings[int(rng.integers(len(swings)))]
    start, end = plan.poses[a].hangs_at, plan.poses[b].hangs_at
    return _at_angles(plan, a, [start + (end - start) * (i - a) / (b - a) for i in range(a, b + 1)])


def _at_angles(plan: Plan, first: int, angles: Sequence[float]) -> Plan:
    """The plan with drawings from one on at other angles."""
    changed = {
        first + k: pose(plan.recipe, a, plan.poses[first + k].frames, swing=plan.poses[first + k].swing)
        for k, a in enumerate(angles)
    }
    return with_poses(plan, changed)


def off_middle(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = [(a, b) for a, b in swings_of(plan) if b - a >= 8]
    if not swings:
        return None
    a, b = swings[int(rng.integers(len(swings)))]
    frames = sum(p.frames for p in plan.poses[a:b])
    late = min(0.28, times * max(1.0, 0.1 * frames) / frames) * (1 if rng.random() < 0.5 else -1)
    start, end = plan.poses[a].hangs_at, plan.poses[b].hangs_at
    shares = [(i - a) / (b - a) for i in range(a, b + 1)]
    bent = [s - late * math.sin(math.pi * s) for s in shares]
    return _at_angles(plan, a, [(start + end) / 2 + (start - end) / 2 * math.cos(math.pi * s) for s in bent])


def hangs(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    inner = [b for _, b in swings_of(plan)][:-1]
    if not inner:
        return None
    at = int(rng.choice(inner))
    more = round(times * max(2.0, 0.25 * 0.287 * plan.recipe.swing_frames))
    return with_poses(plan, {at: replace(plan.poses[at], frames=plan.poses[at].frames + more)})


def dead_stop(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = [(a, b) for a, b in swings_of(plan) if b - a >= 5]
    if not swings:
        return None
    a, b = swings[-1]
    kept = list(plan.poses[: (a + b) // 2 + 1])
    kept[-1] = replace(kept[-1], frames=kept[-1].frames + 8)
    return replace(plan, poses=tuple(kept))


def straight(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = [(a, b) for a, b in swings_of(plan) if abs(plan.poses[b].hangs_at - plan.poses[a].hangs_at) > 45]
    if not swings:
        return None
    a, b = swings[int(rng.integers(len(swings)))]
    middle = (plan.poses[a].hangs_at + plan.poses[b].hangs_at) / 2
    half = abs(plan.poses[b].hangs_at - plan.poses[a].hangs_at) / 2
    out = plan
    for i in range(a + 1, b):
        # Straight from extreme to extreme the line is shorter by how much nearer the chord is.
        turn = math.radians(plan.poses[i].hangs_at - middle)
        length = plan.recipe.length * math.cos(math.radians(half)) / math.cos(turn)
        out = moved(out, i, length=length - plan.recipe.length)
    return out


def rising_swings(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = swings_of(plan)
    if len(swings) < 4:
        return None
    at = swings[2][0]
    rest, before = plan.recipe.rest_angle, abs(plan.poses[swings[0][0]].hangs_at - plan.recipe.rest_angle)
    wanted = before + times * max(2.0, 0.06 * before)
    return _stretched(plan, at, wanted / abs(plan.poses[at].hangs_at - rest))


def _stretched(plan: Plan, at: int, by: float) -> Plan:
    """The half swings about an extreme drawn so many times as far."""
    rest, changed = plan.recipe.rest_angle, {}
    side = math.copysign(1.0, plan.poses[at].hangs_at - rest)
    for step, begin in ((-1, at), (1, at + 1)):
        i = begin
        while 0 <= i < len(plan.poses) and (plan.poses[i].hangs_at - rest) * side > 0:
            own = plan.poses[i]
            changed[i] = pose(plan.recipe, rest + by * (own.hangs_at - rest), own.frames, swing=own.swing)
            i += step
    return with_poses(plan, changed)


def lopsided(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    off = times * 0.12 * abs(plan.recipe.angle)
    angles = [p.hangs_at + off for p in plan.poses]
    return _at_angles(plan, 0, angles)


def volume(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    at = _inner(plan, rng)
    if at is None:
        return None
    by = math.sqrt(1 + times * 0.12 * (1 if rng.random() < 0.5 else -1))
    own = plan.poses[at]
    return with_poses(plan, {at: replace(own, major=own.major * by, minor=own.minor * by)})


def length(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    at = _inner(plan, rng)
    if plan.recipe.hangs == "chain":
        return link(plan, rng, times)
    if at is None or at + 4 >= len(plan.poses):
        return None
    out = plan
    for i in range(at, at + 4):
        out = moved(out, i, length=times * 0.04 * plan.recipe.length)
    return out


def pivot(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    at = _inner(plan, rng)
    if at is None:
        return None
    far, way = times * max(0.02 * plan.recipe.length, _px(plan, 2)), rng.uniform(0, 2 * math.pi)
    x, y = plan.poses[at].top
    return with_poses(plan, {at: replace(plan.poses[at], top=(x + far * math.cos(way), y + far * math.sin(way)))})


def swing(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = swings_of(plan)
    if len(swings) < 4:
        return None
    a, b = swings[1]
    start, end = plan.poses[a].hangs_at, plan.poses[b].hangs_at
    step = plan.recipe.exposure
    count = b - a + max(1, round(times * max(1.0, 0.1 * (b - a) * step) / step))
    drawn = [
        pose(plan.recipe, (start + end) / 2 + (start - end) / 2 * math.cos(math.pi * k / count), step)
        for k in range(1, count)
    ]
    return replace(plan, poses=(*plan.poses[: a + 1], *drawn, *plan.poses[b:]))


def rhythm(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = swings_of(plan)
    if len(swings) < 4:
        return None
    at, rest = swings[1][1], plan.recipe.rest_angle
    side, by = math.copysign(1.0, plan.poses[at].hangs_at - rest), 1 - times * 0.12
    first = next(i for i in range(at, 0, -1) if (plan.poses[i - 1].hangs_at - rest) * side <= 0)
    angles = [rest + by * (p.hangs_at - rest) for p in plan.poses[first:]]
    return _at_angles(plan, first, angles)


def hold(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    swings = [(a, b) for a, b in swings_of(plan) if b - a >= 6]
    if not swings:
        return None
    a, b = swings[int(rng.integers(len(swings)))]
    at = (a + b) // 2
    return with_poses(plan, {at: replace(plan.poses[at], frames=plan.poses[at].frames + math.ceil(times))})


def loop(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    return replace(plan, poses=plan.poses[:-4]) if len(plan.poses) > 12 else None


def stiff(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    return hung_again(plan, lambda time: 0.0) if plan.poses[0].joints else None


def leads(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    return hung_again(plan, lambda time: -0.75 * times) if plan.poses[0].joints else None


def stops_together(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    resting = [p for p in plan.poses if p.role == "rest"]
    if not resting or not plan.poses[0].joints:
        return None
    # They follow less and less, until they move as one just before the first of them rests.
    together = 0.8 * (resting[0].time - lateness(plan.recipe))
    return hung_again(plan, lambda time: plan.recipe.follows * max(0.0, 1 - time / together))


def link(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """One link longer or shorter in one drawing, and all below it further along."""
    at = _inner(plan, rng)
    if at is None or plan.recipe.hangs != "chain":
        return None
    own = plan.poses[at]
    line = [own.top, *own.joints, (own.x, own.y)]
    number = int(rng.integers(len(line) - 1))
    each = plan.recipe.length / plan.recipe.links
    off = times * max(0.06, _px(plan, 2) / each) * (1 if rng.random() < 0.5 else -1)
    (ax, ay), (bx, by) = line[number : number + 2]
    return with_poses(plan, {at: _below_moved(own, number, ((bx - ax) * off, (by - ay) * off))})


def _below_moved(own: Pose, number: int, by: Place) -> Pose:
    """A drawing with all points of its line behind one, by number, moved by so many px."""
    line = [own.top, *own.joints, (own.x, own.y)]
    *joints, (x, y) = [(px + by[0], py + by[1]) if k > number else (px, py) for k, (px, py) in enumerate(line)][1:]
    return replace(own, x=x, y=y, joints=tuple(joints))


def joint(plan: Plan, rng: np.random.Generator, times: float) -> Plan | None:
    """One link come apart from the one above in one drawing, with all below it."""
    at = _inner(plan, rng)
    if at is None or plan.recipe.hangs != "chain":
        return None
    own = plan.poses[at]
    line = [own.top, *own.joints, (own.x, own.y)]
    number, way = int(rng.integers(1, len(line) - 1)), rng.uniform(0, 2 * math.pi)
    off = times * max(0.02 * plan.recipe.length, _px(plan, 2))
    by = off * math.cos(way), off * math.sin(way)
    begins = line[number][0] + by[0], line[number][1] + by[1]
    return with_poses(plan, {at: replace(_below_moved(own, number, by), apart=((number, begins),))})


FAULTS: dict[str, Plant] = {
    "spacing.even": even,
    "spacing.off_middle": off_middle,
    "spacing.jump": jump,
    "spacing.hangs": hangs,
    "spacing.dead_stop": dead_stop,
    "arc.off_path": off_path,
    "arc.straight": straight,
    "arc.rising_swings": rising_swings,
    "arc.lopsided": lopsided,
    "volume.changes": volume,
    "volume.length": length,
    "contact.pivot": pivot,
    "contact.joint": joint,
    "timing.swing": swing,
    "timing.rhythm": rhythm,
    "timing.hold": hold,
    "timing.loop": loop,
    "overlap.stiff": stiff,
    "overlap.leads": leads,
    "overlap.stops_together": stops_together,
}
"""What plants each fault; those that only a brief asks for are not among them."""
