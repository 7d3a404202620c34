"""The ideal walk on a guide sheet: ground, the hips' wave, the swinging ankles' arcs, and the figure as sticks."""

from __future__ import annotations

from collections.abc import Sequence

from motion import ink
from motion.exercises.exercise import Numbered, Place
from motion.exercises.walk.figure import SIDES
from motion.exercises.walk.plan import Plan, pose
from motion.ink import Element

FINE = 0.25
"""Paths are drawn at so many exposures."""
FAR_DASHES = (5.0, 3.0)
"""The far leg is told from the near one by its line, not by its colour."""


class WalkSketch:
    """See ``motion.exercises.exercise.Sketch``."""

    def still(self, group: Element, plan: Plan, scale: float) -> None:
        ground = plan.recipe.ground
        ink.line(group, 0, ground, plan.width, ground)
        if plan.recipe.across:
            return
        # Ticks a step apart show how the ground passes under a figure that walks in place.
        step, x = plan.recipe.gait.step, plan.recipe.start_x % plan.recipe.gait.step
        while x < plan.width:
            ink.line(group, x, ground, x, ground + 7 * scale)
            x += step

    def paths(self, plan: Plan) -> list[list[Place]]:
        """The body's wave, and the way of both ankles."""
        recipe = plan.recipe
        count = int((plan.frames - 1) / FINE / recipe.exposure) + 1
        most = 2 * recipe.step_frames if not recipe.across else plan.frames
        poses = [pose(recipe, i * FINE * recipe.exposure, 1) for i in range(count)]
        poses = [p for i, p in enumerate(poses) if i * FINE * recipe.exposure <= most]
        ankles = [[p.landmarks[f"ankle_{side}"] for p in poses] for side in SIDES[: 2 if recipe.across else 1]]
        return [[(p.x, p.y) for p in poses], *ankles]

    def across(self, plan: Plan, index: int) -> Place:
        return 0.0, 1.0

    def important(self, plan: Plan, keys: Sequence[int]) -> list[int]:
        """Contact, down, passing and up of the first step; in place only its contact and its passing."""
        wanted = ("contact", "down", "passing", "up") if plan.recipe.across else ("contact", "passing")
        first = [i for i, p in enumerate(plan.poses) if p.step == 0 and p.role in wanted]
        return first or list(keys[:1])

    def lines(self, plan: Plan, index: int) -> list[list[Place]]:
        """The far limbs first, then the near ones, and a whole figure's trunk."""
        one = plan.poses[index].landmarks
        found = []
        for side in reversed(SIDES):
            found.append([one[n] for n in ("hip", f"knee_{side}", f"ankle_{side}")])
            found.append([one[f"{n}_{side}"] for n in ("ankle", "heel", "toe", "ankle")])
            if plan.recipe.whole:
                found.append([one[n] for n in ("neck", f"elbow_{side}", f"hand_{side}")])
        return [*found, [one["hip"], one["neck"]]] if plan.recipe.whole else found

    def figure(self, group: Element, plan: Plan, index: int) -> None:
        """Body, both legs and their feet, of a whole figure trunk, head and arms; the far side in dashes."""
        one, lines = plan.poses[index], self.lines(plan, index)
        scale = plan.recipe.gait.leg / 190
        dashes = " ".join(ink.num(d * scale) for d in FAR_DASHES)
        far = 3 if plan.recipe.whole else 2
        for number, line in enumerate(lines):
            ink.polyline(group, line, fill="none", stroke_dasharray=dashes if number < far else "none")
        ink.ellipse(group, one.x, one.y, one.major, one.minor, one.angle)

    def number_places(self, plan: Plan, drawing: Numbered, size: float) -> list[Place]:
        """Above the body where it travels; in place the figures lie over each other, and only some are numbered."""
        one = plan.poses[drawing.index]
        if not plan.recipe.across and not drawing.shaped:
            return []
        above = one.y - one.major / 2 - 1.2 * size
        return [(one.x, above - 1.7 * size * row) for row in range(3) if above - 1.7 * size * row > size]
