"""Drawing with SVG elements: colours, rounding, and the few shapes that guides are made of."""

from __future__ import annotations

from collections.abc import Iterable
from xml.etree import ElementTree as ET

Element = ET.Element

INK, SOFT, RULE, LEAF, PALE, EARTH = "#1c2a22", "#50594f", "#b9b09a", "#2f5f2a", "#8aa77f", "#6b5a44"
SAND = "#d9cdb4"
"""What fills the shape of something that is not drawn but computed."""
MEND = "#b3204a"
"""Where something belongs that lies elsewhere."""
PEN, RIM = "#1d3fc4", "#fffdf7"
"""What a marker draws over a clip with, and the light rim that keeps it readable over dark pictures."""
FONT = "Source Sans 3, sans-serif"


def svg(width: float, height: float, title: str, *, of_pixels: bool = False) -> Element:
    """An empty drawing of that size in px, with a title for those who do not see it.

    With ``of_pixels`` its coordinates are those of a frame, where whole numbers are the middles of pixels.
    """
    corner = -0.5 if of_pixels else 0.0
    root = ET.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "viewBox": f"{num(corner)} {num(corner)} {num(width)} {num(height)}",
            "width": num(width),
            "height": num(height),
            "font-family": FONT,
            "role": "img",
        },
    )
    ET.SubElement(root, "title").text = title
    return root


def layer(root: Element, name: str, **attributes: str | float) -> Element:
    """A named group."""
    return add(root, "g", id=name, **attributes)


def add(parent: Element, tag: str, **attributes: str | float) -> Element:
    """An element with attributes; underscores in their names stand for hyphens."""
    told = {k.replace("_", "-"): v if isinstance(v, str) else num(v) for k, v in attributes.items()}
    return ET.SubElement(parent, tag, told)


def say(parent: Element, text: str, **attributes: str | float) -> None:
    """Words."""
    add(parent, "text", **attributes).text = text


def line(parent: Element, x1: float, y1: float, x2: float, y2: float, **attributes: str | float) -> Element:
    return add(parent, "line", x1=x1, y1=y1, x2=x2, y2=y2, **attributes)


def label(parent: Element, x: float, y: float, text: str, size: float, mark: str = "plain") -> None:
    """A drawing's number, centred on a point: ringed for a key, underlined for a breakdown, else plain."""
    group = add(parent, "g", font_size=size, text_anchor="middle", fill=INK)
    half = 0.3 * size * len(text) + 0.18 * size
    if mark == "key":
        add(
            group,
            "circle",
            cx=x,
            cy=y,
            r=max(half, 0.72 * size) + 0.5,
            fill="none",
            stroke=INK,
            stroke_width=0.09 * size,
        )
    say(group, text, x=x, y=y + 0.35 * size, font_weight="600" if mark != "plain" else "400")
    if mark == "breakdown":
        line(group, x - half, y + 0.55 * size, x + half, y + 0.55 * size, stroke=INK, stroke_width=0.1 * size)


def num(value: float) -> str:
    """A number as short as a hundredth of a pixel allows."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def text_of(root: Element) -> str:
    """The drawing as text, without a prolog: it can be put into a page."""
    return ET.tostring(root, encoding="unicode")


def file_of(root: Element) -> bytes:
    """The drawing as a file of its own, UTF-8."""
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{text_of(root)}\n'.encode()


def ellipse(
    parent: Element, x: float, y: float, major: float, minor: float, angle: float, **more: str | float
) -> Element:
    """An ellipse by its centre and full axes in px; ``angle`` in degrees, counter-clockwise as seen."""
    turn: dict[str, str | float] = {"transform": f"rotate({num(-angle)} {num(x)} {num(y)})"} if angle else {}
    return add(parent, "ellipse", cx=x, cy=y, rx=major / 2, ry=minor / 2, **turn, **more)


def polyline(parent: Element, points: Iterable[tuple[float, float]], **more: str | float) -> Element:
    """A line through points, px."""
    return add(parent, "polyline", points=" ".join(f"{num(x)},{num(y)}" for x, y in points), **more)
