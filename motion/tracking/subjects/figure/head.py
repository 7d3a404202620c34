"""The head of a whole figure: the uppermost thick part, as an ellipse in every drawing.

A hat, hair, a neck or shoulders hang together with it. So its outline is met from its middle on all sides, and the
ellipse is the one that most of it agrees on.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from motion.tracking.conics import fit_robust
from motion.tracking.ellipse import Ellipse, axis_angle
from motion.tracking.subjects.figure.body import Core, amiss, usual_radius
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.looking import Looking

Floats = NDArray[np.float64]
UPPER = 0.36
"""The head's middle lies in this upper share of the figure."""
THICK, NARROWS = 0.6, 0.97
"""It is the uppermost part so many times as thick as the thickest up there, down to where that narrows by so much."""
RAYS, STEP = 72, 0.5
NEAREST, FARTHEST = 0.55, 1.8
"""Its outline lies between so many times its thickness from its middle."""
AGREED, ALL_ROUND = 0.5, 0.85
"""A head is one where so much of its outline agrees on an ellipse; it has its own size where so much does."""
LIKE, SAME_FORM = (0.75, 1.33), 0.1
"""A head is about as thick as it usually is, and of the same form; else it has the size of those that are."""
SMALLEST, ABOUT = 30, 1.06
"""What hangs together with it makes it longer: those so small, of all percent, are as large as it usually is."""
LONGEST = 2.0
"""No head is so many times as long as it is wide."""
GROWS_IN, CAP, FASTER_PX, FASTER = 3, 0.3, 1.6, 0.05
"""From so much of its width below its top on, a head that grows on one side by so many px, or so much of its width,
more in so many rows than in those before has shoulders."""
GROWN, ALL_OVER = 0.03, 0.4
"""A head is of another size by so much, if all of its outline is, to such a share of that."""
SCALES = (0.8, 0.85, 0.9, 0.94, 1.0, 1.06, 1.1, 1.14, 1.18, 1.24)
"""So many times as large as mostly a head is tried of which only parts of its outline tell."""
ROUNDS, SETTLED = 12, 0.01
LAID, FEWEST, FINER, ASTRAY, BETTER = 2, 5, 3, 0.02, 0.7
"""So often it is told how heads lie in their outlines. Of so many one that lies there otherwise, by such a share of its
width, is laid as most are, where its outline fits theirs so much better then; it is told so much finer than by rays."""


def heads(looking: Looking, placed: Mapping[int, Ellipse]) -> list[Ellipse | None]:
    """The head in each drawing: as placed, else as most of its outline has it; None where there is none."""
    cores = [None if looking.is_empty(n) else core(looking.sheet(n)) for n in range(len(looking))]
    radius = usual_radius(cores)
    if radius is None:
        return [placed.get(n) for n in range(len(looking))]
    cores = [c and _as_thick(looking.sheet(n), c, radius) for n, c in enumerate(cores)]
    for number, (high, low) in amiss(cores).items():
        cores[number] = _below_top(looking.sheet(number), (high + low) / 2) or cores[number]
    told = _Outlines(looking, cores, radius)
    if told.usual is not None and told.usual.major > LONGEST * told.usual.minor:
        # A trunk that is broader than the head, and close below it, was taken for one with it.
        above = [None if looking.is_empty(n) else _above_shoulders(looking.sheet(n)) for n in range(len(looking))]
        radius = usual_radius(above)
        other = None if radius is None else _Outlines(looking, above, radius)
        if other is not None and other.usual is not None and other.usual.major <= LONGEST * other.usual.minor:
            told = other
    found = told.heads(len(looking))
    return [placed.get(n) or head for n, head in enumerate(found)]


class _Outlines:
    """What the outlines around some places tell of heads; ``usual`` is the size of those that show clearly."""

    def __init__(self, looking: Looking, cores: Sequence[Core | None], radius: float) -> None:
        self._seen = [(n, c) for n, c in enumerate(cores) if c is not None]
        outlines = [outline(looking.sheet(n), c, radius) for n, c in self._seen]
        self._points, self._there = (np.array([o[k] for o in outlines]) for k in (0, 1))
        self._fits = fit_robust(self._points, self._there)
        weights = self._fits.weights
        self._clear = [_is_clear(self._fits.ellipses[k], weights[k]) for k in range(len(self._seen))]
        self.usual = _usual([self._fits.ellipses[k] for k, well in enumerate(self._clear) if well])

    def heads(self, count: int) -> list[Ellipse | None]:
        """The head in each of so many drawings."""
        found: list[Ellipse | None] = [None] * count
        sized: set[int] = set()
        for k, (number, at) in enumerate(self._seen):
            own = self._fits.ellipses[k]
            whole_round = float(self._fits.weights[k].sum()) > ALL_ROUND * RAYS
            if (
                own is not None
                and self._clear[k]
                and (self.usual is None or (whole_round and _is_like(own, self.usual)))
            ):
                found[number] = own
            elif self.usual is not None:
                found[number] = _of_size(self._points[k], self._there[k], at, self.usual)
                sized.add(number)
        outlines = [(n, self._points[k][self._there[k]]) for k, (n, _) in enumerate(self._seen)]
        for _ in range(LAID):
            lay_alike(outlines, found)
        size_alike(outlines, found, sized)
        return found


def lay_alike(outlines: Sequence[tuple[int, Floats]], found: list[Ellipse | None]) -> None:
    """Heads that lie in their outlines otherwise than most do are laid there as those are.

    Of a head that is no ellipse, under a hat, one is fitted here to the one part of the outline, there to another; all
    drawings show the same head, and where it lies in its outline is what most of them say.
    """
    told = [(n, edge, own) for n, edge in outlines if (own := found[n]) is not None and len(edge) >= RAYS // 2]
    if len(told) < FEWEST:
        return
    usual = np.median([_profile(edge, own) for _, edge, own in told], axis=0)
    outline = KDTree(_outline_of(usual))
    for number, edge, own in told:
        start = edge - np.array([own.x, own.y])
        moved = _moved_onto(start, outline)
        before, after = (float(np.median(_nearest(start - way, outline)[0])) for way in (np.zeros(2), moved))
        if float(np.hypot(*moved)) > ASTRAY * own.minor and after < BETTER * before:
            found[number] = replace(own, x=own.x + float(moved[0]), y=own.y + float(moved[1]))


def size_alike(
    outlines: Sequence[tuple[int, Floats]], found: list[Ellipse | None], sized: Collection[int] | None = None
) -> None:
    """Heads of the usual size (``sized``; None: all) are as much larger, or smaller, as their outlines are.

    Of a head under a hat no ellipse tells its size; that its outline, hat and all, is another than most drawings' does.
    """
    told = [(n, edge, own) for n, edge in outlines if (own := found[n]) is not None and len(edge) >= RAYS // 2]
    if len(told) < FEWEST:
        return
    profiles = np.array([_profile(edge, own) for _, edge, own in told])
    usual = np.median(profiles, axis=0)
    for (number, edge, own), ratio in zip(told, profiles / usual, strict=True):
        if sized is not None and number not in sized:
            continue
        # One that lies off by a little is as much farther on one side as it is nearer on the other.
        both = (ratio + np.roll(ratio, len(ratio) // 2)) / 2
        times = float(np.median(both))
        if abs(times - 1) <= GROWN:
            continue
        if float(np.median(np.abs(both - times))) >= ALL_OVER * abs(times - 1):
            times = _scale_onto(edge - np.array([own.x, own.y]), KDTree(_outline_of(usual)))
        found[number] = replace(own, major=times * own.major, minor=times * own.minor)


def _outline_of(profile: Floats) -> Floats:
    """(n, 2) an outline by how far it is all round."""
    turns = np.linspace(-math.pi, math.pi, len(profile), endpoint=False)
    return np.asarray(profile[:, None] * np.stack([np.cos(turns), np.sin(turns)], axis=1))


def _scale_onto(edge: Floats, outline: KDTree) -> float:
    """How many times as large as an outline a head's is, wherever it lies; 1 where no other size fits much better."""
    off = []
    for times in SCALES:
        start = edge / times
        off.append(float(np.median(_nearest(start - _moved_onto(start, outline), outline)[0])))
    best = int(np.argmin(off))
    return SCALES[best] if off[best] < BETTER * off[SCALES.index(1.0)] else 1.0


def _profile(edge: Floats, own: Ellipse) -> Floats:
    """(finely all round,) how far an outline is from a head's middle, px."""
    away = edge - np.array([own.x, own.y])
    turns, far = np.arctan2(away[:, 1], away[:, 0]), np.hypot(away[:, 0], away[:, 1])
    order = np.argsort(turns)
    all_round = np.linspace(-math.pi, math.pi, FINER * RAYS, endpoint=False)
    return np.asarray(np.interp(all_round, turns[order], far[order], period=2 * math.pi), dtype=np.float64)


def _nearest(edge: Floats, outline: KDTree) -> tuple[Floats, Floats]:
    """(n,) how far places lie from an outline's, and (n, 2) by which way."""
    far, at = outline.query(edge)
    return np.asarray(far), np.asarray(edge - outline.data[at])


def _moved_onto(edge: Floats, outline: KDTree) -> Floats:
    """(2,) by how much places lie beside an outline that most of them lie on, px."""
    moved = np.zeros(2)
    for _ in range(3 * ROUNDS):
        far, ways = _nearest(edge - moved, outline)
        weights = 1 / (1 + (far / max(0.5, 1.5 * float(np.median(far)))) ** 2) ** 2
        step = np.asarray(weights @ ways / weights.sum(), dtype=np.float64)
        moved = moved + step
        if float(np.abs(step).max()) < SETTLED:
            break
    return moved


def core(sheet: Sheet) -> Core | None:
    """The uppermost thick place of a drawing's figure; None where nothing is drawn."""
    marked = sheet.inked
    rows = np.flatnonzero(marked.any(axis=1))
    if len(rows) < 16:
        return None
    upper = _depth(sheet)[: int(rows[0] + UPPER * (rows[-1] - rows[0])) + 1]
    return _uppermost(upper, THICK * float(upper.max()), sheet)


def _as_thick(sheet: Sheet, at: Core, radius: float) -> Core | None:
    """The same place where it is about as thick as heads usually are, else the uppermost that is, if any."""
    if LIKE[0] * radius <= at.radius <= LIKE[1] * radius:
        return at
    return _uppermost(_depth(sheet), LIKE[0] * radius, sheet)


def _below_top(sheet: Sheet, below: float) -> Core | None:
    """The thickest place so many px below a drawing's uppermost ink: where heads mostly have theirs."""
    depth, top = _depth(sheet), int(np.flatnonzero(sheet.inked.any(axis=1))[0])
    y = top + round(below)
    if y >= len(depth):
        return None
    x = int(depth[y].argmax())
    return Core(x + sheet.left, y + sheet.top, float(depth[y, x]), float(y - top)) if depth[y, x] > 0 else None


def _above_shoulders(sheet: Sheet) -> Core | None:
    """The middle of what is above a drawing's shoulders: where the figure suddenly grows wider, on either side.

    From its top on a head grows wider more and more slowly.
    """
    figure = sheet.whole
    rows = np.flatnonzero(figure.any(axis=1))
    if len(rows) < 16:
        return None
    top = int(rows[0])
    edges = np.array([np.flatnonzero(row)[[0, -1]] for row in figure[top : top + len(rows) // 2] if row.any()])
    edges = edges.astype(np.float64) * np.array([-1.0, 1.0])
    grows = edges[GROWS_IN:] - edges[:-GROWS_IN]
    faster = (grows[GROWS_IN:] - np.maximum(0.0, grows[:-GROWS_IN])).max(axis=1)
    widths = edges.sum(axis=1) + 1
    at = np.arange(len(faster)) + GROWS_IN
    shoulders = at[(at > CAP * widths[at]) & (faster > np.maximum(FASTER_PX, FASTER * widths[at]))]
    if not len(shoulders):
        return None
    low = int(shoulders[0])
    half = float(widths[low]) / 2
    return Core((edges[low, 1] - edges[low, 0]) / 2 + sheet.left, top + max(half, low / 2) + sheet.top, half, half)


def _depth(sheet: Sheet) -> NDArray[np.float32]:
    """(height, width) how far each pixel is from the figure's edge, what outlines enclose being the figure's."""
    return np.asarray(cv2.distanceTransform(sheet.whole.astype(np.uint8), cv2.DIST_L2, 5))


def _uppermost(depth: NDArray[np.float32], least: float, sheet: Sheet) -> Core | None:
    """The thickest place of the uppermost part that is so thick."""
    thick = (depth > max(2.0, least)).astype(np.uint8)
    count, parts, about, _ = cv2.connectedComponentsWithStats(thick, connectivity=8)
    if count < 2:
        return None
    first = 1 + int(about[1:, cv2.CC_STAT_TOP].argmin())
    own = np.where(parts == first, depth, np.float32(0))
    y = _first_peak(own.max(axis=1))
    x, top = int(own[y].argmax()), int(np.flatnonzero(sheet.inked.any(axis=1))[0])
    return Core(x + sheet.left, y + sheet.top, float(depth[y, x]), float(y - top))


def _first_peak(thick: NDArray[np.float32]) -> int:
    """The row, from above, at which a part is thickest before it grows thinner: shoulders may be thicker yet."""
    peak = 0
    for y, now in enumerate(thick):
        if now >= thick[peak]:
            peak = y
        elif now < NARROWS * thick[peak]:
            break
    return peak


def outline(sheet: Sheet, at: Core, radius: float) -> tuple[Floats, NDArray[np.bool_]]:
    """(rays, 2) where the figure first ends on all sides of a place, px, and which of them may be the head's edge."""
    inner = cv2.erode(sheet.whole.astype(np.uint8), np.ones((3, 3), np.uint8))
    solid = np.maximum(sheet.cover, inner.astype(np.float32))
    ways, far = all_round(), np.arange(0.0, (FARTHEST + 0.1) * radius, STEP)
    start = np.array([at.x - sheet.left, at.y - sheet.top])
    x, y = np.moveaxis(start + far[None, :, None] * ways[:, None], -1, 0).astype(np.float32)
    profile = cv2.remap(solid, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    reach, ends = first_over(np.asarray(1 - profile, dtype=np.float64), far, 0.5)
    there = ends & (reach > NEAREST * radius) & (reach < FARTHEST * radius)
    return np.array([at.x, at.y]) + reach[:, None] * ways, there


def all_round() -> Floats:
    """(rays, 2) unit ways all round."""
    turns = np.linspace(0, 2 * math.pi, RAYS, endpoint=False)
    return np.stack([np.cos(turns), np.sin(turns)], axis=1)


def first_over(profile: NDArray[np.floating], far: Floats, level: float) -> tuple[Floats, NDArray[np.bool_]]:
    """(rays,) how far out each ray's profile (rays, steps) first rises over a level, px, and whether it does."""
    over = profile > level
    first, rows = np.maximum(1, over.argmax(axis=1)), np.arange(len(profile))
    before, after = profile[rows, first - 1], profile[rows, first]
    reach = far[first - 1] + STEP * (level - before) / np.maximum(1e-6, after - before)
    return np.asarray(reach, dtype=np.float64), np.asarray(over.any(axis=1))


def _is_clear(fitted: Ellipse | None, weights: Floats) -> bool:
    return fitted is not None and float(weights.sum()) > AGREED * RAYS


def _usual(found: Sequence[Ellipse | None]) -> Ellipse | None:
    """A head as large as they mostly are."""
    clear = [e for e in found if e is not None]
    if not clear:
        return None
    most = ABOUT * float(np.percentile([e.major for e in clear], SMALLEST))
    clear = [e for e in clear if e.major <= most]
    major, minor = (float(np.median([getattr(e, axis) for e in clear])) for axis in ("major", "minor"))
    turns = np.exp(2j * np.radians([e.angle for e in clear])).mean()
    return replace(clear[0], major=major, minor=minor, angle=axis_angle(math.degrees(float(np.angle(turns))) / 2))


def _is_like(one: Ellipse, usual: Ellipse) -> bool:
    long, wide = (getattr(one, axis) / getattr(usual, axis) for axis in ("major", "minor"))
    return bool(LIKE[0] <= wide <= LIKE[1] and abs(long / wide - 1) <= SAME_FORM)


def _of_size(points: Floats, there: NDArray[np.bool_], at: Core, usual: Ellipse) -> Ellipse | None:
    """A head of a known size where most of an outline has it."""
    edge = points[there]
    if len(edge) < 6:
        return None
    found = replace(usual, x=at.x, y=at.y)
    for _ in range(ROUNDS):
        off = found.residuals(edge)
        away = edge - np.array([found.x, found.y])
        ways = away / np.maximum(1e-6, np.hypot(away[:, 0], away[:, 1]))[:, None]
        spread = max(0.5, 1.5 * float(np.median(np.abs(off))))
        weights = 1 / (1 + (off / spread) ** 2) ** 2
        normal = (weights[:, None] * ways).T @ ways + 1e-6 * np.eye(2)
        step = np.linalg.solve(normal, (weights * off) @ ways)
        found = replace(found, x=found.x + float(step[0]), y=found.y + float(step[1]))
        if float(np.abs(step).max()) < SETTLED:
            break
    return found
