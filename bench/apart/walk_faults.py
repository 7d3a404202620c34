"""Faults planted in walks drawn apart, from their definitions: at so many times their tolerance, or complete."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import replace

from bench.apart.walks import SIDES, Point, Posed, Walk, _knee, with_drawings

TIMES = 2.5
Planted = tuple[Walk, list[int]]
"""A walk with its fault, and the drawings (from 0) that it concerns; none: all of the clip."""
Plant = Callable[[random.Random, Walk], Planted | None]


def _with_foot(walk: Walk, index: int, side: str, dx: float, dy: float) -> Posed | None:
    own = walk.drawings[index]
    points = dict(own.points)
    for joint in ("ankle", "heel", "toe"):
        x, y = points[f"{joint}_{side}"]
        points[f"{joint}_{side}"] = (x + dx, y + dy)
    knee = _bent(walk, points["hip"], points[f"ankle_{side}"])
    if knee is None:
        return None
    points[f"knee_{side}"] = knee
    return replace(own, points=points)


def _bent(walk: Walk, hip: Point, ankle: Point) -> Point | None:
    facing = walk.manner.facing
    knee = _knee((facing * hip[0], hip[1]), (facing * ankle[0], ankle[1]), walk.manner.leg / 2)
    return None if knee is None else (facing * knee[0], knee[1])


def _moved(own: Posed, dx: float, dy: float) -> Posed:
    x, y, wide, tall = own.body
    return replace(
        own, points={n: (p[0] + dx, p[1] + dy) for n, p in own.points.items()}, body=(x + dx, y + dy, wide, tall)
    )


def _hips(walk: Walk, index: int, dy: float) -> Posed | None:
    own = walk.drawings[index]
    points, (x, y, wide, tall) = dict(own.points), own.body
    points["hip"] = (points["hip"][0], points["hip"][1] + dy)
    for side in SIDES:
        knee = _bent(walk, points["hip"], points[f"ankle_{side}"])
        if knee is None:
            return None
        points[f"knee_{side}"] = knee
    return replace(own, points=points, body=(x, y + dy, wide, tall))


def _px(walk: Walk, share: float) -> float:
    return TIMES * max(share * walk.manner.leg, 2.0 * max(1.0, walk.manner.width / 960))


def _low(walk: Walk, index: int, side: str) -> float:
    points = walk.drawings[index].points
    return walk.manner.ground - max(points[f"heel_{side}"][1], points[f"toe_{side}"][1])


def _standing(walk: Walk, side: str) -> list[int]:
    """Drawings in which a foot lies flat, and the other one is up."""
    found, other = [], SIDES[1 - SIDES.index(side)]
    for i, d in enumerate(walk.drawings):
        flat = abs(d.points[f"heel_{side}"][1] - d.points[f"toe_{side}"][1]) < 0.01 * walk.manner.leg
        if flat and abs(_low(walk, i, side)) < 1.5 and _low(walk, i, other) > 0.01 * walk.manner.leg:
            found.append(i)
    return found


def _swinging(walk: Walk, side: str) -> list[int]:
    """Drawings well within a swing: three and more after the foot has left, and before it lands."""
    up = [_low(walk, i, side) > 0.012 * walk.manner.leg for i in range(len(walk.drawings))]
    return [i for i in range(3, len(up) - 3) if all(up[i - 2 : i + 3])]


def jump(rng: random.Random, walk: Walk) -> Planted | None:
    side = rng.choice(SIDES)
    places = _swinging(walk, side)
    if not places:
        return None
    at, name = rng.choice(places), f"ankle_{side}"
    belt = _belt(walk)
    ways = []
    for k in (at - 1, at):
        a, b = walk.drawings[k].points[name], walk.drawings[k + 1].points[name]
        ways.append((b[0] - a[0] - belt * walk.drawings[k].frames, b[1] - a[1]))
    gap = min(math.hypot(*w) for w in ways)
    far = TIMES * max(0.18 * gap, 0.03 * walk.manner.leg, 2.0 * max(1.0, walk.manner.width / 960)) * rng.choice([-1, 1])
    dx, dy = ways[0][0] + ways[1][0], ways[0][1] + ways[1][1]
    moved = _with_foot(walk, at, side, far * dx / math.hypot(dx, dy), far * dy / math.hypot(dx, dy))
    return (with_drawings(walk, {at: moved}), [at]) if moved else None


def _belt(walk: Walk) -> float:
    """Px a frame by which the ground goes to the right under it."""
    if walk.manner.across:
        return 0.0
    for side in SIDES:
        for i in _standing(walk, side):
            if i + 1 in _standing(walk, side):
                a, b = (walk.drawings[k].points[f"toe_{side}"][0] for k in (i, i + 1))
                return (b - a) / walk.drawings[i].frames
    return 0.0


def off_path(rng: random.Random, walk: Walk) -> Planted | None:
    at = rng.randrange(3, len(walk.drawings) - 3)
    moved = _hips(walk, at, _px(walk, 0.025))
    return (with_drawings(walk, {at: moved}), [at]) if moved else None


def slides(rng: random.Random, walk: Walk) -> Planted | None:
    side = rng.choice(SIDES)
    places = [i for i in _standing(walk, side) if i - 1 in _standing(walk, side)]
    if not places:
        return None
    at = rng.choice(places)
    far = _px(walk, 0.03) * rng.choice([-1, 1])
    changed: dict[int, Posed] = {}
    for i in range(at, len(walk.drawings)):
        if _low(walk, i, side) > 2.0:
            break
        moved = _with_foot(walk, i, side, far, 0.0)
        if moved is None:
            return None
        changed[i] = moved
    return with_drawings(walk, changed), [at - 1, at]


def _at_ground(rng: random.Random, walk: Walk, way: int) -> Planted | None:
    side = rng.choice(SIDES)
    places = _standing(walk, side)
    if not places:
        return None
    at = rng.choice(places)
    moved = _with_foot(walk, at, side, 0.0, way * _px(walk, 0.025))
    return (with_drawings(walk, {at: moved}), [at]) if moved else None


def length(rng: random.Random, walk: Walk) -> Planted | None:
    side = rng.choice(SIDES)
    places = _swinging(walk, side)
    if not places:
        return None
    at = rng.choice(places)
    own, share = walk.drawings[at], TIMES * 0.08 * rng.choice([-1, 1])
    knee, ankle = own.points[f"knee_{side}"], own.points[f"ankle_{side}"]
    dx, dy = share * (ankle[0] - knee[0]), share * (ankle[1] - knee[1])
    points = dict(own.points)
    for joint in ("ankle", "heel", "toe"):
        x, y = points[f"{joint}_{side}"]
        points[f"{joint}_{side}"] = (x + dx, y + dy)
    return with_drawings(walk, {at: replace(own, points=points)}), [at]


def volume(rng: random.Random, walk: Walk) -> Planted | None:
    at = rng.randrange(1, len(walk.drawings) - 1)
    own, scale = walk.drawings[at], math.sqrt(1 + TIMES * 0.12)
    x, y, wide, tall = own.body
    return with_drawings(walk, {at: replace(own, body=(x, y, wide * scale, tall * scale))}), [at]


def backwards(rng: random.Random, walk: Walk) -> Planted | None:
    found = []
    for i, d in enumerate(walk.drawings):
        for side in SIDES:
            hip, knee, ankle = (d.points[n] for n in ("hip", f"knee_{side}", f"ankle_{side}"))
            far = math.dist(hip, ankle)
            bend = 2 * math.degrees(math.acos(min(1.0, far / walk.manner.leg)))
            if 8 * TIMES <= bend <= 55:
                ux, uy = (ankle[0] - hip[0]) / far, (ankle[1] - hip[1]) / far
                aside = ux * (knee[1] - hip[1]) - uy * (knee[0] - hip[0])
                found.append((i, side, (knee[0] + 2 * aside * uy, knee[1] - 2 * aside * ux)))
    if not found:
        return None
    at, side, knee = rng.choice(found)
    own = walk.drawings[at]
    return with_drawings(walk, {at: replace(own, points={**own.points, f"knee_{side}": knee})}), [at]


def airborne(rng: random.Random, walk: Walk) -> Planted | None:
    at = rng.randrange(3, len(walk.drawings) - 4)
    up = -0.19 * walk.manner.leg
    return with_drawings(walk, {i: _moved(walk.drawings[i], 0.0, up) for i in (at, at + 1)}), [at, at + 1]


def figure(rng: random.Random, walk: Walk) -> Planted | None:
    """The whole figure too far along; ``spacing.jump``."""
    at = rng.randrange(3, len(walk.drawings) - 3)
    hips = [walk.drawings[k].points["hip"][0] - _belt(walk) * 0 for k in (at - 1, at, at + 1)]
    gap = min(abs(hips[1] - hips[0]), abs(hips[2] - hips[1])) + abs(_belt(walk)) * walk.drawings[at].frames
    far = TIMES * max(0.18 * gap, 0.03 * walk.manner.leg, 2.0 * max(1.0, walk.manner.width / 960)) * rng.choice([-1, 1])
    return with_drawings(walk, {at: _moved(walk.drawings[at], far, 0.0)}), [at]


def hold(rng: random.Random, walk: Walk) -> Planted | None:
    contacts = {c for c, _ in walk.contacts}
    places = [i for i in range(2, len(walk.drawings) - 2) if i not in contacts]
    at = rng.choice(places)
    own = walk.drawings[at]
    return with_drawings(walk, {at: replace(own, frames=own.frames + 3)}), [at]


PLANTS: dict[str, Plant] = {
    "spacing.jump": jump,
    "arc.off_path": off_path,
    "volume.changes": volume,
    "volume.length": length,
    "form.backwards": backwards,
    "contact.slides": slides,
    "contact.gap": lambda rng, walk: _at_ground(rng, walk, -1),
    "contact.through": lambda rng, walk: _at_ground(rng, walk, 1),
    "contact.airborne": airborne,
    "timing.hold": hold,
}
MORE: dict[str, tuple[str, Plant]] = {"figure": ("spacing.jump", figure)}
"""Other ways to a code."""
