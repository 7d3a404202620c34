"""The guide as pictures: PNGs with transparency at the frame's size, one for the whole or one a frame.

The fonts are the project's own, so that the pictures are the same everywhere; they hold nothing but the picture.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Collection, Iterator
from pathlib import Path

import resvg_py

from motion import ink
from motion.guide import sheet
from motion.guide.guide import Guide
from motion.ink import Element

FONTS = tuple(sorted(str(p) for p in (Path(__file__).parent / "fonts").glob("*.ttf")))
FIRST_DAY = (1980, 1, 1, 0, 0, 0)
"""The date of every entry of an archive: the earliest that the format knows, since no date is anybody's business."""


def png(drawing: Element, *, system_fonts: bool = False) -> bytes:
    """A drawing as a PNG with transparency, a pixel for each px of it.

    With ``system_fonts`` letters that the own fonts lack are taken from the machine's; then it differs by machine.
    """
    return bytes(
        resvg_py.svg_to_bytes(
            svg_string=ink.text_of(drawing),
            font_files=list(FONTS),
            skip_system_fonts=not system_fonts,
            font_family="Source Sans 3",
        )
    )


def frames(guide: Guide, layers: Collection[str] = sheet.LAYERS) -> Iterator[tuple[str, bytes]]:
    """File name and PNG of each frame, in order; a drawing that is held gives the same picture again."""
    drawn: dict[int, bytes] = {}
    for frame in range(1, guide.plan.frames + 1):
        number = guide.on_frame(frame).number
        if number not in drawn:
            drawn = {number: png(sheet.draw_frame(guide, frame, layers))}
        yield f"guide_{frame:04d}.png", drawn[number]


def archive(guide: Guide, layers: Collection[str] = sheet.LAYERS) -> Iterator[bytes]:
    """A zip of the guide's frames as numbered PNGs, in parts as they are drawn."""
    stream = _Passing()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as packed:
        for name, data in frames(guide, layers):
            packed.writestr(zipfile.ZipInfo(name, FIRST_DAY), data)
            yield stream.taken()
    yield stream.taken()


class _Passing(io.RawIOBase):
    """A file to write to whose content is taken away again and again."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: bytes) -> int:  # type: ignore[override]
        self._parts.append(bytes(data))
        return len(data)

    def taken(self) -> bytes:
        parts, self._parts = self._parts, []
        return b"".join(parts)
