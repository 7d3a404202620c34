"""Rasterises plans. Edges are exact by supersampling, so a pose's numbers are the picture's truth."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from motion.clip import Picture
from motion.exercises.bounce.plan import Plan, Pose
from motion.synth.backdrop import backdrop
from motion.synth.bounce import figure, slips
from motion.synth.bounce.slips import Slip
from motion.synth.camera import Camera
from motion.synth.look import Look
from motion.synth.paint import Canvas


def frames(plan: Plan, look: Look, seed: int = 0, slip: Slip | None = None) -> Iterator[tuple[Picture, int]]:
    """Each drawing of the plan as a picture, with its exposure in frames; ``slip`` is what was forgotten in export."""
    rng = np.random.default_rng(seed)
    canvas = backdrop(plan, look, rng)
    bare = backdrop(plan, look, rng, bare=True) if slip and slip.code == "preflight.background_drops" else canvas
    if slip and slip.code == "preflight.guide":
        slips.leave_guide(canvas, plan, slip)
    still = {False: _to_picture(canvas), True: _to_picture(bare)}
    camera = Camera(look, rng)
    for number, pose in enumerate(plan.poses):
        jitter = rng.normal(0, look.jitter * plan.recipe.diameter, 2) if look.jitter else np.zeros(2)
        centre = (pose.x + float(jitter[0]), pose.y + float(jitter[1]))
        dropped = slip is not None and slip.drops(plan, number)
        surface = bare if dropped else canvas
        touched = _reach(number, centre, look, plan, slip)
        before = surface[touched].copy()
        if slip is None or not slip.blanks(plan, number):
            _paint_drawing(surface, plan, number, centre, look, rng, slip)
        picture = still[dropped].copy()
        picture[touched] = _to_picture(surface[touched])
        surface[touched] = before
        yield camera.shoot(picture), pose.frames
    if slip is not None and slip.tail:
        yield camera.shoot(still[False].copy()), slip.tail


def sheet(plan: Plan, look: Look, number: int, seed: int = 0) -> Picture:
    """One drawing (from 0) alone on its paper, before any camera sees it."""
    canvas = backdrop(plan, look, np.random.default_rng(seed))
    pose = plan.poses[number]
    _paint_drawing(canvas, plan, number, (pose.x, pose.y), look, np.random.default_rng([seed, number]), None)
    return _to_picture(canvas)


def _paint_drawing(
    canvas: Canvas,
    plan: Plan,
    number: int,
    centre: tuple[float, float],
    look: Look,
    rng: np.random.Generator,
    slip: Slip | None,
) -> None:
    pose = plan.poses[number]
    if slip is not None and slip.ghosts_on(plan, number):
        slips.leave_ghosts(canvas, plan, number, look, slip)
    if look.shadow:
        figure.shadow(canvas, plan, pose)
    if look.speed_lines and number:
        figure.speed_lines(canvas, pose, plan.poses[number - 1], look, plan.recipe.diameter)
    figure.ball(canvas, pose, centre, look, rng, turned=_rolled(plan, pose))


def _rolled(plan: Plan, pose: Pose) -> float:
    """How far the ball has turned since the start, as if it rolled along, degrees."""
    return math.degrees(2 * (pose.x - plan.recipe.start_x) / plan.recipe.diameter) if plan.recipe.speed_x else 0.0


def _reach(number: int, centre: tuple[float, float], look: Look, plan: Plan, slip: Slip | None) -> tuple[slice, slice]:
    """The rows and columns that a drawing may touch."""
    if look.speed_lines or (slip is not None and slip.ghosts_on(plan, number)):
        return slice(None), slice(None)
    pose: Pose = plan.poses[number]
    reach = int(pose.major / 2 + 8 + look.outline_px)
    x, y = round(centre[0]), round(centre[1])
    bottom = y + reach
    if look.shadow:
        bottom = max(bottom, round(plan.ground_at(pose.x) + plan.recipe.diameter))
    rows = slice(max(0, y - reach), max(0, bottom))
    return rows, slice(max(0, x - reach), max(0, x + reach))


def _to_picture(canvas: Canvas) -> Picture:
    alpha = canvas[..., 3:4]
    straight = np.where(alpha > 0, canvas[..., :3] * 255.0 / np.maximum(alpha, 1e-6), 0.0)
    return np.asarray(np.concatenate([straight, alpha], axis=2).round().clip(0, 255), dtype=np.uint8)
