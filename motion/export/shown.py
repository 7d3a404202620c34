"""One frame of a take as a picture with everything that belongs to it: for pages that are printed."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from PIL import Image

from motion.export import overlay
from motion.export.drawn import on_paper
from motion.export.take import exposures_of, laid_drawing
from motion.strokes import Over, path

WIDEST = 900
"""Pictures are made no wider than this, px."""
ROOM = 2.2
"""How much is shown around a finding, in lengths of its largest drawing."""


def frame(
    findings: dict[str, Any],
    drawings: Path,
    number: int,
    *,
    finding: dict[str, Any] | None = None,
    strokes: Sequence[Over] = (),
) -> bytes:
    """Frame ``number`` (from 1) as a PNG: its drawing, what was measured, a finding's marks, and the strokes over it.

    ``drawings`` is the folder of the take's drawings. Raises OSError where the drawing is gone.
    """
    drawing = next(e.drawing for e in reversed(exposures_of(findings)) if e.first_frame <= number)
    root = overlay.empty(findings, drawing)
    overlay.draw_measures(root, findings, drawing)
    if finding is not None:
        overlay.draw_finding(root, finding, number)
    width = findings["clip"]["width"]
    overlay.draw_strokes(root, [path(s.stroke, width) for s in strokes if s.first_frame <= number <= s.last_frame])
    picture = on_paper(overlay.over(laid_drawing(findings, drawings, drawing), root))
    image = Image.fromarray(picture)
    if finding is not None:
        image = image.crop(_close(findings, drawing, finding))
    image.thumbnail((WIDEST, WIDEST))
    stream = io.BytesIO()
    image.save(stream, format="PNG", compress_level=6)
    return stream.getvalue()


def _close(findings: dict[str, Any], drawing: int, finding: dict[str, Any]) -> tuple[int, int, int, int]:
    """The part of a frame (left, top, right, bottom) around a finding's marks and its drawing.

    It has the frame's own proportions, and never leaves the frame.
    """
    width, height = findings["clip"]["width"], findings["clip"]["height"]
    marks = [m for m in finding.get("overlay", ()) if m["kind"] == "place"]
    shapes = [*marks, *(s for s in findings["track"]["shapes"] if s["drawing"] == drawing)]
    if not shapes:
        return 0, 0, width, height
    reach = ROOM * max(s["major"] for s in shapes)
    left, right = min(s["x"] for s in shapes) - reach, max(s["x"] for s in shapes) + reach
    top, bottom = min(s["y"] for s in shapes) - reach, max(s["y"] for s in shapes) + reach
    share = min(1.0, max((right - left) / width, (bottom - top) / height))
    wide, high = round(share * width), round(share * height)
    x = round(min(max(0.0, (left + right - wide) / 2), width - wide))
    y = round(min(max(0.0, (top + bottom - high) / 2), height - high))
    return x, y, x + wide, y + high
