"""A strand followed through a clip: its points from the pivot to the end, and a weight, in every drawing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.ink import Inked
from motion.tracking.subjects.strand import seal, slips
from motion.tracking.subjects.strand.apart import Parted
from motion.tracking.subjects.strand.base import Base, bases_of, hanging, in_its_frame, usual_height
from motion.tracking.subjects.strand.chain import breaks_in, chained
from motion.tracking.subjects.strand.drawing import (
    Place,
    Seen,
    closed,
    follow,
    from_root,
    near_root,
    seen_of,
    sure,
    tail_points,
)
from motion.tracking.subjects.strand.root import root_of
from motion.tracking.subjects.strand.topology import ways_through

NEAR_ROOT = 0.3
"""The root is told from so much of the middle line."""
WEIGHTS = 0.5
"""It has a weight where so many drawings show one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Strand:
    """What hangs in one drawing: its points from the pivot to the end, a weight, and how wide it is, px.

    ``apart`` is where what hangs at one of its points, by number, begins, where it has come apart there; ``hook``
    where it would hang from, where it has slipped off that.
    """

    points: tuple[Place, ...]
    weight: Ellipse | None
    wide: float
    confidence: float
    apart: Mapping[int, Place] = field(default_factory=dict)
    hook: Place | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Strands:
    """One entry a drawing; None where nothing hangs. ``pivot`` is where all hang from."""

    drawings: list[Strand | None]
    pivot: Place | None


def strands(
    kept: Sequence[Inked], empty: frozenset[int], *, hangs: str, links: int | None, pivot: Place | None
) -> Strands:
    """What hangs in every drawing: a ``chain`` of so many links (None: as many as show), or a ``tail``.

    ``pivot`` is where a person put it.
    """
    seen = [None if i in empty else seen_of(k) for i, k in enumerate(kept)]
    return _strands(seen, hangs=hangs, links=links, pivot=pivot)


def carried(kept: Sequence[Inked], empty: frozenset[int], *, hangs: str, links: int | None) -> Strands:
    """The same of what is carried by a base that goes along: each drawing hangs from its own first point."""
    seen = [None if i in empty else seen_of(k) for i, k in enumerate(kept)]
    usual = usual_height([s.sheet for s in seen if s is not None])
    for one in seen:
        if one is not None:
            one.sheet = hanging(one.sheet, usual)
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


def _strands(seen: Sequence[Seen | None], *, hangs: str, links: int | None, pivot: Place | None) -> Strands:
    some = [s for s in seen if s is not None]
    start = pivot or _start(some)
    if start is None:
        return Strands(drawings=[None] * len(seen), pivot=None)
    radius = seal.radius_of([s.sheet for s in some], start)
    if radius:
        area = seal.usual_area([s.sheet for s in some], start, radius)
        some = [s for s in some if closed(s, start, radius, area)]
    for one in some:
        follow(one, start)
    told = [s for s in some if s.middle is not None]
    if len(told) < 3:
        return Strands(drawings=[None] * len(seen), pivot=None)
    if np.mean([s.weight is not None for s in told]) < WEIGHTS:
        for one in told:
            one.weight = None
    wide = float(np.nanmedian(np.concatenate([s.middle.widths for s in told if s.middle is not None])))
    root = pivot or root_of([near_root(s, NEAR_ROOT, 0.0) for s in told], start, bends=hangs == "tail")
    for one, slip in zip(told, slips.slips_of(told, root), strict=True):
        slips.without(one, slip)
    _lead_from(told, root)
    if hangs == "chain":
        breaks, fixed = breaks_in(told, links, wide)
        if pivot is None:
            # The first link alone tells where it hangs, now that it is known how long that is.
            root = root_of([near_root(s, breaks[1], wide / 2) for s in told], root, bends=False)
            _lead_from(told, root)
            breaks, fixed = breaks_in(told, links, wide)
        points, apart = chained(told, breaks, fixed, wide / 2, root)
    else:
        points, apart = [tail_points(s) for s in told], [None] * len(told)
    by_sheet = {id(s): (p, a) for s, p, a in zip(told, points, apart, strict=True)}
    found = [None if s is None or id(s) not in by_sheet else _strand(s, *by_sheet[id(s)], wide) for s in seen]
    return Strands(drawings=found, pivot=root)


def _strand(one: Seen, points: tuple[Place, ...], apart: Parted | None, wide: float) -> Strand:
    if apart is not None:
        points = apart.points
    told = Strand(
        points=points,
        weight=one.weight,
        wide=wide,
        confidence=sure(one),
        apart={apart.joint: apart.begins} if apart is not None else {},
    )
    return replace(_along(told, *one.slip), hook=points[0]) if any(one.slip) else told


def _start(some: Sequence[Seen]) -> Place | None:
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


def _lead_from(told: Sequence[Seen], root: Place) -> None:
    """Let all middle lines begin at the root."""
    for one in told:
        one.line = from_root(one, root)


def _without_base(one: Seen | None, base: Base, first: Base) -> Seen | None:
    if one is None:
        return None
    sheet = in_its_frame(one.sheet, base, first)
    ways = ways_through(sheet.solid > 0.5)
    return Seen(sheet, ways) if ways is not None else None


def _along(one: Strand, dx: float, dy: float) -> Strand:
    """A drawing's strand moved by so many px."""

    def moved(place: Place) -> Place:
        return place[0] + dx, place[1] + dy

    weight = one.weight and replace(one.weight, x=one.weight.x + dx, y=one.weight.y + dy)
    apart = {k: moved(p) for k, p in one.apart.items()}
    hook = one.hook and moved(one.hook)
    return replace(one, points=tuple(moved(p) for p in one.points), weight=weight, apart=apart, hook=hook)
