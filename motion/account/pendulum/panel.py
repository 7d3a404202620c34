"""The drawings of a pendulum about a fault, hung from their pivot."""

from __future__ import annotations

import itertools
import math

from motion import ink
from motion.account.picture import GRAVE, HEIGHT, PANEL
from motion.exercises.pendulum.plan import Plan, place
from motion.findings import Finding
from motion.ink import Element, add, line, say

MOST_LINES = 14
"""Where more drawings are shown, only every so many of them have their line drawn."""


def draw(panel: Element, plan: Plan, finding: Finding | None, window: tuple[int, int]) -> None:
    """The drawings of a window of frames, those of the finding filled."""
    recipe = plan.recipe
    reach = recipe.length + recipe.size
    scale = min(HEIGHT / (reach + 14), PANEL / (2.1 * reach * math.sin(math.radians(52))))
    left, top = PANEL / 2 - scale * recipe.pivot[0], 8 - scale * recipe.pivot[1]

    def at(x: float, y: float) -> tuple[float, float]:
        return left + scale * x, top + scale * y

    end = place(recipe.pivot, recipe.length + recipe.size / 2, recipe.rest_angle)
    line(panel, *at(*recipe.pivot), *at(*end), stroke=ink.PALE, stroke_width=1, stroke_dasharray="4 3")
    indices = [i for i in range(len(plan.poses)) if window[0] <= plan.first_frame(i) <= window[1]]
    whole = finding is not None and finding.first_frame == 1 and finding.last_frame == plan.frames
    every = max(1, len(indices) // MOST_LINES)
    for order, index in enumerate(indices):
        pose, frame = plan.poses[index], plan.first_frame(index)
        told = finding is not None and not whole and finding.first_frame <= frame <= finding.last_frame
        ends = finding is not None and finding.last_frame - finding.first_frame < 4
        colour = GRAVE if told else ink.SOFT
        if (told and ends) or order % every == 0:
            begins = dict(pose.apart)
            for part, (one, other) in enumerate(itertools.pairwise([pose.top, *pose.joints, (pose.x, pose.y)])):
                ends_at = at(*begins.get(part, one)), at(*other)
                line(panel, *ends_at[0], *ends_at[1], stroke=colour, stroke_width=1.4 if told else 0.6)
        filled = {"fill": GRAVE if told else "none", "fill_opacity": "0.2"}
        x, y = at(pose.x, pose.y)
        ink.ellipse(panel, x, y, scale * pose.major, scale * pose.minor, 0.0, stroke=colour, stroke_width=0.9, **filled)
        add(panel, "circle", cx=x, cy=y, r=1.8, fill=colour)
        if pose.frames > max(2, recipe.exposure):
            say(panel, f"{pose.frames} fr.", x=x, y=min(HEIGHT - 4, y + scale * pose.major / 2 + 12), font_size=11,
                fill=ink.INK, text_anchor="middle")  # fmt: skip
