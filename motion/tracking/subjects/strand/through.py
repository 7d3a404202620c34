"""A strand followed through a clip: its points from the pivot to the end, and a weight, in every drawing."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import ink
from motion.tracking.subjects.figure.ink import Inked, Sheet
from motion.tracking.subjects.strand import breaks as along_it
from motion.tracking.subjects.strand import links as chains
from motion.tracking.subjects.strand import seal
from motion.tracking.subjects.strand.apart import Parted, parted
from motion.tracking.subjects.strand.base import Base, bases_of, in_its_frame
from motion.tracking.subjects.strand.middle import STEP, Middle, middle_of
from motion.tracking.subjects.strand.polyline import along, placed
from motion.tracking.subjects.strand.root import root_of
from motion.tracking.subjects.strand.seams import Strip, seams_of
from motion.tracking.subjects.strand.topology import Ways, ways_through
from motion.tracking.subjects.strand.weight import LAST, weight_of

Floats = NDArray[np.float64]
Place = tuple[float, float]
NEAR_ROOT = 0.3
"""The root is told from so much of the middle line."""
TAIL_POINTS = 9
WEIGHTS = 0.5
"""It has a weight where so many drawings show one."""
SEEN, APART, APART_PX, HIDDEN_PX = 0.6, 0.02, 2.0, 2.0
"""A joint that is apart is looked for from such a share of what is judged (a share of the reach, px)."""
BEFORE, BEFORE_PX = 1.04, 3.0
"""The middle line ends before it enters a weight: so many of its radii from its middle, and so many px."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Strand:
    """What hangs in one drawing: its points from the pivot to the end, a weight, and how wide it is, px.

    ``apart`` is where what hangs at one of its points, by number, begins, where it has come apart there.
    """

    points: tuple[Place, ...]
    weight: Ellipse | None
    wide: float
    confidence: float
    apart: Mapping[int, Place] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Strands:
    """One entry a drawing; None where nothing hangs. ``pivot`` is where all hang from."""

    drawings: list[Strand | None]
    pivot: Place | None


@dataclass(slots=True)
class _Seen:
    """A drawing on its way from ink to points; nothing of it is seen ``open_px`` about where it hangs."""

    sheet: Sheet
    ways: Ways
    middle: Middle | None = None
    weight: Ellipse | None = None
    line: Floats | None = None
    open_px: int = 0


def carried(kept: Sequence[Inked], empty: frozenset[int], *, hangs: str, links: int | None) -> Strands:
    """The same of what is carried by a base that goes along: each drawing hangs from its own first point."""
    seen = [None if i in empty else _seen(k) for i, k in enumerate(kept)]
    there = [i for i, s in enumerate(seen) if s is not None]
    bases = bases_of([s.sheet for s in seen if s is not None])
    if bases is None:
        return Strands(drawings=[None] * len(seen), pivot=None)
    moved = dict(zip(there, bases, strict=True))
    for index, base in moved.items():
        seen[index] = _without_base(seen[index], base, bases[0])
    found = _strands(seen, hangs=hangs, links=links, pivot=None)
    drawings = [d and _along(d, moved[i].x - bases[0].x, moved[i].y - bases[0].y) for i, d in enumerate(found.drawings)]
    return Strands(drawings=drawings, pivot=found.pivot)


def _without_base(one: _Seen | None, base: Base, first: Base) -> _Seen | None:
    if one is None:
        return None
    sheet = in_its_frame(one.sheet, base, first)
    ways = ways_through(sheet.solid > 0.5)
    return _Seen(sheet, ways) if ways is not None else None


def _along(one: Strand, dx: float, dy: float) -> Strand:
    """A drawing's strand moved by so many px."""

    def moved(place: Place) -> Place:
        return place[0] + dx, place[1] + dy

    weight = one.weight and replace(one.weight, x=one.weight.x + dx, y=one.weight.y + dy)
    apart = {k: moved(p) for k, p in one.apart.items()}
    return replace(one, points=tuple(moved(p) for p in one.points), weight=weight, apart=apart)


def strands(
    kept: Sequence[Inked], empty: frozenset[int], *, hangs: str, links: int | None, pivot: Place | None
) -> Strands:
    """What hangs in every drawing: a ``chain`` of so many links (None: as many as show), or a ``tail``.

    ``pivot`` is where a person put it.
    """
    seen = [None if i in empty else _seen(k) for i, k in enumerate(kept)]
    return _strands(seen, hangs=hangs, links=links, pivot=pivot)


def _strands(seen: Sequence[_Seen | None], *, hangs: str, links: int | None, pivot: Place | None) -> Strands:
    some = [s for s in seen if s is not None]
    start = pivot or _start(some)
    if start is None:
        return Strands(drawings=[None] * len(seen), pivot=None)
    radius = seal.radius_of([s.sheet for s in some], start)
    if radius:
        area = seal.usual_area([s.sheet for s in some], start, radius)
        some = [s for s in some if _closed(s, start, radius, area)]
    for one in some:
        _follow(one, start)
    told = [s for s in some if s.middle is not None]
    if len(told) < 3:
        return Strands(drawings=[None] * len(seen), pivot=None)
    if np.mean([s.weight is not None for s in told]) < WEIGHTS:
        for one in told:
            one.weight = None
    wide = float(np.nanmedian(np.concatenate([s.middle.widths for s in told if s.middle is not None])))
    root = pivot or root_of([_near_root(s, NEAR_ROOT, 0.0) for s in told], start, bends=hangs == "tail")
    _lead_from(told, root)
    if hangs == "chain":
        breaks, fixed = _breaks(told, links, wide)
        if pivot is None:
            # The first link alone tells where it hangs, now that it is known how long that is.
            root = root_of([_near_root(s, breaks[1], wide / 2) for s in told], root, bends=False)
            _lead_from(told, root)
            breaks, fixed = _breaks(told, links, wide)
        points, apart = _chained(told, breaks, fixed, wide / 2, root)
    else:
        points, apart = [_tail(s) for s in told], [None] * len(told)
    by_sheet = {id(s): (p, a) for s, p, a in zip(told, points, apart, strict=True)}
    found = [None if s is None or id(s) not in by_sheet else _strand(s, *by_sheet[id(s)], wide) for s in seen]
    return Strands(drawings=found, pivot=root)


def _strand(one: _Seen, points: tuple[Place, ...], apart: Parted | None, wide: float) -> Strand:
    if apart is not None:
        points = apart.points
    return Strand(
        points=points,
        weight=one.weight,
        wide=wide,
        confidence=_sure(one),
        apart={apart.joint: apart.begins} if apart is not None else {},
    )


def _chained(
    told: Sequence[_Seen], breaks: Sequence[float], fixed: Sequence[bool], half: float, root: Place
) -> tuple[list[tuple[Place, ...]], list[Parted | None]]:
    """Each drawing's points from the pivot to the end, and how it has come apart; None where it hangs together."""
    lines = [s.line for s in told if s.line is not None]
    links = [chains.links_of(line, breaks, half) for line in lines]
    lengths = chains.lengths_of(links, lines, breaks, root, fixed)
    points = chains.joints_of(links, lengths, lines, root, fixed)
    if any(fixed):
        return points, [None] * len(points)
    lengths.append(float(np.median([math.dist(p[-2], p[-1]) for p in points])))
    reach = float(np.median([math.dist(root, p[-1]) for p in points]))
    least = SEEN * max(APART * reach, APART_PX)

    def one(seen: _Seen, own: list[chains.LinkLine], end: Place) -> Parted | None:
        return parted(own, lengths, root, end, least, lambda a, b: _shows(seen.sheet, a, b, half))

    return points, [one(s, own, p[-1]) for s, own, p in zip(told, links, points, strict=True)]


def _shows(sheet: Sheet, one: Place, other: Place, half: float) -> bool:
    """Whether ink shows all along from one link's end to another's; what their roundings hide cannot be seen."""
    far = math.dist(one, other)
    if far <= 2 * half + HIDDEN_PX:
        return True
    shares = np.linspace(half / far, 1 - half / far, max(3, math.ceil(2 * far)))
    x = (one[0] + shares * (other[0] - one[0]) - sheet.left).astype(np.float32)[None]
    y = (one[1] + shares * (other[1] - one[1]) - sheet.top).astype(np.float32)[None]
    told = cv2.remap(sheet.solid, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    return int((told < 0.5).sum()) < HIDDEN_PX


def _seen(kept: Inked) -> _Seen | None:
    sheet = ink.sheet_of(kept, hollow=False)
    if sheet.empty:
        return None
    filled = seal.enclosed(sheet.cover > 0.5)
    solid = np.maximum(sheet.cover, filled.astype(np.float32))
    ways = ways_through(filled)
    return None if ways is None else _Seen(Sheet(sheet.left, sheet.top, sheet.cover, solid, sheet.colour), ways)


def _closed(one: _Seen, root: Place, radius: int, area: float) -> bool:
    """Close a drawing's outline near the root; False where nothing is left of it."""
    one.sheet, one.open_px = seal.without(one.sheet, root, radius, area)
    ways = ways_through(one.sheet.solid > 0.5)
    if ways is None:
        return False
    one.ways = ways
    return True


def _start(some: Sequence[_Seen]) -> Place | None:
    """About where it hangs: of both ends of its ink the one that stays where it is, the upper one of two that do."""
    if len(some) < 3:
        return None
    ends = []
    for s in some:
        one, other = ((x + s.sheet.left, y + s.sheet.top) for x, y in s.ways.ends())
        ends.append(sorted([one, other], key=lambda p: p[1]))
    upper, lower = (np.array([e[k] for e in ends]) for k in (0, 1))
    spread = [float(np.median(np.abs(p - np.median(p, axis=0)).max(axis=1))) for p in (upper, lower)]
    chosen = upper if spread[0] <= 1.5 * spread[1] + 2 else lower
    x, y = np.median(chosen, axis=0)
    return float(x), float(y)


def _follow(one: _Seen, start: Place) -> None:
    """Its middle line from the root on, and its weight."""
    sheet, ways = one.sheet, one.ways
    origin = float(sheet.left), float(sheet.top)
    far = ways.far_from(ways.nearest((start[0] - sheet.left, start[1] - sheet.top)))
    one.middle = middle_of(sheet.solid, origin, ways, far)
    if one.middle is None:
        return
    if one.open_px:
        # Where its edges are cut by that disc its middle is none.
        away = np.hypot(*(one.middle.points - np.array(start)).T)
        one.middle.told[:] &= away > one.open_px + 0.25 * np.nan_to_num(one.middle.widths) + 2
        if not one.middle.told.any():
            one.middle = None
            return
    usual = 0.5 * float(np.nanmedian(one.middle.widths))
    height, width = sheet.cover.shape
    late = np.zeros((height, width), np.uint8)
    last = np.flatnonzero(far >= (1 - LAST) * float(far[np.isfinite(far)].max()))
    columns, rows = (np.rint(ways.pixels[last, axis]).astype(np.intp) for axis in (0, 1))
    late[np.clip(rows, 0, height - 1), np.clip(columns, 0, width - 1)] = 1
    late = np.asarray(cv2.dilate(late, np.ones((3, 3), np.uint8)), dtype=np.uint8)
    one.weight = weight_of(sheet.cover, sheet.solid > 0.5, (sheet.left, sheet.top), usual, late > 0)


def _lead_from(told: Sequence[_Seen], root: Place) -> None:
    """Let all middle lines begin at the root."""
    for one in told:
        one.line = _from_root(one, root)


def _breaks(told: Sequence[_Seen], links: int | None, wide: float) -> tuple[tuple[float, ...], tuple[bool, ...]]:
    """Where the joints are, as shares of the length; and which of them how it turns does not tell."""
    strips = [Strip(s.line, s.sheet) for s in told if s.line is not None]
    lines = [s.line for s in strips]
    breaks = along_it.breaks_of(lines, links)
    turns = chains.turns_at(lines, breaks, wide / 2)
    length = float(np.median([along(line)[-1] for line in lines]))
    weights = [s.weight.major for s in told if s.weight is not None]
    seams = seams_of(strips, wide, float(np.median(weights)) if weights else 0.0)
    return along_it.told_by(breaks, turns, [s / length for s in seams], links, wide / length)


def _near_root(one: _Seen, share: float, but_px: float) -> Floats:
    """What of its middle line, up to a share of it less some px, tells where the root is."""
    if one.middle is None:
        return np.zeros((0, 2))
    points = one.middle.points
    count = max(6, round(share * len(points) - but_px / STEP))
    # The very first stations may be cut by what it hangs from, or by its own rounding.
    skip = 2
    return points[skip:count][one.middle.told[skip:count]]


def _from_root(one: _Seen, root: Place) -> Floats:
    """(n, 2) its middle line from the root to its end: the weight's middle, else the tip of its ink."""
    if one.middle is None:
        return np.zeros((0, 2))
    points = one.middle.points
    away = np.hypot(*(points - np.array(root)).T)
    wide = float(np.nanmedian(one.middle.widths))
    inner = np.arange(len(points)) >= int(away[: max(2, len(points) // 2)].argmin()) + 1
    inner &= away > 0.5 * wide
    end = one.middle.tip
    if one.weight is not None:
        end = one.weight.x, one.weight.y
        within = np.hypot(*(points - np.array(end)).T) <= BEFORE * one.weight.major / 2 + BEFORE_PX
        inner &= ~np.logical_or.accumulate(within)
    else:
        inner &= np.hypot(*(points - np.array(end)).T) > 0.6 * wide
    return np.concatenate([[root], points[inner & one.middle.told], [end]])


def _tail(one: _Seen) -> tuple[Place, ...]:
    """Nine points at equal distances along its middle line."""
    if one.line is None:
        return ()
    told = placed(one.line, np.linspace(0, along(one.line)[-1], TAIL_POINTS))
    return tuple((float(x), float(y)) for x, y in told)


def _sure(one: _Seen) -> float:
    told = 0.0 if one.middle is None else float(one.middle.told.mean())
    return round(min(0.98, 0.4 + 0.58 * math.sqrt(told)), 3)
