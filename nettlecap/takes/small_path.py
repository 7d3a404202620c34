"""A take's path as a small picture: points of SVG lines in a box of 160 by 90."""

from __future__ import annotations

from motion.report.report import Report

WIDTH, HEIGHT = 160.0, 90.0
MARGIN = 6.0


def lines(report: Report) -> tuple[str, str]:
    """The path of the centre and the ground of a clip as SVG points; empty where nothing was followed."""
    scale = min((WIDTH - 2 * MARGIN) / report.width, (HEIGHT - 2 * MARGIN) / report.height)
    left, top = (WIDTH - scale * report.width) / 2, (HEIGHT - scale * report.height) / 2

    def point(x: float, y: float) -> str:
        return f"{left + scale * x:.1f},{top + scale * y:.1f}"

    path = [point(shape["x"], shape["y"]) for shape in report.path]
    ground = report.ground
    level = f"{point(0, ground['y_left'])} {point(report.width, ground['y_right'])}" if ground else ""
    return " ".join(path), level
