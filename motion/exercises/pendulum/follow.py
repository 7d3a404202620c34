"""Following a weight on its line through a clip: the weight, the line that leads from it, and the pivot.

The weight is followed as any compact shape is. The circle of its places tells roughly where it hangs; towards that its
line is looked for in each drawing, and where all the lines cross is the pivot. A line's own upper end is then told
against that: beside it by how far the line passes, and along it by how much sooner or later it ends than the others.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from motion.clip import Clip
from motion.exercises.pendulum.truth import LINE, of_parts
from motion.track import Line, Pivot, Shape, Track
from motion.tracking import pivot as pivots
from motion.tracking import placing
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress
from motion.tracking.subjects import blob
from motion.tracking.subjects import line as lines
from motion.tracking.subjects.blob import Followed
from motion.tracking.subjects.line import Found

Place = tuple[float, float]
ENDS_PX, ENDS, ENDS_R = 14.0, 1.5, 0.042
"""A line ends elsewhere than the others where that is by more px, half widths of it and shares of its length.

A hook that is drawn, and the lines of the other drawings, hide where a line ends; beside the pivot nothing does.
"""
UNSEEN = 0.5
"""How sure a line is that no picture shows: it leads from the pivot to the weight."""


def track(clip: Clip, *, placement: Placement = placing.NOTHING, progress: Progress | None = None) -> Track:
    """Weight, line and pivot of a clip. A drawing without its weight has neither. Raises DamagedFile."""
    followed = blob.follow_through(clip, placement.shapes, progress, keeps=True)
    at = placement.pivot
    found: Mapping[int, Found] = {}
    rough = at or _rough(followed.shapes)
    if rough is not None:
        found = dict(_lines(followed, rough))
        crossing = at or _better(pivots.of_lines(list(found.values())), rough, followed.shapes)
        if math.hypot(crossing[0] - rough[0], crossing[1] - rough[1]) > 2.0:
            found = dict(_lines(followed, crossing))
            crossing = at or _better(pivots.of_lines(list(found.values())), crossing, followed.shapes)
        rough = crossing
    pivot = Pivot(x=rough[0], y=rough[1], confidence=_surety(found, followed)) if rough else None
    result = of_parts(
        exposures=followed.exposures,
        weights=followed.shapes,
        lines=_drawn(followed.shapes, found, rough),
        pivot=pivot,
        **followed.about,
    )
    return applied(result, placement)


def _rough(shapes: Sequence[Shape | None]) -> Place | None:
    """The middle of the circle on which the weights lie; None where they make none."""
    seen = [s for s in shapes if s is not None and not s.clipped] or [s for s in shapes if s is not None]
    if len(seen) < 4:
        return None
    circle = pivots.of_places([(s.x, s.y) for s in seen], float(np.median([math.sqrt(s.area) for s in seen])))
    return circle and circle[:2]


def _lines(followed: Followed, towards: Place) -> Iterator[tuple[int, Found]]:
    """The line of each drawing (from 0) in which one shows."""
    for index, (seen, shape) in enumerate(zip(followed.seen, followed.shapes, strict=True)):
        if shape is None or seen.kept is None:
            continue
        found = lines.find(seen.kept.differs(), seen.kept.threshold, (shape.x, shape.y), _radius(shape), towards)
        if found is not None:
            yield index, found


def _radius(shape: Shape) -> float:
    return shape.major / 2


def _better(crossing: Place | None, rough: Place, shapes: Sequence[Shape | None]) -> Place:
    """Where the lines cross, as long as that is a place from which the weights can hang."""
    if crossing is None:
        return rough
    far = [math.hypot(s.x - crossing[0], s.y - crossing[1]) for s in shapes if s is not None]
    was = [math.hypot(s.x - rough[0], s.y - rough[1]) for s in shapes if s is not None]
    return crossing if 0.3 * np.median(was) < np.median(far) < 3 * np.median(was) else rough


def _surety(found: Mapping[int, Found], followed: Followed) -> float:
    seen = sum(s is not None for s in followed.shapes) or 1
    return round(min(0.99, 0.5 + 0.49 * len(found) / seen), 2)


def _drawn(shapes: Sequence[Shape | None], found: Mapping[int, Found], pivot: Place | None) -> tuple[Line | None, ...]:
    """Each drawing's line from its upper end to the weight's centre."""
    if pivot is None:
        return (None,) * len(shapes)
    over = {i: line.end - line.nearest(pivot) for i, line in found.items()}
    usual = float(np.median(list(over.values()))) if over else 0.0
    spread = float(np.median([abs(v - usual) for v in over.values()])) if over else 0.0
    told: list[Line | None] = []
    for index, shape in enumerate(shapes):
        if shape is None:
            told.append(None)
            continue
        line = found.get(index)
        top, sure = pivot, UNSEEN
        if line is not None:
            along = over[index] - usual
            far = math.hypot(shape.x - pivot[0], shape.y - pivot[1])
            hidden = max(ENDS_PX, ENDS * line.half, ENDS_R * far, 4 * spread)
            top = line.at(line.nearest(pivot) + (along if abs(along) > hidden else 0.0))
            sure = min(shape.confidence, 0.5 + 0.5 * line.seen)
        told.append(Line(drawing=index + 1, points=(top, (shape.x, shape.y)), confidence=round(sure, 3)))
    return tuple(told)


def applied(track: Track, placement: Placement) -> Track:
    """The track with what a person placed: weights, their lines with them, and the pivot; ``found`` is as found."""
    placed = placing.apply(track, placement)
    if placed is track:
        return track
    own = [
        line if line is None or shape is None else replace(line, points=(line.points[0], (shape.x, shape.y)))
        for line, shape in zip(placed.lines(LINE), placed.shapes, strict=True)
    ]
    pivot = placed.pivot
    for index, shape in enumerate(placed.shapes):
        if own[index] is None and shape is not None and pivot is not None:
            own[index] = Line(
                drawing=index + 1, points=((pivot.x, pivot.y), (shape.x, shape.y)), confidence=1.0, source="placed"
            )
    return placed.with_marks(LINE, tuple(own))
