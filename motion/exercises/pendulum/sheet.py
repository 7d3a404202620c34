"""The ideal swing on a guide sheet: its pivot and rest line, the arc of its weight, and its shapes."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.interpolate import CubicSpline

from motion import ink
from motion.exercises.exercise import Numbered, Place
from motion.exercises.pendulum.hung import SHOWN, outlines, told
from motion.exercises.pendulum.parts import TAIL_PARTS
from motion.exercises.pendulum.plan import Plan, place, stops_at
from motion.ink import Element

FINE_DEGREES = 1.5
FINE = 3
"""So many pieces a path has from drawing to drawing."""
BASE = 44.0, 16.0
"""How wide and high what carries it is shown in a frame 960 px wide."""
BEYOND = 0.12
"""The rest line goes on below the weight by this share of its length."""


class SwingSketch:
    """See ``motion.exercises.exercise.Sketch``."""

    def still(self, group: Element, plan: Plan, scale: float) -> None:
        recipe = plan.recipe
        dashes = f"{ink.num(9 * scale)} {ink.num(6 * scale)}"
        begins, stops = recipe.pivot, recipe.pivot_at(plan.poses[-1].time)
        for x, y in (begins, stops) if recipe.carriage else (begins,):
            far = recipe.length + plan.poses[0].major / 2 + BEYOND * recipe.length
            end = place((x, y), far, recipe.rest_angle)
            ink.line(group, x, y, *end, stroke_dasharray=dashes, stroke_width=1.2 * scale)
            ink.add(group, "circle", cx=x, cy=y, r=4.5 * scale, fill="none")
            ink.line(group, x - 14 * scale, y - 4.5 * scale, x + 14 * scale, y - 4.5 * scale)
        if recipe.carriage:
            _way(group, plan, scale)

    def paths(self, plan: Plan) -> list[list[Place]]:
        """The arc from the farthest angle on one side to the other; of what hangs in parts each joint's own path."""
        recipe = plan.recipe
        if recipe.hangs != "bob" or recipe.carriage:
            return [_smooth([told(p, recipe)[k] for p in plan.poses]) for k in _shown_joints(plan)]
        angles = [p.hangs_at for p in plan.poses]
        count = max(2, math.ceil((max(angles) - min(angles)) / FINE_DEGREES) + 1)
        return [[place(recipe.pivot, recipe.length, float(a)) for a in np.linspace(min(angles), max(angles), count)]]

    def across(self, plan: Plan, index: int) -> Place:
        """Along the line, which stands square on the arc."""
        turn = math.radians(plan.poses[index].hangs_at)
        return math.sin(turn), math.cos(turn)

    def important(self, plan: Plan, keys: Sequence[int]) -> list[int]:
        """The keys, and the first breakdown, where it passes the rest line; of what is carried where it lags most."""
        if len(keys) < 2:
            return list(keys)
        inner = range(keys[0] + 1, keys[1])
        if plan.recipe.carriage:
            lags = max(inner, key=lambda i: abs(plan.poses[i].hangs_at - plan.recipe.rest_angle), default=keys[0])
            return sorted({*keys[:3], lags})
        passing = min(inner, key=lambda i: abs(plan.poses[i].hangs_at - plan.recipe.rest_angle), default=keys[0])
        return sorted({*keys[:2], passing})

    def lines(self, plan: Plan, index: int) -> list[list[Place]]:
        """From where it hangs, by its joints, to its end."""
        pose = plan.poses[index]
        return [[pose.top, *pose.joints, (pose.x, pose.y)]]

    def figure(self, group: Element, plan: Plan, index: int) -> None:
        pose, recipe = plan.poses[index], plan.recipe
        if pose.base is not None:
            _base(group, pose.base, plan.width / 960)
        if recipe.hangs == "bob":
            turn = math.radians(pose.hangs_at)
            ends = pose.x - pose.major / 2 * math.sin(turn), pose.y - pose.major / 2 * math.cos(turn)
            ink.line(group, *pose.top, *ends)
        for outline in outlines(pose, recipe):
            ink.add(group, "polygon", points=" ".join(f"{ink.num(x)},{ink.num(y)}" for x, y in outline))
        if recipe.hangs == "bob" or recipe.weighted:
            ink.ellipse(group, pose.x, pose.y, pose.major, pose.minor, pose.angle)

    def number_places(self, plan: Plan, drawing: Numbered, size: float) -> list[Place]:
        """Below the arc; of the later swings, which lie over the first, only keys and breakdowns are numbered."""
        pose = plan.poses[drawing.index]
        if drawing.mark == "plain" and pose.swing > 0:
            return []
        near = pose.major / 2 + size if drawing.shaped else 1.4 * size
        away = math.dist(pose.top, (pose.x, pose.y))
        fars = [away + near + 1.7 * size * row for row in range(4)]
        found = [place(pose.top, far, pose.hangs_at) for far in fars]
        return [(x, y) for x, y in found if size <= x <= plan.width - size and size <= y <= plan.height - 0.6 * size]


def _way(group: Element, plan: Plan, scale: float) -> None:
    """The level way of what carries it, with a tick for where its base is in each drawing."""
    places = [p.top for p in plan.poses[: stops_at(plan) + 1]]
    above = places[0][1] - BASE[1] * scale
    ink.line(group, places[0][0], above, places[-1][0], above, stroke_width=1.2 * scale)
    for x, _ in places:
        ink.line(group, x, above - 5 * scale, x, above + 5 * scale, stroke_width=1.2 * scale)


def _base(group: Element, top: Place, scale: float) -> None:
    """What carries it, above its pivot: a block that is rounder below."""
    half, high, (x, y) = BASE[0] / 2 * scale, BASE[1] * scale, top
    outline = [(x - half, y - high), (x + half, y - high), (x + half / 2, y), (x - half / 2, y)]
    ink.add(group, "polygon", points=" ".join(f"{ink.num(a)},{ink.num(b)}" for a, b in outline))


def _shown_joints(plan: Plan) -> list[int]:
    """Which of a drawing's points have their paths shown: every joint, of a tail the ends of its parts."""
    if plan.recipe.hangs == "tail":
        each = SHOWN // TAIL_PARTS
        return list(range(each, SHOWN + 1, each))
    return list(range(1, len(plan.poses[0].joints) + 2))


def _smooth(places: Sequence[Place]) -> list[Place]:
    """A line through places in their order, rounded between them."""
    if len(places) < 3:
        return list(places)
    curve = CubicSpline(np.arange(len(places)), np.array(places))
    fine = np.linspace(0, len(places) - 1, FINE * (len(places) - 1) + 1)
    return [(float(x), float(y)) for x, y in curve(fine)]
