"""What students forget when they export, put into a clip. Each says where it put what."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.bounce.plan import Plan
from motion.synth import paint
from motion.synth.bounce import figure
from motion.synth.look import Look
from motion.synth.paint import Canvas

GHOST_TINTS = ((None, None), ((226, 120, 90), (110, 150, 90)), ((170, 120, 60), (130, 90, 160)))
"""Colours in which neighbours before and after show through, None for their own."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Slip:
    """What was forgotten: its code and the frames that show it.

    ``opacity`` is how strongly ghosts or the guide show; ``neighbours`` how many drawings before and after show
    through, ``tint`` which of ``GHOST_TINTS`` they show in; ``tail`` how many empty frames follow the action;
    ``shapes`` whether the guide shows each drawing's shape besides the path.
    """

    code: str
    first_frame: int
    last_frame: int
    opacity: float = 0.3
    neighbours: tuple[int, int] = (1, 0)
    tint: int = 0
    tail: int = 0
    shapes: bool = False

    def _covers(self, plan: Plan, number: int) -> bool:
        return self.first_frame <= plan.first_frame(number) <= self.last_frame

    def ghosts_on(self, plan: Plan, number: int) -> bool:
        """Whether the drawing at ``number`` (from 0) shows its neighbours."""
        return self.code == "preflight.ghosts" and self._covers(plan, number)

    def blanks(self, plan: Plan, number: int) -> bool:
        """Whether the drawing was left empty."""
        return self.code == "preflight.blank" and self._covers(plan, number)

    def drops(self, plan: Plan, number: int) -> bool:
        """Whether ground and scenery are missing behind the drawing."""
        return self.code == "preflight.background_drops" and self._covers(plan, number)


def leave_ghosts(canvas: Canvas, plan: Plan, number: int, look: Look, slip: Slip) -> None:
    """Paint the neighbours of a drawing faintly, the farther the fainter."""
    before, after = slip.neighbours
    tints = GHOST_TINTS[slip.tint]
    steady = np.random.default_rng(0)
    for off in (*range(-before, 0), *range(after, 0, -1)):
        if not 0 <= number + off < len(plan.poses):
            continue
        pose, tint = plan.poses[number + off], tints[off > 0]
        ghost = replace(look, fill=look.fill and (tint or look.fill), outline=look.outline and (tint or look.outline))
        opacity = slip.opacity * (1 - 0.25 * (abs(off) - 1))
        figure.ball(canvas, pose, (pose.x, pose.y), ghost, steady, opacity=opacity)


def leave_guide(canvas: Canvas, plan: Plan, slip: Slip) -> None:
    """Draw the path through all centres, and each drawing's shape if asked, as a layer that was not hidden."""
    points = np.array([(p.x, p.y) for p in plan.poses])
    paint.stroke(canvas, points, (90, 130, 190), 2.0, slip.opacity + 0.2)
    if slip.shapes:
        for pose in plan.poses:
            turns = np.linspace(0, 2 * np.pi, 60)
            along, across = pose.major / 2 * np.cos(turns), pose.minor / 2 * np.sin(turns)
            cos, sin = np.cos(np.radians(pose.angle)), np.sin(np.radians(pose.angle))
            ring = np.stack([pose.x + along * cos + across * sin, pose.y - along * sin + across * cos], axis=1)
            paint.stroke(canvas, ring, (90, 130, 190), 1.2, slip.opacity + 0.1)


def _whole(plan: Plan, code: str) -> Slip:
    return Slip(code=code, first_frame=1, last_frame=plan.frames)


def _ghosts(plan: Plan, rng: np.random.Generator) -> Slip:
    before, after = [(1, 0), (2, 0), (1, 1), (2, 2), (0, 1)][int(rng.integers(5))]
    slip = replace(
        _whole(plan, "preflight.ghosts"),
        opacity=float(rng.uniform(0.15, 0.45)),
        neighbours=(before, after),
        tint=int(rng.integers(3)),
    )
    if rng.random() < 0.3:
        at = sorted(int(v) for v in rng.integers(3, len(plan.poses) - 2, 2))
        slip = replace(slip, first_frame=plan.first_frame(at[0] - 2), last_frame=plan.first_frame(at[1] + 1))
    return slip


def _guide(plan: Plan, rng: np.random.Generator) -> Slip:
    return replace(
        _whole(plan, "preflight.guide"), opacity=float(rng.uniform(0.15, 0.6)), shapes=bool(rng.random() < 0.4)
    )


def _some(plan: Plan, rng: np.random.Generator, code: str) -> Slip:
    first = int(rng.integers(2, len(plan.poses) - 4))
    last = first + int(rng.integers(0, 3))
    return Slip(
        code=code,
        first_frame=plan.first_frame(first),
        last_frame=plan.first_frame(last) + plan.poses[last].frames - 1,
    )


def _tail(plan: Plan, rng: np.random.Generator) -> Slip:
    tail = int(rng.integers(2, 30))
    return Slip(code="preflight.tail", first_frame=plan.frames + 1, last_frame=plan.frames + tail, tail=tail)


SLIPS: dict[str, Callable[[Plan, np.random.Generator], Slip]] = {
    "preflight.ghosts": _ghosts,
    "preflight.guide": _guide,
    "preflight.blank": lambda plan, rng: _some(plan, rng, "preflight.blank"),
    "preflight.background_drops": lambda plan, rng: _some(plan, rng, "preflight.background_drops"),
    "preflight.tail": _tail,
}
"""Picks a slip of each code at random."""
