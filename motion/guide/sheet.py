"""The guide sheet: what stands still, path, a tick for each drawing, the shapes that matter, and the numbers.

Coordinates are those of the frame. The layers are groups named ground, path, ticks, shapes and numbers; what is drawn
in them is the exercise's own sketch.
"""

from __future__ import annotations

import math
from collections.abc import Collection

from motion import ink
from motion.exercises.exercise import Numbered
from motion.guide.guide import Drawing, Guide
from motion.ink import Element, layer, line
from motion.plan import Pose

LAYERS = ("ground", "path", "ticks", "shapes", "numbers")
GIVEN = {"all": LAYERS, "path": ("ground", "path"), "ground": ("ground",), "nothing": ()}
"""Which layers are given to students, by how much of the guide they see."""


def draw(guide: Guide, layers: Collection[str] = LAYERS) -> Element:
    """The whole sheet, or some of its layers."""
    width, height = guide.brief.frame_size
    title = f"Guide: {guide.brief.title or guide.exercise.nouns.exercise}"
    root = ink.svg(width, height, title, of_pixels=True)
    parts = {"ground": _ground, "path": _path, "ticks": _ticks, "shapes": _shapes, "numbers": _numbers}
    for name in LAYERS:
        if name in layers:
            parts[name](root, guide)
    return root


def draw_frame(guide: Guide, frame: int, layers: Collection[str] = LAYERS) -> Element:
    """The guide for one frame (from 1): what moves as it is there, over what stands still, path and ticks."""
    drawing = guide.on_frame(frame)
    width, height = guide.brief.frame_size
    root = ink.svg(width, height, f"Guide, frame {frame}", of_pixels=True)
    for name, part in (("ground", _ground), ("path", _path), ("ticks", _ticks)):
        if name in layers:
            part(root, guide)
    if "shapes" in layers:
        group = layer(root, "shapes", fill="none", stroke=ink.LEAF, stroke_width=2 * _scale(guide))
        guide.sketch.figure(group, guide.plan, drawing.number - 1)
        _cross(group, drawing.pose, 5 * _scale(guide))
    if "numbers" in layers:
        size = 22 * _scale(guide)
        ink.label(layer(root, "numbers"), 1.8 * size, 1.6 * size, str(drawing.number), size, drawing.mark)
    return root


def figure(guide: Guide, drawing: Drawing) -> Element:
    """What moves as it is in one drawing, alone, as a drawing of the frame's size."""
    width, height = guide.brief.frame_size
    root = ink.svg(width, height, f"Drawing {drawing.number}", of_pixels=True)
    guide.sketch.figure(layer(root, "figure", fill="none"), guide.plan, drawing.number - 1)
    return root


def beside(guide: Guide, drawing: Drawing) -> Element:
    """One drawing of what moves, filled, over what stands still: to be shown beside a clip, or over it."""
    width, height = guide.brief.frame_size
    root = ink.svg(width, height, f"Drawing {drawing.number}", of_pixels=True)
    _ground(root, guide)
    group = layer(root, "figure", fill=ink.SAND, stroke=ink.EARTH, stroke_width=width / 400)
    guide.sketch.figure(group, guide.plan, drawing.number - 1)
    return root


def _scale(guide: Guide) -> float:
    return max(0.5, guide.brief.frame_size[0] / 960)


def _ground(root: Element, guide: Guide) -> None:
    group = layer(root, "ground", stroke=ink.EARTH, stroke_width=2 * _scale(guide))
    guide.sketch.still(group, guide.plan, _scale(guide))


def _path(root: Element, guide: Guide) -> None:
    group = layer(root, "path", fill="none", stroke=ink.PALE, stroke_width=1.5 * _scale(guide))
    for points in guide.sketch.paths(guide.plan):
        ink.polyline(group, points)


def _ticks(root: Element, guide: Guide) -> None:
    scale = _scale(guide)
    group = layer(root, "ticks", stroke=ink.LEAF, stroke_width=1.6 * scale)
    for i, drawing in enumerate(guide.drawings):
        across, up = guide.sketch.across(guide.plan, i)
        half = (7 if drawing.mark == "key" else 4.5) * scale
        pose = drawing.pose
        line(group, pose.x - half * across, pose.y - half * up, pose.x + half * across, pose.y + half * up)


def _shapes(root: Element, guide: Guide) -> None:
    group = layer(root, "shapes", fill="none", stroke=ink.LEAF, stroke_width=1.4 * _scale(guide))
    for index in guide.shaped:
        guide.sketch.figure(group, guide.plan, index)


def _cross(parent: Element, pose: Pose, half: float) -> None:
    line(parent, pose.x - half, pose.y, pose.x + half, pose.y)
    line(parent, pose.x, pose.y - half, pose.x, pose.y + half)


def _numbers(root: Element, guide: Guide) -> None:
    """Keys are always numbered, the others where there is room."""
    size = 13 * _scale(guide)
    group = layer(root, "numbers")
    taken: list[tuple[float, float]] = []
    for drawing in sorted(guide.drawings, key=lambda d: (d.round, d.number)):
        for x, y in guide.sketch.number_places(guide.plan, _numbered(guide, drawing), size):
            if all(math.hypot(x - a, y - b) > 1.6 * size for a, b in taken):
                taken.append((x, y))
                ink.label(group, x, y, str(drawing.number), size, drawing.mark)
                break


def _numbered(guide: Guide, drawing: Drawing) -> Numbered:
    index = drawing.number - 1
    return Numbered(index=index, mark=drawing.mark, shaped=index in guide.shaped)
