"""What tracking hands on: what moves, part by part and drawing by drawing, and what it moves against."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal, cast

from motion.clip import Exposure
from motion.shift import STILL, Shift


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """The ground as a straight line from the left edge of the frame to the right one, in px.

    ``drawn`` tells a line or floor found in the pictures from a level inferred from where what moves turns; ``placed``
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
    """The best-fitting ellipse of one drawing, to the outside of its outline; lengths in px.

    ``bare`` where nothing is drawn there but the end of a line, for which it stands.
    """

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
    bare: bool = False

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

    ``ghosts``: their neighbours show through; ``bare``: ground or scenery is missing behind what moves; ``empty``:
    nothing is drawn on them.
    """

    ghosts: frozenset[int] = frozenset()
    bare: frozenset[int] = frozenset()
    empty: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A line of points (px) in one drawing, from where it hangs to its end; ``wide`` is how wide it is drawn, px.

    ``apart`` are points, by number, at which it has come apart, and where what hangs there begins; ``hook`` is where it
    would hang from, if it has slipped off that.
    """

    drawing: int
    points: tuple[tuple[float, float], ...]
    confidence: float
    source: Literal["found", "placed"] = "found"
    wide: float | None = None
    apart: Mapping[int, tuple[float, float]] = field(default_factory=dict)
    hook: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """A jointed figure in one drawing: its landmarks (px) by name.

    ``hidden`` are those that do not show, and lie where the run of the others leads; ``firm`` those that show whole,
    by which lengths can be told; ``placed`` those that a person put there. ``lows`` is how low (y, px) the outline of
    each part that may touch the ground reaches, where that shows; ``low`` how low the whole drawing does, ``span`` from
    where to where its lowest part goes.
    """

    drawing: int
    points: Mapping[str, tuple[float, float]]
    hidden: frozenset[str] = frozenset()
    firm: frozenset[str] = frozenset()
    placed: frozenset[str] = frozenset()
    lows: Mapping[str, float] = field(default_factory=dict)
    low: float | None = None
    span: tuple[float, float] | None = None
    confidence: float = 0.0

    @property
    def source(self) -> Literal["found", "placed"]:
        return "placed" if self.placed else "found"

    def at(self, name: str) -> tuple[float, float] | None:
        """A landmark that shows; None where it is hidden, or not told at all."""
        return None if name in self.hidden else self.points.get(name)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pivot:
    """The point (px) from which something hangs all through the clip; ``placed`` where a person put it."""

    x: float
    y: float
    confidence: float
    placed: bool = False


Mark = Shape | Line | Figure
Fixture = Ground | Pivot


@dataclass(frozen=True, slots=True, kw_only=True)
class Track:
    """What moves through a clip.

    ``marks`` has for each part of it one entry a drawing, in drawing order; None: not found. ``subject`` names the
    part, an ellipse, that stands for the whole where one place is asked for. ``fixtures`` are what it moves against.

    ``pictures`` gives for each drawing the index of the first picture that shows it, ``shifts`` how that picture
    lies against the first; places are those of the first. ``guide_shows`` tells that a path is drawn behind it along
    the way that it takes. ``found`` is the track before a person placed anything in it.
    """

    kind: str
    subject: str
    exposures: tuple[Exposure, ...]
    marks: Mapping[str, tuple[Mark | None, ...]]
    pictures: tuple[int, ...]
    fixtures: Mapping[str, Fixture] = field(default_factory=dict)
    shifts: tuple[Shift, ...] = ()
    oversights: Oversights = Oversights()
    guide_shows: bool = False
    found: Track | None = None

    @property
    def shapes(self) -> tuple[Shape | None, ...]:
        """The subject's shapes, one entry a drawing."""
        return cast("tuple[Shape | None, ...]", self.marks[self.subject])

    def lines(self, part: str) -> tuple[Line | None, ...]:
        """The lines of a part, one entry a drawing; none at all where the track has no such part."""
        return cast("tuple[Line | None, ...]", self.marks.get(part, ()))

    def figures(self, part: str) -> tuple[Figure | None, ...]:
        """The figures of a part, one entry a drawing; none at all where the track has no such part."""
        return cast("tuple[Figure | None, ...]", self.marks.get(part, ()))

    @property
    def ground(self) -> Ground | None:
        """The ground, where there is one."""
        found = self.fixtures.get("ground")
        return found if isinstance(found, Ground) else None

    @property
    def pivot(self) -> Pivot | None:
        """The pivot, where there is one."""
        found = self.fixtures.get("pivot")
        return found if isinstance(found, Pivot) else None

    def shape_of(self, drawing: int) -> Shape | None:
        """The subject's shape in a drawing counted from 1."""
        return self.shapes[drawing - 1]

    def shift_of(self, drawing: int) -> Shift:
        """How the drawing's picture lies against frame 1."""
        return self.shifts[drawing - 1] if self.shifts else STILL

    def with_marks(self, part: str, marks: tuple[Mark | None, ...]) -> Track:
        """The track with other marks for a part."""
        return replace(self, marks={**self.marks, part: marks})

    def with_fixture(self, name: str, fixture: Fixture | None) -> Track:
        """The track with another fixture under a name, or (None) without it."""
        kept = {k: v for k, v in self.fixtures.items() if k != name}
        return replace(self, fixtures=kept if fixture is None else {**kept, name: fixture})


def of_shapes(
    exposures: tuple[Exposure, ...],
    shapes: tuple[Shape | None, ...],
    pictures: tuple[int, ...],
    ground: Ground | None = None,
    *,
    kind: str = "shape",
    subject: str = "shape",
    **more: Any,
) -> Track:
    """The track of one shape, over a ground where there is one."""
    return Track(
        kind=kind,
        subject=subject,
        exposures=exposures,
        marks={subject: shapes},
        pictures=pictures,
        fixtures={"ground": ground} if ground else {},
        **more,
    )
