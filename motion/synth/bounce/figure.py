"""The ball as a hand draws it: outline, fill, texture, shadow, speed lines."""

from __future__ import annotations

import math

import cv2
import numpy as np

from motion.exercises.bounce.plan import Plan, Pose
from motion.synth import paint
from motion.synth.look import Look, second_tone
from motion.synth.paint import Canvas, Outline, Window

Centre = tuple[float, float]
STREAKS = (-0.62, -0.2, 0.25, 0.66)
"""Where speed lines lie across the path, in half heights of the ball."""
FAST_D = 0.45
"""Speed lines are drawn behind a ball that moves so many diameters a drawing."""


def ball(
    canvas: Canvas,
    pose: Pose,
    centre: Centre,
    look: Look,
    rng: np.random.Generator,
    *,
    turned: float = 0.0,
    opacity: float = 1.0,
) -> None:
    """Paint one ball. ``turned`` (degrees) is how far a two-toned or striped one has rolled."""
    reach = pose.major / 2 + 4 + look.outline_px
    window = Window(
        canvas, math.floor(centre[0] - reach), math.floor(centre[1] - reach), math.ceil(2 * reach) + 1, opacity
    )
    outer = _outline(pose, centre, look.wobble, rng)
    inner = _inset(outer, centre, look.outline_px if look.outline else 0.0)
    if look.fill is not None:
        window.paint(outer, look.fill)
        if look.two_toned:
            window.paint(_half(inner, centre, turned), second_tone(look.fill))
        if look.shade:
            shifted = _inset(outer, (centre[0] - pose.minor * 0.12, centre[1] - pose.minor * 0.12), pose.minor * 0.16)
            window.paint(shifted, tuple(int(c + (255 - c) * look.shade) for c in look.fill))
    if look.texture is not None:
        _texture(window, inner, centre, pose, look, turned)
    if look.outline is not None:
        window.paint(outer, look.outline, hole=inner)


def _texture(window: Window, inner: Outline, centre: Centre, pose: Pose, look: Look, turned: float) -> None:
    """Stripes across the ball, or loose hatching on its shaded side, inside its outline."""
    ink = look.outline or tuple(int(c * 0.55) for c in (look.fill or (60, 60, 60)))
    cover = np.zeros((window.side, window.side))
    cos, sin = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    span, thick = 0.6 * pose.major, 0.16 * pose.minor if look.texture == "stripes" else 1.6
    places = (-0.26, 0.22) if look.texture == "stripes" else np.arange(0.0, 0.5, 0.09)
    for place in places:
        mid = place * pose.minor
        band = np.array(
            [(-span, mid - thick / 2), (span, mid - thick / 2), (span, mid + thick / 2), (-span, mid + thick / 2)]
        )
        turn = np.array([[cos, -sin], [sin, cos]])
        cover = np.maximum(cover, window.cover(band @ turn.T + np.array(centre)))
    window.paint_cover(np.minimum(cover, window.cover(inner)), ink)


def speed_lines(canvas: Canvas, pose: Pose, before: Pose, look: Look, diameter: float) -> None:
    """Lines behind a fast ball, along the way that it came; nothing behind a slow one."""
    way = np.array([pose.x - before.x, pose.y - before.y])
    far = float(np.hypot(*way))
    if far < FAST_D * diameter:
        return
    along, across = way / far, np.array([-way[1], way[0]]) / far
    ink = look.outline or tuple(int(c * 0.6) for c in (look.fill or (90, 90, 90)))
    length = min(1.4 * diameter, 0.9 * far)
    for streak in STREAKS:
        start = np.array([pose.x, pose.y]) + across * streak * pose.minor / 2
        start = start - along * pose.major / 2 * (1.12 - 0.4 * streak * streak)
        paint.stroke(canvas, np.stack([start, start - along * length * (1 - 0.35 * abs(streak))]), ink, 1.6, 0.85)


def shadow(canvas: Canvas, plan: Plan, pose: Pose) -> None:
    """A soft shadow on the ground, smaller and fainter the higher the ball is."""
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
    paint.lay(part, cover.astype(np.float64) * (0.28 * (1 - 0.6 * far)), (40, 40, 50))


def _outline(pose: Pose, centre: Centre, wobble: float, rng: np.random.Generator) -> Outline:
    turns = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    scale = np.ones_like(turns)
    if wobble:
        # Waves of three and more a turn: lower ones would move or reshape the ball itself.
        for wave in range(3, 8):
            scale += wobble * rng.normal(0, 1.0) / (wave - 1) * np.cos(wave * turns + rng.uniform(0, 6.3))
    along, across = pose.major / 2 * np.cos(turns) * scale, pose.minor / 2 * np.sin(turns) * scale
    cos, sin = math.cos(math.radians(pose.angle)), math.sin(math.radians(pose.angle))
    return np.stack([centre[0] + along * cos + across * sin, centre[1] - along * sin + across * cos], axis=1)


def _inset(outline: Outline, centre: Centre, by: float) -> Outline:
    away = outline - np.array(centre)
    length = np.maximum(np.hypot(away[:, 0], away[:, 1]), 1e-6)[:, None]
    return np.asarray(np.array(centre) + away * np.maximum(0.05, 1 - by / length))


def _half(outline: Outline, centre: Centre, turned: float) -> Outline:
    cos, sin = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    return np.asarray(outline[(outline - np.array(centre)) @ np.array([cos, sin]) <= 0])
