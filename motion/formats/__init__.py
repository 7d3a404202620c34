"""Reading hand-ins: one module a format, this one front door. The content decides, never the name."""

from __future__ import annotations

from pathlib import Path

from motion.clip import Clip
from motion.errors import NotAClip, UnknownFormat
from motion.formats import archive, gif, loose
from motion.formats.limits import DEFAULT, Limits
from motion.formats.pictures import is_picture

ACCEPTED = "a zip of numbered PNG pictures, the PNG pictures themselves, or an animated GIF"


def read(path: Path, fps: float, *, name: str | None = None, limits: Limits = DEFAULT) -> Clip:
    """Open a hand-in as a clip at ``fps`` frames a second.

    ``path`` is a file or a folder of numbered pictures; ``name`` is what to call it, its file name if None.
    Headers and sizes are checked here; pictures are decoded only when the footage is asked for them.
    Raises ClipError for anything that cannot be read as a clip.
    """
    called = name or path.name
    if path.is_dir():
        return loose.read(path, fps, called, limits)
    if not path.is_file():
        raise NotAClip(f"“{called}” was not found.")
    limits.check_bytes(path.stat().st_size)
    with path.open("rb") as stream:
        head = stream.read(16)
    if head.startswith(b"PK\x03\x04"):
        return archive.read(path, fps, called, limits)
    if head.startswith((b"GIF87a", b"GIF89a")):
        return gif.read(path, fps, called, limits)
    if is_picture(head):
        raise NotAClip(
            f"“{called}” is a single picture. Hand in every frame: pick all the pictures together, or zip them."
        )
    if not head:
        raise NotAClip(f"“{called}” is empty.")
    raise UnknownFormat(f"“{called}” cannot be read. Hand in {ACCEPTED}.")
