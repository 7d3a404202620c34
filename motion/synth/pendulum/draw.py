"""Rasterises pendulums. Edges are exact by supersampling, so a pose's numbers are the picture's truth."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from motion.clip import Picture
from motion.exercises.pendulum.hung import outlines
from motion.exercises.pendulum.plan import Place, Plan, Pose, Recipe
from motion.synth import paint
from motion.synth.backdrop import backdrop
from motion.synth.camera import Camera
from motion.synth.look import Colour, Look, second_tone
from motion.synth.paint import Canvas, Outline, Window

PAPER: Colour = (250, 250, 248)
LINE_PX, HOOK_PX = 3.0, 4.0
BASE_PX = 56.0, 18.0
"""How wide lines and hooks are drawn, and how wide and high what carries them, in a frame 960 px wide."""


def frames(plan: Plan, look: Look, seed: int = 0) -> Iterator[tuple[Picture, int]]:
    """Each drawing of the plan as a picture, with its exposure in frames."""
    rng = np.random.default_rng(seed)
    canvas = _still(plan, look, rng)
    camera = Camera(look, rng)
    still = _to_picture(canvas)
    for pose in plan.poses:
        rows, columns = _reach(plan, pose, look)
        drawn = canvas[rows, columns].copy()
        _paint(drawn, plan, _seen_from(pose, columns.start, rows.start), look, rng)
        picture = still.copy()
        picture[rows, columns] = _to_picture(drawn)
        yield camera.shoot(picture), pose.frames


def sheet(plan: Plan, look: Look, number: int, seed: int = 0) -> Picture:
    """One drawing (from 0) alone on its paper, before any camera sees it."""
    canvas = _still(plan, look, np.random.default_rng(seed))
    _paint(canvas, plan, plan.poses[number], look, np.random.default_rng([seed, number]))
    return _to_picture(canvas)


def _still(plan: Plan, look: Look, rng: np.random.Generator) -> Canvas:
    """Paper and scenery, and the hook from which it hangs, or the beam along which its base goes."""
    canvas = backdrop(plan, look, rng)
    x, y = plan.recipe.pivot
    scale = plan.width / 960
    ink = look.outline or look.ground_colour
    if plan.recipe.carriage is not None:
        beam = y - (BASE_PX[1] + HOOK_PX / 2) * scale
        paint.stroke(canvas, np.array([(0.0, beam), (float(plan.width), beam)]), ink, HOOK_PX * scale)
        return canvas
    paint.stroke(canvas, np.array([(x, 0.0), (x, max(0.0, y - 9 * scale))]), ink, HOOK_PX * scale)
    turns = np.radians(np.linspace(-90, 200, 24))
    hook = np.stack([x + 7 * scale * np.cos(turns), y - 2 * scale + 7 * scale * np.sin(turns)], axis=1)
    paint.stroke(canvas, hook, ink, HOOK_PX * scale)
    return canvas


def _reach(plan: Plan, pose: Pose, look: Look) -> tuple[slice, slice]:
    """The rows and columns that a drawing may touch."""
    base = BASE_PX[0] * plan.width / 960 if plan.recipe.carriage else 0.0
    room = max(pose.major, plan.recipe.wide, base) / 2 + look.outline_px + 12
    xs, ys = zip(pose.top, *pose.joints, (pose.x, pose.y), strict=True)
    left, right, top, foot = min(xs) - room, max(xs) + room, min(ys) - room, max(ys) + room
    rows = slice(max(0, int(top)), max(1, min(plan.height, int(foot) + 1)))
    return rows, slice(max(0, int(left)), max(1, min(plan.width, int(right) + 1)))


def _seen_from(pose: Pose, left: int, top: int) -> Pose:
    """The pose as it lies in a part of the frame."""
    joints = tuple((x - left, y - top) for x, y in pose.joints)
    apart = tuple((k, (x - left, y - top)) for k, (x, y) in pose.apart)
    base = pose.base and (pose.base[0] - left, pose.base[1] - top)
    seen = replace(pose, x=pose.x - left, y=pose.y - top, top=(pose.top[0] - left, pose.top[1] - top))
    return replace(seen, joints=joints, apart=apart, base=base)


def _paint(canvas: Canvas, plan: Plan, pose: Pose, look: Look, rng: np.random.Generator) -> None:
    recipe = plan.recipe
    red, green, blue = look.fill or (60, 60, 60)
    ink = look.outline or (int(red * 0.55), int(green * 0.55), int(blue * 0.55))
    if pose.base is not None:
        _base(canvas, pose.base, ink, plan.width / 960)
    if recipe.hangs != "bob":
        _parts(canvas, recipe, _shaken(pose, look.jitter * recipe.length / max(1, len(pose.joints) + 1), rng), look)
        if recipe.weighted:
            # A weight hides the part on which it hangs, whether it is filled or not.
            solid = look if look.fill else replace(look, fill=look.paper or PAPER)
            _weight(canvas, pose, (pose.x, pose.y), 0.0, solid, rng)
        return
    off = rng.normal(0, look.jitter * recipe.size, 2) if look.jitter else np.zeros(2)
    centre = pose.x + float(off[0]), pose.y + float(off[1])
    way = np.array([centre[0] - pose.top[0], centre[1] - pose.top[1]])
    way = way / max(1e-6, float(np.hypot(*way)))
    foot = np.array(centre) - way * pose.major / 2
    paint.stroke(canvas, np.array([pose.top, tuple(foot)]), ink, LINE_PX * plan.width / 960)
    _weight(canvas, pose, centre, math.degrees(math.atan2(way[0], way[1])), look, rng)


def _base(canvas: Canvas, at: Place, ink: Colour, scale: float) -> None:
    """What carries it: a block from the beam down to the pivot, narrower below."""
    half, high, (x, y) = BASE_PX[0] / 2 * scale, BASE_PX[1] * scale, at
    outline = np.array([(x - half, y - high), (x + half, y - high), (x + half / 2, y), (x - half / 2, y)])
    Window(canvas, math.floor(x - half) - 3, math.floor(y - high) - 3, math.ceil(2 * half) + 7).paint(outline, ink)


def _shaken(pose: Pose, far: float, rng: np.random.Generator) -> Pose:
    """The pose as an unsteady hand places its joints, by so many px."""
    if not far:
        return pose
    off = rng.normal(0, far, (len(pose.joints) + 1, 2))
    *joints, (x, y) = [
        (px + dx, py + dy) for (px, py), (dx, dy) in zip((*pose.joints, (pose.x, pose.y)), off, strict=True)
    ]
    return replace(pose, x=x, y=y, joints=tuple(joints))


def _parts(canvas: Canvas, recipe: Recipe, pose: Pose, look: Look) -> None:
    """Links or a tail: each covers the one above."""
    edge = look.outline_px if look.outline is not None else 0.0
    shapes = outlines(pose, recipe)
    insides: Sequence[Outline | None] = outlines(pose, recipe, edge) or [None] * len(shapes)
    fill = look.fill or look.paper or PAPER
    for outer, inner in zip(shapes, insides, strict=True):
        low, high = outer.min(axis=0) - 3, outer.max(axis=0) + 3
        side = math.ceil(float((high - low).max())) + 1
        window = Window(canvas, math.floor(low[0]), math.floor(low[1]), side)
        window.paint(outer, look.outline or fill)
        if look.outline is not None and inner is not None:
            window.paint(inner, fill)


def _weight(
    canvas: Canvas, pose: Pose, centre: tuple[float, float], turned: float, look: Look, rng: np.random.Generator
) -> None:
    reach = pose.major / 2 + 4 + look.outline_px
    window = Window(canvas, math.floor(centre[0] - reach), math.floor(centre[1] - reach), math.ceil(2 * reach) + 1)
    outer = _outline(pose, centre, look.wobble, rng)
    inner = _inset(outer, centre, look.outline_px if look.outline else 0.0)
    if look.fill is not None:
        window.paint(outer, look.fill)
        if look.two_toned or look.shade:
            turn = math.radians(turned)
            side = (outer - np.array(centre)) @ np.array([math.cos(turn), -math.sin(turn)]) <= 0
            window.paint(inner[side], second_tone(look.fill))
    if look.outline is not None:
        window.paint(outer, look.outline, hole=inner)


def _outline(pose: Pose, centre: tuple[float, float], wobble: float, rng: np.random.Generator) -> Outline:
    turns = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    scale = np.ones_like(turns)
    if wobble:
        # Waves of three and more a turn: lower ones would move or reshape the weight itself.
        for wave in range(3, 8):
            scale += wobble * rng.normal(0, 1.0) / (wave - 1) * np.cos(wave * turns + rng.uniform(0, 6.3))
    radius = pose.major / 2 * scale
    return np.stack([centre[0] + radius * np.cos(turns), centre[1] + radius * np.sin(turns)], axis=1)


def _inset(outline: Outline, centre: tuple[float, float], by: float) -> Outline:
    away = outline - np.array(centre)
    length = np.maximum(np.hypot(away[:, 0], away[:, 1]), 1e-6)[:, None]
    return np.asarray(np.array(centre) + away * np.maximum(0.05, 1 - by / length))


def _to_picture(canvas: Canvas) -> Picture:
    alpha = canvas[..., 3:4]
    straight = np.where(alpha > 0, canvas[..., :3] * 255.0 / np.maximum(alpha, 1e-6), 0.0)
    return np.asarray(np.concatenate([straight, alpha], axis=2).round().clip(0, 255), dtype=np.uint8)
