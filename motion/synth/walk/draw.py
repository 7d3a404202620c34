"""Rasterises walks. Edges are exact by supersampling, so a pose's landmarks are the picture's truth.

Limbs lie around the lines between their joints; heel and toe are on the lower edge of the foot's outline.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np

from motion.clip import Picture
from motion.exercises.walk.figure import SIDES, Place, Side
from motion.exercises.walk.plan import Plan, Pose
from motion.outlines import capsule
from motion.synth.backdrop import backdrop
from motion.synth.camera import Camera
from motion.synth.look import Colour, Look
from motion.synth.paint import Canvas, Outline, Window

FOOT_PX = 9.0
"""How thick feet are drawn in a frame 960 px wide, at least as thick as a stroke."""
TRUNK = 0.16
"""Of the leg: how wide a trunk is that is no stroke."""
PAPER: Colour = (250, 250, 248)


def frames(plan: Plan, look: Look, seed: int = 0) -> Iterator[tuple[Picture, int]]:
    """Each drawing of the plan as a picture, with its exposure in frames."""
    rng = np.random.default_rng(seed)
    canvas = backdrop(plan, look, rng)
    camera = Camera(look, rng)
    still = _to_picture(canvas)
    for pose in plan.poses:
        rows, columns = _reach(pose, look, canvas)
        drawn = canvas[rows, columns].copy()
        _paint(drawn, plan, _seen_from(pose, columns.start, rows.start), look, rng)
        picture = still.copy()
        picture[rows, columns] = _to_picture(drawn)
        yield camera.shoot(picture), pose.frames


def sheet(plan: Plan, look: Look, number: int, seed: int = 0) -> Picture:
    """One drawing (from 0) alone on its paper, before any camera sees it."""
    canvas = backdrop(plan, look, np.random.default_rng(seed))
    _paint(canvas, plan, plan.poses[number], look, np.random.default_rng([seed, number]))
    return _to_picture(canvas)


def foot(ankle: Place, heel: Place, toe: Place, thick: float) -> list[Outline]:
    """The outlines of a foot whose sole goes from heel to toe; its round ends reach a little beyond them."""
    length = max(1e-6, math.hypot(toe[0] - heel[0], toe[1] - heel[1]))
    ux, uy = (toe[0] - heel[0]) / length, (toe[1] - heel[1]) / length
    # The sole's upper side is where the ankle is.
    side = 1.0 if ux * (ankle[1] - heel[1]) - uy * (ankle[0] - heel[0]) > 0 else -1.0
    nx, ny = -uy * side, ux * side
    inset = thick / 2
    back, front = (heel[0] + nx * inset, heel[1] + ny * inset), (toe[0] + nx * inset, toe[1] + ny * inset)
    return [capsule(back, front, thick), np.array([ankle, back, front])]


def _paint(canvas: Canvas, plan: Plan, pose: Pose, look: Look, rng: np.random.Generator) -> None:
    places = dict(pose.landmarks)
    if look.jitter:
        off = look.jitter * plan.recipe.gait.leg
        places = {name: (x + rng.normal(0, off), y + rng.normal(0, off)) for name, (x, y) in places.items()}
        pose = replace(pose, x=pose.x + rng.normal(0, off), y=pose.y + rng.normal(0, off))
    if plan.recipe.whole:
        _arm(canvas, plan, places, "far", look)
        _leg(canvas, plan, places, "far", look)
        _trunk(canvas, plan, places, look)
        _leg(canvas, plan, places, "near", look)
        _arm(canvas, plan, places, "near", look)
    else:
        for side in reversed(SIDES):
            _leg(canvas, plan, places, side, look)
    if look.bundle and not plan.recipe.whole:
        _bundle(canvas, plan, pose, look)
    _body(canvas, pose, look, rng)


def _box(pose: Pose, look: Look) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what a drawing may touch, px."""
    room = 24 + 2 * look.limb_px + look.outline_px + 1.4 * look.bundle * pose.major
    xs = [p[0] for p in pose.landmarks.values()] + [pose.x - pose.major / 2, pose.x + pose.major / 2]
    ys = [p[1] for p in pose.landmarks.values()] + [pose.y - pose.major / 2, pose.y + pose.major / 2]
    left, top = math.floor(min(xs) - room), math.floor(min(ys) - room)
    return left, top, math.ceil(max(xs) + room), math.ceil(max(ys) + room)


def _reach(pose: Pose, look: Look, canvas: Canvas) -> tuple[slice, slice]:
    """The rows and columns that a drawing may touch."""
    left, top, right, bottom = _box(pose, look)
    height, width = canvas.shape[:2]
    return (
        slice(min(max(0, top), height - 1), max(1, min(height, bottom))),
        slice(min(max(0, left), width - 1), max(1, min(width, right))),
    )


def _seen_from(pose: Pose, left: int, top: int) -> Pose:
    """The pose as it lies in a part of the frame."""
    moved = {name: (x - left, y - top) for name, (x, y) in pose.landmarks.items()}
    return replace(pose, x=pose.x - left, y=pose.y - top, landmarks=moved)


def _window(canvas: Canvas, outlines: Sequence[Outline]) -> Window:
    """The part of the canvas that some outlines touch."""
    points = np.concatenate(outlines)
    left, top = (math.floor(v) - 1 for v in points.min(axis=0))
    right, bottom = (math.ceil(v) + 2 for v in points.max(axis=0))
    return Window(canvas, left, top, max(right - left, bottom - top))


def _leg(canvas: Canvas, plan: Plan, places: dict[str, Place], side: Side, look: Look) -> None:
    scale = plan.width / 960
    wide = look.limb_px * scale * (1.0 if look.strokes else 2.0)
    thick = max(FOOT_PX * scale, min(wide, 1.4 * FOOT_PX * scale))
    at = {name: places[f"{name}_{side}"] for name in ("knee", "ankle", "heel", "toe")}
    narrow = wide if look.strokes else 0.75 * wide

    def drawn(edge: float) -> list[Outline]:
        sole = foot(at["ankle"], at["heel"], at["toe"], thick) if not edge else _inside(at, thick, edge)
        return [
            capsule(places["hip"], at["knee"], wide - 2 * edge),
            capsule(at["knee"], at["ankle"], wide - 2 * edge, narrow - 2 * edge),
            *sole,
        ]

    _inked(canvas, drawn, look, side)


def _inked(canvas: Canvas, drawn: Callable[[float], list[Outline]], look: Look, side: Side) -> None:
    """A limb in the ink of its side, as strokes or filled; ``drawn`` gives its outlines so many px further in."""
    outlines = drawn(0.0)
    ink = _toned(look.outline or look.fill or (40, 44, 40), side, look)
    if look.strokes:
        window = _window(canvas, outlines)
        window.paint_cover(window.union(outlines), ink)
        return
    edge = look.outline_px if look.outline is not None else 0.0
    _shape(canvas, outlines, drawn(edge), look, ink if edge else None, side)


def _trunk(canvas: Canvas, plan: Plan, places: dict[str, Place], look: Look) -> None:
    """A trunk of strokes is as thin as they are."""
    wide = look.limb_px * plan.width / 960 if look.strokes else TRUNK * plan.recipe.gait.leg
    _limb(canvas, [places["neck"], places["hip"]], wide, look, "near")


def _arm(canvas: Canvas, plan: Plan, places: dict[str, Place], side: Side, look: Look) -> None:
    wide = look.limb_px * plan.width / 960 * (0.85 if look.strokes else 1.5)
    _limb(canvas, [places["neck"], places[f"elbow_{side}"], places[f"hand_{side}"]], wide, look, side)


def _limb(canvas: Canvas, points: Sequence[Place], wide: float, look: Look, side: Side) -> None:
    """A limb through some joints."""
    pairs = list(itertools.pairwise(points))
    _inked(canvas, lambda edge: [capsule(one, other, wide - 2 * edge) for one, other in pairs], look, side)


def _inside(at: dict[str, Place], thick: float, edge: float) -> list[Outline]:
    if thick <= 2 * edge + 0.5:
        return []
    outer = foot(at["ankle"], at["heel"], at["toe"], thick)[0]
    return [_inset(outer, edge)]


def _shape(
    canvas: Canvas,
    outer: Sequence[Outline],
    inner: Sequence[Outline],
    look: Look,
    ink: Colour | None,
    side: Side,
) -> None:
    """A shape that hides what lies behind it, filled or not."""
    fill = look.fill and _toned(look.fill, side, look)
    window = _window(canvas, outer)
    if ink is None:
        window.paint_cover(window.union(outer), fill or (60, 60, 60))
        return
    window.paint_cover(window.union(outer), ink)
    window.paint_cover(window.union(inner), fill or look.paper or PAPER)


def _body(canvas: Canvas, pose: Pose, look: Look, rng: np.random.Generator) -> None:
    turns = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    scale = np.ones_like(turns)
    for wave in range(3, 8) if look.wobble else ():
        scale += look.wobble * rng.normal(0, 1.0) / (wave - 1) * np.cos(wave * turns + rng.uniform(0, 6.3))
    tilt = math.radians(-pose.angle)
    along, aside = pose.major / 2 * scale * np.cos(turns), pose.minor / 2 * scale * np.sin(turns)
    outline = np.stack(
        [
            pose.x + along * math.cos(tilt) - aside * math.sin(tilt),
            pose.y + along * math.sin(tilt) + aside * math.cos(tilt),
        ],
        axis=1,
    )
    edge = look.outline_px if look.outline is not None else 0.0
    ink = look.outline
    if look.strokes and look.fill is None and ink is None:
        ink, edge = (40, 44, 40), look.limb_px
    _shape(canvas, [outline], [_inset(outline, edge)], look, ink, "near")


def _bundle(canvas: Canvas, plan: Plan, pose: Pose, look: Look) -> None:
    """Something round on its back, behind the body."""
    half = look.bundle * pose.major / 2
    x, y = pose.x - plan.recipe.facing * (0.35 * pose.major + 0.62 * half), pose.y - 0.3 * pose.major
    turns = np.linspace(0, 2 * np.pi, 120, endpoint=False)
    outline = np.stack([x + half * np.cos(turns), y + 0.92 * half * np.sin(turns)], axis=1)
    edge = look.outline_px if look.outline is not None else 0.0
    carried = replace(look, fill=look.ground_colour if look.fill else None)
    _shape(canvas, [outline], [_inset(outline, edge)], carried, look.outline, "near")


def _inset(outline: Outline, by: float) -> Outline:
    """The outline moved inwards everywhere, square on it."""
    ahead, behind = np.roll(outline, -1, axis=0), np.roll(outline, 1, axis=0)
    way = ahead - behind
    across = np.stack([-way[:, 1], way[:, 0]], axis=1) / np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-6)[:, None]
    middle = outline.mean(axis=0)
    outward = np.sign(np.sum(across * (outline - middle), axis=1).sum()) or 1.0
    return np.asarray(outline - outward * by * across)


def _toned(colour: Colour, side: Side, look: Look) -> Colour:
    """A side's colour: the far one goes over into the paper's."""
    if side == "near" or not look.pale_far:
        return colour
    paper = look.paper or PAPER
    red, green, blue = (round(c + look.pale_far * (p - c)) for c, p in zip(colour, paper, strict=True))
    return red, green, blue


def _to_picture(canvas: Canvas) -> Picture:
    alpha = canvas[..., 3:4]
    straight = np.where(alpha > 0, canvas[..., :3] * 255.0 / np.maximum(alpha, 1e-6), 0.0)
    return np.asarray(np.concatenate([straight, alpha], axis=2).round().clip(0, 255), dtype=np.uint8)
