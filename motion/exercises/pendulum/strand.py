"""Following a chain or a tail around a fixed pivot: its points in every drawing, and the weight at its end."""

from __future__ import annotations

from dataclasses import replace

from motion.brief import PendulumBrief
from motion.clip import Clip
from motion.exercises.pendulum.truth import END, JOINT, LINE, of_parts
from motion.track import Line, Oversights, Pivot, Shape, Track
from motion.tracking import placing
from motion.tracking.exposures import expose
from motion.tracking.placing import Placement
from motion.tracking.scan import Eye, Pictures, Progress, scan
from motion.tracking.subjects.figure import ink
from motion.tracking.subjects.strand import rooted
from motion.tracking.subjects.strand.through import Strand, carried, strands

HANGS = {"bob": "chain", "chain": "chain", "tail": "tail"}
"""A line with a weight is a chain of one link."""


def track(
    clip: Clip,
    asked: PendulumBrief,
    *,
    placement: Placement = placing.NOTHING,
    progress: Progress | None = None,
) -> Track:
    """Points from the pivot to the end, and the weight, in every drawing. Raises DamagedFile."""
    tell = progress or (lambda part, step: None)
    tell(0.0, "reading the pictures")
    pictures = Pictures(clip, uneven=True)
    eye = Eye(pictures.background(in_front=rooted.covered))
    found = scan(pictures, eye, tell, keep=ink.inked, compact=False)
    tell(0.9, "finding what hangs")
    empty = found.empty()
    kept = [s.kept for s in found.seen]
    if asked.pivot == "moved":
        told = carried(kept, empty, hangs=HANGS[asked.hangs], links=asked.links if asked.hangs == "chain" else 1)
    else:
        told = strands(kept, empty, hangs=asked.hangs, links=asked.links, pivot=placement.pivot)
    numbered = list(enumerate(told.drawings, start=1))
    seen = sum(d is not None for d in told.drawings)
    # What is carried has no pivot that stays: each line begins where it hangs.
    pivot = told.pivot if asked.pivot == "fixed" else None
    result = of_parts(
        expose(found.numbers, clip.picture_frames),
        tuple(_shape(n, d, clip) for n, d in numbered),
        tuple(
            None
            if d is None
            else Line(drawing=n, points=d.points, confidence=d.confidence, wide=d.wide, apart=d.apart, hook=d.hook)
            for n, d in numbered
        ),
        tuple(s.picture for s in found.seen),
        Pivot(x=pivot[0], y=pivot[1], confidence=round(0.5 + 0.45 * seen / len(numbered), 2)) if pivot else None,
        shifts=tuple(s.shift for s in found.seen) if pictures.steady.register else (),
        oversights=Oversights(
            bare=frozenset(i + 1 for i, s in enumerate(found.seen) if s.bare),
            empty=frozenset(i + 1 for i in empty),
        ),
    )
    return applied(result, placement)


def _shape(drawing: int, strand: Strand | None, clip: Clip) -> Shape | None:
    """The weight, or a round of the strand's own width that stands for its end."""
    if strand is None:
        return None
    weight, (x, y) = strand.weight, strand.points[-1]
    major, minor, angle = (weight.major, weight.minor, weight.angle) if weight else (strand.wide, strand.wide, 0.0)
    half = major / 2
    return Shape(
        drawing=drawing,
        x=x,
        y=y,
        major=major,
        minor=minor,
        angle=angle,
        bottom=y + half,
        clipped=not (half < x < clip.width - 1 - half and half < y < clip.height - 1 - half),
        confidence=strand.confidence,
        bare=weight is None,
    )


def applied(track: Track, placement: Placement) -> Track:
    """The track with the ends, joints and pivot that a person placed; the other points are as found."""
    placed = placing.apply(track, placement)
    if placed is track:
        return track
    own, pivot = list(placed.lines(LINE)), placed.pivot
    for index, (line, shape) in enumerate(zip(own, placed.shapes, strict=True)):
        if shape is None or (pivot is None and line is None):
            continue
        # What is carried hangs from where its own line begins.
        begins = (pivot.x, pivot.y) if pivot else line.points[0] if line else (0.0, 0.0)
        points = [begins, *(line.points[1:-1] if line else ()), (shape.x, shape.y)]
        by_hand = _by_hand(placement, index + 1, len(points))
        for number, at in by_hand.items():
            points[number] = at
        if line is None:
            own[index] = Line(drawing=index + 1, points=tuple(points), confidence=1.0, source="placed")
            continue
        apart = {k: at for k, at in line.apart.items() if k not in by_hand}
        told = replace(line, points=tuple(points), apart=apart)
        own[index] = replace(told, source="placed", confidence=1.0) if by_hand else told
    return placed.with_marks(LINE, tuple(own))


def _by_hand(placement: Placement, drawing: int, count: int) -> dict[int, tuple[float, float]]:
    """The points of a drawing's line that a person placed, by number: its upper end is the first."""
    names = {END: 0, **{f"{JOINT}{k}": k for k in range(1, count - 1)}}
    told = ((k, placement.landmarks.get(name, {}).get(drawing)) for name, k in names.items())
    return {k: at for k, at in told if at is not None}
