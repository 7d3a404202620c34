"""Where a person placed what moves, or what it moves against, which is then used and kept."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from motion.errors import NewerDocument, NotAClip
from motion.stored import Schema
from motion.track import Ground, Pivot, Shape, Track
from motion.tracking.ellipse import Ellipse, axis_angle

LEAST_PX = 4.0
KEPT = Schema(name="nettlecap.placement/1", steps={"": lambda told: {"schema": "nettlecap.placement/1", **told}})


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement:
    """What moves as an ellipse by drawing number; the ground's y at both edges of the frame, and the pivot, px.

    ``landmarks`` are single points of what moves, by name and then by drawing number; ``turned`` the drawings whose
    near and far side were found the other way round.
    """

    shapes: Mapping[int, Ellipse] = field(default_factory=dict)
    landmarks: Mapping[str, Mapping[int, tuple[float, float]]] = field(default_factory=dict)
    turned: frozenset[int] = frozenset()
    ground: tuple[float, float] | None = None
    pivot: tuple[float, float] | None = None

    def to_json(self) -> dict[str, Any]:
        """As it is kept."""
        told: dict[str, Any] = {}
        if self.shapes:
            told["shapes"] = {
                str(n): {k: round(getattr(e, k), 2) for k in ("x", "y", "major", "minor", "angle")}
                for n, e in sorted(self.shapes.items())
            }
        landmarks = {
            name: {str(n): [round(v, 2) for v in at] for n, at in sorted(places.items())}
            for name, places in sorted(self.landmarks.items())
            if places
        }
        if landmarks:
            told["landmarks"] = landmarks
        if self.turned:
            told["turned"] = sorted(self.turned)
        if self.ground:
            told["ground"] = [round(y, 2) for y in self.ground]
        if self.pivot:
            told["pivot"] = [round(v, 2) for v in self.pivot]
        return KEPT.written(told) if told else {}


NOTHING = Placement()


def from_json(told: Mapping[str, Any] | None) -> Placement:
    """Read what ``to_json`` wrote. Raises NotAClip when it makes no sense."""
    try:
        told = KEPT.read(told or {})
        shapes = {int(n): _ellipse(e) for n, e in (told.get("shapes") or {}).items()}
        landmarks = {
            str(name): {int(n): (_number(at[0]), _number(at[1])) for n, at in places.items()}
            for name, places in (told.get("landmarks") or {}).items()
        }
        return Placement(
            shapes=shapes,
            landmarks=landmarks,
            turned=frozenset(int(n) for n in told.get("turned") or ()),
            ground=_two(told.get("ground")),
            pivot=_two(told.get("pivot")),
        )
    except (TypeError, ValueError, KeyError, IndexError, AttributeError, OverflowError) as error:
        if isinstance(error, NewerDocument):
            raise
        raise NotAClip("That place could not be understood; nothing was changed.") from error


def _two(told: Any) -> tuple[float, float] | None:
    return (_number(told[0]), _number(told[1])) if told else None


def _ellipse(told: Mapping[str, Any]) -> Ellipse:
    one, other = _number(told["major"]), _number(told["minor"])
    angle = _number(told["angle"])
    if min(one, other) < LEAST_PX:
        raise ValueError("too small")
    # The long axis is the first one, whichever was dragged.
    if other > one:
        one, other, angle = other, one, angle + 90.0
    return Ellipse(x=_number(told["x"]), y=_number(told["y"]), major=one, minor=other, angle=axis_angle(angle))


def _number(value: Any) -> float:
    number = float(value)
    if not math.isfinite(number) or abs(number) > 1e5:
        raise ValueError("no place")
    return number


def apply(track: Track, placement: Placement) -> Track:
    """The track with what was placed; ``found`` keeps it as it was found. Drawings that are not there are left out."""
    shapes = {n: e for n, e in placement.shapes.items() if 1 <= n <= len(track.shapes)}
    anything = shapes or placement.landmarks or placement.turned or placement.ground or placement.pivot
    if not anything:
        return track
    ground = track.ground
    if placement.ground is not None:
        width = ground.width if ground else 2
        left, right = placement.ground
        ground = Ground(y_left=left, y_right=right, width=width, confidence=1.0, drawn=True, placed=True)
    placed = [_placed(n, shapes[n]) if n in shapes else shape for n, shape in enumerate(track.shapes, start=1)]
    moved = track.with_marks(track.subject, tuple(placed)).with_fixture("ground", ground)
    if placement.pivot is not None:
        x, y = placement.pivot
        moved = moved.with_fixture("pivot", Pivot(x=x, y=y, confidence=1.0, placed=True))
    return replace(moved, found=track)


def _placed(drawing: int, ellipse: Ellipse) -> Shape:
    return Shape(
        drawing=drawing,
        x=ellipse.x,
        y=ellipse.y,
        major=ellipse.major,
        minor=ellipse.minor,
        angle=ellipse.angle,
        bottom=ellipse.bottom,
        clipped=False,
        confidence=1.0,
        source="placed",
    )
