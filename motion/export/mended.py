"""A take mended as its findings say: the student's own drawings, cut out and moved, over their own background.

Nothing is drawn anew. Each drawing that a finding places elsewhere is cut out along its measured outline, what it
covered is filled from the drawings in which the subject is elsewhere, and it is set in its place, reshaped where the
finding gives it another shape. Frames are added and taken away as the findings say.
"""

from __future__ import annotations

import math
import warnings
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from motion import ink
from motion.clip import Exposure, Picture
from motion.export.take import exposures_of, laid_drawing

Points = Sequence[Sequence[float]]
"""Places along a line, px."""
Shape = dict[str, Any]
"""x, y, major, minor in px and angle in degrees, as in the findings file."""

MOST_FOR_BACKGROUND = 25
MARGIN_PX, MARGIN = 3.0, 0.05
"""How much farther than its outline a drawing is cut out: px, and a share of its size."""
SOFT_PX = 2.0
BESIDE_LINE_PX = 12.0
"""How far to both sides a line is cut out, px of a frame 960 wide."""
LINE_PX = 3.0
"""How wide lines over a drawing are, px of a frame 960 wide."""
CORE_PX = 1.5
"""A subject covers what lies so far (px) within its outline, even where it is as light as the paper."""
ALIKE = 12.0
"""Values (of 255) that differ by less are the same."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """One exposure of a mended take: a drawing by number, placed elsewhere where ``place`` is given, and its frames.

    ``lines`` (px) are drawn over it: how what would have to be drawn anew belongs.
    """

    drawing: int
    frames: int
    place: Shape | None = None
    lines: tuple[Points, ...] = ()


def plan(findings: dict[str, Any], agreed: Iterable[dict[str, Any]]) -> list[Shown]:
    """What a take shows once these of its findings are mended, in playing order."""
    parts = [_Part(e) for e in exposures_of(findings)]
    for finding in agreed:
        for mark in finding.get("overlay", ()):
            if mark["kind"] == "place":
                _place(parts, mark)
            elif mark["kind"] == "frames":
                _retime(parts, mark)
            elif mark["kind"] == "lines":
                _draw_over(parts, mark)
    return [
        Shown(drawing=p.exposure.drawing, frames=p.frames, place=p.place, lines=tuple(p.lines))
        for p in parts
        if p.frames > 0
    ]


class _Part:
    """An exposure on its way to being mended; it keeps its own first frame, by which findings tell it."""

    def __init__(self, exposure: Exposure) -> None:
        self.exposure = exposure
        self.frames = exposure.frames
        self.place: Shape | None = None
        self.lines: list[Points] = []


def _draw_over(parts: list[_Part], mark: dict[str, Any]) -> None:
    for part in parts:
        if part.exposure.first_frame <= mark["frame"] <= part.exposure.last_frame:
            part.lines += mark["lines"]
            return


def _place(parts: list[_Part], mark: dict[str, Any]) -> None:
    """Move the drawing that begins on a mark's frame; within a held one, or after the last, from there on."""
    frame = mark["frame"]
    index = max((i for i, p in enumerate(parts) if p.exposure.first_frame <= frame), default=0)
    part = parts[index]
    if part.exposure.first_frame == frame:
        part.place = mark
        return
    before = frame - part.exposure.first_frame
    rest = max(1, part.frames - before)
    part.frames = min(part.frames, before)
    later = _Part(replace(part.exposure, first_frame=frame, frames=rest))
    later.place = mark
    parts.insert(index + 1, later)


def _retime(parts: list[_Part], mark: dict[str, Any]) -> None:
    for part in parts:
        if part.exposure.first_frame <= mark["frame"] <= part.exposure.last_frame:
            part.frames += mark["change"]
            return


def pictures(findings: dict[str, Any], drawings: Path, shown: Sequence[Shown]) -> Iterator[tuple[int, Picture]]:
    """The moved drawings of a mended take as pictures (height, width, 4), with their index in ``shown``."""
    shapes = {s["drawing"]: s for s in findings["track"]["shapes"]}
    moved = [(i, s) for i, s in enumerate(shown) if (s.place is not None and s.drawing in shapes) or s.lines]
    if not moved:
        return
    behind = _Behind(findings, drawings, shapes)
    lines = {c["drawing"]: c["points"] for c in findings["track"].get("chains", ())}
    for index, part in moved:
        picture = laid_drawing(findings, drawings, part.drawing)
        if part.place is not None and part.drawing in shapes:
            picture = _moved(picture, behind, shapes[part.drawing], part.place, lines.get(part.drawing))
        yield index, _drawn_over(picture, part.lines)


def _drawn_over(picture: Picture, lines: Sequence[Points]) -> Picture:
    """The picture with lines over it, in the colour in which is shown where something belongs."""
    if not lines:
        return picture
    over = picture.copy()
    red, green, blue = (int(ink.MEND[k : k + 2], 16) for k in (1, 3, 5))
    for points in lines:
        fixed = np.rint(np.array(points, dtype=np.float64) * 16).astype(np.int32).reshape(-1, 1, 2)
        width = max(2, round(LINE_PX * picture.shape[1] / 960))
        cv2.polylines(over, [fixed], False, (red, green, blue, 255), width, cv2.LINE_AA, 4)
    return over


class _Behind:
    """What lies behind the subject: the middle value of each pixel over the drawings that do not cover it."""

    def __init__(self, findings: dict[str, Any], drawings: Path, shapes: dict[int, Shape]) -> None:
        numbers = sorted({e["drawing"] for e in findings["clip"]["exposures"]})
        chosen = numbers[:: max(1, math.ceil(len(numbers) / MOST_FOR_BACKGROUND))]
        self._layers = [(laid_drawing(findings, drawings, n), shapes.get(n)) for n in chosen]

    def within(self, rows: slice, columns: slice) -> NDArray[np.float32]:
        """(height, width, 4) of a part of the frame."""
        stack = np.stack([picture[rows, columns] for picture, _ in self._layers]).astype(np.float32)
        plain = np.median(stack, axis=0)
        for layer, (picture, shape) in zip(stack, self._layers, strict=True):
            if shape is not None:
                layer[_cut(shape, picture.shape[:2])[rows, columns] > 0] = np.nan
        with warnings.catch_warnings():
            # Where every drawing covers a pixel, the plain middle value is as good as any.
            warnings.simplefilter("ignore", RuntimeWarning)
            seen = np.nanmedian(stack, axis=0)
        return np.where(np.isnan(seen), plain, seen).astype(np.float32)


def _cut(shape: Shape, size: tuple[int, int], margin: float | None = None) -> NDArray[np.float32]:
    """(height, width): 1 within a shape and its margin (px), falling off softly to 0 outside."""
    rows, columns = np.mgrid[: size[0], : size[1]].astype(np.float32)
    spread = _spread(shape)
    margin = MARGIN_PX + MARGIN * float(shape["major"]) if margin is None else margin
    inverse = np.linalg.inv(spread)
    dx, dy = columns - shape["x"], rows - shape["y"]
    u, v = inverse[0, 0] * dx + inverse[0, 1] * dy, inverse[1, 0] * dx + inverse[1, 1] * dy
    # Px outside the outline, near enough for a margin.
    outside = (np.hypot(u, v) - 1) * math.sqrt(shape["major"] * shape["minor"]) / 2
    return np.asarray(np.clip((margin - outside) / SOFT_PX, 0, 1), np.float32)


def _spread(shape: Shape) -> NDArray[np.float64]:
    """(2, 2): the map of the unit circle onto a shape without turning it, so that what is drawn on it stays put."""
    turn = math.radians(-float(shape["angle"]))
    turned = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    return np.asarray(turned @ np.diag([shape["major"] / 2, shape["minor"] / 2]) @ turned.T)


def _moved(picture: Picture, behind: _Behind, shape: Shape, place: Shape, line: Points | None) -> Picture:
    """A drawing with its shape, and the line on which it hangs if there is one, cut out and set down elsewhere."""
    size = picture.shape[:2]
    pieces = [_whole_shape(shape, place, size)]
    if line is not None:
        pieces.insert(0, _hung(line, place, size))
    filled = picture.astype(np.float32)
    set_down = []
    for cut, core, rows, columns, whole in pieces:
        there = behind.within(rows, columns)
        own = picture[rows, columns].astype(np.float32)
        left = filled[rows, columns]
        filled[rows, columns] = left * (1 - cut) + there * cut
        # Beside it only what is not background goes along, so that no piece of a ground line does.
        unlike = np.clip((np.abs(own - there).max(axis=2, keepdims=True) - ALIKE) / ALIKE, 0, 1)
        mask = cut * np.maximum(unlike, core)
        cut_out = np.zeros((*size, 5), np.float32)
        cut_out[rows, columns] = np.dstack([own * mask, mask])
        set_down.append(cv2.warpAffine(cut_out, whole, size[::-1], flags=cv2.INTER_LINEAR))
    mended = filled
    for piece in set_down:
        mended = mended * (1 - piece[..., 4:5]) + piece[..., :4]
    return np.asarray(np.clip(mended.round(), 0, 255), np.uint8)


Piece = tuple[NDArray[np.float32], NDArray[np.float32], slice, slice, NDArray[np.float64]]
"""A piece to cut out: its mask, what of it goes along in any case (both height, width, 1), where they lie, where to."""


def _whole_shape(shape: Shape, place: Shape, size: tuple[int, int]) -> Piece:
    rows, columns = _around(shape, size)
    mask = _cut(shape, size)[rows, columns, None]
    core = _cut(shape, size, margin=-CORE_PX)[rows, columns, None]
    change = _spread(place) @ np.linalg.inv(_spread(shape))
    home = np.array([shape["x"], shape["y"]])
    return mask, core, rows, columns, np.column_stack([change, np.array([place["x"], place["y"]]) - change @ home])


def _hung(line: Points, place: Shape, size: tuple[int, int]) -> Piece:
    """The line from its upper end to the shape, turned about that end, and as long as its new place asks."""
    (x1, y1), (x2, y2) = line[0], line[-1]
    was, now = np.array([x2 - x1, y2 - y1]), np.array([place["x"] - x1, place["y"] - y1])
    turn = math.atan2(now[1], now[0]) - math.atan2(was[1], was[0])
    along = was / max(1e-6, float(np.hypot(*was)))
    longer = float(np.hypot(*now)) / max(1e-6, float(np.hypot(*was)))
    turned = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    change = turned @ (np.eye(2) + (longer - 1) * np.outer(along, along))
    half = BESIDE_LINE_PX * max(1.0, size[1] / 960)
    top, foot = max(0, math.floor(min(y1, y2) - half)), min(size[0], math.ceil(max(y1, y2) + half) + 1)
    left, right = max(0, math.floor(min(x1, x2) - half)), min(size[1], math.ceil(max(x1, x2) + half) + 1)
    rows, columns = np.mgrid[top:foot, left:right].astype(np.float32)
    dx, dy = columns - x1, rows - y1
    reach = np.clip(dx * along[0] + dy * along[1], 0, float(np.hypot(*was)))
    apart = np.hypot(dx - reach * along[0], dy - reach * along[1])
    mask = np.asarray(np.clip((half - apart) / SOFT_PX, 0, 1), np.float32)[..., None]
    whole = np.column_stack([change, np.array([x1, y1]) - change @ np.array([x1, y1])])
    return mask, np.zeros_like(mask), slice(top, foot), slice(left, right), whole


def _around(shape: Shape, size: tuple[int, int]) -> tuple[slice, slice]:
    """The rows and columns of a frame (height, width) in which a shape lies, with room for its margin."""
    reach = shape["major"] * (0.5 + MARGIN) + MARGIN_PX + SOFT_PX + 1
    (top, left), (foot, right) = ([max(0, math.floor(shape[k] - reach)) for k in "yx"],
                                  [math.ceil(shape[k] + reach) + 1 for k in "yx"])  # fmt: skip
    return slice(top, min(foot, size[0])), slice(left, min(right, size[1]))
