"""The drawings of a walk about a fault, side by side over their ground."""

from __future__ import annotations

from collections.abc import Mapping

from motion import ink
from motion.account.picture import GRAVE, HEIGHT, PANEL
from motion.exercises.walk.figure import SIDES, Place, Side
from motion.exercises.walk.plan import Plan
from motion.findings import Finding
from motion.ink import Element, line, say

MOST = 9
"""So many figures stand side by side at most."""


def draw(panel: Element, plan: Plan, finding: Finding | None, window: tuple[int, int]) -> None:
    """The drawings of a window of frames, those of the finding in its colour."""
    recipe = plan.recipe
    indices = [i for i in range(len(plan.poses)) if window[0] <= plan.first_frame(i) <= window[1]]
    every = -(-len(indices) // MOST) if indices else 1
    told = {i for i in indices if _told(plan, finding, i)}
    shown = [i for k, i in enumerate(indices) if k % every == 0 or (i in told and len(told) <= 3)][: MOST + 3]
    room = PANEL / max(1, len(shown))
    tall = recipe.gait.leg * (1.5 if recipe.whole else 1.08) + recipe.body
    scale = min((HEIGHT - 22) / tall, 1.7 * room / recipe.gait.leg)
    ground = HEIGHT - 14.0
    line(panel, 0, ground, PANEL, ground, stroke=ink.EARTH, stroke_width=1.2)
    for order, index in enumerate(shown):
        pose = plan.poses[index]
        hip = pose.landmarks["hip"]
        colour = GRAVE if index in told else ink.SOFT
        left = room * (order + 0.5) - scale * hip[0]
        top = ground - scale * recipe.ground

        def at(point: tuple[float, float], x: float = left, y: float = top) -> tuple[float, float]:
            return x + scale * point[0], y + scale * point[1]

        for side in reversed(SIDES):
            joints = [pose.landmarks["hip"], *(pose.landmarks[f"{j}_{side}"] for j in ("knee", "ankle"))]
            foot = [pose.landmarks[f"{j}_{side}"] for j in ("ankle", "heel", "toe", "ankle")]
            dashes = "3 2" if side == "far" else "none"
            for points in (joints, foot, *_above(plan, pose.landmarks, side)):
                ink.polyline(
                    panel,
                    [at(p) for p in points],
                    fill="none",
                    stroke=colour,
                    stroke_width=1.6 if index in told else 1.1,
                    stroke_dasharray=dashes,
                )
        x, y = at((pose.x, pose.y))
        filled = {"fill": GRAVE if index in told else "none", "fill_opacity": "0.16"}
        ink.ellipse(
            panel, x, y, scale * pose.major, scale * pose.minor, pose.angle, stroke=colour, stroke_width=0.9, **filled
        )
        said = str(plan.first_frame(index)) + (f" ({pose.frames} fr.)" if pose.frames > max(2, recipe.exposure) else "")
        say(panel, said, x=x, y=HEIGHT - 2, font_size=9, fill=ink.INK, text_anchor="middle")


def _above(plan: Plan, landmarks: Mapping[str, Place], side: Side) -> list[list[Place]]:
    """Of a whole figure an arm, and with the near one the trunk."""
    if not plan.recipe.whole:
        return []
    arm = [landmarks[n] for n in ("neck", f"elbow_{side}", f"hand_{side}")]
    return [arm, [landmarks["hip"], landmarks["neck"]]] if side == "near" else [arm]


def _told(plan: Plan, finding: Finding | None, index: int) -> bool:
    if finding is None or (finding.first_frame == 1 and finding.last_frame == plan.frames):
        return False
    return finding.first_frame <= plan.first_frame(index) <= finding.last_frame
