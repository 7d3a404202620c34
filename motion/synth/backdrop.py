"""What stands still behind what moves: paper, scenery, ground, register marks."""

from __future__ import annotations

import math
from typing import Protocol

import numpy as np

from motion.synth import paint
from motion.synth.look import Look
from motion.synth.paint import Canvas


class Staged(Protocol):
    """What is drawn before it: a frame of that size, with a floor at ``floor`` (px from the top, and its slope)."""

    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def floor(self) -> tuple[float, float]: ...


def backdrop(plan: Staged, look: Look, rng: np.random.Generator, *, bare: bool = False) -> Canvas:
    """The still part of a picture; ``bare`` leaves ground and scenery out, as when their layer is switched off."""
    width, height = plan.width, plan.height
    canvas = np.zeros((height, width, 4), np.float32)
    if look.paper is not None:
        canvas[..., :3], canvas[..., 3] = look.paper, 255.0
    if look.scenery and not bare:
        _harbour(canvas, plan)
    if look.ground != "none" and not bare:
        _lay_ground(canvas, plan, look, rng)
    if look.register:
        _register_marks(canvas)
    return canvas


def _register_marks(canvas: Canvas) -> None:
    """Peg holes along the upper edge of the paper: a round one between two long ones."""
    width = canvas.shape[1]
    for share, half in ((0.5, 7), (0.38, 16), (0.62, 16)):
        x = round(share * width)
        canvas[6:18, x - half : x + half, :3] = (70, 70, 74)


def _lay_ground(canvas: Canvas, plan: Staged, look: Look, rng: np.random.Generator) -> None:
    height, width = canvas.shape[:2]
    x = np.arange(width, dtype=np.float64)
    edge = plan.floor[0] + plan.floor[1] * (x - width / 2)
    if look.ground_wobble:
        waves = sum(look.ground_wobble * np.sin(x / rng.uniform(25, 140) + rng.uniform(0, 6.3)) / 2 for _ in range(3))
        edge = edge + waves
    rows = np.arange(height, dtype=np.float64)[:, None]
    # A row's pixel covers half a pixel to both sides of its centre.
    cover = np.clip(rows + 0.5 - edge[None, :], 0, 1)
    if look.ground == "line":
        cover = cover - np.clip(rows + 0.5 - edge[None, :] - look.ground_px, 0, 1)
    paint.lay(canvas, cover, look.ground_colour)


def _harbour(canvas: Canvas, plan: Staged) -> None:
    """A quiet quay: sky, water, a far shore, bollards. Painted, still, nobody's."""
    height, width = canvas.shape[:2]
    rows = np.linspace(0, 1, height)[:, None, None]
    canvas[..., :3] = (1 - rows) * np.array([206, 222, 226]) + rows * np.array([176, 200, 204])
    shore = int(plan.floor[0] * 0.52)
    canvas[shore : int(plan.floor[0]), :, :3] = (150, 182, 186)
    for x in range(0, width, 8):
        hill = int(14 + 10 * math.sin(x / 97) + 6 * math.sin(x / 41 + 1))
        canvas[shore - hill : shore, x : x + 8, :3] = (138, 160, 150)
    for k in range(5):
        y = int(shore + (k + 1) * (plan.floor[0] - shore) / 6)
        x = int((k * 0.37 % 1) * width)
        canvas[y : y + 2, x : x + width // 6, :3] = (176, 202, 204)
    for x in (int(width * 0.12), int(width * 0.9)):
        top = int(plan.floor[0]) - 46
        canvas[top : int(plan.floor[0]), x : x + 20, :3] = (92, 84, 78)
    canvas[int(plan.floor[0]) + 1 :, :, :3] = (186, 172, 150)
