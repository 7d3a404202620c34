"""What a person draws over a clip: strokes of a pen, lines, arcs through three points, arrows.

A stroke is kept as it was drawn, as points with the pressure of the pen. ``path`` turns it into the shape that is
filled with ink, the same wherever it is shown. Places are in px of the clip, x right and y down.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from motion.errors import BadStroke
from motion.stored import Schema

KEPT = Schema(name="nettlecap.stroke/1", steps={"": lambda points: {"schema": "nettlecap.stroke/1", "points": points}})
"""How the points of a stroke are kept: at first as bare lists."""
Points = NDArray[np.float64]
"""(points, 3): x and y in px, and pressure from 0 to 1."""

TOOLS = ("pen", "line", "arc", "arrow")
MOST_POINTS = 4000
MARGIN = 0.5
"""A stroke may run over the edge of the frame by this share of its size."""
FARTHEST = 1e6
"""Greater numbers, and what is no number, are no places."""
NEAREST_PX = 0.75
"""Points of a pen that lie nearer to the one before say nothing more."""
NIB = 1 / 240
"""How wide a stroke is at full pressure, as a share of the frame's width, ..."""
THINNEST_PX = 2.0
LIGHTEST = 0.35
"""... and how much of it is left at none."""
HEAD = 5.5
"""How long an arrow's head is, in widths of its stroke, ..."""
HEAD_TURN = math.radians(26)
"""... and how far its barbs turn from its line."""
SHARP = math.cos(math.radians(50))
"""Where a stroke turns more sharply, its corner is rounded off with a disc."""
SMOOTHINGS = 2
ARC_STEP = math.radians(4)


@dataclass(frozen=True, slots=True)
class Stroke:
    """One stroke: the tool it was drawn with, and its points as (x, y, pressure)."""

    tool: str
    points: tuple[tuple[float, float, float], ...]

    @property
    def array(self) -> Points:
        return np.array(self.points, np.float64)

    def kept(self) -> dict[str, Any]:
        """Its points as they are kept."""
        return KEPT.written({"points": [list(p) for p in self.points]})


def from_kept(tool: str, document: Any) -> Stroke:
    """A stroke from what ``kept`` made, or an earlier version of it. Raises NewerDocument."""
    return Stroke(tool, tuple((x, y, pressure) for x, y, pressure in KEPT.read(document)["points"]))


@dataclass(frozen=True, slots=True)
class Over:
    """A stroke over a range of frames, both ends included, counted from 1."""

    stroke: Stroke
    first_frame: int
    last_frame: int


def read(tool: str, points: Any, width: int, height: int) -> Stroke:
    """A stroke as a page sends it, on a frame of that size.

    A pen has one point or more, a line and an arrow two, an arc three. Raises BadStroke where it is none.
    """
    if tool not in TOOLS:
        raise BadStroke("Draw with the pen, a line, an arc or an arrow.")
    array = _array(points)
    if array is None or len(array) > MOST_POINTS:
        raise BadStroke("This stroke could not be read; nothing was kept of it.")
    needed = {"line": 2, "arrow": 2, "arc": 3}.get(tool, len(array))
    if len(array) != needed:
        raise BadStroke(f"This takes {needed} points.")
    low, high = np.array([-MARGIN, -MARGIN]), np.array([1 + MARGIN, 1 + MARGIN])
    size = np.array([width, height])
    if (array[:, :2] < low * size).any() or (array[:, :2] > high * size).any():
        raise BadStroke("This stroke lies outside the frame; nothing was kept of it.")
    if tool != "pen" and len(np.unique(array[:, :2].round(2), axis=0)) < needed:
        raise BadStroke("Its points lie on each other; draw it a little longer.")
    array[:, 2] = np.clip(array[:, 2], 0, 1)
    if tool == "pen":
        array = _thinned(array)
    return Stroke(tool, tuple((round(x, 2), round(y, 2), round(p, 3)) for x, y, p in array.tolist()))


def _array(points: Any) -> Points | None:
    """The points as an array, pressure filled in where a device tells none; None where they are no points."""
    if not isinstance(points, list) or not points:
        return None
    rows = [p for p in points if isinstance(p, list) and len(p) in (2, 3)]
    numbers = [n for row in rows for n in row]
    if len(rows) != len(points) or not all(isinstance(n, int | float) and abs(n) < FARTHEST for n in numbers):
        return None
    return np.array([[*row, 0.5] if len(row) == 2 else row for row in rows], np.float64)


def _thinned(points: Points) -> Points:
    kept = [points[0]]
    for point in points[1:]:
        if math.dist(point[:2], kept[-1][:2]) >= NEAREST_PX:
            kept.append(point)
    return np.array(kept)


def path(stroke: Stroke, width: int) -> str:
    """The shape of a stroke on a frame of that width as SVG path data, to be filled (nonzero)."""
    nib = max(THINNEST_PX, width * NIB)
    parts = [_outline(line, nib) for line in _lines(stroke, nib)]
    return " ".join(part for lines in parts for part in lines)


def _lines(stroke: Stroke, nib: float) -> list[Points]:
    """The middle lines of a stroke's parts."""
    points = stroke.array
    if stroke.tool == "pen":
        return [_smooth(points)]
    if stroke.tool == "arc":
        return [arc_through(points)]
    if stroke.tool == "arrow":
        return [points, _head(points, nib)]
    return [points]


def _smooth(points: Points) -> Points:
    """Corners cut off twice (Chaikin), the ends kept."""
    for _ in range(SMOOTHINGS):
        if len(points) < 3:
            return points
        one, other = points[:-1], points[1:]
        between = np.stack([0.75 * one + 0.25 * other, 0.25 * one + 0.75 * other], axis=1).reshape(-1, 3)
        points = np.vstack([points[:1], between[1:-1], points[-1:]])
    return points


def arc_through(points: Points) -> Points:
    """Points along the circle through three points, from the first by the second to the third.

    Three points in a line give that line.
    """
    (ax, ay), (bx, by), (cx, cy) = points[:, :2].tolist()
    twice_area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    longest = max(math.dist(points[0, :2], points[2, :2]), math.dist(points[0, :2], points[1, :2]))
    if abs(twice_area) <= 1e-3 * longest * longest:
        return points
    a, b, c = (x * x + y * y for x, y in ((ax, ay), (bx, by), (cx, cy)))
    middle_x = (a * (by - cy) + b * (cy - ay) + c * (ay - by)) / (2 * twice_area)
    middle_y = (a * (cx - bx) + b * (ax - cx) + c * (bx - ax)) / (2 * twice_area)
    start, by_way, end = (math.atan2(y - middle_y, x - middle_x) for x, y in ((ax, ay), (bx, by), (cx, cy)))
    turn, way = (end - start) % math.tau, (by_way - start) % math.tau
    if way > turn:
        turn -= math.tau
    count = max(2, math.ceil(abs(turn) / ARC_STEP) + 1)
    angles = start + np.linspace(0, turn, count)
    radius = math.hypot(ax - middle_x, ay - middle_y)
    x, y = middle_x + radius * np.cos(angles), middle_y + radius * np.sin(angles)
    return np.column_stack([x, y, np.linspace(points[0, 2], points[2, 2], count)])


def _head(points: Points, nib: float) -> Points:
    """The two barbs of an arrow, by its tip."""
    tip, back = points[-1], math.atan2(*(points[-2, :2] - points[-1, :2])[::-1])
    length = HEAD * nib
    barbs = [[tip[0] + length * math.cos(back + t), tip[1] + length * math.sin(back + t), tip[2]]
             for t in (HEAD_TURN, -HEAD_TURN)]  # fmt: skip
    return np.array([barbs[0], tip, barbs[1]])


def _outline(line: Points, nib: float) -> list[str]:
    """Closed shapes that cover a line as wide as its pressure: its sides, and discs at its ends and sharp corners."""
    half = nib / 2 * (LIGHTEST + (1 - LIGHTEST) * line[:, 2])
    steps = np.diff(line[:, :2], axis=0)
    lengths = np.hypot(*steps.T)
    kept = np.append(True, lengths > 1e-9)
    line, half = line[kept], half[kept]
    discs = [_disc(line[0], half[0])]
    if len(line) == 1:
        return discs
    along = np.diff(line[:, :2], axis=0)
    along /= np.hypot(*along.T)[:, None]
    turns = (along[:-1] * along[1:]).sum(axis=1)
    discs += [_disc(line[i + 1], half[i + 1]) for i in np.flatnonzero(turns < SHARP)]
    discs.append(_disc(line[-1], half[-1]))
    # Each stretch between sharp corners is one band.
    ends = [0, *(np.flatnonzero(turns < SHARP) + 1).tolist(), len(line) - 1]
    bands = [_band(line[a : b + 1, :2], half[a : b + 1]) for a, b in itertools.pairwise(ends) if b > a]
    return bands + discs


def _band(line: NDArray[np.float64], half: NDArray[np.float64]) -> str:
    """The two sides of a line (points, 2) that is so wide to either side of it."""
    along = np.gradient(line, axis=0)
    along /= np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    across = np.column_stack([-along[:, 1], along[:, 0]]) * half[:, None]
    return _closed(np.vstack([line + across, (line - across)[::-1]]))


def _closed(corners: Sequence[Any] | NDArray[np.float64]) -> str:
    return "M" + "L".join(f"{_num(x)} {_num(y)}" for x, y in corners) + "Z"


def _disc(point: Points, radius: float) -> str:
    x, y, r = point[0], point[1], _num(radius)
    return f"M{_num(x - radius)} {_num(y)}a{r} {r} 0 1 0 {_num(2 * radius)} 0a{r} {r} 0 1 0 {_num(-2 * radius)} 0Z"


def _num(value: float) -> str:
    text = f"{value:.1f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
