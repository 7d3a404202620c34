"""Rasterises plans. Edges are exact by supersampling, so a pose's numbers are the picture's truth."""

from __future__ import annotations

import math
from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture
from motion.exercises.bounce.plan import Plan, Pose
from motion.synth.look import Look

FINE = 4
"""Supersampling per axis."""


def frames(plan: Plan, look: Look, seed: int = 0) -> Iterator[tuple[Picture, int]]:
    """Each drawing of the plan as a picture, with its exposure in frames."""
    rng = np.random.default_rng(seed)
    canvas = backdrop(plan, look, rng)
    still_picture = _to_picture(canvas)
    for pose in plan.poses:
        jitter = rng.normal(0, look.jitter * plan.recipe.diameter, 2) if look.jitter else np.zeros(2)
        centre = (pose.x + float(jitter[0]), pose.y + float(jitter[1]))
        touched = _reach(pose, centre, look, plan)
        before = canvas[touched].copy()
        _ball(canvas, pose, centre, look, rng, plan)
        picture = still_picture.copy()
        picture[touched] = _to_picture(canvas[touched])
        canvas[touched] = before
        yield _grained(picture, look, rng), pose.frames


def _reach(pose: Pose, centre: tuple[float, float], look: Look, plan: Plan) -> tuple[slice, slice]:
    """The rows and columns that a ball and its shadow may touch."""
    reach = int(pose.major / 2 + 8 + look.outline_px)
    x, y = round(centre[0]), round(centre[1])
    bottom = y + reach
    if look.shadow:
        bottom = max(bottom, round(plan.ground_at(pose.x) + plan.recipe.diameter))
    rows = slice(max(0, y - reach), max(0, bottom))
    return rows, slice(max(0, x - reach), max(0, x + reach))


def backdrop(plan: Plan, look: Look, rng: np.random.Generator) -> NDArray[np.float32]:
    """(height, width, 4) floats 0 to 255, premultiplied: what stands still."""
    width, height = plan.recipe.width, plan.recipe.height
    canvas = np.zeros((height, width, 4), np.float32)
    if look.paper is not None:
        canvas[..., :3], canvas[..., 3] = look.paper, 255.0
    if look.scenery:
        _harbour(canvas, plan)
    if look.ground != "none":
        _lay_ground(canvas, plan, look, rng)
    return canvas


def _lay_ground(canvas: NDArray[np.float32], plan: Plan, look: Look, rng: np.random.Generator) -> None:
    height, width = canvas.shape[:2]
    x = np.arange(width, dtype=np.float64)
    edge = plan.recipe.ground_y + plan.recipe.slope * (x - width / 2)
    if look.ground_wobble:
        waves = sum(look.ground_wobble * np.sin(x / rng.uniform(25, 140) + rng.uniform(0, 6.3)) / 2 for _ in range(3))
        edge = edge + waves
    rows = np.arange(height, dtype=np.float64)[:, None]
    # A row's pixel covers half a pixel to both sides of its centre.
    cover = np.clip(rows + 0.5 - edge[None, :], 0, 1)
    if look.ground == "line":
        cover = cover - np.clip(rows + 0.5 - edge[None, :] - look.ground_px, 0, 1)
    _paint(canvas, cover, look.ground_colour)


def _ball(
    canvas: NDArray[np.float32],
    pose: Pose,
    centre: tuple[float, float],
    look: Look,
    rng: np.random.Generator,
    plan: Plan,
) -> None:
    """Paint one ball with its shadow."""
    if look.shadow:
        _shadow(canvas, plan, pose)
    reach = pose.major / 2 + 4 + look.outline_px
    left, top = math.floor(centre[0] - reach), math.floor(centre[1] - reach)
    side = math.ceil(2 * reach) + 1
    outer = _outline(pose, centre, look.wobble, rng)
    inner = _inset(outer, centre, look.outline_px if look.outline else 0.0)
    window = _Window(canvas, left, top, side)
    if look.fill is not None:
        window.paint(outer, look.fill)
        if look.two_toned:
            window.paint(_half(inner, centre), tuple(min(255, c + 90) for c in look.fill))
        if look.shade:
            shifted = _inset(outer, (centre[0] - pose.minor * 0.12, centre[1] - pose.minor * 0.12), pose.minor * 0.16)
            window.paint(shifted, tuple(int(c + (255 - c) * look.shade) for c in look.fill))
    if look.outline is not None:
        window.paint(outer, look.outline, hole=inner)


class _Window:
    """A square part of the canvas in which polygons are painted with exact coverage."""

    def __init__(self, canvas: NDArray[np.float32], left: int, top: int, side: int) -> None:
        height, width = canvas.shape[:2]
        self.left, self.top, self.side = left, top, side
        self.x0, self.x1 = max(0, left), min(width, left + side)
        self.y0, self.y1 = max(0, top), min(height, top + side)
        self.empty = self.x0 >= self.x1 or self.y0 >= self.y1
        self.canvas = canvas

    def paint(
        self, outline: NDArray[np.float64], colour: tuple[int, ...], hole: NDArray[np.float64] | None = None
    ) -> None:
        if self.empty:
            return
        cover = self._cover(outline)
        if hole is not None:
            cover = np.clip(cover - self._cover(hole), 0, 1)
        part = cover[self.y0 - self.top : self.y1 - self.top, self.x0 - self.left : self.x1 - self.left]
        _paint(self.canvas[self.y0 : self.y1, self.x0 : self.x1], part, colour)

    def _cover(self, outline: NDArray[np.float64]) -> NDArray[np.float64]:
        fine = np.zeros((self.side * FINE, self.side * FINE), np.uint8)
        # Pixel centres are whole numbers; the fine grid's origin is the window's outer corner.
        local = (outline - np.array([self.left, self.top]) + 0.5) * FINE - 0.5
        cv2.fillPoly(fine, [np.round(local * 256).astype(np.int32)], 255, lineType=cv2.LINE_8, shift=8)
        small = cv2.resize(fine, (self.side, self.side), interpolation=cv2.INTER_AREA)
        return np.asarray(small, dtype=np.float64) / 255.0


def _paint(canvas: NDArray[np.float32], cover: NDArray[np.float64], colour: tuple[int, ...]) -> None:
    over = cover[..., None]
    canvas *= 1 - over
    canvas += over * np.array([*colour, 255.0])


def _outline(pose: Pose, centre: tuple[float, float], wobble: float, rng: np.random.Generator) -> NDArray[np.float64]:
    turns = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    scale = np.ones_like(turns)
    if wobble:
        # Waves of three and more a turn: lower ones would move or reshape the ball itself.
        for wave in range(3, 8):
            scale += wobble * rng.normal(0, 1.0) / (wave - 1) * np.cos(wave * turns + rng.uniform(0, 6.3))
    along, across = pose.major / 2 * np.cos(turns) * scale, pose.minor / 2 * np.sin(turns) * scale
    cos, sin = math.cos(math.radians(pose.angle)), math.sin(math.radians(pose.angle))
    return np.stack([centre[0] + along * cos + across * sin, centre[1] - along * sin + across * cos], axis=1)


def _inset(outline: NDArray[np.float64], centre: tuple[float, float], by: float) -> NDArray[np.float64]:
    away = outline - np.array(centre)
    length = np.maximum(np.hypot(away[:, 0], away[:, 1]), 1e-6)[:, None]
    return np.asarray(np.array(centre) + away * np.maximum(0.05, 1 - by / length))


def _half(outline: NDArray[np.float64], centre: tuple[float, float]) -> NDArray[np.float64]:
    return outline[outline[:, 0] <= centre[0]]


def _shadow(canvas: NDArray[np.float32], plan: Plan, pose: Pose) -> None:
    ground, size = plan.ground_at(pose.x), plan.recipe.diameter
    far = min(1.0, max(0.0, (ground - pose.y) / (6 * size)))
    left, top = max(0, int(pose.x - pose.major)), max(0, int(ground - 0.5 * size))
    part = canvas[top : int(ground + 0.8 * size), left : max(left, int(pose.x + pose.major))]
    if not part.size:
        return
    cover = np.zeros(part.shape[:2], np.float32)
    axes = (int(pose.major * (0.5 - 0.25 * far)), max(2, int(pose.minor * 0.09)))
    middle = (int(pose.x) - left, int(ground + size * 0.12) - top)
    cv2.ellipse(cover, middle, axes, 0, 0, 360, 1.0, cv2.FILLED)
    cover = np.asarray(cv2.GaussianBlur(cover, (0, 0), 3), dtype=np.float32)
    _paint(part, cover.astype(np.float64) * (0.28 * (1 - 0.6 * far)), (40, 40, 50))


def _harbour(canvas: NDArray[np.float32], plan: Plan) -> None:
    """A quiet quay: sky, water, a far shore, bollards. Painted, still, nobody's."""
    height, width = canvas.shape[:2]
    rows = np.linspace(0, 1, height)[:, None, None]
    canvas[..., :3] = (1 - rows) * np.array([206, 222, 226]) + rows * np.array([176, 200, 204])
    shore = int(plan.recipe.ground_y * 0.52)
    canvas[shore : int(plan.recipe.ground_y), :, :3] = (150, 182, 186)
    for x in range(0, width, 8):
        hill = int(14 + 10 * math.sin(x / 97) + 6 * math.sin(x / 41 + 1))
        canvas[shore - hill : shore, x : x + 8, :3] = (138, 160, 150)
    for k in range(5):
        y = int(shore + (k + 1) * (plan.recipe.ground_y - shore) / 6)
        x = int((k * 0.37 % 1) * width)
        canvas[y : y + 2, x : x + width // 6, :3] = (176, 202, 204)
    for x in (int(width * 0.12), int(width * 0.9)):
        top = int(plan.recipe.ground_y) - 46
        canvas[top : int(plan.recipe.ground_y), x : x + 20, :3] = (92, 84, 78)
    canvas[int(plan.recipe.ground_y) + 1 :, :, :3] = (186, 172, 150)


def _to_picture(canvas: NDArray[np.float32]) -> Picture:
    alpha = canvas[..., 3:4]
    straight = np.where(alpha > 0, canvas[..., :3] * 255.0 / np.maximum(alpha, 1e-6), 0.0)
    return np.asarray(np.concatenate([straight, alpha], axis=2).round().clip(0, 255), dtype=np.uint8)


def _grained(picture: Picture, look: Look, rng: np.random.Generator) -> Picture:
    if not look.grain:
        return picture
    noise = rng.normal(0, look.grain, picture.shape[:2]).astype(np.float32)[..., None]
    coloured = np.clip(picture[..., :3].astype(np.float32) + noise, 0, 255).round().astype(np.uint8)
    return np.concatenate([coloured, picture[..., 3:4]], axis=2)
