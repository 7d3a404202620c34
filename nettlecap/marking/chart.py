"""The slim chart under the picture: height above the ground, frame by frame, as SVG numbers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

WIDTH, HEIGHT, MARGIN = 600.0, 96.0, 8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Dot:
    x: str
    y: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """The frames of a finding."""

    principle: str
    x: str
    width: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Chart:
    """Numbers are told as text, so that no locale gets between them and the SVG."""

    width: str
    height: str
    ground: str
    line: str
    dots: tuple[Dot, ...]
    bands: tuple[Band, ...]


def draw(data: dict[str, Any], kept: set[str], key_of: Any) -> Chart | None:
    """The chart of a findings file; None where nothing was followed. ``kept`` are the keys of the findings to show."""
    clip, track = data["clip"], data["track"]
    shapes = {s["drawing"]: s for s in track["shapes"]}
    ground = track["ground"]
    seen = [(e["first_frame"], shapes[e["drawing"]]) for e in clip["exposures"] if e["drawing"] in shapes]
    if not seen or ground is None:
        return None

    def clearance(shape: dict[str, Any]) -> float:
        slope = (ground["y_right"] - ground["y_left"]) / max(1, clip["width"] - 1)
        return float(ground["y_left"] + slope * shape["x"] - shape["bottom"])

    step = WIDTH / clip["frames"]
    highest = max(1.0, *(clearance(s) for _, s in seen))

    def place(frame: int, shape: dict[str, Any]) -> Dot:
        y = HEIGHT - MARGIN - (HEIGHT - 2 * MARGIN) * clearance(shape) / highest
        return Dot(x=f"{(frame - 0.5) * step:.1f}", y=f"{min(HEIGHT, y):.1f}")

    dots = tuple(place(frame, shape) for frame, shape in seen)
    bands = tuple(
        Band(
            principle=f["principle"],
            x=f"{(f['first_frame'] - 1) * step:.1f}",
            width=f"{(f['last_frame'] - f['first_frame'] + 1) * step:.1f}",
        )
        for f in data["findings"]
        if key_of(f) in kept
    )
    return Chart(
        width=f"{WIDTH:.0f}",
        height=f"{HEIGHT:.0f}",
        ground=f"{HEIGHT - MARGIN:.1f}",
        line=" ".join(f"{d.x},{d.y}" for d in dots),
        dots=dots,
        bands=bands,
    )
