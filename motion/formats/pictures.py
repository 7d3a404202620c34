"""One still picture, from its bytes: what it is, how large, and its pixels. The content decides, never the name."""

from __future__ import annotations

import io
import warnings
from pathlib import PurePosixPath

from PIL import Image, ImageOps

from motion.clip import Picture
from motion.errors import ClipError, DamagedFile, NotAClip
from motion.formats import layered, vector
from motion.formats.foreign import FOREIGN_ERRORS
from motion.formats.limits import Limits
from motion.formats.rgba import to_rgba

PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"
STILL_FORMATS = ("PNG", "JPEG", "WEBP", "BMP", "TIFF")
SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".bmp", ".tif", ".tiff", ".ora", ".svg")
ORIENTATION = 0x0112
HEAD_BYTES = 512
"""How much of a file's beginning ``kind_of`` needs."""
ORA_MARK = b"mimetypeimage/openraster"

# Sizes are checked against our own limits before any pixel is decoded.
Image.MAX_IMAGE_PIXELS = None


def kind_of(head: bytes) -> str | None:
    """What kind of picture a file is by its first bytes: ``still``, ``ora``, ``svg``, or None for none."""
    if head.startswith((PNG_SIGNATURE, b"\xff\xd8\xff", b"BM", b"II*\x00", b"MM\x00*")):
        return "still"
    if head.startswith(b"RIFF") and head[8:12] == b"WEBP":
        return "still"
    # The container format asks for its type, uncompressed, as the very first entry.
    if head.startswith(b"PK\x03\x04") and head[30:54] == ORA_MARK:
        return "ora"
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n")
    return "svg" if text.startswith((b"<?xml", b"<!--", b"<svg")) and b"<svg" in head else None


def is_picture(head: bytes) -> bool:
    """Whether a file's first bytes are those of a picture that can be a frame."""
    return kind_of(head) is not None


def may_be_frame(name: str, head: bytes) -> bool:
    """Whether a file among others is meant as a frame: by its content, or by what its name claims."""
    return is_picture(head) or PurePosixPath(name).suffix.lower() in SUFFIXES


def measure(data: bytes, label: str, limits: Limits) -> tuple[int, int]:
    """Width and height in px from the header alone. Raises ClipError with ``label`` in the message."""
    kind = kind_of(data[:HEAD_BYTES])
    with _retold(label):
        if kind == "svg":
            width, height = vector.measure(data)
        elif kind == "ora":
            width, height = layered.measure(data, limits)
        else:
            width, height = _measure_still(data, label)
    limits.check_size(width, height, label)
    return width, height


def _measure_still(data: bytes, label: str) -> tuple[int, int]:
    with Image.open(io.BytesIO(data), formats=STILL_FORMATS) as image:
        if getattr(image, "n_frames", 1) > 1:
            raise NotAClip(f"{label} holds several pictures. Hand it in by itself, or export the frames one by one.")
        width, height = image.size
        # Photographs are stored as the camera was held. Other formats would have to be decoded to tell.
        turned = image.format == "JPEG" and image.getexif().get(ORIENTATION, 1) in (5, 6, 7, 8)
    return (height, width) if turned else (width, height)


def decode(data: bytes, label: str, limits: Limits) -> Picture:
    """The pixels of one picture. Raises DamagedFile with ``label`` in the message."""
    kind = kind_of(data[:HEAD_BYTES])
    with _retold(label):
        if kind == "svg":
            return vector.decode(data, limits)
        if kind == "ora":
            return layered.decode(data, limits)
        with Image.open(io.BytesIO(data), formats=STILL_FORMATS) as image:
            return to_rgba(ImageOps.exif_transpose(image) if image.format == "JPEG" else image)


class _retold:  # noqa: N801 (reads as a phrase in a with statement)
    """Retells what decoders raise on a damaged file as our own error."""

    def __init__(self, label: str) -> None:
        self.label = label
        self.quiet = warnings.catch_warnings()

    def __enter__(self) -> None:
        self.quiet.__enter__()
        warnings.simplefilter("ignore")

    def __exit__(self, kind: object, error: BaseException | None, trace: object) -> None:
        self.quiet.__exit__(None, None, None)
        if isinstance(error, FOREIGN_ERRORS) and not isinstance(error, ClipError):
            raise DamagedFile(f"{self.label} is damaged or not a picture that can be read. Export it again.") from error
