"""Following a weight on its line through a clip: the weight, the line that leads from it, and the pivot.

The weight is followed as any compact shape is. The circle of its places tells roughly where it hangs; towards that its
line is looked for in each drawing, and where all the lines cross is the pivot. A line's own upper end is then told
against that: beside it by how far the line passes, and along it by how much sooner or later it ends than the others.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from motion.clip import Clip
from motion.exercises.pendulum.truth import END, LINE, of_parts
from motion.track import Line, Pivot, Shape, Track
from motion.tracking import pivot as pivots
from motion.tracking import placing
from motion.tracking.light import Box
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress
from motion.tracking.subjects import blob, turned
from motion.tracking.subjects import line as lines
from motion.tracking.subjects.blob import Followed
from motion.tracking.subjects.line import Found, Still

Place = tuple[float, float]
ENDS_PX, ENDS_R = 3.0, 0.012
"""A line ends elsewhere than the others where that is surely by more px and shares of its length."""
FARTHEST_R = 0.2
"""One that seems to end farther off is not seen all along."""
ANCHOR_PX, ANCHOR, BELOW_PX, LEAST_ANCHOR_PX = (24.0, 40.0), 0.14, 4.0, 16
"""What it hangs from is looked for so far beside and above the pivot: px, a share of the line's length; a little below.

A smaller place than the last tells nothing.
"""
FEWEST_TOLD, BETTER = 8, 0.9
"""The drift is believed where it takes so much away of how far lines and weights are off; from so many of these."""
ODD, BESIDE, BESIDE_PX = 0.5, 0.3, 4.0
"""A line is no narrower than such a share of the others, and no wider; it passes a weight's middle no farther than such
a share of its radius, or px."""
SELDOM = 0.3
"""A weight has a line of its own where one leads to its middle in such a share of the drawings."""
UNSEEN = 0.5
"""How sure a line is that no picture shows: it leads from the pivot to the weight."""


def track(clip: Clip, *, placement: Placement = placing.NOTHING, progress: Progress | None = None) -> Track:
    """Weight, line and pivot of a clip. A drawing without its weight has neither. Raises DamagedFile."""
    followed = blob.follow_through(clip, placement.shapes, progress, keeps=True)
    hung = _hung(followed, placement.pivot)
    anchor = _above(hung, clip)
    if anchor is not None and _drifts(followed, hung, anchor):
        # The hook tells how the paper drifts where nothing else does, now that it is known where that is.
        followed = blob.follow_through(clip, placement.shapes, progress, keeps=True, anchor=anchor)
        hung = _hung(followed, placement.pivot)
    if placement.shapes and hung.pivot is not None and turned.is_needed(followed, placement.shapes):
        followed = replace(followed, shapes=turned.shapes(followed, placement.shapes, hung.pivot))
        hung = _hung(followed, placement.pivot or hung.pivot)
    at, found = hung.pivot, hung.lines
    result = of_parts(
        exposures=followed.exposures,
        weights=followed.shapes,
        lines=_drawn(followed.shapes, found, at),
        pivot=Pivot(x=at[0], y=at[1], confidence=_surety(found, followed)) if at else None,
        **followed.about,
    )
    return applied(result, placement)


@dataclass(frozen=True, slots=True)
class _Hung:
    """From where it hangs, px, and the line of each drawing (from 0) in which one shows; ``far`` px to the weights."""

    pivot: Place | None
    lines: Mapping[int, Found]
    far: float = 0.0


def _hung(followed: Followed, placed: Place | None) -> _Hung:
    """Pivot and lines: the circle of the weights tells where lines are looked for, and where those cross it hangs."""
    at = placed or _rough(followed.shapes)
    if at is None:
        return _Hung(None, {})
    still = Still.of(followed.eye.background, drifts=followed.pictures.steady.register is not None)
    found = dict(_lines(followed, at, still))
    crossing = placed or _better(pivots.of_lines(list(found.values())), at, followed.shapes)
    if math.hypot(crossing[0] - at[0], crossing[1] - at[1]) > 2.0:
        found = dict(_lines(followed, crossing, still))
        crossing = placed or _better(pivots.of_lines(list(found.values())), crossing, followed.shapes)
    far = [math.hypot(s.x - crossing[0], s.y - crossing[1]) for s in followed.shapes if s is not None]
    return _Hung(crossing, found, float(np.median(far)) if far else 0.0)


def _drifts(followed: Followed, hung: _Hung, anchor: Box) -> bool:
    """Whether the paper drifts as what is drawn in a box makes believe: then weights and lines are off by as much.

    The end of a line that turns about its pivot looks like something that moves a little, too.
    """
    shifts, at = followed.pictures.drift_at(anchor), hung.pivot
    before, after = list[float](), list[float]()
    for index, (seen, shape) in enumerate(zip(followed.seen, followed.shapes, strict=True)):
        line, shift = hung.lines.get(index), shifts.get(seen.picture)
        if shape is None or line is None or shift is None or at is None:
            continue
        passes = line.dx * (at[1] - line.y) - line.dy * (at[0] - line.x)
        far = math.hypot(shape.x - at[0], shape.y - at[1])
        before += [passes, far - hung.far]
        after += [
            passes + line.dx * shift.y - line.dy * shift.x,
            far - hung.far - (shift.x * (shape.x - at[0]) + shift.y * (shape.y - at[1])) / far,
        ]
    return len(before) >= FEWEST_TOLD and float(np.mean(np.abs(after))) < BETTER * float(np.mean(np.abs(before)))


def _above(hung: _Hung, clip: Clip) -> Box | None:
    """Where what it hangs from is drawn, and its line is not; None where there is no room for that in the frame."""
    if hung.pivot is None:
        return None
    x, y = hung.pivot
    beside, up = max(ANCHOR_PX[0], ANCHOR * hung.far), max(ANCHOR_PX[1], ANCHOR * hung.far)
    left, right = max(0, int(x - beside)), min(clip.width, int(x + beside) + 1)
    top, bottom = max(0, int(y - up)), min(clip.height, int(y + BELOW_PX) + 1)
    return (left, top, right, bottom) if right - left >= LEAST_ANCHOR_PX and bottom - top >= LEAST_ANCHOR_PX else None


def _rough(shapes: Sequence[Shape | None]) -> Place | None:
    """The middle of the circle on which the weights lie; None where they make none."""
    seen = [s for s in shapes if s is not None and not s.clipped] or [s for s in shapes if s is not None]
    if len(seen) < 4:
        return None
    circle = pivots.of_places([(s.x, s.y) for s in seen], float(np.median([math.sqrt(s.area) for s in seen])))
    return circle and circle[:2]


def _lines(followed: Followed, towards: Place, still: Still) -> Iterator[tuple[int, Found]]:
    """The line of each drawing (from 0) in which one shows."""
    for index, (seen, shape) in enumerate(zip(followed.seen, followed.shapes, strict=True)):
        if shape is None or seen.kept is None:
            continue
        found = lines.find(seen.kept, still, (shape.x, shape.y), _radius(shape), towards)
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
    over = {i: (line.least - line.nearest(pivot), line.most - line.nearest(pivot)) for i, line in found.items()}
    usual = _agreed(list(over.values()))
    half = float(np.median([line.half for line in found.values()])) if found else 0.0
    there = {i: shape for i, shape in enumerate(shapes) if shape is not None}
    own = {i: line for i, line in found.items() if i in there and _is_its_line(line, there[i], half)}
    reach = float(np.median([math.dist((s.x, s.y), pivot) for s in there.values()])) if there else 0.0
    if len(own) < SELDOM * len(there) or abs(usual) > FARTHEST_R * reach:
        # It hangs from two, of which one seems to lead to its middle now and then; or what was found is a part of it.
        own = {}
    told: list[Line | None] = []
    for index, shape in enumerate(shapes):
        if shape is None:
            told.append(None)
            continue
        line = own.get(index)
        top, sure = pivot, UNSEEN
        if line is not None:
            along = _beyond(usual, over[index])
            far = math.hypot(shape.x - pivot[0], shape.y - pivot[1])
            slipped = max(ENDS_PX, ENDS_R * far) < abs(along) < FARTHEST_R * far
            top = line.at(line.nearest(pivot) + (along if slipped else 0.0))
            sure = min(shape.confidence, 0.5 + 0.5 * line.seen)
        told.append(Line(drawing=index + 1, points=(top, (shape.x, shape.y)), confidence=round(sure, 3)))
    return tuple(told)


def _is_its_line(line: Found, shape: Shape, half: float) -> bool:
    """Whether a line leads to a weight's middle and is about as wide as others are: not one of two strings, or both."""
    beside = abs(line.dx * (shape.y - line.y) - line.dy * (shape.x - line.x))
    return ODD * half <= line.half <= half / ODD and beside <= max(BESIDE_PX, BESIDE * shape.major / 2)


def _agreed(ends: Sequence[tuple[float, float]]) -> float:
    """The place, px beyond the pivot, at which most lines may end; of several the one nearest to the pivot."""
    places = sorted({0.0, *(v for least_most in ends for v in least_most)}, key=abs)
    return max(places, key=lambda at: sum(abs(_beyond(at, own)) <= 1.0 for own in ends))


def _beyond(usual: float, own: tuple[float, float]) -> float:
    """By how much a line that ends somewhere within ``own`` surely ends beyond (or before) a place, px."""
    return min(own[1] - usual, 0.0) if own[0] <= usual else own[0] - usual


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
    ends = placement.landmarks.get(END, {})
    for index, shape in enumerate(placed.shapes):
        end = ends.get(index + 1)
        if end is not None and shape is not None:
            own[index] = Line(drawing=index + 1, points=(end, (shape.x, shape.y)), confidence=1.0, source="placed")
    return placed.with_marks(LINE, tuple(own))
