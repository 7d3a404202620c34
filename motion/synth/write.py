"""Writes drawn clips in the forms in which students hand in."""

from __future__ import annotations

import io
import tarfile
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Literal

import av
import numpy as np
from PIL import Image

from motion.clip import Picture
from motion.export import moving, stills, video
from motion.export.drawn import Drawn, as_image, on_paper

Form = Literal[
    "zip", "folder", "tar", "tar.gz", "jpeg", "webp stills", "bmp", "tiff", "ora",
    "gif", "apng", "webp", "lossy webp", "mp4", "mov", "mkv", "webm", "av1", "avi", "lossless",
]  # fmt: skip
SUFFIXES: dict[str, str] = {
    "apng": "png", "lossy webp": "webp", "av1": "webm", "lossless": "mkv", "folder": "",
    "jpeg": "zip", "webp stills": "zip", "bmp": "zip", "tiff": "zip", "ora": "zip",
}  # fmt: skip
"""What a form's files end in, where that is not the form's own name."""
VIDEOS = {
    "mp4": "h264",
    "mov": "h264",
    "mkv": "h264",
    "webm": "vp9",
    "av1": "av1",
    "avi": "mjpeg",
    "lossless": "lossless",
}
STILLS = {"jpeg": ("JPEG", "jpg"), "webp stills": ("WEBP", "webp"), "bmp": ("BMP", "bmp"), "tiff": ("TIFF", "tif")}
OPUS_RATE = 48_000
"""The one rate that every player of this codec takes."""
LOSSY = ("jpeg", "webp stills", "lossy webp", "mp4", "mov", "mkv", "webm", "av1", "avi")


def suffix(form: Form) -> str:
    """What a file of that form ends in, without the dot."""
    return SUFFIXES.get(form, form)


def save(drawn: Drawn, path: Path, form: Form, fps: float) -> Path:
    """Write pictures with their exposures to ``path`` and return it."""
    if form == "zip":
        path.write_bytes(stills.to_zip(drawn))
    elif form in ("tar", "tar.gz"):
        _to_tar(drawn, path, packed=form == "tar.gz")
    elif form in STILLS or form == "ora":
        path.write_bytes(_zip_of(_encoded(drawn, form), zipfile.ZIP_DEFLATED))
    elif form in VIDEOS:
        video.to_video(drawn, path, fps, VIDEOS[form])
    elif form == "folder":
        path.mkdir(parents=True, exist_ok=True)
        for name, data in stills.numbered(drawn):
            (path / name).write_bytes(data)
    else:
        _to_animation(drawn, path, form, fps)
    return path


def to_zip(drawn: Drawn) -> bytes:
    """A zip with one PNG a frame; the same drawings give the same bytes."""
    return stills.to_zip(drawn)


def to_sheet(pictures: Sequence[Picture], path: Path, columns: int) -> None:
    """One PNG with the pictures side by side, row by row; cells that are left over show what stands still."""
    height, width = pictures[0].shape[:2]
    rows = -(-len(pictures) // columns)
    still = np.median(np.stack(pictures), axis=0).astype(np.uint8)
    sheet = np.tile(still, (rows, columns, 1))
    for number, picture in enumerate(pictures):
        top, left = number // columns * height, number % columns * width
        sheet[top : top + height, left : left + width] = picture
    Image.fromarray(sheet).save(path)


def to_sound(wav: Path, path: Path, kind: str, codec: str) -> Path:
    """A WAV packed as another kind of sound."""
    with av.open(str(wav)) as source, av.open(str(path), "w", format=kind) as target:
        stream = target.add_stream(codec, rate=OPUS_RATE if codec == "libopus" else source.streams.audio[0].rate)
        for frame in source.decode(audio=0):
            target.mux(stream.encode(frame))  # type: ignore[union-attr, arg-type]
        target.mux(stream.encode(None))  # type: ignore[union-attr]
    return path


def _to_animation(drawn: Drawn, path: Path, form: Form, fps: float) -> None:
    if form == "gif":
        moving.to_gif(drawn, path, fps)
    elif form == "apng":
        moving.to_apng(drawn, path, fps)
    else:
        moving.to_webp(drawn, path, fps, 80 if form == "lossy webp" else None)


def _to_tar(drawn: Drawn, path: Path, *, packed: bool) -> None:
    with tarfile.open(path, "w:gz" if packed else "w") as archive:
        for name, data in stills.numbered(drawn):
            entry = tarfile.TarInfo(f"take/{name}")
            entry.size = len(data)
            archive.addfile(entry, io.BytesIO(data))


def _encoded(drawn: Drawn, form: Form) -> Iterator[tuple[str, bytes]]:
    number = 0
    for picture, frames in drawn:
        if form == "ora":
            data, ending = _open_raster(as_image(picture)), "ora"
        else:
            kind, ending = STILLS[form]
            stream = io.BytesIO()
            image = as_image(picture) if kind in ("TIFF", "WEBP") else Image.fromarray(on_paper(picture))
            image.save(stream, format=kind, quality=88)
            data = stream.getvalue()
        for _ in range(frames):
            number += 1
            yield f"frame_{number:04d}.{ending}", data


def _open_raster(image: Image.Image) -> bytes:
    """One layer, and what it looks like merged."""
    picture = io.BytesIO()
    image.save(picture, format="PNG")
    stack = f'<image w="{image.width}" h="{image.height}"><stack><layer src="data/layer0.png"/></stack></image>'
    entries = [("mimetype", b"image/openraster"), ("stack.xml", stack.encode())]
    entries += [("data/layer0.png", picture.getvalue()), ("mergedimage.png", picture.getvalue())]
    return _zip_of(entries)


def _zip_of(entries: Iterable[tuple[str, bytes]], packing: int = zipfile.ZIP_STORED) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", packing) as archive:
        for name, data in entries:
            archive.writestr(zipfile.ZipInfo(name, stills.FIRST_DAY), data, packing, 1)
    return stream.getvalue()
