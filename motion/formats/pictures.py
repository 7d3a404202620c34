"""One still picture, from its bytes: what it is, how large, and its pixels."""

from __future__ import annotations

import io
import struct
import warnings
import zlib

import numpy as np
from PIL import Image

from motion.clip import Picture
from motion.errors import ClipError, DamagedFile, NotAClip
from motion.formats.limits import Limits

# What decoders and unpackers raise on damaged data, of which they know many kinds; SyntaxError for PNG chunks among
# them. Our own errors are some of these too, and must be let through.
FOREIGN_ERRORS = (
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    IndexError,
    KeyError,
    OverflowError,
    TypeError,
    NotImplementedError,
    AttributeError,
    struct.error,
    zlib.error,
)

PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"

# Sizes are checked against our own limits before any pixel is decoded.
Image.MAX_IMAGE_PIXELS = None


def is_picture(head: bytes) -> bool:
    """Whether a file's first bytes are those of a picture that can be a frame."""
    return head.startswith(PNG_SIGNATURE)


def measure(data: bytes, label: str, limits: Limits) -> tuple[int, int]:
    """Width and height in px from the header alone. Raises ClipError with ``label`` in the message."""
    with _retold(label), Image.open(io.BytesIO(data), formats=("PNG",)) as image:
        if getattr(image, "n_frames", 1) > 1:
            raise NotAClip(f"{label} is an animated PNG. Export the frames as single pictures.")
        width, height = image.size
    limits.check_size(width, height, label)
    return width, height


def decode(data: bytes, label: str) -> Picture:
    """The pixels of one picture. Raises DamagedFile with ``label`` in the message."""
    with _retold(label), Image.open(io.BytesIO(data), formats=("PNG",)) as image:
        return to_rgba(image)


def to_rgba(image: Image.Image) -> Picture:
    """Any Pillow image as red, green, blue, alpha. 16-bit greys are scaled, not cut."""
    if image.mode.startswith("I"):
        grey = (np.asarray(image).astype(np.float64) / 257.0).round().clip(0, 255).astype(np.uint8)
        image = Image.fromarray(grey)
    return np.asarray(image.convert("RGBA"), dtype=np.uint8)


class _retold:  # noqa: N801 (reads as a phrase in a with statement)
    """Retells what Pillow raises on a damaged file as our own error."""

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
