"""Faults that students make, planted in a plan. Each says where it put what."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.bounce import shapes
from motion.exercises.bounce.ideal import hop_frames
from motion.exercises.bounce.plan import Plan, Pose, bounce


@dataclass(frozen=True, slots=True, kw_only=True)
class Planted:
    """The fault that is in a plan now: its code and the frames it concerns."""

    code: str
    first_frame: int
    last_frame: int


Fault = Callable[[Plan, np.random.Generator, float], "tuple[Plan, Planted] | None"]
"""Plants a fault at so many times its tolerance; None where the plan has no place for it."""


def _with(plan: Plan, changed: dict[int, Pose]) -> Plan:
    return replace(plan, poses=tuple(changed.get(i, p) for i, p in enumerate(plan.poses)))


def _told(plan: Plan, code: str, first: int, last: int) -> tuple[Plan, Planted]:
    return plan, Planted(
        code=code,
        first_frame=plan.first_frame(first),
        last_frame=plan.first_frame(last) + plan.poses[last].frames - 1,
    )


def _air(plan: Plan, hop: int) -> list[int]:
    return [i for i, p in enumerate(plan.poses) if p.hop == hop and p.role == "air"]


def _top(plan: Plan, hop: int) -> int:
    return min(_air(plan, hop), key=lambda i: plan.poses[i].y)


def _inner(plan: Plan) -> list[int]:
    """Drawings in the air with two neighbours in the air on both sides, in hops that run on after them."""
    poses = plan.poses
    return [
        i
        for i in range(2, len(poses) - 2)
        if all(poses[j].role == "air" and poses[j].hop == poses[i].hop for j in range(i - 2, i + 3))
    ]


def _tolerance_px(plan: Plan, share: float, least: float) -> float:
    return max(share * plan.recipe.diameter, least * max(1.0, plan.recipe.width / 960))


def _contact(plan: Plan, rng: np.random.Generator, times: float, way: int, code: str) -> tuple[Plan, Planted] | None:
    places = [i for i, p in enumerate(plan.poses) if p.role == "contact"]
    if not places:
        return None
    at = int(rng.choice(places))
    off = times * _tolerance_px(plan, 0.04, 2.0)
    pose = plan.poses[at]
    return _told(_with(plan, {at: replace(pose, y=pose.y + way * off)}), code, at, at)


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
    at = _some(places, rng)
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
    pose, frame = plan.poses[at], float(plan.first_frame(at))
    flight = next((f for f in plan.flights if f.left <= frame <= f.lands), plan.flights[pose.hop])
    height = flight.height(frame)
    if height < 0.32 * plan.recipe.diameter or abs(frame - plan.flights[pose.hop].lands) < 0.35 * pose.frames:
        return None
    size = plan.recipe.diameter
    x = plan.recipe.start_x + plan.recipe.speed_x * (frame - 1)
    return replace(pose, x=x, y=plan.ground_at(x) - size / 2 - height, major=size, minor=size, angle=0.0, role="air")


def spacing_jump(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing shifted along the path."""
    at = _some(_inner(plan), rng)
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
    return _told(_with(plan, {at: moved}), "spacing.jump", at, at)


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


def arc_off_path(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing shifted across the path."""
    at = _some(_inner(plan), rng) if plan.recipe.speed_x else None
    if at is None:
        return None
    before, here, after = plan.poses[at - 1 : at + 2]
    dx, dy = after.x - before.x, after.y - before.y
    length = math.hypot(dx, dy)
    off = times * _tolerance_px(plan, 0.07, 2.0) * (1 if rng.random() < 0.5 else -1)
    moved = replace(here, x=here.x - dy / length * off, y=here.y + dx / length * off)
    return _told(_with(plan, {at: moved}), "arc.off_path", at, at)


def spacing_even(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A rise or a fall between a top and a contact in even steps along its arc."""
    sides = _sides(plan, least=3)
    if not sides:
        return None
    side = sides[int(rng.integers(len(sides)))]
    changed = _respaced(plan, side, np.linspace(0, 1, len(side)))
    air = [i for i in side if plan.poses[i].role == "air"]
    return _told(_with(plan, changed), "spacing.even", min(air), max(air))


def spacing_faster_rising(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A rise whose gaps in the air grow over its first half, then shrink to the top."""
    sides = [s for s in _sides(plan, least=6) if plan.poses[s[-1]].role == "contact" and s[-1] < s[0]]
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
    return _told(_with(plan, changed), "spacing.faster_rising", min(air), max(air))


def _sides(plan: Plan, least: int) -> list[list[int]]:
    """Runs of indices from a top to the contact below it, both included, with at least so many steps."""
    found = []
    for hop in sorted({p.hop for p in plan.poses}):
        own = _air(plan, hop)
        if not own:
            continue
        top = _top(plan, hop)
        for end, step in ((own[0] - 1, -1), (own[-1] + 1, 1)):
            if 0 <= end < len(plan.poses) and plan.poses[end].role == "contact" and abs(end - top) >= least:
                found.append(list(range(top, end + step, step)))
    return found


def _respaced(plan: Plan, side: list[int], parts: np.ndarray) -> dict[int, Pose]:
    """The side's air drawings at these parts of the way along their arc from the top to the contact."""
    top, low = plan.poses[side[0]], plan.poses[side[-1]]
    base = plan.ground_at(low.x) - plan.recipe.diameter / 2
    across = np.linspace(0, 1, 600)
    xs, ys = top.x + (low.x - top.x) * across, top.y + (base - top.y) * across**2
    length = np.concatenate([[0], np.cumsum(np.hypot(np.diff(xs), np.diff(ys)))])
    changed = {}
    for index, part in zip(side[1:-1], parts[1:-1], strict=True):
        goal = part * length[-1]
        changed[index] = replace(
            plan.poses[index], x=float(np.interp(goal, length, xs)), y=float(np.interp(goal, length, ys))
        )
    return changed


def volume_changes(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing with too much or too little ball."""
    places = [i for i, p in enumerate(plan.poses) if p.role == "air"]
    at = _some(places, rng)
    if at is None:
        return None
    share = 1 + times * 0.12 * (1 if rng.random() < 0.5 else -1)
    pose = plan.poses[at]
    grown = replace(pose, major=pose.major * math.sqrt(share), minor=pose.minor * math.sqrt(share))
    return _told(_with(plan, {at: grown}), "volume.changes", at, at)


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
    at = _some(places, rng)
    if at is None:
        return None
    pose = plan.poses[at]
    long = plan.recipe.diameter / math.sqrt(flatness)
    flat = replace(pose, major=long, minor=long * flatness, angle=0.0)
    return _told(_with(plan, {at: flat}), "squash.in_air", at, at)


def _steep(plan: Plan, at: int) -> bool:
    if not 0 < at < len(plan.poses) - 1:
        return False
    before, after = plan.poses[at - 1], plan.poses[at + 1]
    return math.degrees(math.atan2(abs(after.y - before.y), abs(after.x - before.x) + 1e-6)) > 30


def timing_hold(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """One drawing on the way up or down held too long."""
    places = [
        i
        for i in _inner(plan)
        if plan.poses[i].y - plan.poses[_top(plan, plan.poses[i].hop)].y
        > 0.2 * (plan.ground_at(plan.poses[i].x) - plan.poses[_top(plan, plan.poses[i].hop)].y)
    ]
    at = _some(places, rng)
    if at is None:
        return None
    pose = plan.poses[at]
    held = replace(pose, frames=pose.frames + max(2, round(times)))
    return _told(_with(plan, {at: held}), "timing.hold", at, at)


def timing_hop(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hop drawn with too many drawings for its height, evenly slower throughout."""
    hops = [h for h in sorted({p.hop for p in plan.poses}) if 0 < h < plan.poses[-1].hop and _air(plan, h)]
    if not hops:
        return None
    hop = int(rng.choice(hops))
    own = _air(plan, hop)
    top = plan.poses[_top(plan, hop)]
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
    return _told(slow, "timing.hop", own[0], own[0] + count - 1)


def stretch_missing(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """Round drawings on both sides of a fast contact, where a soft ball should be long."""
    at = _some([i for i in _fast_contacts(plan) if i + 1 < len(plan.poses)], rng) if plan.recipe.stretch > 1 else None
    if at is None or plan.poses[at + 1].role != "air":
        return None
    beside = {i: _reshaped(plan, plan.poses[i], 1.0, 0.0) for i in (at - 1, at + 1)}
    return _told(_with(plan, beside), "stretch.missing", at - 1, at + 1)


def squash_missing(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A round drawing on a fast contact of a soft ball."""
    at = _some(_fast_contacts(plan), rng) if plan.recipe.squash > 1 else None
    if at is None:
        return None
    size = plan.recipe.diameter
    pose = replace(_reshaped(plan, plan.poses[at], 1.0, 0.0), y=plan.ground_at(plan.poses[at].x) - size / 2)
    return _told(_with(plan, {at: pose}), "squash.missing", at, at)


def stretch_across(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A stretched drawing in full flight, turned off its path."""
    poses, size = plan.poses, plan.recipe.diameter
    places = [i for i in _inner(plan) if _gap(poses[i - 1], poses[i]) > 0.4 * size and poses[i].major > 1.1 * size]
    at = _some(places, rng)
    if at is None:
        return None
    before, after = poses[at - 1], poses[at + 1]
    way = math.degrees(math.atan2(before.y - after.y, after.x - before.x))
    turned = way + times * 18.0 * (1 if rng.random() < 0.5 else -1)
    return _told(_with(plan, {at: _reshaped(plan, poses[at], 1.3, turned)}), "stretch.across", at, at)


def stretch_at_top(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A long drawing at a top, where a soft ball should be round; along its path, so that it is no squashed one."""
    if plan.recipe.stretch == 1 or plan.recipe.speed_x == 0:
        return None
    size = plan.recipe.diameter
    tops = [_top(plan, h) for h in sorted({p.hop for p in plan.poses}) if len(_air(plan, h)) > 2]
    at = _some([i for i in tops if plan.ground_at(plan.poses[i].x) - plan.poses[i].y > 2 * size], rng)
    if at is None:
        return None
    before, after = plan.poses[max(0, at - 1)], plan.poses[min(len(plan.poses) - 1, at + 1)]
    way = math.degrees(math.atan2(before.y - after.y, after.x - before.x))
    return _told(_with(plan, {at: _reshaped(plan, plan.poses[at], 1 + times * 0.12, way)}), "stretch.at_top", at, at)


def shape_unwanted(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hard ball that is long in one drawing, along its path."""
    at = _some(_inner(plan), rng) if plan.recipe.stretch == 1 else None
    if at is None:
        return None
    before, after = plan.poses[at - 1], plan.poses[at + 1]
    way = math.degrees(math.atan2(before.y - after.y, after.x - before.x))
    return _told(_with(plan, {at: _reshaped(plan, plan.poses[at], 1 + times * 0.08, way)}), "shape.unwanted", at, at)


def arc_rising_tops(plan: Plan, rng: np.random.Generator, times: float) -> tuple[Plan, Planted] | None:
    """A hop that is higher than the one before it, in the time that its height calls for."""
    recipe = plan.recipe
    at = int(rng.integers(len(recipe.kept)))
    height = recipe.drop_px * float(np.prod([k**2 for k in recipe.kept[:at]]))
    gains = math.sqrt((height + times * 0.1 * recipe.diameter) / height)
    higher = bounce(replace(recipe, kept=(*recipe.kept[:at], gains, *recipe.kept[at + 1 :])))
    own = _air(higher, at + 1)
    fits = own and min(p.y - p.major / 2 for p in higher.poses) > 4 and recipe.speed_x > 0
    inside = all(0 < p.x < recipe.width for p in higher.poses)
    if not fits or not inside:
        return None
    top = _top(higher, at + 1)
    return _told(higher, "arc.rising_tops", top, top)


def _fast_contacts(plan: Plan) -> list[int]:
    """Indices of contact drawings with two drawings in the air before, more than 0.6 D apart."""
    poses = plan.poses
    return [
        i
        for i, p in enumerate(poses)
        if p.role == "contact"
        and i >= 2
        and poses[i - 1].role == poses[i - 2].role == "air"
        and _gap(poses[i - 2], poses[i - 1]) > 0.6 * plan.recipe.diameter
    ]


def _gap(one: Pose, other: Pose) -> float:
    return math.hypot(other.x - one.x, other.y - one.y)


def _reshaped(plan: Plan, pose: Pose, ratio: float, angle: float) -> Pose:
    """The pose with as much ball, its axes in that ratio and turned to that angle."""
    ball = shapes.axes(plan.recipe.diameter, ratio, angle)
    return replace(pose, major=ball.major, minor=ball.minor, angle=ball.angle)


def _some(places: list[int], rng: np.random.Generator) -> int | None:
    return int(rng.choice(places)) if places else None


FAULTS: dict[str, Fault] = {
    "spacing.even": spacing_even,
    "spacing.faster_rising": spacing_faster_rising,
    "spacing.jump": spacing_jump,
    "arc.off_path": arc_off_path,
    "arc.rising_tops": arc_rising_tops,
    "volume.changes": volume_changes,
    "stretch.missing": stretch_missing,
    "stretch.across": stretch_across,
    "stretch.at_top": stretch_at_top,
    "squash.missing": squash_missing,
    "shape.unwanted": shape_unwanted,
    "squash.in_air": squash_in_air,
    "contact.gap": contact_gap,
    "contact.through": contact_through,
    "contact.missed": contact_missed,
    "timing.hop": timing_hop,
    "timing.hold": timing_hold,
}
