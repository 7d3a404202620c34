"""What tracking hands on: where the ground lies and where the ball is in each drawing."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from motion.clip import Exposure
from motion.tracking.registration import STILL, Shift


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """The ground as a straight line from the left edge of the frame to the right one, in px.

    ``drawn`` tells a line or floor found in the pictures from a level inferred from where the ball turns; ``placed``
    that a person put it there.
    """

    y_left: float
    y_right: float
    width: int
    confidence: float
    drawn: bool
    placed: bool = False

    def y_at(self, x: float) -> float:
        """The ground's y under ``x``."""
        return self.y_left + (self.y_right - self.y_left) * x / max(1, self.width - 1)

    @property
    def angle(self) -> float:
        """The way it goes, degrees by the package's convention: 0 where it is level, more where it rises."""
        return math.degrees(math.atan2(self.y_left - self.y_right, max(1, self.width - 1)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """The best-fitting ellipse of one drawing, to the outside of its outline; lengths in px."""

    drawing: int
    x: float
    y: float
    major: float
    minor: float
    angle: float
    bottom: float
    clipped: bool
    confidence: float
    source: Literal["found", "placed"] = "found"

    @property
    def height(self) -> float:
        """Upright extent of the ellipse."""
        turn = math.radians(self.angle)
        return math.hypot(self.major * math.sin(turn), self.minor * math.cos(turn))

    @property
    def width(self) -> float:
        """Level extent of the ellipse."""
        turn = math.radians(self.angle)
        return math.hypot(self.major * math.cos(turn), self.minor * math.sin(turn))

    @property
    def stretch(self) -> float:
        """Long axis over short axis, at least 1."""
        return self.major / self.minor

    @property
    def area(self) -> float:
        """Long axis times short axis, the measure of volume in px²."""
        return self.major * self.minor


@dataclass(frozen=True, slots=True, kw_only=True)
class Oversights:
    """Drawings (counted from 1) that show what was forgotten in export.

    ``ghosts``: their neighbours show through; ``bare``: ground or scenery is missing behind the ball; ``empty``:
    nothing is drawn on them.
    """

    ghosts: frozenset[int] = frozenset()
    bare: frozenset[int] = frozenset()
    empty: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class Track:
    """One moving shape through a clip. ``shapes`` has one entry a drawing, in drawing order; None: not found.

    ``pictures`` gives for each drawing the index of the first picture that shows it, ``shifts`` how that picture
    lies against the first; places are those of the first. ``guide_shows`` tells
    that a path is drawn behind the ball along the way that it takes. ``found`` is the track before a person placed
    anything in it.
    """

    exposures: tuple[Exposure, ...]
    shapes: tuple[Shape | None, ...]
    pictures: tuple[int, ...]
    ground: Ground | None
    shifts: tuple[Shift, ...] = ()
    oversights: Oversights = Oversights()
    guide_shows: bool = False
    found: Track | None = None
    kind: str = "ball"

    def shape_of(self, drawing: int) -> Shape | None:
        """The shape of a drawing counted from 1."""
        return self.shapes[drawing - 1]

    def shift_of(self, drawing: int) -> Shift:
        """How the drawing's picture lies against frame 1."""
        return self.shifts[drawing - 1] if self.shifts else STILL
