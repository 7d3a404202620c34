"""The ideal bounce on a guide sheet: its ground, the path of its centre, and its shapes."""

from __future__ import annotations

import math
from collections.abc import Sequence

from motion import ink
from motion.exercises.bounce.plan import Plan, Pose, ground_at, x_at
from motion.exercises.exercise import Numbered, Place
from motion.ink import Element

FINE = 0.25
"""Frames between points of the drawn path."""


class BounceSketch:
    """See ``motion.exercises.exercise.Sketch``."""

    def still(self, group: Element, plan: Plan, scale: float) -> None:
        recipe, thick = plan.recipe, 2 * scale
        # The ball rests on the line's upper edge.
        left, right = (ground_at(recipe, x) + thick / 2 for x in (0, recipe.width))
        ink.line(group, -1, left, recipe.width, right)

    def paths(self, plan: Plan) -> list[list[Place]]:
        """One line a flight, and one for a roll."""
        lines = []
        # Drawings, not frames: a held top must not stretch the path.
        end = 1 + (len(plan.poses) - 1) * plan.recipe.exposure
        for flight in plan.flights:
            start, stop = max(1.0, flight.left), min(flight.lands, float(end))
            if stop - start < 1e-6:
                continue
            count = max(2, math.ceil((stop - start) / FINE) + 1)
            times = [start + (stop - start) * i / (count - 1) for i in range(count)]
            lines.append([_centre(plan, t, flight.height(t)) for t in times])
        rolling = [p for p in plan.poses if p.role == "rest"]
        if rolling and lines:
            lines.append([lines[-1][-1], (rolling[-1].x, rolling[-1].y)])
        return lines

    def across(self, plan: Plan, index: int) -> Place:
        """Level where the ball goes straight up, or stands."""
        poses = plan.poses
        before, after = poses[max(0, index - 1)], poses[min(len(poses) - 1, index + 1)]
        if poses[index].role == "contact":
            return 0.0, 1.0
        dx, dy = after.x - before.x, after.y - before.y
        size = math.hypot(dx, dy)
        return (1.0, 0.0) if size < 1e-6 else (-dy / size, dx / size)

    def important(self, plan: Plan, keys: Sequence[int]) -> list[int]:
        """The keys, and the fast drawings beside the contacts."""
        near = {
            j
            for i, pose in enumerate(plan.poses)
            if pose.role == "contact"
            for j in (i - 1, i + 1)
            if 0 <= j < len(plan.poses) and plan.poses[j].role == "air"
        }
        return sorted({*keys, *near})

    def lines(self, plan: Plan, index: int) -> list[list[Place]]:
        return []

    def figure(self, group: Element, plan: Plan, index: int) -> None:
        ball(group, plan.poses[index])

    def number_places(self, plan: Plan, drawing: Numbered, size: float) -> list[Place]:
        """Rises are numbered to the left of the path, falls to the right."""
        index, width = drawing.index, plan.width
        pose = plan.poses[index]
        if pose.role != "air":
            deep = pose.y + pose.minor / 2 + 1.3 * size
            ways = ((0.0, 0.0), (1.8, 0.0), (0.0, 1.8), (3.6, 0.0))
            return [(pose.x + across * size, deep + down * size) for across, down in ways]
        across, up = self.across(plan, index)
        if up > 0 or (up == 0 and across < 0):
            across, up = -across, -up
        if not plan.recipe.speed_x:
            rises = index > 0 and plan.poses[index - 1].y > pose.y
            away = pose.major / 2 + size + 2.2 * size * pose.hop
            return [(pose.x - away if rises else pose.x + away, pose.y)]
        near = pose.minor / 2 + size if drawing.shaped else 1.5 * size
        if drawing.shaped and drawing.mark != "key":
            # Beside a contact, the inner side of the path is full of the shapes on its other leg.
            near = -near
        tries = [(pose.x + d * across, pose.y + d * up) for d in (near, -near, 1.6 * near)]
        return [(min(max(x, size), width - size), max(y, size)) for x, y in tries]


def ball(parent: Element, pose: Pose) -> None:
    """The outline of a ball."""
    ink.ellipse(parent, pose.x, pose.y, pose.major, pose.minor, pose.angle)


def _centre(plan: Plan, time: float, height: float) -> Place:
    x = x_at(plan.recipe, time)
    return x, ground_at(plan.recipe, x) - plan.recipe.diameter / 2 - max(0.0, height)
