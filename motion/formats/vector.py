"""SVG pictures, and an SVG whose groups are frames. What names anything outside the drawing is taken out first."""

from __future__ import annotations

import copy
import io
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from xml.etree import ElementTree as ET

import resvg_py
from PIL import Image

from motion.clip import Clip, Picture
from motion.errors import ClipError, DamagedFile, NotAClip
from motion.formats.foreign import FOREIGN_ERRORS
from motion.formats.limits import DEFAULT, Limits
from motion.formats.numbering import MOST_DIGITS
from motion.formats.rgba import to_rgba
from motion.formats.safe_xml import parse
from motion.formats.vector_safe import made_safe

SVG = "{http://www.w3.org/2000/svg}"
PX = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4}
_LENGTH = re.compile(r"^\s*([0-9.]+(?:[eE][-+]?[0-9]+)?)\s*(px|pt|pc|in|cm|mm)?\s*$")
_NUMBER = re.compile(r"\d+")


def measure(data: bytes) -> tuple[int, int]:
    """Width and height in px as the drawing names them, else of its view box. Raises ValueError."""
    return _size(parse(data))


def _size(root: ET.Element) -> tuple[int, int]:
    own = [_px(root.get(side)) for side in ("width", "height")]
    box = [float(v) for v in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if v]
    if len(box) == 4:
        own = [value or box[2 + i] for i, value in enumerate(own)]
    if not all(own):
        raise ValueError("the drawing has no size")
    return round(own[0] or 0), round(own[1] or 0)


def _px(text: str | None) -> float | None:
    found = _LENGTH.match(text or "")
    return float(found[1]) * PX[found[2] or ""] if found else None


def decode(data: bytes, limits: Limits = DEFAULT) -> Picture:
    """The drawing as pixels. Raises ValueError for what cannot be drawn."""
    root = made_safe(parse(data), limits)
    return _drawn(root, _size(root))


def _drawn(root: ET.Element, size: tuple[int, int]) -> Picture:
    png = resvg_py.svg_to_bytes(
        svg_string=ET.tostring(root, encoding="unicode"), width=size[0], height=size[1], skip_system_fonts=True
    )
    with Image.open(io.BytesIO(bytes(png)), formats=("PNG",)) as image:
        drawn = image.convert("RGBA")
        if drawn.size != size:
            placed = Image.new("RGBA", size)
            placed.paste(drawn, (0, 0))
            drawn = placed
        return to_rgba(drawn)


class SheetFootage:
    """The frames of one drawing, a numbered group each, over all that is not numbered."""

    def __init__(self, root: ET.Element, frames: Sequence[ET.Element], size: tuple[int, int]) -> None:
        self._root, self._frames, self._size = root, frames, size

    def __len__(self) -> int:
        return len(self._frames)

    def fingerprint(self, index: int) -> str | None:
        return None

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        for index in indices:
            shown = copy.copy(self._root)
            hidden = [f for i, f in enumerate(self._frames) if i != index]
            for child in [c for c in shown if any(c is h for h in hidden)]:
                shown.remove(child)
            try:
                yield _drawn(copy.deepcopy(shown), self._size)
            except FOREIGN_ERRORS as error:
                raise DamagedFile(f"Frame {index + 1} of the SVG cannot be drawn. Export it again.") from error


def read(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open an SVG whose numbered groups are frames. Raises ClipError; see ``motion.formats.read``."""
    data = path.read_bytes()
    limits.check_entry(len(data), f"“{name}”")
    try:
        root = made_safe(parse(data), limits)
        size = _size(root)
    except ClipError:
        raise
    except FOREIGN_ERRORS as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be read as an SVG. Export it again.") from error
    limits.check_size(*size, f"“{name}”")
    frames = _frames(root)
    if len(frames) < 2:
        raise NotAClip(
            f"“{name}” is a single drawing. Hand in one SVG a frame together, or one SVG with a numbered group a frame."
        )
    limits.check_count(len(frames), *size)
    return Clip(
        name=name,
        fps=fps,
        width=size[0],
        height=size[1],
        footage=SheetFootage(root, frames, size),
        picture_frames=(1,) * len(frames),
        remarks=(f"Each of the {len(frames)} numbered groups of the SVG was read as a frame.",),
    )


def _frames(root: ET.Element) -> list[ET.Element]:
    """The groups with a number in their name, in the order of the numbers."""
    numbered = []
    for group in root.findall(f"{SVG}g"):
        labels = [v for k, v in group.attrib.items() if k.endswith("label")]
        name = labels[0] if labels else group.get("id") or ""
        found = _NUMBER.findall(name)
        if found and len(found[-1]) <= MOST_DIGITS:
            numbered.append((int(found[-1]), group))
    return [group for _, group in sorted(numbered, key=lambda n: n[0])]
