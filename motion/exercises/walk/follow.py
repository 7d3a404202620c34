"""Following a body on two legs through a clip, and what a person placed in it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from motion.brief import Brief
from motion.clip import Clip
from motion.exercises.walk.asked import asked_of
from motion.exercises.walk.figure import LANDMARKS, SIDES, UPPER_LANDMARKS, Side, swapped
from motion.exercises.walk.truth import FIGURE, HEAD, of_parts
from motion.exercises.walk.undrawn import standing_line
from motion.track import Figure, Ground, Oversights, Shape, Track
from motion.tracking import ground as grounds
from motion.tracking import placing
from motion.tracking.ellipse import Ellipse
from motion.tracking.exposures import expose
from motion.tracking.placing import Placement
from motion.tracking.scan import Eye, Pictures, Progress, scan
from motion.tracking.subjects.figure import behind, ink
from motion.tracking.subjects.figure.drawn import TOLD, Drawn
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.through import Figures, figures

EXPLAINED, MOST_TOLD = 0.6, 0.6
"""A figure is told in a drawing whose ink its legs explain to such a share, and in a clip with so many such."""
LEAST_TOLD = 0.3
"""Of a drawing that is told less surely all is as good as hidden."""
EDGE_PX = 1.5
"""What comes so near to the frame's edge may go on beyond it."""
HIDDEN_PX = 4.5
"""So much above a drawn ground straightened pictures differ from it by their edges alone."""
NONE_EXPLAINED, ALL_EXPLAINED = 0.3, 0.8
"""Between these shares it grows surer; more than the latter no hand's wobble leaves."""


def track(
    clip: Clip, brief: Brief, *, placement: Placement = placing.NOTHING, progress: Progress | None = None
) -> Track:
    """Body and landmarks in every drawing, and the ground. Raises DamagedFile when a picture cannot be decoded."""
    tell = progress or (lambda part, step: None)
    tell(0.0, "reading the pictures")
    # One that crosses the picture leaves every place, and shows what is behind it.
    stays = asked_of(brief).path == "in_place"
    pictures = Pictures(clip, uneven=True, stays=stays)
    eye = Eye(pictures.background(behind.covered if stays else None))
    found = scan(pictures, eye, tell, keep=ink.inked, compact=False)
    tell(0.9, "finding the figure")
    exposures = expose(found.numbers, clip.picture_frames)
    direction, whole = asked_of(brief).direction, asked_of(brief).figure == "whole"
    told = figures(
        [s.kept for s in found.seen],
        found.empty(),
        facing=None if direction is None else (1.0 if direction == "right" else -1.0),
        playing=Playing([(e.drawing - 1, e.first_frame) for e in exposures]),
        paper=np.median(eye.background.light[::9, ::9, :3].reshape(-1, 3), axis=0).astype(np.float64),
        helped=Help(
            {name: {n - 1: at for n, at in places.items()} for name, places in placement.landmarks.items()},
            {n - 1: body for n, body in placement.shapes.items()},
        ),
        whole=whole,
        told_apart=asked_of(brief).sides == "told",
    )
    drifts, found_figures = pictures.steady.register is not None, _figures(told, clip)
    ground = grounds.find_under(eye.background.light, _standing(told), brief.ground_y)
    if ground is not None and not ground.drawn and told.build is not None:
        ground = standing_line(ground, found_figures, told.build.leg)
    result = of_parts(
        exposures,
        tuple(_shape(i + 1, d.head if whole else d.body, told.lows[i], clip) for i, d in enumerate(told.drawings)),
        tuple(_down_to(ground, f) if f and ground and ground.drawn and drifts else f for f in found_figures),
        tuple(s.picture for s in found.seen),
        ground,
        shifts=tuple(s.shift for s in found.seen) if drifts else (),
        oversights=Oversights(
            bare=frozenset(i + 1 for i, s in enumerate(found.seen) if s.bare),
            empty=frozenset(i + 1 for i in found.empty()),
        ),
        whole=whole,
    )
    return applied(result, placement)


def _shape(drawing: int, body: Ellipse | None, low: float | None, clip: Clip) -> Shape | None:
    if body is None:
        return None
    wide, high = body.half_width, body.half_height
    inside = (
        body.x - wide > 1 and body.x + wide < clip.width - 2 and body.y - high > 1 and body.y + high < clip.height - 2
    )
    return Shape(
        drawing=drawing,
        x=body.x,
        y=body.y,
        major=body.major,
        minor=body.minor,
        angle=body.angle,
        bottom=body.y + high if low is None else low,
        clipped=not inside,
        confidence=0.95,
    )


def _figures(told: Figures, clip: Clip) -> list[Figure | None]:
    """Each drawing's figure; without landmarks where too little of the clip's ink is legs.

    Of one that reaches out of the frame all are as good as hidden, since what lies outside leads the rest astray, and
    its lowest point may lie there; and so of one that is hardly told.
    """
    clear = [d.explained >= EXPLAINED for d in told.drawings if d.places]
    readable = bool(clear) and float(np.mean(clear)) >= MOST_TOLD
    found: list[Figure | None] = []
    for index, drawn in enumerate(told.drawings):
        if drawn.body is None and told.lows[index] is None:
            found.append(None)
            continue
        shows = readable and bool(drawn.places)
        reach = told.reaches[index]
        confidence = _confidence(drawn) if shows else 0.1
        inside = reach is not None and reach[0] > EDGE_PX and reach[1] < clip.width - 1 - EDGE_PX
        inside = inside and (not shows or confidence >= LEAST_TOLD)
        least = TOLD if inside else math.inf
        found.append(
            Figure(
                drawing=index + 1,
                points=dict(drawn.places) if shows else {},
                hidden=frozenset(n for n, sure in drawn.sure.items() if sure < least) if shows else frozenset(),
                firm=frozenset(drawn.firm) if shows and inside else frozenset(),
                lows={side: f.low for side, f in drawn.feet.items() if f is not None} if shows and inside else {},
                low=told.lows[index] if inside else None,
                span=told.spans[index] if inside else None,
                confidence=confidence,
            )
        )
    return found


def _down_to(ground: Ground, figure: Figure) -> Figure:
    """On paper that drifts a drawn ground hides what lies in its edge: feet that end just above it reach down to it."""
    points, lows = dict(figure.points), dict(figure.lows)
    for side in SIDES:
        ends = [name for end in ("heel", "toe") if (name := f"{end}_{side}") in points and name not in figure.hidden]
        if not ends:
            continue
        lowest = max(points[name][1] - ground.y_at(points[name][0]) for name in ends)
        lowest = max(lowest, lows[side] - ground.y_at(points[ends[0]][0])) if side in lows else lowest
        if -HIDDEN_PX <= lowest < 0:
            points |= {name: (points[name][0], points[name][1] - lowest) for name in ends}
            if side in lows:
                lows[side] -= lowest
    low = figure.low
    if low is not None and figure.span is not None:
        line = ground.y_at(sum(figure.span) / 2)
        low = line if line - HIDDEN_PX <= low < line else low
    return replace(figure, points=points, lows=lows, low=low)


def _confidence(drawn: Drawn) -> float:
    """How sure a drawing's figure is: how much of its ink its legs explain, and how sure its landmarks are."""
    explained = min(1.0, max(0.0, drawn.explained - NONE_EXPLAINED) / (ALL_EXPLAINED - NONE_EXPLAINED))
    return round(min(0.99, explained * (0.4 + 0.6 * float(np.mean(list(drawn.sure.values()))))), 3)


def _standing(told: Figures) -> list[Shape]:
    """What stands on the ground in each drawing: a small shape at the lowest of its ink."""
    found = []
    for index, (low, span) in enumerate(zip(told.lows, told.spans, strict=True)):
        if low is None or span is None:
            continue
        size = 0.3 * told.build.leg if told.build else max(8.0, span[1] - span[0])
        found.append(
            Shape(
                drawing=index + 1,
                x=(span[0] + span[1]) / 2,
                y=low - size / 2,
                major=size,
                minor=size,
                angle=0.0,
                bottom=low,
                clipped=False,
                confidence=0.9,
            )
        )
    return found


def applied(track: Track, placement: Placement) -> Track:
    """The track with what a person placed: bodies, landmarks, sides that were swapped, the ground."""
    placed = placing.apply(track, placement)
    if placed is track:
        return track
    by_drawing: dict[int, dict[str, tuple[float, float]]] = {}
    if track.subject == HEAD:
        # A head that was placed as an ellipse has its middle there.
        by_drawing = {number: {"head": (head.x, head.y)} for number, head in placement.shapes.items()}
    for name, places in placement.landmarks.items():
        for drawing, at in places.items() if name in (*LANDMARKS, *UPPER_LANDMARKS) else ():
            by_drawing.setdefault(drawing, {})[name] = at
    own = []
    for number, figure in enumerate(track.figures(FIGURE), start=1):
        changed = swapped_sides(figure) if figure is not None and number in placement.turned else figure
        own.append(_with(changed, number, by_drawing.get(number, {})))
    return placed.with_marks(FIGURE, tuple(own))


def swapped_sides(figure: Figure, joints: tuple[str, ...] | None = None) -> Figure:
    """The same figure with near and far the other way round; only some of its joints where they are given."""

    def own(name: str) -> str:
        return swapped(name) if joints is None or name.split("_", maxsplit=1)[0] in joints else name

    return replace(
        figure,
        points={own(name): at for name, at in figure.points.items()},
        hidden=frozenset(own(name) for name in figure.hidden),
        firm=frozenset(own(name) for name in figure.firm),
        placed=frozenset(own(name) for name in figure.placed),
        lows=figure.lows if joints else {_other(side): low for side, low in figure.lows.items()},
    )


def _other(side: str) -> Side:
    return SIDES[1] if side == SIDES[0] else SIDES[0]


def _with(figure: Figure | None, drawing: int, places: Mapping[str, tuple[float, float]]) -> Figure | None:
    """A figure with landmarks that were placed; a foot whose sole was placed is as low as that."""
    if not places:
        return figure
    before = figure or Figure(drawing=drawing, points={})
    lows = dict(before.lows)
    points = {**before.points, **places}
    for side in SIDES:
        ends = [f"heel_{side}", f"toe_{side}"]
        if any(end in places for end in ends) and all(end in points for end in ends):
            lows[side] = max(points[end][1] for end in ends)
    return replace(
        before,
        points=points,
        hidden=before.hidden - frozenset(places),
        firm=before.firm | frozenset(places),
        placed=before.placed | frozenset(places),
        lows=lows,
        confidence=1.0 if len(before.placed | frozenset(places)) >= len(LANDMARKS) else max(before.confidence, 0.5),
    )
