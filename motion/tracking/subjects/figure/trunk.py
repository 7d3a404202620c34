"""The trunk of a whole figure, from the neck under its head to the hip.

Laid together by their heads, all drawings show ink where the trunk is; arms and legs swing away from there. So it is
told from the clip where neck and hip lie about; in each drawing the trunk lies on the middle line of its own stroke.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse, axis_angle
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import settle
from motion.tracking.subjects.figure.crotch import hip_from_head
from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.settle import Across, Stretch

Floats = NDArray[np.float64]
HEAD_PX = 30.0
"""How tall a head is when drawings are laid together."""
ORIGIN, ROWS, COLUMNS = (96.0, 24.0), 320, 192
SAMPLED, GROWN = 25, 5
"""So many drawings are laid together, what each shows grown to so many px, since a trunk leans a little."""
ALWAYS = 0.8
"""Ink is the trunk's that so many of the drawings show."""
JUMPS, GAP = 5.0, 16
"""From row to row it goes no farther aside, px; between head and trunk so many rows may be empty."""
LEAST_ROWS, FEW_ROWS = 14, 6
SHOULDERS, LINE_ROWS, WIDE_ROWS, SPILLED, THICK_LINE = slice(4, 9), 11.0, 14.0, 2.0, 8.0
"""In these rows a trunk is as wide as below its shoulders. One narrower than so many small px is a line, and one than
the next beside which the head shows by so many; as thick as the last at most."""
NARROW, STRAIGHT_ROWS = 30, (0.25, 0.7)
"""A trunk is as wide as in so many of a hundred drawings, or rows, at most: arms beside it make it wider. Between such
shares of its width below its end it is as wide as below its shoulders, and arms hardly part from it yet."""
LEAST_SHOWN_PX, UNDER_HEAD = 2.5, 1.0
"""Where no more of its round end shows than so many px the head hides that, and the neck is mostly so far below the
head, small px."""
WIDER, NARROWER = 1.3, 0.7
"""It is no wider, and no narrower, than so many times as wide as it mostly is; ..."""
OFF = (1.6, 0.05)
"""... and lies no farther beside its own line, px, and so much more for every row that was left out."""
HIP_FROM, HIP_ASIDE = 0.7, (0.5, 0.15)
"""The trunk from the head down to such a share of the way leads to the hip: no farther beside it than so much of the
trunk's width, or of the way."""
LOWEST_HIP, USUAL_HIP = 0.40, 0.52
"""Of the way from the ground to the head's middle a hip is no lower than so much, and mostly so high."""
CROTCH = 0.25
"""It ends so much of its width above where both thighs are always drawn."""
UNTIL = 0.92
"""Up to which share of its length it is looked at."""
LEANS, SWAYS = 2.0, 3.0
"""A line that leans by so many degrees otherwise than the trunk mostly does, or so many times as much as is usual, is
that of an arm beside it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Trunk:
    """A clip's trunk: neck and hip from its middle as it mostly lies (px, right and down), how ``wide`` it is, px.

    ``tilt`` is how it mostly lies, degrees. Where thighs did not tell where it ends, it may do so at another hip.
    """

    neck: Place
    hip: Place
    other_hip: Place | None
    wide: float
    tilt: float


def trunks(looking: Looking, heads: Sequence[Ellipse | None]) -> tuple[Trunk, list[Ellipse | None]] | None:
    """The trunk, and where it is in each drawing as a long ellipse; None where none can be told."""
    seen = [n for n, head in enumerate(heads) if head is not None]
    if len(seen) < 3:
        return None
    ends = _about(looking, heads, seen)
    if ends is None:
        return None
    (neck, hip), other_hip, wide = ends
    lines = _lines(looking, heads, seen, neck, hip, wide)
    length = math.dist(neck, hip)
    tilts = np.array([_lean(line.dx, line.dy) for line in lines.values()])
    usual = float(np.median(tilts)) if len(tilts) else _lean(hip[0] - neck[0], hip[1] - neck[1])
    found: list[Ellipse | None] = [None] * len(heads)
    middle = (neck[0] + hip[0]) / 2, (neck[1] + hip[1]) / 2
    leans, asides = _led(seen, lines, heads, middle, usual)
    for k, number in enumerate(seen):
        head = heads[number]
        if head is not None:
            found[number] = _laid(head, middle, float(leans[k]), float(asides[k]), length, max(2.0, wide))
    turn = math.radians(usual)
    half = length / 2 * math.sin(turn), length / 2 * math.cos(turn)
    other = None
    if other_hip is not None:
        along = other_hip / (hip[1] - neck[1]) - 0.5
        other = along * length * math.sin(turn), along * length * math.cos(turn)
    own = Trunk(neck=(-half[0], -half[1]), hip=half, other_hip=other, wide=wide, tilt=axis_angle(usual - 90.0))
    return own, found


def _lean(dx: float, dy: float) -> float:
    """How far right of straight down a direction goes, degrees."""
    return math.degrees(math.atan2(dx, dy))


def _about(
    looking: Looking, heads: Sequence[Ellipse | None], seen: Sequence[int]
) -> tuple[tuple[Place, Place], float | None, float] | None:
    """Neck and hip from the head's middle; how far below the neck hips mostly are, where nothing else tells; and how
    wide the trunk is, px.
    """
    some = [seen[round(k)] for k in np.linspace(0, len(seen) - 1, min(SAMPLED, len(seen)))]
    tall = float(np.median([2 * h.half_height for h in heads if h is not None]))
    scale = HEAD_PX / tall
    total, lows = np.zeros((ROWS, COLUMNS), np.float32), list[float]()
    for number in some:
        head, sheet = heads[number], looking.sheet(number)
        if head is None:
            continue
        lows.append(sheet.top + float(np.flatnonzero(sheet.inked.any(axis=1))[-1]) - head.y)
        x, y = head.x - sheet.left, head.y - sheet.top
        matrix = np.array([[scale, 0.0, ORIGIN[0] - scale * x], [0.0, scale, ORIGIN[1] - scale * y]])
        blurred = cv2.blur(sheet.solid, (max(1, round(1 / scale)),) * 2) if scale < 0.8 else sheet.solid
        small = cv2.warpAffine(blurred, matrix, (COLUMNS, ROWS), flags=cv2.INTER_LINEAR)
        total += cv2.dilate((small > 0.25).astype(np.uint8), np.ones((GROWN, GROWN), np.uint8))
    always = total >= ALWAYS * len(some)
    hip = hip_from_head(looking, heads, some)
    if hip is not None and not _under_trunk((ORIGIN[0] + scale * hip[0], ORIGIN[1] + scale * hip[1]), always):
        hip = None
    last_row = ROWS if hip is None else min(ROWS, round(ORIGIN[1] + scale * hip[1]))
    rows = _downwards(always, last_row, known=hip is not None)
    if rows is None:
        return None
    ys, middles, widths = rows
    wide = float(np.median(widths[len(widths) // 6 : max(2, len(widths) * 2 // 3)]))
    last = ys[-1] - CROTCH * wide if hip is None else float(last_row)
    ground = ORIGIN[1] + scale * float(np.median(lows))
    usual = ground - USUAL_HIP * (ground - ORIGIN[1])
    if hip is None and ground - last < LOWEST_HIP * (ground - ORIGIN[1]):
        # Thick legs side by side are as wide as the trunk, and lead on from it.
        last = usual
    inside = ys <= last
    if np.count_nonzero(inside) < LEAST_ROWS / 2:
        return None
    slope, start = np.polyfit(ys[inside], middles[inside], 1)
    top = (slope * ys[0] + start - ORIGIN[0]) / scale, (ys[0] + GROWN // 2 - ORIGIN[1]) / scale
    shown = _shown_widths(looking, heads, some, top, (wide - (GROWN - 1)) / scale)
    ends = [(float(slope * y + start), float(y)) for y in (_neck_row(ys, widths, shown, scale), last)]
    neck, low = (((x - ORIGIN[0]) / scale, (y - ORIGIN[1]) / scale) for x, y in ends)
    other = (usual - ORIGIN[1]) / scale - neck[1] if hip is None and usual < last else None
    return (neck, hip or low), other, max(1.5, (wide - (GROWN - 1)) / scale)


def _neck_row(ys: Floats, widths: Floats, shown: Floats, scale: float) -> float:
    """In which row the neck lies, where arms hang: as far below its upper end as a trunk is wide that ends round.

    How wide it is in the rows that are ``shown`` below the head, px, tells how much of the round end the head hides.
    """
    wide = float(np.median(widths[SHOULDERS]))
    if wide < LINE_ROWS or (wide < WIDE_ROWS and widths[0] > wide + SPILLED):
        return float(ys[0] + 0.5 * min(wide, THICK_LINE))
    below = below_round_end(shown)
    return float(ys[0] + (UNDER_HEAD if below < LEAST_SHOWN_PX else GROWN // 2 - 1 + scale * below))


def below_round_end(shown: Floats) -> float:
    """How far below the first of some rows (n,), so wide each, px, a round end is as wide as what it ends.

    By least absolute differences; 0 for few rows.
    """
    if len(shown) < FEW_ROWS:
        return 0.0
    first, last = (round(share * len(shown)) for share in STRAIGHT_ROWS)
    half = float(np.percentile(shown[first:last], NARROW)) / 2
    rows, depths = np.arange(len(shown)) + 0.5, np.arange(0.0, half + 0.25, 0.5)
    above = np.clip(depths[:, None] - rows, 0.0, half)
    off = np.abs(2 * np.sqrt(half**2 - above**2) - shown)[:, :last].sum(axis=1)
    return float(depths[int(off.argmin())])


def _shown_widths(
    looking: Looking, heads: Sequence[Ellipse | None], some: Sequence[int], neck: Place, wide: float
) -> Floats:
    """(n,) how wide the trunk shows in the rows from where its ``neck`` seems to be, from the head's middle, px.

    Arms beside it only make it wider, so it is as wide as in the drawings in which it is narrow.
    """
    rows = np.arange(max(3, round(wide)))
    found = np.full((len(some), len(rows)), np.nan)
    for k, number in enumerate(some):
        head, sheet = heads[number], looking.sheet(number)
        if head is None:
            continue
        x, y = round(head.x + neck[0] - sheet.left), round(head.y + neck[1] - sheet.top)
        for row in rows[(y + rows >= 0) & (y + rows < sheet.solid.shape[0])]:
            run = _run_near(sheet.solid[y + row] > 0.5, x, JUMPS)
            if run is not None:
                found[k, row] = run[1] - run[0] + 1
    found = found[:, ~np.isnan(found).all(axis=0)]
    return np.asarray(np.nanpercentile(found, NARROW, axis=0)) if found.size else np.zeros(0)


def _under_trunk(hip: Place, always: NDArray[np.bool_]) -> bool:
    """Whether a hip lies where the trunk leads, all in small px: thick legs cross below it, and beside it."""
    rows = _downwards(always, min(ROWS, round(ORIGIN[1] + HIP_FROM * (hip[1] - ORIGIN[1]))), known=True)
    if rows is None:
        return True
    ys, middles, widths = rows
    slope, start = np.polyfit(ys, middles, 1)
    aside = abs(hip[0] - (slope * hip[1] + start))
    return bool(aside <= max(HIP_ASIDE[0] * float(np.median(widths)), HIP_ASIDE[1] * (hip[1] - ORIGIN[1])))


def _downwards(always: NDArray[np.bool_], end: int, *, known: bool) -> tuple[Floats, Floats, Floats] | None:
    """Rows below the head in which there always is ink, their middles and their widths.

    Down to a row that is ``known``, else as far as they are the trunk's.
    """
    first = round(ORIGIN[1] + HEAD_PX / 2) + 1
    found: list[tuple[float, float, float]] = []
    aside, empty = ORIGIN[0], 0
    for y in range(first, end):
        run = _run_near(always[y], aside, JUMPS if found else HEAD_PX / 2)
        if run is None:
            if found and always[y, round(aside)]:
                # An arm that hardly swings lies beside it there.
                continue
            empty += 1
            if empty > (2 if found else GAP):
                if len(found) >= FEW_ROWS or y > first + GAP:
                    break
                # What ends at once is no trunk, but the edge of a head.
                found, aside = [], ORIGIN[0]
            continue
        empty = 0
        aside = (run[0] + run[1]) / 2
        found.append((float(y), aside, run[1] - run[0] + 1))
    if len(found) < LEAST_ROWS:
        return None
    ys, middles, widths = np.array(found).T
    last = len(ys) if known else _straight(ys, middles, widths)
    return ys[:last], middles[:last], widths[:last]


def _straight(ys: Floats, middles: Floats, widths: Floats) -> int:
    """How many rows are the trunk's: those as wide as it, up to the last that lies straight on.

    Where arms lie over it, it is wider; below the hip thighs go another way, or only what both have in common is left.
    """
    usual = float(np.percentile(widths[: 2 * round(HEAD_PX)], 35))
    alike = np.flatnonzero((widths <= WIDER * usual + 1) & (widths >= NARROWER * usual - 1))
    own = list(alike[:LEAST_ROWS])
    for row in alike[LEAST_ROWS:]:
        slope, start = np.polyfit(ys[own], middles[own], 1)
        if abs(middles[row] - slope * ys[row] - start) <= OFF[0] + OFF[1] * (ys[row] - ys[own[-1]]):
            own.append(row)
    return int(own[-1]) + 1 if own else len(ys)


def _run_near(row: NDArray[np.bool_], aside: float, far: float) -> tuple[float, float] | None:
    """Where the run of ink begins and ends whose middle, or edge, is nearest to a place."""
    places = np.flatnonzero(row)
    if not len(places):
        return None
    runs = np.split(places, 1 + np.flatnonzero(np.diff(places) > 1))
    near = min(runs, key=lambda r: abs((r[0] + r[-1]) / 2 - aside))
    return (float(near[0]), float(near[-1])) if abs((near[0] + near[-1]) / 2 - aside) <= far else None


def _lines(
    looking: Looking, heads: Sequence[Ellipse | None], seen: Sequence[int], neck: Place, hip: Place, wide: float
) -> dict[int, Stretch]:
    """The trunk's middle line in those drawings in which enough of it shows by itself."""
    told: dict[int, Across] = {}
    reach = 0.9 * wide + 0.14 * math.dist(neck, hip) + 3
    for number in seen:
        head, sheet = heads[number], looking.sheet(number)
        if head is None:
            continue
        cover = np.where(bodies.without_body(sheet, head, 1.0), sheet.solid, np.float32(0))
        ends = (head.x + neck[0], head.y + neck[1]), (head.x + hip[0], head.y + hip[1])
        told[number] = settle.look_across(cover, (sheet.left, sheet.top), [(*ends, UNTIL)], reach).across()[0]
    widths = np.concatenate([a.widths for a in told.values()] or [np.zeros(0)])
    usual = float(np.percentile(widths, 35)) if len(widths) else wide
    lines = {n: line for n, across in told.items() if (line := settle.stretch(across, usual)) is not None}
    if len(lines) < 3:
        return lines
    leans = np.array([_lean(line.dx, line.dy) for line in lines.values()])
    mostly = float(np.median(leans))
    most = max(LEANS, SWAYS * float(np.median(np.abs(leans - mostly))))
    return {n: line for n, line in lines.items() if abs(_lean(line.dx, line.dy) - mostly) < most}


def _led(
    seen: Sequence[int],
    lines: dict[int, Stretch],
    heads: Sequence[Ellipse | None],
    middle: Place,
    usual: float,
) -> tuple[Floats, Floats]:
    """(n,) how each drawing's trunk leans, and how far right of where its head has it it lies; led where unseen."""
    told = []
    for k, number in enumerate(seen):
        line, head = lines.get(number), heads[number]
        if line is None or head is None:
            continue
        at = line.nearest((head.x + middle[0], head.y + middle[1]))
        told.append((float(k), _lean(line.dx, line.dy), at[0] - head.x - middle[0]))
    if not told:
        return np.full(len(seen), usual), np.zeros(len(seen))
    where, leans, asides = np.array(told).T
    order = np.arange(len(seen))
    return np.interp(order, where, leans), np.interp(order, where, asides)


def _laid(head: Ellipse, middle: Place, lean: float, aside: float, length: float, wide: float) -> Ellipse:
    return Ellipse(
        x=head.x + middle[0] + aside,
        y=head.y + middle[1],
        major=max(length, wide + 1e-3),
        minor=wide,
        angle=axis_angle(lean - 90.0),
    )
