"""Reading hand-ins: one module a format, this one front door. The content decides, never the name."""

from __future__ import annotations

from pathlib import Path

from motion import preparation as preparing
from motion.clip import Clip
from motion.errors import NotAClip, OnePicture, UnknownFormat
from motion.formats import animated, archive, loose, sprite
from motion.formats.limits import DEFAULT, Limits
from motion.formats.pictures import HEAD_BYTES, kind_of
from motion.preparation import NONE as AS_IT_IS
from motion.preparation import Preparation

ACCEPTED = (
    "numbered pictures (PNG, JPEG, WebP, BMP, TIFF, OpenRaster, SVG), together or in a zip or tar; a GIF, animated PNG "
    "or animated WebP; an SVG with a numbered group a frame; or a video (MP4, MOV, WebM, MKV, AVI)"
)


def read(
    path: Path,
    fps: float,
    *,
    name: str | None = None,
    limits: Limits = DEFAULT,
    preparation: Preparation = AS_IT_IS,
) -> Clip:
    """Open a hand-in as a clip at ``fps`` frames a second.

    ``path`` is a file or a folder of numbered pictures; ``name`` is what to call it, its file name if None.
    ``preparation`` is what its student put right, such as the grid of a sheet of frames.
    Headers and sizes are checked here; pictures are decoded only when the footage is asked for them.
    Raises ClipError for anything that cannot be read as a clip, OverLimit for one that plays too long.
    """
    clip = _read(path, fps, name or path.name, limits, preparation)
    limits.check_length(clip.frames, clip.frames / fps)
    prepared = preparing.apply(clip, preparation)
    limits.check_length(prepared.frames, prepared.frames / fps)
    return prepared


def _read(path: Path, fps: float, called: str, limits: Limits, preparation: Preparation) -> Clip:
    if path.is_dir():
        return loose.read(path, fps, called, limits)
    if not path.is_file():
        raise NotAClip(f"“{called}” was not found.")
    limits.check_bytes(path.stat().st_size)
    with path.open("rb") as stream:
        head = stream.read(HEAD_BYTES)
    if preparation.grid is not None and kind_of(head) is not None:
        return sprite.read(path, preparation.grid, fps, called, limits)
    return _by_content(path, head, fps, called, limits)


def _by_content(path: Path, head: bytes, fps: float, called: str, limits: Limits) -> Clip:
    from motion.formats import vector, video

    kind = kind_of(head)
    if kind == "svg":
        return vector.read(path, fps, called, limits)
    if head.startswith((b"GIF87a", b"GIF89a")) or (kind == "still" and animated.is_animated(path)):
        return animated.read(path, fps, called, limits)
    if kind is not None:
        raise OnePicture(
            f"“{called}” is a single picture. Hand in every frame: pick all the pictures together, or zip them. "
            "If it is a sheet of frames, look it through first and say how it is divided."
        )
    if head.startswith(b"PK\x03\x04"):
        return archive.read_zip(path, fps, called, limits)
    if archive.is_tar(head):
        return archive.read_tar(path, fps, called, limits)
    if video.is_video(head):
        return video.read(path, fps, called, limits)
    if not head:
        raise NotAClip(f"“{called}” is empty.")
    raise UnknownFormat(f"“{called}” cannot be read. Hand in {ACCEPTED}.")
