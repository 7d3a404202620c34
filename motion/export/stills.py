"""Numbered pictures, one a frame, in a zip with the exposure sheet beside them."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Iterator, Sequence
from typing import Any

from motion.clip import Exposure
from motion.export.drawn import Drawn, as_image

SHEET_SCHEMA = "nettlecap.exposures/1"
FIRST_DAY = (1980, 1, 1, 0, 0, 0)


def numbered(drawn: Drawn) -> Iterator[tuple[str, bytes]]:
    """File name and PNG of each frame; the same drawings give the same bytes."""
    number = 0
    for picture, frames in drawn:
        stream = io.BytesIO()
        as_image(picture).save(stream, format="PNG", compress_level=4)
        for _ in range(frames):
            number += 1
            yield f"frame_{number:04d}.png", stream.getvalue()


def to_zip(drawn: Drawn, beside: Sequence[tuple[str, str]] = ()) -> bytes:
    """A zip with one PNG a frame, and texts by name beside them."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as archive:
        for name, data in (*numbered(drawn), *((n, t.encode()) for n, t in beside)):
            archive.writestr(zipfile.ZipInfo(name, FIRST_DAY), data)
    return stream.getvalue()


def sheet_csv(exposures: Sequence[Exposure]) -> str:
    """The exposure sheet as a table: one row a frame, with the drawing that shows and whether it begins there."""
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    rows.writerow(["frame", "drawing", "begins"])
    for exposure in exposures:
        for frame in range(exposure.first_frame, exposure.last_frame + 1):
            rows.writerow([frame, exposure.drawing, int(frame == exposure.first_frame)])
    return stream.getvalue()


def sheet_json(exposures: Sequence[Exposure], fps: float) -> str:
    """The exposure sheet as JSON: the rate, and each exposure."""
    data: dict[str, Any] = {
        "schema": SHEET_SCHEMA,
        "fps": fps,
        "exposures": [{"drawing": e.drawing, "first_frame": e.first_frame, "frames": e.frames} for e in exposures],
    }
    return json.dumps(data, indent=1) + "\n"
