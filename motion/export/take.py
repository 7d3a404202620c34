"""A take that was looked at, written out again: its drawings, exposed as found, in any open format."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from motion.clip import Exposure
from motion.export import moving, overlay, stills, video
from motion.export.drawn import Drawn
from motion.shift import Shift
from motion.strokes import Over, path
from motion.tracking.registration import straightened

KINDS: dict[str, str] = {
    "frames.zip": "application/zip",
    "clip.gif": "image/gif",
    "clip.png": "image/png",
    "clip.webp": "image/webp",
    "clip.webm": "video/webm",
    "clip.mp4": "video/mp4",
}
"""What a take can be written as, with its content type."""


def write(
    kind: str,
    to: Path,
    findings: dict[str, Any],
    drawings: Path,
    *,
    overlays: bool = False,
    strokes: Sequence[Over] = (),
) -> None:
    """Write a take to the file ``to``.

    ``findings`` is its findings file, ``drawings`` the folder of its drawings as ``<number>.png``; with ``overlays``
    what was measured is drawn over them, and ``strokes`` on their frames. Raises KeyError for a kind that is not in
    ``KINDS``.
    """
    fps = float(findings["clip"]["fps"])
    drawn = list(_drawn(findings, drawings, overlays, strokes))
    WRITERS[kind](drawn, to, fps, findings)


def exposures_of(findings: dict[str, Any]) -> list[Exposure]:
    """The exposures as a findings file tells them."""
    return [Exposure(**e) for e in findings["clip"]["exposures"]]


def _drawn(
    findings: dict[str, Any], drawings: Path, overlays: bool, strokes: Sequence[Over]
) -> Iterator[tuple[np.ndarray, int]]:
    shapes = [(s, path(s.stroke, findings["clip"]["width"])) for s in strokes]
    for exposure in exposures_of(findings):
        frames = range(exposure.first_frame, exposure.last_frame + 1)
        for paths, run in itertools.groupby(frames, key=lambda frame: _over(shapes, frame)):
            count = len(list(run))
            if not overlays and not paths:
                yield _drawing(drawings, exposure.drawing), count
                continue
            root = overlay.empty(findings, exposure.drawing)
            if overlays:
                overlay.draw_measures(root, findings, exposure.drawing)
            overlay.draw_strokes(root, paths)
            yield overlay.over(laid_drawing(findings, drawings, exposure.drawing), root), count


def _over(shapes: Sequence[tuple[Over, str]], frame: int) -> list[str]:
    """The shapes of the strokes over a frame."""
    return [shape for stroke, shape in shapes if stroke.first_frame <= frame <= stroke.last_frame]


def _drawing(drawings: Path, number: int) -> np.ndarray:
    with Image.open(drawings / f"{number}.png", formats=("PNG",)) as image:
        return np.asarray(image.convert("RGBA"), dtype=np.uint8)


def laid_drawing(findings: dict[str, Any], drawings: Path, number: int) -> np.ndarray:
    """A drawing (height, width, 4) as it lies where the measures are, from the folder of a take's drawings."""
    return _laid(_drawing(drawings, number), findings, number)


def _laid(picture: np.ndarray, findings: dict[str, Any], drawing: int) -> np.ndarray:
    """A drawing on paper that drifted, laid as the first one lies, where the measures are."""
    shifts = findings["track"].get("shifts")
    if not shifts:
        return picture
    x, y, turn = shifts[drawing - 1]
    return straightened(picture, Shift(x=x, y=y, turn=turn))


def _frames(drawn: Drawn, to: Path, fps: float, findings: dict[str, Any]) -> None:
    exposures = exposures_of(findings)
    beside = [
        ("exposures.csv", stills.sheet_csv(exposures)),
        ("exposures.json", stills.sheet_json(exposures, fps)),
    ]
    to.write_bytes(stills.to_zip(drawn, beside))


def _with(writer: Callable[[Drawn, Path, float], None]) -> Callable[[Drawn, Path, float, dict[str, Any]], None]:
    return lambda drawn, to, fps, findings: writer(drawn, to, fps)


WRITERS = {
    "frames.zip": _frames,
    "clip.gif": _with(moving.to_gif),
    "clip.png": _with(moving.to_apng),
    "clip.webp": _with(moving.to_webp),
    "clip.webm": _with(lambda drawn, to, fps: video.to_video(drawn, to, fps, "vp9")),
    "clip.mp4": _with(lambda drawn, to, fps: video.to_video(drawn, to, fps, "h264")),
}
