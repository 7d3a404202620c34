"""A sheet of frames: one picture with the frames side by side, in a grid that a person confirms."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import reduce
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Clip, Picture
from motion.errors import NotAClip
from motion.formats import pictures
from motion.formats.limits import Limits
from motion.preparation import Grid

LOOKED_AT_PX = 1000
"""Grids are guessed on the sheet shrunk to so many pixels a side."""
LEAST_CELL, MOST_CELLS = 32, 144
ASPECTS = (0.4, 3.2)
DIFFERS = 24


class SheetFootage:
    """The cells of a sheet; the sheet is decoded once and kept while it is looked at."""

    def __init__(self, sheet: Picture, grid: Grid) -> None:
        self._sheet, self._grid = sheet, grid

    def __len__(self) -> int:
        return self._grid.cells

    def fingerprint(self, index: int) -> str | None:
        return None

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        height, width = self._sheet.shape[0] // self._grid.rows, self._sheet.shape[1] // self._grid.columns
        for index in indices:
            row, column = divmod(index, self._grid.columns)
            cell = self._sheet[row * height : (row + 1) * height, column * width : (column + 1) * width]
            yield np.ascontiguousarray(cell)


def read(path: Path, grid: Grid, fps: float, name: str, limits: Limits) -> Clip:
    """Open a sheet as a clip, a frame a cell. Raises ClipError; see ``motion.formats.read``."""
    sheet = _decoded(path, name, limits)
    height, width = sheet.shape[:2]
    if width % grid.columns or height % grid.rows:
        raise NotAClip(
            f"{width} × {height} px cannot be divided into {grid.columns} columns and {grid.rows} rows of whole "
            "pixels. Check the numbers, or crop the sheet to its frames."
        )
    size = width // grid.columns, height // grid.rows
    limits.check_size(*size, "A frame of the sheet")
    limits.check_count(grid.cells, *size)
    return Clip(
        name=name,
        fps=fps,
        width=size[0],
        height=size[1],
        footage=SheetFootage(sheet, grid),
        picture_frames=(1,) * grid.cells,
    )


def guess(path: Path, name: str, limits: Limits) -> Grid:
    """The grid that fits a sheet best: one thing in each cell, whole, over what all cells share. Raises ClipError."""
    sheet = _decoded(path, name, limits)
    height, width = sheet.shape[:2]
    scale = min(1.0, LOOKED_AT_PX / max(height, width))
    # Once to twice that size; each grid that is tried shrinks it from there to whole pixels a cell.
    small = _over_white(_shrunk(sheet, min(1.0, 2 * scale)))
    best, found = 0.0, None
    for columns in _divisors(width):
        for rows in _divisors(height):
            cell = width / columns, height / rows
            if not 3 <= columns * rows <= MOST_CELLS or min(cell) < LEAST_CELL:
                continue
            if not ASPECTS[0] <= cell[0] / cell[1] <= ASPECTS[1]:
                continue
            size = max(8, round(cell[0] * scale)), max(8, round(cell[1] * scale))
            score, last = _fit(_cells(small, columns, rows, size))
            # Of grids that fit alike the one with more cells: a row of two frames also fits as one wide one.
            score += 1e-4 * columns * rows
            if score > best:
                best, found = score, Grid(columns=columns, rows=rows, cells=max(2, last))
    return found or Grid(columns=2, rows=1, cells=2)


def _decoded(path: Path, name: str, limits: Limits) -> Picture:
    data = path.read_bytes()
    label = f"“{name}”"
    width, height = pictures.measure(data, label, limits.for_sheets())
    limits.for_sheets().check_size(width, height, label)
    return pictures.decode(data, label, limits.for_sheets())


def _shrunk(sheet: Picture, scale: float) -> Picture:
    height, width = sheet.shape[:2]
    size = max(1, round(width * scale)), max(1, round(height * scale))
    return np.asarray(cv2.resize(sheet, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)


def _over_white(picture: Picture) -> Picture:
    """The same with its colours over white, in place; what shows through still tells so."""
    alpha = picture[..., 3:4].astype(np.float32) / 255
    picture[..., :3] = (picture[..., :3] * alpha + 255 * (1 - alpha)).astype(np.uint8)
    return picture


def _divisors(length: int) -> list[int]:
    return [n for n in range(1, 41) if length % n == 0]


def _cells(sheet: Picture, columns: int, rows: int, size: tuple[int, int]) -> NDArray[np.uint8]:
    """(cells, height, width, 4) of a sheet, each of a size."""
    small = cv2.resize(sheet, (columns * size[0], rows * size[1]), interpolation=cv2.INTER_AREA)
    parts = np.asarray(small, dtype=np.uint8).reshape(rows, size[1], columns, size[0], 4).swapaxes(1, 2)
    return np.ascontiguousarray(parts.reshape(rows * columns, size[1], size[0], 4))


def _fit(cells: NDArray[np.uint8]) -> tuple[float, int]:
    """Which share of the cells holds just one thing that its edges do not cut, and the last cell that is not empty."""
    some = cells[:: max(1, len(cells) // 24)]
    still = np.partition(some, len(some) // 2, axis=0)[len(some) // 2]
    good, last = 0, 0
    for number, cell in enumerate(cells, start=1):
        off = reduce(cv2.max, cv2.split(cv2.absdiff(cell, still)))
        marks = np.asarray(cv2.threshold(off, DIFFERS, 1, cv2.THRESH_BINARY)[1], dtype=np.uint8)
        if not marks.any():
            continue
        last = number
        closed = cv2.morphologyEx(marks, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
        count, _, stats, _ = cv2.connectedComponentsWithStats(closed)
        sizes = stats[1:, cv2.CC_STAT_AREA]
        cut = marks[0].any() or marks[-1].any() or marks[:, 0].any() or marks[:, -1].any()
        good += count == 2 or (count > 2 and sizes.max() > 0.9 * sizes.sum()) if not cut else 0
    return good / max(1, last), last
