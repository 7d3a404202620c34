"""Drawings cut out along what was measured of them, moved, and set down again over what lies behind.

Nothing is drawn anew: what a drawing covered is filled from those in which the subject is elsewhere.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture
from motion.export.take import laid_drawing

Floats = NDArray[np.float32]
Points = Sequence[Sequence[float]]
"""Places along a line, px."""
Shape = dict[str, Any]
"""x, y, major, minor in px and angle in degrees, as in the findings file."""

MOST_FOR_BACKGROUND = 25
MARGIN_PX, MARGIN = 3.0, 0.05
"""How much farther than its outline a drawing is cut out: px, and a share of its size."""
SOFT_PX = 2.0
BESIDE_LINE_PX = 12.0
"""How far to both sides a line is cut out whose width is not known, px of a frame 960 wide."""
WIDER = 1.3
"""What bends is cut out so much wider than it usually is: it may taper."""
CORE_PX = 1.5
"""A subject covers what lies so far (px) within its outline, even where it is as light as the paper."""
WIDER_PX = 1.0
"""A weight is wider than the line on which it hangs by more px."""
ROUND_PX = 1.0
"""The rounding of a part is cut out so much wider than it is."""
ALIKE = 12.0
"""Values (of 255) that differ by less are the same."""
STRIP = 64
NOTHING = 999
"""In place of a value where the subject covers a pixel: more than any."""


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece to cut out: its mask and what of it goes along in any case (both height, width, 1), and where they lie.

    ``whole`` (2, 3) is the map by which it goes to its new place.
    """

    cut: Floats
    core: Floats
    rows: slice
    columns: slice
    whole: NDArray[np.float64]


class Behind:
    """What lies behind the subject: the middle value of each pixel over the drawings that do not cover it."""

    def __init__(
        self, findings: dict[str, Any], drawings: Path, shapes: dict[int, Shape], lines: dict[int, dict[str, Any]]
    ) -> None:
        numbers = sorted({e["drawing"] for e in findings["clip"]["exposures"]})
        chosen = numbers[:: max(1, math.ceil(len(numbers) / MOST_FOR_BACKGROUND))]
        pictures = [laid_drawing(findings, drawings, n) for n in chosen]
        size = pictures[0].shape[:2]
        covered = np.stack([_covered(shapes.get(n), lines.get(n), size) for n in chosen])
        self._seen = np.empty((*size, 4), np.float32)
        # In strips, so that a large frame does not take all memory at once.
        for top in range(0, size[0], STRIP):
            rows = slice(top, top + STRIP)
            self._seen[rows] = _middle_value(np.stack([p[rows] for p in pictures]), covered[:, rows])

    def within(self, rows: slice, columns: slice) -> Floats:
        """(height, width, 4) of a part of the frame."""
        return self._seen[rows, columns]


def _covered(shape: Shape | None, line: dict[str, Any] | None, size: tuple[int, int]) -> NDArray[np.bool_]:
    """(height, width) what of the frame a drawing covers."""
    found = np.zeros(size, np.bool_)
    if shape is not None:
        rows, columns = _around(shape, size)
        found[rows, columns] |= _cut(shape, rows, columns) > 0
    if line is not None and "wide" in line:
        half = _half(line, size[1])
        for part in itertools.pairwise(line["points"]):
            rows, columns = _beside(part, half, size)
            found[rows, columns] |= _far_from(*part, rows, columns) < half
    return found


def _middle_value(stack: NDArray[np.uint8], covered: NDArray[np.bool_]) -> Floats:
    """(height, width, 4) the median over the drawings that do not cover a pixel; where all do, over all of them."""
    alone = covered & ~covered.all(axis=0)
    # What covers goes to the end of the row.
    values = np.where(alone[..., None], np.int16(NOTHING), stack.astype(np.int16))
    values.sort(axis=0)
    count = len(stack) - alone.sum(axis=0)
    low, high = ((count - 1) // 2)[None, ..., None], (count // 2)[None, ..., None]
    both = [np.take_along_axis(values, np.broadcast_to(k, (1, *values.shape[1:])), axis=0)[0] for k in (low, high)]
    return np.asarray((both[0].astype(np.float32) + both[1]) / 2, np.float32)


def _cut(shape: Shape, rows: slice, columns: slice, margin: float | None = None) -> Floats:
    """(height, width) of a part of the frame: 1 within a shape and its margin (px), falling off softly to 0 outside."""
    y, x = np.mgrid[rows, columns].astype(np.float32)
    spread = _spread(shape)
    margin = MARGIN_PX + MARGIN * float(shape["major"]) if margin is None else margin
    inverse = np.linalg.inv(spread)
    dx, dy = x - shape["x"], y - shape["y"]
    u, v = inverse[0, 0] * dx + inverse[0, 1] * dy, inverse[1, 0] * dx + inverse[1, 1] * dy
    # Px outside the outline, near enough for a margin.
    outside = (np.hypot(u, v) - 1) * math.sqrt(shape["major"] * shape["minor"]) / 2
    return np.asarray(np.clip((margin - outside) / SOFT_PX, 0, 1), np.float32)


def _spread(shape: Shape) -> NDArray[np.float64]:
    """(2, 2): the map of the unit circle onto a shape without turning it, so that what is drawn on it stays put."""
    turn = math.radians(-float(shape["angle"]))
    turned = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    return np.asarray(turned @ np.diag([shape["major"] / 2, shape["minor"] / 2]) @ turned.T)


def set_down(picture: Picture, behind: Behind, pieces: Sequence[Piece]) -> Picture:
    """A drawing with pieces of it cut out and set down elsewhere, the later ones over the earlier."""
    size = picture.shape[:2]
    filled = picture.astype(np.float32)
    moved = []
    for piece in pieces:
        there = behind.within(piece.rows, piece.columns)
        own = picture[piece.rows, piece.columns].astype(np.float32)
        left = filled[piece.rows, piece.columns]
        filled[piece.rows, piece.columns] = left * (1 - piece.cut) + there * piece.cut
        # Beside it only what is not background goes along, so that no piece of a ground line does.
        unlike = np.clip((np.abs(own - there).max(axis=2, keepdims=True) - ALIKE) / ALIKE, 0, 1)
        mask = piece.cut * np.maximum(unlike, piece.core)
        moved.append((np.dstack([own * mask, mask]), piece))
    for cut_out, piece in moved:
        rows, columns, there = _landed(cut_out, piece, size)
        part = filled[rows, columns]
        filled[rows, columns] = part * (1 - there[..., 4:5]) + there[..., :4]
    return np.asarray(np.clip(filled.round(), 0, 255), np.uint8)


def _landed(cut_out: Floats, piece: Piece, size: tuple[int, int]) -> tuple[slice, slice, Floats]:
    """A piece where it goes: the rows and columns that it touches there, and it within them."""
    top, left = piece.rows.start, piece.columns.start
    height, width = cut_out.shape[:2]
    corners = np.array([[x, y, 1.0] for x in (left, left + width) for y in (top, top + height)]) @ piece.whole.T
    low, high = np.floor(corners.min(axis=0)).astype(int) - 1, np.ceil(corners.max(axis=0)).astype(int) + 2
    rows = slice(int(np.clip(low[1], 0, size[0])), int(np.clip(high[1], 0, size[0])))
    columns = slice(int(np.clip(low[0], 0, size[1])), int(np.clip(high[0], 0, size[1])))
    there = piece.whole.copy()
    there[:, 2] += there[:, :2] @ np.array([left, top]) - np.array([columns.start, rows.start])
    inside = max(1, columns.stop - columns.start), max(1, rows.stop - rows.start)
    laid = cv2.warpAffine(cut_out, there, inside)[: rows.stop - rows.start, : columns.stop - columns.start]
    return rows, columns, np.asarray(laid, np.float32)


def moved_to(shape: Shape, place: Shape, line: Points | None, size: tuple[int, int]) -> list[Piece]:
    """A shape, with the line on which it hangs if there is one, on its way to where it belongs."""
    pieces = [_whole_shape(shape, place, size)]
    return [_turned(line, place, size), *pieces] if line is not None else pieces


def hung_again(line: dict[str, Any], shape: Shape, points: Points, size: tuple[int, int]) -> list[Piece]:
    """What hangs in parts, each part on its way to where it belongs, and the weight at its end."""
    own, apart = line["points"], line.get("apart", {})
    count = min(len(own), len(points)) - 1
    pieces = [
        _part(
            [apart.get(str(k), own[k]), own[k + 1]],
            points[k : k + 2],
            line,
            size,
            open_ends=(k == 0 or str(k) in apart, k == count - 1 or str(k + 1) in apart),
        )
        for k in range(count)
    ]
    # A shape no wider than the line only stands for its end.
    if shape["major"] > line.get("wide", 0.0) + WIDER_PX:
        pieces.append(_whole_shape(shape, {**shape, "x": points[-1][0], "y": points[-1][1]}, size))
    return pieces


def _part(
    own: Points, there: Points, line: dict[str, Any], size: tuple[int, int], *, open_ends: tuple[bool, bool]
) -> Piece:
    """A straight part with round ends, turned and moved as a whole.

    At a joint no more than its own rounding goes along: what lies beside that belongs to the next part.
    """
    half, known = _half(line, size[1]), line.get("wide") or 0.0
    rows, columns = _beside(own, half + SOFT_PX, size)
    apart = _far_from(own[0], own[1], rows, columns)[..., None]
    cut = np.clip((half - apart) / SOFT_PX, 0, 1)
    for beyond, is_open in zip(_beyond(own, rows, columns), open_ends, strict=True):
        if known and not is_open:
            cut = np.where(beyond, np.clip((known / 2 + ROUND_PX - apart) / SOFT_PX, 0, 1), cut)
    (x, y), ((ax, ay), (bx, by)) = own[0], there
    turn = math.atan2(by - ay, bx - ax) - math.atan2(own[1][1] - y, own[1][0] - x)
    turned = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    return Piece(
        cut,
        np.clip((known / 2 - CORE_PX - apart) / SOFT_PX, 0, 1),
        rows,
        columns,
        np.column_stack([turned, np.array([ax, ay]) - turned @ np.array([x, y])]),
    )


def _beyond(points: Points, rows: slice, columns: slice) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(height, width, 1) what lies before the first end of a straight line, and what behind its other."""
    y, x = np.mgrid[rows, columns].astype(np.float32)[..., None]
    (x1, y1), (x2, y2) = points
    ahead = (x - x1) * (x2 - x1) + (y - y1) * (y2 - y1)
    return ahead < 0, ahead > (x2 - x1) ** 2 + (y2 - y1) ** 2


def _half(line: dict[str, Any], width: int) -> float:
    """How far to both sides a line is cut out, px."""
    if "wide" not in line:
        return BESIDE_LINE_PX * max(1.0, width / 960)
    return float(WIDER * line["wide"] / 2 + MARGIN_PX)


def _beside(points: Points, reach: float, size: tuple[int, int]) -> tuple[slice, slice]:
    """The rows and columns of a frame (height, width) that lie so near to a straight line."""
    (x1, y1), (x2, y2) = points[0], points[-1]
    top, foot = max(0, math.floor(min(y1, y2) - reach)), min(size[0], math.ceil(max(y1, y2) + reach) + 1)
    left, right = max(0, math.floor(min(x1, x2) - reach)), min(size[1], math.ceil(max(x1, x2) + reach) + 1)
    return slice(min(top, size[0] - 1), max(foot, 1)), slice(min(left, size[1] - 1), max(right, 1))


def _far_from(one: Sequence[float], other: Sequence[float], rows: slice, columns: slice) -> Floats:
    """(height, width): how far (px) each pixel lies from a straight line between two points."""
    y, x = np.mgrid[rows, columns].astype(np.float32)
    (x1, y1), (x2, y2) = one, other
    long = max(1e-6, math.hypot(x2 - x1, y2 - y1))
    ux, uy = (x2 - x1) / long, (y2 - y1) / long
    reach = np.clip((x - x1) * ux + (y - y1) * uy, 0, long)
    return np.asarray(np.hypot(x - x1 - reach * ux, y - y1 - reach * uy), np.float32)


def _whole_shape(shape: Shape, place: Shape, size: tuple[int, int]) -> Piece:
    rows, columns = _around(shape, size)
    mask = _cut(shape, rows, columns)[..., None]
    core = _cut(shape, rows, columns, margin=-CORE_PX)[..., None]
    change = _spread(place) @ np.linalg.inv(_spread(shape))
    home = np.array([shape["x"], shape["y"]])
    there = np.column_stack([change, np.array([place["x"], place["y"]]) - change @ home])
    return Piece(mask, core, rows, columns, there)


def _turned(line: Points, place: Shape, size: tuple[int, int]) -> Piece:
    """The line from its upper end to the shape, turned about that end, and as long as its new place asks."""
    (x1, y1), (x2, y2) = line[0], line[-1]
    was, now = np.array([x2 - x1, y2 - y1]), np.array([place["x"] - x1, place["y"] - y1])
    turn = math.atan2(now[1], now[0]) - math.atan2(was[1], was[0])
    along = was / max(1e-6, float(np.hypot(*was)))
    longer = float(np.hypot(*now)) / max(1e-6, float(np.hypot(*was)))
    turned = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    change = turned @ (np.eye(2) + (longer - 1) * np.outer(along, along))
    half = BESIDE_LINE_PX * max(1.0, size[1] / 960)
    rows, columns = _beside(line, half, size)
    mask = np.clip((half - _far_from(line[0], line[-1], rows, columns)) / SOFT_PX, 0, 1)[..., None]
    there = np.column_stack([change, np.array([x1, y1]) - change @ np.array([x1, y1])])
    return Piece(mask, np.zeros_like(mask), rows, columns, there)


def _around(shape: Shape, size: tuple[int, int]) -> tuple[slice, slice]:
    """The rows and columns of a frame (height, width) in which a shape lies, with room for its margin."""
    reach = shape["major"] * (0.5 + MARGIN) + MARGIN_PX + SOFT_PX + 1
    (top, left), (foot, right) = ([max(0, math.floor(shape[k] - reach)) for k in "yx"],
                                  [math.ceil(shape[k] + reach) + 1 for k in "yx"])  # fmt: skip
    return slice(top, min(foot, size[0])), slice(left, min(right, size[1]))
