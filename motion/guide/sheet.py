"""The guide sheet: ground, path, a tick for each drawing, the shapes that matter, and the drawings' numbers.

Coordinates are those of the frame. The layers are groups named ground, path, ticks, shapes and numbers.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

from motion.exercises.bounce.plan import Plan, Pose, ground_at, x_at
from motion.guide import ink
from motion.guide.guide import Drawing, Guide
from motion.guide.ink import Element, add, layer, line

LAYERS = ("ground", "path", "ticks", "shapes", "numbers")
GIVEN = {"all": LAYERS, "path": ("ground", "path"), "ground": ("ground",), "nothing": ()}
"""Which layers are given to students, by how much of the guide they see."""
FINE = 0.25
"""Frames between points of the drawn path."""


def draw(guide: Guide, layers: Collection[str] = LAYERS) -> Element:
    """The whole sheet, or some of its layers."""
    width, height = guide.brief.frame_size
    root = ink.svg(width, height, f"Guide: {guide.brief.title or 'bouncing ball'}", of_pixels=True)
    parts = {"ground": _ground, "path": _path, "ticks": _ticks, "shapes": _shapes, "numbers": _numbers}
    for name in LAYERS:
        if name in layers:
            parts[name](root, guide)
    return root


def draw_frame(guide: Guide, frame: int, layers: Collection[str] = LAYERS) -> Element:
    """The guide for one frame (from 1): the ball as it is there, over ground, path and ticks."""
    drawing = guide.on_frame(frame)
    width, height = guide.brief.frame_size
    root = ink.svg(width, height, f"Guide, frame {frame}", of_pixels=True)
    for name, part in (("ground", _ground), ("path", _path), ("ticks", _ticks)):
        if name in layers:
            part(root, guide)
    if "shapes" in layers:
        group = layer(root, "shapes", fill="none", stroke=ink.LEAF, stroke_width=2 * _scale(guide))
        ball(group, drawing.pose)
        _cross(group, drawing.pose, 5 * _scale(guide))
    if "numbers" in layers:
        size = 22 * _scale(guide)
        ink.label(layer(root, "numbers"), 1.8 * size, 1.6 * size, str(drawing.number), size, drawing.mark)
    return root


def _scale(guide: Guide) -> float:
    return max(0.5, guide.brief.frame_size[0] / 960)


def _ground(root: Element, guide: Guide) -> None:
    recipe, thick = guide.plan.recipe, 2 * _scale(guide)
    group = layer(root, "ground", stroke=ink.EARTH, stroke_width=thick)
    # The ball rests on the line's upper edge.
    left, right = (ground_at(recipe, x) + thick / 2 for x in (0, recipe.width))
    line(group, -1, left, recipe.width, right)


def _path(root: Element, guide: Guide) -> None:
    group = layer(root, "path", fill="none", stroke=ink.PALE, stroke_width=1.5 * _scale(guide))
    for points in path_of(guide.plan):
        add(group, "polyline", points=" ".join(f"{ink.num(x)},{ink.num(y)}" for x, y in points))


def path_of(plan: Plan) -> list[list[tuple[float, float]]]:
    """The path of the ball's centre as lines of points, one a flight, and one for a roll."""
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


def _centre(plan: Plan, time: float, height: float) -> tuple[float, float]:
    x = x_at(plan.recipe, time)
    return x, ground_at(plan.recipe, x) - plan.recipe.diameter / 2 - max(0.0, height)


def _ticks(root: Element, guide: Guide) -> None:
    scale = _scale(guide)
    group = layer(root, "ticks", stroke=ink.LEAF, stroke_width=1.6 * scale)
    for i, drawing in enumerate(guide.drawings):
        across, up = _normal(guide.plan.poses, i)
        half = (7 if drawing.mark == "key" else 4.5) * scale
        pose = drawing.pose
        line(group, pose.x - half * across, pose.y - half * up, pose.x + half * across, pose.y + half * up)


def _normal(poses: Sequence[Pose], i: int) -> tuple[float, float]:
    """The direction across the path at a drawing; level where the ball goes straight up, or stands."""
    before, after = poses[max(0, i - 1)], poses[min(len(poses) - 1, i + 1)]
    if poses[i].role == "contact":
        return 0.0, 1.0
    dx, dy = after.x - before.x, after.y - before.y
    size = math.hypot(dx, dy)
    if size < 1e-6:
        return 1.0, 0.0
    return -dy / size, dx / size


def _shapes(root: Element, guide: Guide) -> None:
    group = layer(root, "shapes", fill="none", stroke=ink.LEAF, stroke_width=1.4 * _scale(guide))
    for drawing in important(guide):
        ball(group, drawing.pose)


def important(guide: Guide) -> list[Drawing]:
    """The drawings whose shape the sheet shows: the keys, and the fast ones beside the contacts."""
    near = {
        j
        for i, d in enumerate(guide.drawings)
        if d.pose.role == "contact"
        for j in (i - 1, i + 1)
        if 0 <= j < len(guide.drawings) and guide.drawings[j].pose.role == "air"
    }
    return [d for i, d in enumerate(guide.drawings) if d.mark == "key" or i in near]


def ball(parent: Element, pose: Pose) -> None:
    """The outline of a ball."""
    add(
        parent,
        "ellipse",
        cx=pose.x,
        cy=pose.y,
        rx=pose.major / 2,
        ry=pose.minor / 2,
        **({"transform": f"rotate({ink.num(-pose.angle)} {ink.num(pose.x)} {ink.num(pose.y)})"} if pose.angle else {}),
    )


def _cross(parent: Element, pose: Pose, half: float) -> None:
    line(parent, pose.x - half, pose.y, pose.x + half, pose.y)
    line(parent, pose.x, pose.y - half, pose.x, pose.y + half)


def _numbers(root: Element, guide: Guide) -> None:
    """Keys are always numbered, the others where there is room; rises to the left of the path, falls to the right."""
    size = 13 * _scale(guide)
    group = layer(root, "numbers")
    taken: list[tuple[float, float]] = []
    shown = important(guide)
    for drawing in sorted(guide.drawings, key=lambda d: (d.round, d.number)):
        for x, y in _places(guide, drawing, size, drawing in shown):
            if all(math.hypot(x - a, y - b) > 1.6 * size for a, b in taken):
                taken.append((x, y))
                ink.label(group, x, y, str(drawing.number), size, drawing.mark)
                break


def _places(guide: Guide, drawing: Drawing, size: float, has_shape: bool) -> list[tuple[float, float]]:
    """Where a number may stand, best first."""
    pose, width = drawing.pose, guide.plan.recipe.width
    if pose.role != "air":
        deep = pose.y + pose.minor / 2 + 1.3 * size
        return [(pose.x, deep), (pose.x + 1.8 * size, deep), (pose.x, deep + 1.8 * size), (pose.x + 3.6 * size, deep)]
    index = drawing.number - 1
    across, up = _normal(guide.plan.poses, index)
    if up > 0 or (up == 0 and across < 0):
        across, up = -across, -up
    if not guide.plan.recipe.speed_x:
        rises = index > 0 and guide.drawings[index - 1].pose.y > pose.y
        away = pose.major / 2 + size + 2.2 * size * pose.hop
        return [(pose.x - away if rises else pose.x + away, pose.y)]
    near = pose.minor / 2 + size if has_shape else 1.5 * size
    if has_shape and drawing.mark != "key":
        # Beside a contact, the inner side of the path is full of the shapes on its other leg.
        near = -near
    tries = [(pose.x + d * across, pose.y + d * up) for d in (near, -near, 1.6 * near)]
    return [(min(max(x, size), width - size), max(y, size)) for x, y in tries]
