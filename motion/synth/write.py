"""Writes drawn clips in the forms in which students hand in."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from pathlib import Path
from typing import Literal

from PIL import Image

from motion.clip import Picture

Form = Literal["zip", "folder", "gif"]
Drawn = Iterable[tuple[Picture, int]]


def save(drawn: Drawn, path: Path, form: Form, fps: float) -> Path:
    """Write pictures with their exposures to ``path`` and return it."""
    if form == "zip":
        path.write_bytes(to_zip(drawn))
    elif form == "gif":
        to_gif(drawn, path, fps)
    else:
        path.mkdir(parents=True, exist_ok=True)
        for name, data in _numbered(drawn):
            (path / name).write_bytes(data)
    return path


def to_zip(drawn: Drawn) -> bytes:
    """A zip with one PNG a frame; the same drawings give the same bytes."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as archive:
        for name, data in _numbered(drawn):
            archive.writestr(zipfile.ZipInfo(name, date_time=(2026, 9, 1, 18, 0, 0)), data)
    return stream.getvalue()


def to_gif(drawn: Drawn, path: Path, fps: float) -> None:
    """An animated GIF whose hundredths follow the running time, so that they never drift from the rate."""
    images, delays, shown, spent = [], [], 0, 0
    for picture, frames in drawn:
        shown += frames
        until = round(shown / fps * 100)
        flat = Image.new("RGBA", (picture.shape[1], picture.shape[0]), (255, 255, 255, 255))
        flat.alpha_composite(Image.fromarray(picture))
        images.append(flat.convert("RGB"))
        delays.append((until - spent) * 10)
        spent = until
    images[0].save(path, format="GIF", save_all=True, append_images=images[1:], duration=delays, loop=0)


def _numbered(drawn: Drawn) -> Iterable[tuple[str, bytes]]:
    number = 0
    for picture, frames in drawn:
        stream = io.BytesIO()
        image = Image.fromarray(picture)
        if picture[..., 3].min() == 255:
            image = image.convert("RGB")
        image.save(stream, format="PNG", compress_level=4)
        for _ in range(frames):
            number += 1
            yield f"frame_{number:04d}.png", stream.getvalue()
