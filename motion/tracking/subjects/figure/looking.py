"""A clip's drawings of a figure at hand, and what of each can be told without joints."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from motion.tracking.subjects.figure import ink
from motion.tracking.subjects.figure.ink import Inked, Sheet

KEPT_BYTES = 60_000_000
"""So much of unpacked drawings is kept at hand; of long clips the others are unpacked again."""


class Looking:
    """A clip's drawings, unpacked one at a time."""

    def __init__(self, kept: Sequence[Inked], empty: frozenset[int]) -> None:
        self._kept, self._empty = kept, empty
        self.hollow, self.narrow, self.thick, self.broad = False, False, 0.0, 0.0
        self._sheets: dict[int, Sheet] = {}
        self._room = KEPT_BYTES

    def __len__(self) -> int:
        return len(self._kept)

    def sheet(self, index: int) -> Sheet:
        """A drawing's ink."""
        known = self._sheets.get(index)
        if known is not None:
            return known
        sheet = ink.sheet_of(self._kept[index])
        return self._keep(index, self._filled(sheet, index) if self.hollow else sheet)

    def _filled(self, sheet: Sheet, index: int) -> Sheet:
        return ink.filled(sheet, self._kept[index], self.thick, narrow=self.narrow, broad_px=self.broad)

    def _keep(self, index: int, sheet: Sheet) -> Sheet:
        if self._room > sheet.bytes:
            self._room -= sheet.bytes
            self._sheets[index] = sheet
        return sheet

    def fill_outlines(self, thick_px: float, *, narrow: bool, broad_px: float = 0.0) -> None:
        """What outlines enclose, and is no thicker than so many px, is ink now; of ``narrow`` limbs paper, too.

        A trunk may be as thick as it is ``broad``.
        """
        self.hollow, self.narrow, self.thick, self.broad = True, narrow, thick_px, broad_px
        known, self._sheets, self._room = self._sheets, {}, KEPT_BYTES
        for index, sheet in known.items():
            self._keep(index, self._filled(sheet, index))

    def kept(self, index: int) -> Inked:
        """What was kept of a drawing."""
        return self._kept[index]

    def is_empty(self, index: int) -> bool:
        return index in self._empty


def low_of(sheet: Sheet) -> float | None:
    """The y of the lowest point of a drawing's ink, px; None where there is none."""
    rows = sheet.cover.max(axis=1) if sheet.cover.size else np.zeros(0)
    over = np.flatnonzero(rows > 0.5)
    if not len(over):
        return None
    last = int(over[-1])
    below = float(rows[last + 1]) if last + 1 < len(rows) else 0.0
    at = float(rows[last])
    return sheet.top + last + ((at - 0.5) / max(1e-6, at - below) if at > below else 0.0)


def reach_of(sheet: Sheet) -> tuple[float, float] | None:
    """Where a drawing's ink begins and ends, px from the left."""
    columns = np.flatnonzero(sheet.inked.any(axis=0)) if sheet.cover.size else np.zeros(0, np.intp)
    return (float(columns[0] + sheet.left), float(columns[-1] + sheet.left)) if len(columns) else None


def span_of(sheet: Sheet) -> tuple[float, float] | None:
    """Where the lowest fifth of a drawing's ink begins and ends, px from the left."""
    marked = sheet.inked
    rows = np.flatnonzero(marked.any(axis=1))
    if not len(rows):
        return None
    low = marked[int(rows[-1] - 0.2 * (rows[-1] - rows[0])) :]
    columns = np.flatnonzero(low.any(axis=0))
    return float(columns[0] + sheet.left), float(columns[-1] + sheet.left)
