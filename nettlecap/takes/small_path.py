"""A take's path as a small picture: points of SVG lines in a box of 160 by 90."""

from __future__ import annotations

from collections.abc import Sequence

from motion.exercises import EXERCISES
from motion.report.report import Report

WIDTH, HEIGHT = 160.0, 90.0
MARGIN = 6.0
BETWEEN = "|"
"""Between one path and the next."""

Place = Sequence[float]
Box = tuple[float, float, float, float]


def lines(report: Report) -> tuple[str, str]:
    """The path of what moves, or the paths by which a clip of that exercise is known, and the ground, as SVG points.

    Empty where nothing was followed.
    """
    exercise = EXERCISES.get(report.track.get("kind", ""))
    trails = exercise.trails(report.track) if exercise and exercise.trails else []
    ground = report.ground
    if not trails:
        box = 0.0, 0.0, float(report.width), float(report.height)
        trails = [[[shape["x"], shape["y"]] for shape in report.path]]
    else:
        box = _around(trails, ground["y_left"] if ground else None)
    level = [[box[0], ground["y_left"]], [box[2], ground["y_right"]]] if ground else []
    return BETWEEN.join(_points(trail, box) for trail in trails), _points(level, box)


def _around(trails: Sequence[Sequence[Place]], level: float | None) -> Box:
    """Left, top, right and bottom of all that is to be seen, px."""
    xs, ys = ([at[axis] for trail in trails for at in trail] for axis in (0, 1))
    ys = ys if level is None else [*ys, level]
    return min(xs), min(ys), max(xs), max(ys)


def _points(places: Sequence[Place], box: Box) -> str:
    """Places in the frame as points of the small picture, in which a part of the frame lies in the middle."""
    left, top, right, bottom = box
    scale = min((WIDTH - 2 * MARGIN) / max(1.0, right - left), (HEIGHT - 2 * MARGIN) / max(1.0, bottom - top))
    across, down = (WIDTH - scale * (right - left)) / 2, (HEIGHT - scale * (bottom - top)) / 2
    return " ".join(f"{across + scale * (x - left):.1f},{down + scale * (y - top):.1f}" for x, y in places)
