"""Faults planted in walks drawn apart, from their definitions: at so many times their tolerance, or complete."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import replace

from bench.apart.walks import SIDES, Point, Posed, Walk, _knee, with_drawings
from bench.apart.walks import again as walks_again

TIMES = 2.5
ABOVE = ("neck", "head", "elbow", "hand")
"""What of a whole figure goes with its hips."""
Planted = tuple[Walk, list[int]]
"""A walk with its fault, and the drawings (from 0) that it concerns; none: all of the clip."""
Plant = Callable[[random.Random, Walk], Planted | None]


def with_foot(walk: Walk, index: int, side: str, dx: float, dy: float) -> Posed | None:
    own = walk.drawings[index]
    points = dict(own.points)
    for joint in ("ankle", "heel", "toe"):
        x, y = points[f"{joint}_{side}"]
        points[f"{joint}_{side}"] = (x + dx, y + dy)
    knee = knee_of(walk, points["hip"], points[f"ankle_{side}"])
    if knee is None:
        return None
    points[f"knee_{side}"] = knee
    return replace(own, points=points)


def knee_of(walk: Walk, hip: Point, ankle: Point) -> Point | None:
    facing = walk.manner.facing
    knee = _knee((facing * hip[0], hip[1]), (facing * ankle[0], ankle[1]), walk.manner.leg / 2)
    return None if knee is None else (facing * knee[0], knee[1])


def _moved(own: Posed, dx: float, dy: float) -> Posed:
    x, y, wide, tall = own.body
    return replace(
        own, points={n: (p[0] + dx, p[1] + dy) for n, p in own.points.items()}, body=(x + dx, y + dy, wide, tall)
    )


def hips_moved(walk: Walk, index: int, dy: float, dx: float = 0.0) -> Posed | None:
    own = walk.drawings[index]
    points, (x, y, wide, tall) = dict(own.points), own.body
    for name in points:
        if name == "hip" or name.split("_")[0] in ABOVE:
            points[name] = (points[name][0] + dx, points[name][1] + dy)
    for side in SIDES:
        knee = knee_of(walk, points["hip"], points[f"ankle_{side}"])
        if knee is None:
            return None
        points[f"knee_{side}"] = knee
    return replace(own, points=points, body=(x + dx, y + dy, wide, tall))


def _px(walk: Walk, share: float) -> float:
    return TIMES * max(share * walk.manner.leg, 2.0 * max(1.0, walk.manner.width / 960))


def height_of(walk: Walk, index: int, side: str) -> float:
    points = walk.drawings[index].points
    return walk.manner.ground - max(points[f"heel_{side}"][1], points[f"toe_{side}"][1])


def _standing(walk: Walk, side: str) -> list[int]:
    """Drawings in which a foot lies flat, and the other one is up."""
    found, other = [], SIDES[1 - SIDES.index(side)]
    for i, d in enumerate(walk.drawings):
        flat = abs(d.points[f"heel_{side}"][1] - d.points[f"toe_{side}"][1]) < 0.01 * walk.manner.leg
        if flat and abs(height_of(walk, i, side)) < 1.5 and height_of(walk, i, other) > 0.01 * walk.manner.leg:
            found.append(i)
    return found


def _swinging(walk: Walk, side: str) -> list[int]:
    """Drawings well within a swing: three and more after the foot has left, and before it lands."""
    up = [height_of(walk, i, side) > 0.012 * walk.manner.leg for i in range(len(walk.drawings))]
    return [i for i in range(3, len(up) - 3) if all(up[i - 2 : i + 3])]


def jump(rng: random.Random, walk: Walk) -> Planted | None:
    side = rng.choice(SIDES)
    places = _swinging(walk, side)
    if not places:
        return None
    at, name = rng.choice(places), f"ankle_{side}"
    belt = belt_of(walk)
    ways = []
    for k in (at - 1, at):
        a, b = walk.drawings[k].points[name], walk.drawings[k + 1].points[name]
        ways.append((b[0] - a[0] - belt * walk.drawings[k].frames, b[1] - a[1]))
    gap = min(math.hypot(*w) for w in ways)
    far = TIMES * max(0.18 * gap, 0.03 * walk.manner.leg, 2.0 * max(1.0, walk.manner.width / 960)) * rng.choice([-1, 1])
    dx, dy = ways[0][0] + ways[1][0], ways[0][1] + ways[1][1]
    moved = with_foot(walk, at, side, far * dx / math.hypot(dx, dy), far * dy / math.hypot(dx, dy))
    return (with_drawings(walk, {at: moved}), [at]) if moved else None


def belt_of(walk: Walk) -> float:
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
    moved = hips_moved(walk, at, _px(walk, 0.025))
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
        if height_of(walk, i, side) > 2.0:
            break
        moved = with_foot(walk, i, side, far, 0.0)
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
    moved = with_foot(walk, at, side, 0.0, way * _px(walk, 0.025))
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
    hips = [walk.drawings[k].points["hip"][0] - belt_of(walk) * 0 for k in (at - 1, at, at + 1)]
    gap = min(abs(hips[1] - hips[0]), abs(hips[2] - hips[1])) + abs(belt_of(walk)) * walk.drawings[at].frames
    far = TIMES * max(0.18 * gap, 0.03 * walk.manner.leg, 2.0 * max(1.0, walk.manner.width / 960)) * rng.choice([-1, 1])
    return with_drawings(walk, {at: _moved(walk.drawings[at], far, 0.0)}), [at]


def hold(rng: random.Random, walk: Walk) -> Planted | None:
    contacts = {c for c, _ in walk.contacts}
    places = [i for i in range(2, len(walk.drawings) - 2) if i not in contacts]
    at = rng.choice(places)
    own = walk.drawings[at]
    return with_drawings(walk, {at: replace(own, frames=own.frames + 3)}), [at]


def _every(walk: Walk, changed: Callable[[int, Posed], Posed | None]) -> Walk | None:
    """The walk with all its drawings changed; None where one cannot be."""
    found = {i: changed(i, d) for i, d in enumerate(walk.drawings)}
    told = {i: d for i, d in found.items() if d is not None}
    return with_drawings(walk, told) if len(told) == len(found) else None


def stride(rng: random.Random, walk: Walk) -> Planted | None:
    """All places of one foot too far ahead, and all of the other as far back."""
    off = TIMES * 0.12 / 4 * step_of(walk) * walk.manner.facing

    def moved(index: int, own: Posed) -> Posed | None:
        one = with_foot(walk, index, "near", off, 0.0)
        return one and with_foot(with_drawings(walk, {index: one}), index, "far", -off, 0.0)

    spoilt = _every(walk, moved)
    return (spoilt, []) if spoilt else None


def step_of(walk: Walk) -> float:
    """How long a step is, px."""
    if not walk.manner.across:
        frames = sum(d.frames for d in walk.drawings[: walk.manner.drawings])
        return abs(belt_of(walk)) * frames
    hips = [walk.drawings[i].points["hip"][0] for i in (0, walk.manner.drawings)]
    return abs(hips[1] - hips[0])


def flat(rng: random.Random, walk: Walk) -> Planted | None:
    """Hips as low as they ever are, all through."""
    lowest = max(d.points["hip"][1] for d in walk.drawings)
    spoilt = _every(walk, lambda i, d: hips_moved(walk, i, lowest - d.points["hip"][1]))
    return (spoilt, []) if spoilt else None


def down_up(rng: random.Random, walk: Walk) -> Planted | None:
    """Hips as high as they are half a step later, and all a little lower."""
    if walk.manner.exposure == "mixed":
        return None
    half, own = walk.manner.drawings // 2, walk.manner.drawings
    ys = [d.points["hip"][1] for d in walk.drawings[:own]]
    low = max(ys) - min(ys)
    spoilt = _every(walk, lambda i, d: hips_moved(walk, i, ys[(i + half) % own] + low - d.points["hip"][1]))
    return (spoilt, []) if spoilt else None


def limps(rng: random.Random, walk: Walk) -> Planted | None:
    own = walk.manner
    each = 2 if own.exposure == "twos" else 1
    if own.exposure == "mixed" or own.steps % 2 or own.loop or own.begins:
        return None
    off = math.ceil(TIMES * max(1.0, 0.12 * own.drawings * each, float(each)) / 2 / each)
    spoilt = walks_again(walk, limp=off) if own.drawings - off >= 4 else None
    return (spoilt, []) if spoilt else None


def scuffs(rng: random.Random, walk: Walk) -> Planted | None:
    """Both feet pass just above the ground."""
    changed: dict[int, Posed] = {}
    for side in SIDES:
        for i in range(len(walk.drawings)):
            low = height_of(with_drawings(walk, changed), i, side)
            if low > 0.006 * walk.manner.leg:
                moved = with_foot(with_drawings(walk, changed), i, side, 0.0, low - 0.006 * walk.manner.leg)
                if moved is None:
                    return None
                changed[i] = moved
    return (with_drawings(walk, changed), []) if changed else None


def hand(rng: random.Random, walk: Walk) -> Planted | None:
    """A hand too far along its way."""
    return _hand(rng, walk, 0.03, along=True)


def hand_off(rng: random.Random, walk: Walk) -> Planted | None:
    """A hand beside its arc."""
    return _hand(rng, walk, 0.025, along=False)


def _hand(rng: random.Random, walk: Walk, share: float, *, along: bool) -> Planted | None:
    upper, at, name = walk.manner.upper, rng.randrange(3, len(walk.drawings) - 3), f"hand_{rng.choice(SIDES)}"
    if upper is None:
        return None
    ways = []
    for k in (at - 1, at):
        (ax, ay), (bx, by) = (walk.drawings[j].points[name] for j in (k, k + 1))
        ways.append((bx - ax - belt_of(walk) * walk.drawings[k].frames, by - ay))
    gap = min(math.hypot(*w) for w in ways)
    far = max(_px(walk, share), TIMES * 0.18 * gap if along else 0.0) * rng.choice([-1, 1])
    wx, wy = ways[0][0] + ways[1][0], ways[0][1] + ways[1][1]
    dx, dy = (wx, wy) if along else (wy, -wx)
    own, scale = walk.drawings[at], far / max(1e-6, math.hypot(wx, wy))
    x, y = own.points[name]
    moved = (x + dx * scale, y + dy * scale)
    elbow = _elbow(walk, own.points["neck"], moved)
    if elbow is None:
        return None
    points = {**own.points, name: moved, name.replace("hand", "elbow"): elbow}
    return with_drawings(walk, {at: replace(own, points=points)}), [at]


def _elbow(walk: Walk, neck: Point, hand: Point) -> Point | None:
    """Where an elbow lies that bends forward."""
    upper, facing = walk.manner.upper, walk.manner.facing
    if upper is None:
        return None
    arm, fore, far = upper.arm * walk.manner.leg, upper.fore * walk.manner.leg, math.dist(neck, hand)
    if not abs(arm - fore) < far < 0.999 * (arm + fore):
        return None
    along = (arm**2 - fore**2 + far**2) / (2 * far)
    aside = math.sqrt(max(0.0, arm**2 - along**2))
    ux, uy = (hand[0] - neck[0]) / far, (hand[1] - neck[1]) / far
    return neck[0] + along * ux - facing * aside * uy, neck[1] + along * uy + facing * aside * ux


def head(rng: random.Random, walk: Walk) -> Planted | None:
    """The head too far along."""
    if walk.manner.upper is None:
        return None
    at = rng.randrange(3, len(walk.drawings) - 3)
    far = max(_px(walk, 0.03), TIMES * 0.18 * step_of(walk) / walk.manner.drawings) * rng.choice([-1, 1])
    own, (x, y, wide, tall) = walk.drawings[at], walk.drawings[at].body
    points = {**own.points, "head": (x + far, y)}
    return with_drawings(walk, {at: replace(own, points=points, body=(x + far, y, wide, tall))}), [at]


def trunk(rng: random.Random, walk: Walk) -> Planted | None:
    """A trunk that is longer or shorter, with all that hangs on its neck."""
    if walk.manner.upper is None:
        return None
    at, share = rng.randrange(3, len(walk.drawings) - 3), TIMES * 0.08 * rng.choice([-1, 1])
    own = walk.drawings[at]
    (hx, hy), (nx, ny) = own.points["hip"], own.points["neck"]
    dx, dy = share * (nx - hx), share * (ny - hy)
    above = ("neck", "head", *(f"{joint}_{side}" for joint in ("elbow", "hand") for side in SIDES))
    points = {n: (p[0] + dx, p[1] + dy) if n in above else p for n, p in own.points.items()}
    x, y, wide, tall = own.body
    return with_drawings(walk, {at: replace(own, points=points, body=(x + dx, y + dy, wide, tall))}), [at]


def elbow(rng: random.Random, walk: Walk) -> Planted | None:
    """An elbow that bends backwards."""
    found = []
    for i, d in enumerate(walk.drawings):
        for side in SIDES if walk.manner.upper else ():
            neck, joint, end = (d.points[n] for n in ("neck", f"elbow_{side}", f"hand_{side}"))
            far = math.dist(neck, end)
            ux, uy = (end[0] - neck[0]) / far, (end[1] - neck[1]) / far
            aside = ux * (joint[1] - neck[1]) - uy * (joint[0] - neck[0])
            bent = math.degrees(math.pi - corner(neck, joint, end))
            if 8 * TIMES <= bent <= 55:
                found.append((i, side, (joint[0] + 2 * aside * uy, joint[1] - 2 * aside * ux)))
    if not found:
        return None
    at, side, joint = rng.choice(found)
    own = walk.drawings[at]
    return with_drawings(walk, {at: replace(own, points={**own.points, f"elbow_{side}": joint})}), [at]


def corner(one: Point, joint: Point, other: Point) -> float:
    """The angle at a joint, radians."""
    (ax, ay), (bx, by) = ((p[0] - joint[0], p[1] - joint[1]) for p in (one, other))
    return math.acos(max(-1.0, min(1.0, (ax * bx + ay * by) / (math.hypot(ax, ay) * math.hypot(bx, by)))))


def arms(walk: Walk, **changed: bool) -> Planted | None:
    """The same walk with arms that swing in another way; wide enough to be judged."""
    upper, own = walk.manner.upper, walk.manner
    if upper is None or (changed.get("even") and (own.drawings < 6 or own.exposure == "mixed")):
        return None
    spoilt = walks_again(walk, upper=replace(upper, **changed))  # type: ignore[arg-type]
    return (spoilt, []) if spoilt else None


PLANTS: dict[str, Plant] = {
    "spacing.jump": jump,
    "spacing.stride": stride,
    "arc.off_path": off_path,
    "arc.flat": flat,
    "volume.changes": volume,
    "volume.length": length,
    "form.backwards": backwards,
    "contact.slides": slides,
    "contact.gap": lambda rng, walk: _at_ground(rng, walk, -1),
    "contact.through": lambda rng, walk: _at_ground(rng, walk, 1),
    "contact.airborne": airborne,
    "contact.scuffs": scuffs,
    "timing.limps": limps,
    "timing.down_up": down_up,
    "timing.hold": hold,
}
OF_WHOLE: dict[str, tuple[str, Plant]] = {
    "hand along": ("spacing.jump", hand),
    "head along": ("spacing.jump", head),
    "hand beside": ("arc.off_path", hand_off),
    "trunk": ("volume.length", trunk),
    "elbow": ("form.backwards", elbow),
    "arms even": ("spacing.even", lambda rng, walk: arms(walk, even=True)),
    "arms with legs": ("timing.opposite", lambda rng, walk: arms(walk, same=True)),
}
"""What besides can be wrong with a whole figure, and its code."""
MORE: dict[str, tuple[str, Plant]] = {"figure": ("spacing.jump", figure)}
"""Other ways to a code."""
