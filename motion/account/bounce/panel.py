"""The drawings of a bounce about a fault, over their ground."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from motion import ink
from motion.account.picture import GRAVE, HEIGHT, PANEL
from motion.exercises.bounce.plan import Plan, Pose
from motion.findings import Finding
from motion.ink import Element, add, line, say


def draw(panel: Element, plan: Plan, finding: Finding | None, window: tuple[int, int]) -> None:
    shown = [(f, p) for f, p in _by_frame(plan) if window[0] <= f <= window[1]]
    place = _Fit(plan, [p for _, p in shown])
    ground = [place(x, plan.ground_at(x)) for x in (-1e4, 1e4)]
    line(panel, *ground[0], *ground[1], stroke=ink.EARTH, stroke_width=1.5)
    points = " ".join(f"{ink.num(x)},{ink.num(y)}" for x, y in (place(p.x, p.y) for _, p in shown))
    add(panel, "polyline", points=points, fill="none", stroke=ink.PALE, stroke_width=1)
    scale = place(1.0, 0.0)[0] - place(0.0, 0.0)[0]
    whole = finding is not None and finding.first_frame == 1 and finding.last_frame == plan.frames
    for frame, pose in shown:
        told = finding is not None and not whole and finding.first_frame <= frame <= finding.last_frame
        _ball(panel, pose, place(pose.x, pose.y), scale, told)
    for _, pose in shown:
        if pose.frames > max(2, plan.recipe.exposure):
            x, y = place(pose.x, pose.y - pose.major / 2)
            say(panel, f"{pose.frames} fr.", x=x, y=max(12.0, y - 4), font_size=11, fill=ink.INK, text_anchor="middle")


def _by_frame(plan: Plan) -> list[tuple[int, Pose]]:
    return [(plan.first_frame(i), pose) for i, pose in enumerate(plan.poses)]


class _Fit:
    """Frame coordinates to panel coordinates, so that these drawings and the ground below them fill the panel."""

    def __init__(self, plan: Plan, poses: Sequence[Pose]) -> None:
        reach = plan.recipe.diameter * 0.8
        xs, ys = np.array([p.x for p in poses]), np.array([p.y for p in poses])
        low = max(plan.ground_at(float(x)) for x in xs)
        width, height = np.ptp(xs) + 2 * reach, low - ys.min() + reach + 0.15 * reach
        self._scale = float(min(PANEL / width, HEIGHT / height, 1.0))
        self._x = PANEL / 2 - self._scale * float(xs.min() + xs.max()) / 2
        self._y = HEIGHT - 8 - self._scale * low

    def __call__(self, x: float, y: float) -> tuple[float, float]:
        return self._x + self._scale * x, self._y + self._scale * y


def _ball(panel: Element, pose: Pose, at: tuple[float, float], scale: float, told: bool) -> None:
    add(
        panel,
        "ellipse",
        cx=at[0],
        cy=at[1],
        rx=scale * pose.major / 2,
        ry=scale * pose.minor / 2,
        transform=f"rotate({ink.num(-pose.angle)} {ink.num(at[0])} {ink.num(at[1])})",
        fill=GRAVE if told else "none",
        fill_opacity=0.22,
        stroke=GRAVE if told else ink.SOFT,
        stroke_width=1.6 if told else 0.9,
    )
    add(panel, "circle", cx=at[0], cy=at[1], r=2.2, fill=GRAVE if told else ink.INK)
