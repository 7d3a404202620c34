"""A small picture of right and wrong: the drawings about a fault, as they belong and as they are told."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from motion.account.examples import Example
from motion.exercises.bounce.plan import Plan, Pose
from motion.findings import Finding
from motion.guide import ink
from motion.guide.ink import Element, add, line, say

PANEL, HEIGHT, CAPTION, GUTTER = 300.0, 150.0, 20.0, 16.0
BESIDE = 5
"""So many frames before and after a fault are shown."""
GRAVE = "#8c3a2b"
STRIPS = ("timing.exposure", "timing.length")
"""Faults that show in the frames alone."""
MOST_BOXES = 44


def draw(example: Example) -> Element:
    """The picture of an example: on the left as it belongs, on the right with the fault, which is drawn filled."""
    code = example.finding.code
    root = ink.svg(2 * PANEL + GUTTER, HEIGHT + CAPTION, f"{code}: as it belongs, and with the fault")
    panels = ((example.right, None, "As it belongs"), (example.wrong, example.finding, "With the fault"))
    for turn, (plan, finding, words) in enumerate(panels):
        panel = add(root, "svg", x=turn * (PANEL + GUTTER), y=0, width=PANEL, height=HEIGHT + CAPTION)
        add(panel, "rect", x=0, y=0, width=PANEL, height=HEIGHT, fill="#fbf8ef", stroke=ink.RULE)
        if code in STRIPS:
            _strip(panel, plan, finding if code == "timing.exposure" else None)
        else:
            _path(panel, plan, finding, _window(example))
        say(panel, words, x=4, y=HEIGHT + 15, font_size=13, fill=ink.SOFT)
    return root


def _window(example: Example) -> tuple[int, int]:
    """The frames to show: about the fault, or all where it concerns the whole clip."""
    first, last = example.finding.first_frame, example.finding.last_frame
    if last - first > 2 * BESIDE + 6 or example.finding.code in ("timing.rhythm", "timing.loop", "arc.rising_tops"):
        return 1, max(example.right.frames, example.wrong.frames)
    return first - BESIDE, last + BESIDE


def _path(panel: Element, plan: Plan, finding: Finding | None, window: tuple[int, int]) -> None:
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


def _strip(panel: Element, plan: Plan, finding: Finding | None) -> None:
    """The clip as a row of frames, a box a drawing as wide as it shows."""
    box, top = (PANEL - 20) / MOST_BOXES, 50.0
    for frame, pose in _by_frame(plan):
        told = finding is not None and finding.first_frame <= frame <= finding.last_frame
        add(
            panel,
            "rect",
            x=10 + (frame - 1) * box,
            y=top,
            width=max(1.0, pose.frames * box - 1),
            height=34,
            fill=GRAVE if told else ink.PALE,
            fill_opacity=0.7,
            stroke=GRAVE if told else ink.INK,
            stroke_width=0.8,
        )
    say(panel, f"{plan.frames} frames", x=10, y=top + 54, font_size=12, fill=ink.INK)
