"""Drawn over the pictures of a clip: what was measured (ground, path with its ticks, shape), and a pen's strokes."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from PIL import Image

from motion import ink
from motion.clip import Picture
from motion.guide import stills
from motion.ink import Element, add, layer, line


def over(picture: Picture, drawn: Element) -> Picture:
    """A picture with a drawing of its size over it."""
    png = stills.png(drawn)
    with Image.open(io.BytesIO(png), formats=("PNG",)) as image:
        both = Image.alpha_composite(Image.fromarray(picture), image.convert("RGBA"))
    return np.asarray(both, dtype=np.uint8)


def empty(findings: dict[str, Any], drawing: int) -> Element:
    """Nothing yet, at the clip's size."""
    clip = findings["clip"]
    return ink.svg(clip["width"], clip["height"], f"Drawing {drawing}", of_pixels=True)


def draw_finding(root: Element, finding: dict[str, Any], frame: int) -> None:
    """A finding's own marks on a frame: where drawings belong, the path they should follow, a gap."""
    scale = max(0.5, float(root.get("width", "960")) / 960)
    group = layer(root, "finding", fill="none", stroke=ink.MEND, stroke_width=2.4 * scale)
    for mark in _of_drawing(finding.get("overlay", ()), frame):
        if mark["kind"] == "place":
            ellipse(group, mark, stroke_dasharray=f"{ink.num(7 * scale)} {ink.num(4 * scale)}")
        elif mark["kind"] in ("path", "hung"):
            add(group, "polyline", points=_points(mark["points"]), stroke_dasharray="7 4")
        elif mark["kind"] == "point":
            add(group, "circle", cx=mark["x"], cy=mark["y"], r=6 * scale)
        elif mark["kind"] == "lines":
            for points in mark["lines"]:
                add(group, "polyline", points=_points(points), stroke_dasharray="7 4")
        elif mark["kind"] == "gap":
            line(group, mark["x1"], mark["y1"], mark["x2"], mark["y2"], stroke_width=4 * scale)


def _of_drawing(marks: Sequence[dict[str, Any]], frame: int) -> list[dict[str, Any]]:
    """The marks that show on a frame: of those that tell how each drawing belongs only those of the latest one."""
    own = [m for m in marks if m["kind"] in ("hung", "lines") and m["frame"] <= frame]
    latest = max((m["frame"] for m in own), default=0)
    return [m for m in marks if m["kind"] not in ("hung", "lines")] + [m for m in own if m["frame"] == latest]


def draw_strokes(root: Element, paths: Sequence[str]) -> None:
    """A pen's strokes, as path data."""
    group = layer(root, "strokes", fill=ink.PEN, stroke=ink.RIM, stroke_width=1.0, paint_order="stroke")
    for data in paths:
        add(group, "path", d=data)


def draw_measures(root: Element, findings: dict[str, Any], drawing: int) -> None:
    """What was measured of one drawing, from its findings file (nettlecap.findings/1)."""
    clip, track = findings["clip"], findings["track"]
    scale = max(0.5, clip["width"] / 960)
    shapes = {s["drawing"]: s for s in track["shapes"]}
    if track["ground"]:
        ends = track["ground"]["y_left"], track["ground"]["y_right"]
        group = layer(root, "ground", stroke=ink.LEAF, stroke_width=1.5 * scale, stroke_dasharray="9 5")
        line(group, 0, ends[0], clip["width"] - 1, ends[1])
    path = [shapes[e["drawing"]] for e in clip["exposures"] if e["drawing"] in shapes]
    _path(root, path, scale)
    if drawing in shapes:
        _shape(root, shapes[drawing], scale)
    for chain in track.get("chains", ()):
        if chain["drawing"] == drawing:
            group = layer(root, "line", fill="none", stroke=ink.LEAF, stroke_width=1.6 * scale)
            add(group, "polyline", points=_points(chain["points"]))


def _path(root: Element, shapes: list[dict[str, Any]], scale: float) -> None:
    group = layer(root, "path", fill="none", stroke=ink.INK, stroke_width=1.0 * scale)
    points = [(s["x"], s["y"]) for s in shapes]
    add(group, "polyline", points=_points(points))
    for i, (x, y) in enumerate(points):
        before, after = points[max(0, i - 1)], points[min(len(points) - 1, i + 1)]
        dx, dy = after[0] - before[0], after[1] - before[1]
        length = math.hypot(dx, dy) or 1.0
        across, up = -dy / length * 5 * scale, dx / length * 5 * scale
        line(group, x - across, y - up, x + across, y + up)


def _shape(root: Element, shape: dict[str, Any], scale: float) -> None:
    ellipse(layer(root, "shape", fill="none", stroke=ink.LEAF, stroke_width=2.0 * scale), shape)


def ellipse(group: Element, shape: dict[str, Any], **attributes: str) -> None:
    """A shape as the findings file tells it: centre and axes in px, angle in degrees counter-clockwise as seen."""
    x, y = shape["x"], shape["y"]
    turn = f"rotate({ink.num(-shape['angle'])} {ink.num(x)} {ink.num(y)})"
    add(group, "ellipse", cx=x, cy=y, rx=shape["major"] / 2, ry=shape["minor"] / 2, transform=turn, **attributes)


def _points(points: Sequence[Sequence[float]]) -> str:
    return " ".join(f"{ink.num(x)},{ink.num(y)}" for x, y in points)
