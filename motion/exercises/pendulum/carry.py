"""A pendulum that is carried: judged in the frame of what carries it, and told where it is drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from motion.exercises.pendulum.truth import LINE
from motion.findings import Finding
from motion.track import Pivot, Track

Place = tuple[float, float]
STILL_PX = 1.0
"""What carries it stands still where it stays as near to its place."""
DRIVES = 0.5
"""It drives what hangs until such a share of a swing after it stops."""
ENDS = 5
"""Its place at the end is told from so many drawings."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Carry:
    """Where it hangs from: ``frames`` at which each drawing begins, and the ``pivots`` there, px."""

    frames: tuple[int, ...]
    pivots: tuple[Place, ...]

    def off(self, frame: int) -> Place:
        """How far (px) what is drawn on a frame lies from where it would with the first drawing's pivot."""
        index = max(0, int(np.searchsorted(self.frames, frame, side="right")) - 1)
        (x, y), (x0, y0) = self.pivots[index], self.pivots[0]
        return x - x0, y - y0

    @property
    def until(self) -> int:
        """The frame on which what carries it comes to stand still, for good; 0 where it never goes."""
        goes = going(np.array(self.pivots))
        return self.frames[goes[1] + 1] if goes else 0

    def drawn(self, points: Sequence[Sequence[float]], frame: int) -> list[list[float]]:
        """Places told in its frame as they are drawn on a frame of the clip."""
        dx, dy = self.off(frame)
        return [[round(x + dx, 2), round(y + dy, 2)] for x, y in points]


def going(at: NDArray[np.float64], still_px: float = STILL_PX) -> tuple[int, int] | None:
    """The first and the last gap (from 0) of places (n, 2) px between which it goes along; None where it stays.

    Where it stands at either end it may be told a little off, from drawing to drawing.
    """
    at = _without_spikes(at)
    begun, ended = np.median(at[:2], axis=0), np.median(at[-ENDS:], axis=0)
    away = np.flatnonzero(np.hypot(*(at - begun).T) > still_px)
    before = np.flatnonzero(np.hypot(*(at - ended).T) > still_px)
    if not len(away) or not len(before):
        return None
    return max(0, int(away[0]) - 1), min(int(before[-1]), len(at) - 2)


def _without_spikes(at: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places (n, 2) with single ones that stick out put between their neighbours."""
    if len(at) < 3:
        return at
    return np.concatenate([at[:1], np.median([at[:-2], at[1:-1], at[2:]], axis=0), at[-1:]])


def in_its_frame(track: Track) -> tuple[Track, Carry] | None:
    """A track as if its pivot stayed where it is first, and how it is carried; None where no drawing tells that."""
    lines = track.lines(LINE)
    told = [
        (e.first_frame, line.hook or line.points[0])
        for e in track.exposures
        if (line := lines[e.drawing - 1]) is not None
    ]
    if not told:
        return None
    carry = Carry(frames=tuple(f for f, _ in told), pivots=tuple(p for _, p in told))
    x0, y0 = told[0][1]
    moved_lines, moved_shapes = list(lines), list(track.shapes)
    for index, (line, shape) in enumerate(zip(lines, track.shapes, strict=True)):
        if line is None:
            continue
        hangs_from = line.hook or line.points[0]
        dx, dy = hangs_from[0] - x0, hangs_from[1] - y0
        apart = {k: (x - dx, y - dy) for k, (x, y) in line.apart.items()}
        moved_lines[index] = replace(line, points=tuple((x - dx, y - dy) for x, y in line.points), apart=apart)
        if shape is not None:
            moved_shapes[index] = replace(shape, x=shape.x - dx, y=shape.y - dy, bottom=shape.bottom - dy)
    seen = track.with_marks(LINE, tuple(moved_lines)).with_marks(track.subject, tuple(moved_shapes))
    return seen.with_fixture("pivot", Pivot(x=x0, y=y0, confidence=0.9)), carry


def drawn(findings: Sequence[Finding], carry: Carry) -> list[Finding]:
    """Findings made in its frame with their geometry where it is drawn."""
    return [replace(f, overlay=tuple(_mark(m, carry) for m in f.overlay)) for f in findings]


def _mark(mark: dict[str, Any], carry: Carry) -> dict[str, Any]:
    dx, dy = carry.off(mark["frame"])
    moved = dict(mark)
    for keys, by in ((("x", "x1", "x2"), dx), (("y", "y1", "y2"), dy)):
        moved |= {k: round(mark[k] + by, 2) for k in keys if k in mark}
    if "points" in mark:
        moved["points"] = carry.drawn(mark["points"], mark["frame"])
    if "lines" in mark:
        moved["lines"] = [carry.drawn(points, mark["frame"]) for points in mark["lines"]]
    return moved
