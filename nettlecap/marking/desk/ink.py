"""Strokes as they are drawn: the marker's own points turned into shapes to fill."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from motion import strokes
from motion.strokes import Over, Stroke
from nettlecap.marking.models import DrawnStroke, MarkSheet


def shown(drawn: Iterable[DrawnStroke], width: int) -> list[dict[str, Any]]:
    """Strokes as a page draws them: the shape to fill, and the frames."""
    return [
        {"id": s.pk, "first": s.first_frame, "last": s.last_frame, "path": strokes.path(stroke_of(s), width)}
        for s in drawn
    ]


def stroke_of(drawn: DrawnStroke) -> Stroke:
    """A kept stroke as the core has it."""
    return strokes.from_kept(drawn.tool, drawn.points)


def overs(sheet: MarkSheet) -> tuple[Over, ...]:
    """Everything that was drawn over a take, with its frames, as the core has it."""
    return tuple(Over(stroke_of(s), s.first_frame, s.last_frame) for s in sheet.strokes.all())
