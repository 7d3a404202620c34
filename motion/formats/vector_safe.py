"""What an SVG may name: parts of itself, and small pictures that it holds. All else is taken out before it is drawn.

The renderer fetches whatever an ``href``, a ``url(…)`` or a style asks for, from files as well; so a drawing reaches it
only after this.
"""

from __future__ import annotations

import base64
import binascii
import io
import re
from collections.abc import Iterator
from urllib.parse import unquote_to_bytes
from xml.etree import ElementTree as ET

from PIL import Image

from motion.errors import OverLimit
from motion.formats.limits import Limits

XLINK = "{http://www.w3.org/1999/xlink}"
XML = "{http://www.w3.org/XML/1998/namespace}"
HREFS = ("href", f"{XLINK}href")
PICTURES = ("image", "feImage")
"""What may hold a picture."""
UNREAD = ("script", "foreignObject", "font-face", "font-face-uri", "font-face-src")
MOST_ELEMENTS, DEEPEST, MOST_PICTURES = 50_000, 200, 200
HELD = re.compile(
    r"^\s*data:image/(?P<kind>png|jpeg|jpg|gif|webp)\s*(;[^,]*)?,(?P<data>.*)$", re.DOTALL | re.IGNORECASE
)
URL = re.compile(r"url\(\s*(['\"]?)\s*(?P<what>[^)'\"]*)\1\s*\)", re.IGNORECASE)
IMPORT = re.compile(r"@(import|font-face|namespace)\b[^;{]*(\{[^}]*\}|;|$)", re.IGNORECASE)
ESCAPED = re.compile(r"\\(?:(?P<digits>[0-9a-fA-F]{1,6})\s?|.)", re.DOTALL)


def made_safe(root: ET.Element, limits: Limits) -> ET.Element:
    """Take out of a drawing, in place, whatever names something outside it; the drawing.

    Raises OverLimit for one with too many parts, or with a picture that is larger than a frame may be.
    """
    pictures = 0
    for depth, parent, child in list(_below(root)):
        if depth > DEEPEST:
            raise OverLimit(f"The drawing is nested more than {DEEPEST} deep. Flatten it, and export it again.")
        if not isinstance(child.tag, str) or _name(child) in UNREAD:
            parent.remove(child)
            continue
        if _name(child) in PICTURES:
            pictures += 1
            if pictures > MOST_PICTURES:
                raise OverLimit(
                    f"The drawing holds more than {MOST_PICTURES} pictures. Flatten it, and export it again."
                )
            if not _holds_picture(child, limits):
                parent.remove(child)
                continue
        _clean(child)
    _clean(root)
    return root


def _below(root: ET.Element) -> Iterator[tuple[int, ET.Element, ET.Element]]:
    """Every element below the root with its depth and its parent. Raises OverLimit for too many."""
    waiting, count = [(1, root)], 0
    while waiting:
        depth, parent = waiting.pop()
        for child in parent:
            count += 1
            if count > MOST_ELEMENTS:
                raise OverLimit(f"The drawing has more than {MOST_ELEMENTS} parts. Simplify it, and export it again.")
            yield depth, parent, child
            waiting.append((depth + 1, child))


def _name(element: ET.Element) -> str:
    return str(element.tag).rpartition("}")[2]


def _holds_picture(element: ET.Element, limits: Limits) -> bool:
    """Whether all that a picture element names is one of its own parts, or a picture inside it that can be read."""
    named = [element.get(h, "") for h in HREFS if h in element.attrib]
    return bool(named) and all(n.strip().startswith("#") or _is_held(n, limits) for n in named)


def _is_held(text: str, limits: Limits) -> bool:
    found = HELD.match(text)
    if found is None:
        return False
    data = _decoded(found[2] or "", found["data"], limits)
    try:
        with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "GIF", "WEBP")) as image:
            size = image.size
    except Exception:
        # Whatever a reader says of damaged data: it is no picture.
        return False
    limits.check_size(max(size[0], limits.least_side), max(size[1], limits.least_side), "A picture in the drawing")
    return True


def _decoded(said: str, text: str, limits: Limits) -> bytes:
    limits.check_entry(len(text), "A picture in the drawing")
    if "base64" not in said.lower():
        return unquote_to_bytes(text)
    try:
        return base64.b64decode("".join(text.split()))
    except (binascii.Error, ValueError):
        return b""


def _clean(element: ET.Element) -> None:
    """Keep of an element's attributes and style what stays within the drawing."""
    picture = _name(element) in PICTURES
    for key, value in list(element.attrib.items()):
        if key.rpartition("}")[2] == "href":
            if not (picture or value.strip().startswith("#")):
                del element.attrib[key]
        elif key == f"{XML}base" or key.rpartition("}")[2].lower().startswith("on"):
            del element.attrib[key]
        else:
            element.attrib[key] = within(value)
    if _name(element) == "style":
        text = "".join(element.itertext())
        for child in list(element):
            element.remove(child)
        element.text = IMPORT.sub("", within(text))


def within(style: str) -> str:
    """A value or a style sheet in which each ``url(…)`` that is no part of the drawing itself is ``none``."""
    if "\\" in style:
        style = ESCAPED.sub(_meant, style)
    return URL.sub(lambda m: m[0] if m["what"].strip().startswith("#") else "none", style)


def _meant(escaped: re.Match[str]) -> str:
    """The character that an escape of a style sheet stands for; nothing for what is none."""
    digits = escaped["digits"]
    if digits is None:
        return escaped[0][1:]
    number = int(digits, 16)
    return chr(number) if 32 <= number < 0xD800 else ""
