"""A take mended as its findings say: the student's own drawings, cut out and moved, over their own background.

Nothing is drawn anew. Each drawing that a finding places elsewhere is cut out along its measured outline, what it
covered is filled from the drawings in which the subject is elsewhere, and it is set in its place, reshaped where the
finding gives it another shape. Frames are added and taken away as the findings say.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from motion import ink
from motion.clip import Exposure, Picture
from motion.export.cut_out import Behind, Points, Shape, hung_again, moved_to, set_down
from motion.export.take import exposures_of, laid_drawing

LINE_PX = 3.0
"""How wide lines over a drawing are, px of a frame 960 wide."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """One exposure of a mended take: a drawing by number, placed elsewhere where ``place`` is given, and its frames.

    ``hung`` is where the line on which it hangs belongs, px; ``lines`` (px) are drawn over it: how what would have to
    be drawn anew belongs. Of a jointed figure that is told by its ``landmarks`` (px, by name), which belong there.
    """

    drawing: int
    frames: int
    place: Shape | None = None
    hung: Points | None = None
    lines: tuple[Points, ...] = ()
    landmarks: Mapping[str, Sequence[float]] = field(default_factory=dict)

    @property
    def moved(self) -> bool:
        """Whether its picture is another than the drawing's own."""
        return self.place is not None or self.hung is not None or bool(self.lines)


def plan(findings: dict[str, Any], agreed: Iterable[dict[str, Any]]) -> list[Shown]:
    """What a take shows once these of its findings are mended, in playing order."""
    parts = [_Part(e) for e in exposures_of(findings)]
    for finding in agreed:
        for mark in finding.get("overlay", ()):
            _on(parts, mark["frame"]).landmarks |= mark.get("landmarks", {})
            if mark["kind"] == "place":
                _begun_on(parts, mark["frame"]).place = mark
            elif mark["kind"] == "hung":
                _begun_on(parts, mark["frame"]).hung = mark["points"]
            elif mark["kind"] == "frames":
                _on(parts, mark["frame"]).frames += mark["change"]
            elif mark["kind"] == "lines" and "landmarks" not in mark:
                _on(parts, mark["frame"]).lines += mark["lines"]
    return [
        Shown(
            drawing=p.exposure.drawing,
            frames=p.frames,
            place=p.place,
            hung=p.hung,
            lines=tuple(p.lines),
            landmarks=p.landmarks,
        )
        for p in parts
        if p.frames > 0
    ]


class _Part:
    """An exposure on its way to being mended; it keeps its own first frame, by which findings tell it."""

    def __init__(self, exposure: Exposure) -> None:
        self.exposure = exposure
        self.frames = exposure.frames
        self.place: Shape | None = None
        self.hung: Points | None = None
        self.lines: list[Points] = []
        self.landmarks: dict[str, Sequence[float]] = {}


def _on(parts: list[_Part], frame: int) -> _Part:
    """The exposure that shows on a frame; one that no take has where there is none."""
    shows = (p for p in parts if p.exposure.first_frame <= frame <= p.exposure.last_frame)
    return next(shows, None) or _Part(Exposure(drawing=0, first_frame=frame, frames=0))


def _begun_on(parts: list[_Part], frame: int) -> _Part:
    """The exposure that begins on a frame; within a held one, or after the last, one is begun there."""
    index = max((i for i, p in enumerate(parts) if p.exposure.first_frame <= frame), default=0)
    part = parts[index]
    if part.exposure.first_frame == frame:
        return part
    before = frame - part.exposure.first_frame
    rest = max(1, part.frames - before)
    part.frames = min(part.frames, before)
    later = _Part(replace(part.exposure, first_frame=frame, frames=rest))
    parts.insert(index + 1, later)
    return later


def pictures(findings: dict[str, Any], drawings: Path, shown: Sequence[Shown]) -> Iterator[tuple[int, Picture]]:
    """The moved drawings of a mended take as pictures (height, width, 4), with their index in ``shown``."""
    shapes = {s["drawing"]: s for s in findings["track"]["shapes"]}
    lines = {c["drawing"]: c for c in findings["track"].get("chains", ())}
    moved = [(i, s) for i, s in enumerate(shown) if s.moved and (s.lines or s.drawing in shapes)]
    if not moved:
        return
    behind = Behind(findings, drawings, shapes, lines)
    for index, part in moved:
        picture = laid_drawing(findings, drawings, part.drawing)
        shape, line = shapes.get(part.drawing), lines.get(part.drawing)
        if part.hung is not None and shape is not None and line is not None:
            picture = set_down(picture, behind, hung_again(line, shape, part.hung, picture.shape[:2]))
        elif part.place is not None and shape is not None:
            points = line["points"] if line is not None else None
            picture = set_down(picture, behind, moved_to(shape, part.place, points, picture.shape[:2]))
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
