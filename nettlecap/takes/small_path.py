"""A take's path as a small picture: points of SVG lines in a box of 160 by 90."""

from __future__ import annotations

from typing import Any

WIDTH, HEIGHT = 160.0, 90.0
MARGIN = 6.0


def lines(findings: dict[str, Any]) -> tuple[str, str]:
    """The path of the centre and the ground of a findings file as SVG points; empty where nothing was followed."""
    clip, track = findings["clip"], findings["track"]
    shapes = {s["drawing"]: s for s in track["shapes"]}
    scale = min((WIDTH - 2 * MARGIN) / clip["width"], (HEIGHT - 2 * MARGIN) / clip["height"])
    left, top = (WIDTH - scale * clip["width"]) / 2, (HEIGHT - scale * clip["height"]) / 2

    def point(x: float, y: float) -> str:
        return f"{left + scale * x:.1f},{top + scale * y:.1f}"

    path = [
        point(shapes[e["drawing"]]["x"], shapes[e["drawing"]]["y"]) for e in clip["exposures"] if e["drawing"] in shapes
    ]
    ground = track["ground"]
    level = f"{point(0, ground['y_left'])} {point(clip['width'], ground['y_right'])}" if ground else ""
    return " ".join(path), level
