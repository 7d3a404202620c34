"""The geometry that shows a finding, in frame coordinates; what each kind means is written at ``Finding``."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Protocol

from motion.track import Shape

Mark = dict[str, Any]


class Framed(Protocol):
    """A drawing in playing order: the frame on which it begins."""

    @property
    def frame(self) -> int: ...


class Step(Framed, Protocol):
    """The same with its shape."""

    @property
    def shape(self) -> Shape: ...


def place(step: Step, x: float, y: float) -> Mark:
    """The drawing as it is, at the centre (px) where it belongs."""
    return ellipse(step.frame, x, y, step.shape.major, step.shape.minor, step.shape.angle)


def ellipse(frame: int, x: float, y: float, major: float, minor: float, angle: float = 0.0) -> Mark:
    """A shape as it should be on a frame: centre and full axes in px, angle in degrees."""
    return {
        "kind": "place",
        "frame": frame,
        "x": round(x, 2),
        "y": round(y, 2),
        "major": round(major, 2),
        "minor": round(minor, 2),
        "angle": round(angle, 2),
    }


def point(step: Framed, x: float, y: float) -> Mark:
    """Where (px) a point of the drawing belongs."""
    return {"kind": "point", "frame": step.frame, "x": round(x, 2), "y": round(y, 2)}


def lines(
    step: Framed,
    several: Sequence[Sequence[tuple[float, float]]],
    landmarks: Mapping[str, tuple[float, float]] | None = None,
) -> Mark:
    """Lines (px) that show how what would have to be drawn anew belongs; its ``landmarks``, by name, lie there (px)."""
    told = [[[round(x, 2), round(y, 2)] for x, y in points] for points in several]
    mark: Mark = {"kind": "lines", "frame": step.frame, "lines": told}
    if landmarks:
        mark["landmarks"] = {name: [round(x, 2), round(y, 2)] for name, (x, y) in landmarks.items()}
    return mark


def hung(frame: int, points: Sequence[tuple[float, float]]) -> Mark:
    """Where the line (px) on which the drawing of a frame hangs belongs, from the pivot to the end."""
    return {"kind": "hung", "frame": frame, "points": [[round(x, 2), round(y, 2)] for x, y in points]}


def gap(step: Framed, x1: float, y1: float, x2: float, y2: float) -> Mark:
    """The stretch between two points (px) that should not be there."""
    return {
        "kind": "gap",
        "frame": step.frame,
        "x1": round(x1, 2),
        "y1": round(y1, 2),
        "x2": round(x2, 2),
        "y2": round(y2, 2),
    }


def path(step: Framed, points: Sequence[tuple[float, float]]) -> Mark:
    """The arc (px) that a drawing should lie on."""
    return {"kind": "path", "frame": step.frame, "points": [[round(x, 2), round(y, 2)] for x, y in points]}


def frames(frame: int, change: int) -> Mark:
    """So many frames to add (or, below nought, to take away) from a frame on."""
    return {"kind": "frames", "frame": frame, "change": change}
