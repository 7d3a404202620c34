"""The ideal swing on a guide sheet: its pivot and rest line, the arc of its weight, and its shapes."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from motion import ink
from motion.exercises.exercise import Numbered, Place
from motion.exercises.pendulum.plan import Plan, place
from motion.ink import Element

FINE_DEGREES = 1.5
BEYOND = 0.12
"""The rest line goes on below the weight by this share of its length."""


class SwingSketch:
    """See ``motion.exercises.exercise.Sketch``."""

    def still(self, group: Element, plan: Plan, scale: float) -> None:
        recipe = plan.recipe
        x, y = recipe.pivot
        end = place(recipe.pivot, recipe.length + recipe.size / 2 + BEYOND * recipe.length, recipe.rest_angle)
        dashes = f"{ink.num(9 * scale)} {ink.num(6 * scale)}"
        ink.line(group, x, y, *end, stroke_dasharray=dashes, stroke_width=1.2 * scale)
        ink.add(group, "circle", cx=x, cy=y, r=4.5 * scale, fill="none")
        ink.line(group, x - 14 * scale, y - 4.5 * scale, x + 14 * scale, y - 4.5 * scale)

    def paths(self, plan: Plan) -> list[list[Place]]:
        """The arc from the farthest angle on one side to the farthest on the other."""
        angles = [p.hangs_at for p in plan.poses]
        count = max(2, math.ceil((max(angles) - min(angles)) / FINE_DEGREES) + 1)
        recipe = plan.recipe
        return [[place(recipe.pivot, recipe.length, float(a)) for a in np.linspace(min(angles), max(angles), count)]]

    def across(self, plan: Plan, index: int) -> Place:
        """Along the line, which stands square on the arc."""
        turn = math.radians(plan.poses[index].hangs_at)
        return math.sin(turn), math.cos(turn)

    def important(self, plan: Plan, keys: Sequence[int]) -> list[int]:
        """The keys, and the first breakdown, where it passes the rest line."""
        if len(keys) < 2:
            return list(keys)
        inner = range(keys[0] + 1, keys[1])
        passing = min(inner, key=lambda i: abs(plan.poses[i].hangs_at - plan.recipe.rest_angle), default=keys[0])
        return sorted({*keys[:2], passing})

    def figure(self, group: Element, plan: Plan, index: int) -> None:
        pose = plan.poses[index]
        turn = math.radians(pose.hangs_at)
        ends = pose.x - pose.major / 2 * math.sin(turn), pose.y - pose.major / 2 * math.cos(turn)
        ink.line(group, *pose.top, *ends)
        ink.ellipse(group, pose.x, pose.y, pose.major, pose.minor, pose.angle)

    def number_places(self, plan: Plan, drawing: Numbered, size: float) -> list[Place]:
        """Below the arc; of the later swings, which lie over the first, only keys and breakdowns are numbered."""
        pose, recipe = plan.poses[drawing.index], plan.recipe
        if drawing.mark == "plain" and pose.swing > 0:
            return []
        near = recipe.size / 2 + size if drawing.shaped else 1.4 * size
        fars = [recipe.length + near + 1.7 * size * row for row in range(4)]
        found = [place(recipe.pivot, far, pose.hangs_at) for far in fars]
        return [(x, y) for x, y in found if size <= x <= plan.width - size and size <= y <= plan.height - 0.6 * size]
