"""From ellipses that lie near outlines to the ellipses through their edges, to a fraction of a pixel.

Rays go out from each ellipse's middle; along each the edge is where the difference from the background falls through
half of what it reaches just inside. A batch of outlines is looked at together, since beginning a step takes more time
than the step.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import medians
from motion.tracking import conics
from motion.tracking.differs import Differs
from motion.tracking.ellipse import Ellipse, arms_of
from motion.tracking.light import NOWHERE
from motion.tracking.lines import Lines

RAYS = 120
FEWEST_RAYS = RAYS // 5
# A subject is no flatter, px.
LEAST_MINOR = 4
# A fit so much smaller or larger than the ellipse that it began with is of something else.
SMALLER, LARGER = 0.4, 2.5
# Marks fainter than this part of the outline do not count as its edge.
FAINT = 0.3
# Background ink so strong beside the outline may hide where it ends.
AS_STRONG = 0.5
# How far inside of its outer end an outline is strongest.
INSIDE_PX = 3.0
# A rise that goes on by less than this share of itself a step has come to its height.
LEVEL_OFF = 0.15
# Beyond an edge by so much (px, and radii) only something drawn shows, no soft edge.
PALE_PX, PALE_RADII = 1.6, 0.03
# Along which part of each ray the edge is looked for, in radii, and how often the fit is reweighted: first far and
# roughly, then near and well.
FAR, NEAR = (0.55, 1.45, 2), (0.78, 1.22, 4)
# Fewer steps along a ray tell too little.
FEWEST_STEPS = 24
# So many pixels around outlines, and so many outlines, are looked at together.
TOGETHER_PX, TOGETHER = 2_000_000, 96
# Nothing is read so near to the edge of what was cut out.
ROOM = 2
_TURNS = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
_BESIDE_EDGE = np.array([0.8, 1.8])[:, None, None, None]

Numbers = NDArray[np.intp]
Values = NDArray[np.float64]
Marks = NDArray[np.bool_]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sight:
    """What one drawing shows: how it ``differs`` from the background.

    Less than ``threshold`` levels count as nothing, and so do marks fainter than a share ``faint`` of the outline (a
    shadow, a smudge). ``still`` are the lines of what stands still: an edge that ends on one about as strong is not
    believed, since ink on ink shows no difference. Marks fainter than a share ``palest`` are never the subject's own: a
    codec leaves such rings.
    """

    differs: Differs
    threshold: int
    still: Lines
    faint: float = FAINT
    palest: float = 0.0

    def smeared(self, by: float) -> Sight:
        """The same blurred by so many px, which steadies grainy pictures."""
        if self.differs.box == NOWHERE:
            return self
        blurred = np.asarray(cv2.GaussianBlur(self.differs.part, (0, 0), by), dtype=np.uint8)
        return replace(self, differs=replace(self.differs, part=blurred))


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """An ellipse that lies near an outline; far off where it is ``rough``, cut off by the frame where ``clipped``."""

    sight: Sight
    shape: Ellipse
    rough: bool
    clipped: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Edge:
    """The ellipse through an edge, or the one to begin with where there is no edge.

    ``agreed`` is on which share of the way round the edge lies along it, ``contrast`` by how many levels the outline
    stands out, ``pale_beyond`` on which share of the way round something is drawn just outside, however faint.
    """

    shape: Ellipse
    contrast: float
    agreed: float
    pale_beyond: float


def find(starts: Sequence[Start]) -> list[Edge]:
    """The edge that each start lies near."""
    found = [Edge(shape=s.shape, contrast=float(s.sight.threshold), agreed=0.0, pale_beyond=0.0) for s in starts]
    on = [i for i, start in enumerate(starts) if start.rough]
    on = _pass(starts, found, on, *FAR) + [i for i, start in enumerate(starts) if not start.rough]
    _pass(starts, found, on, *NEAR)
    for some in _batches(found, range(len(starts)), 1.0):
        beyond = _pale_beyond([found[i] for i in some], [starts[i].sight for i in some])
        for i, share in zip(some, beyond, strict=True):
            found[i] = replace(found[i], pale_beyond=float(share))
    return found


def _pass(
    starts: Sequence[Start], found: list[Edge], which: Sequence[int], low: float, high: float, rounds: int
) -> list[int]:
    """Bring some of the ellipses ``found`` nearer to their edges; those for which it can be gone on with."""
    go_on: list[int] = []
    for some in _batches(found, which, high):
        shapes, sights = [found[i].shape for i in some], [starts[i].sight for i in some]
        points, good, contrasts = _edge_points(shapes, sights, low, high)
        for k, i in enumerate(some):
            if starts[i].clipped:
                height, width = sights[k].differs.size
                good[k] &= ((points[k] > 2.0) & (points[k] < np.array([width - 3.0, height - 3.0]))).all(axis=1)
        enough = good.sum(axis=1) >= FEWEST_RAYS
        fits = conics.fit_robust(points, good, rounds)
        close = np.array([max(1.0, 0.05 * e.minor) if e else 0.0 for e in fits.ellipses])
        agreed = np.count_nonzero((fits.weights > 0) & (np.abs(fits.off) < close[:, None]), axis=1) / RAYS
        for k, (i, fitted, contrast) in enumerate(zip(some, fits.ellipses, contrasts.tolist(), strict=True)):
            if enough[k] and fitted is not None and _is_like(fitted, shapes[k]):
                found[i] = Edge(shape=fitted, contrast=contrast, agreed=float(agreed[k]), pale_beyond=0.0)
                go_on.append(i)
            else:
                found[i] = replace(found[i], contrast=contrast)
    return go_on


def _is_like(fitted: Ellipse, shape: Ellipse) -> bool:
    return SMALLER < fitted.major / shape.major < LARGER and fitted.minor >= LEAST_MINOR


def _batches(found: Sequence[Edge], which: Sequence[int], reach: float) -> Iterator[list[int]]:
    """Some of the ellipses in groups of about one size, each of which takes no more room than is to be taken."""
    group: list[int] = []
    for i in sorted(which, key=lambda i: found[i].shape.major):
        side = 2 * _reach(found[i].shape, reach) + 1
        if group and (len(group) == TOGETHER or (len(group) + 1) * side * side > TOGETHER_PX):
            yield group
            group = []
        group.append(i)
    if group:
        yield group


def _reach(shape: Ellipse, reach: float) -> int:
    """How many pixels beyond its middle's an ellipse so many times as large may reach."""
    return int(reach * shape.major / 2) + 1 + ROOM


class _Cuttings:
    """What several sights show around ellipses, side by side in one picture; nothing is outside of the frame."""

    def __init__(self, shapes: Sequence[Ellipse], sights: Sequence[Sight], reach: float) -> None:
        half = max(_reach(s, reach) for s in shapes)
        side = 2 * half + 1
        self._values = np.zeros((len(shapes) * side, side), np.uint8)
        self._middles = np.empty((len(shapes), 2))
        for k, (shape, sight) in enumerate(zip(shapes, sights, strict=True)):
            left, top = int(shape.x) - half, int(shape.y) - half
            sight.differs.lay(self._values[k * side : (k + 1) * side], left, top)
            self._middles[k] = shape.x - left, shape.y - top + k * side

    def along(self, arms: Values, scales: NDArray[np.floating]) -> NDArray[np.uint8]:
        """(m, k, n) bilinear values at so many (m,) times each of n arms (k, n, 2) from each middle."""
        shape = (len(scales), *arms.shape[:2])
        x, y = (
            (self._middles[:, None, axis] + arms[..., axis] * scales[:, None, None]).astype(np.float32)
            for axis in (0, 1)
        )
        found = cv2.remap(self._values, x.reshape(len(scales), -1), y.reshape(len(scales), -1), cv2.INTER_LINEAR)
        return np.asarray(found, dtype=np.uint8).reshape(shape)


def _edge_points(
    shapes: Sequence[Ellipse], sights: Sequence[Sight], low: float, high: float
) -> tuple[Values, Marks, Values]:
    """Points of the outer edges (k, rays, 2), which of them are to be believed, and the outlines' contrasts (k,)."""
    steps = max(FEWEST_STEPS, int((high - low) * max(s.major for s in shapes)))
    middles, arms = np.array([[s.x, s.y] for s in shapes]), arms_of(shapes, _TURNS)
    scales = low + (high - low) / (steps - 1) * np.arange(steps)
    # Samples come first, so that those of all rays are held against each other at once.
    profiles = _Cuttings(shapes, sights, high).along(arms, scales)
    contrasts = medians(profiles.max(axis=0).astype(np.float64), np.ones(profiles.shape[1:], dtype=bool))
    faint = np.array([s.faint for s in sights])
    floors = np.maximum(np.array([float(s.threshold) for s in sights]), faint * contrasts)
    marked = profiles >= np.ceil(floors).astype(np.uint8)[:, None]
    last = np.where(marked, np.arange(1, steps + 1, dtype=np.uint16)[:, None, None], np.uint16(0)).max(axis=0)
    has = last > 0
    a_step = np.sqrt((arms**2).sum(axis=2)) * (high - low) / (steps - 1)
    inside = np.maximum(2, np.ceil(INSIDE_PX / a_step)).astype(np.intp)
    at = _crossings(
        profiles.reshape(steps, -1),
        np.where(has, last.astype(np.intp) - 1, steps - 1).ravel(),
        inside.ravel(),
        from_ground=np.repeat(faint <= FAINT, RAYS),
        outermost=np.repeat(faint < FAINT, RAYS),
    ).reshape(has.shape)
    points = middles[:, None] + arms * (low + (high - low) / (steps - 1) * at)[..., None]
    on_ink = _beside(points, middles, [s.still for s in sights]) > AS_STRONG * contrasts[:, None]
    return points, has & (at >= 0) & ~on_ink, contrasts


def _crossings(
    profile: NDArray[np.uint8], outer: Numbers, inside: Numbers, *, from_ground: Marks, outermost: Marks
) -> Values:
    """(rays,) at which sample, and part of one, each ray leaves the outline; -1 where the outline goes on to its end.

    That is at half of the peak within ``inside`` (rays,) samples of its outer end, where ``outermost`` (rays,) at half
    of what is reached there first. ``profile`` (samples, rays) are differences along the rays, ``outer`` (rays,) the
    last marked sample. Half is counted from nothing, or where not ``from_ground`` (rays,) from what lies just outside.
    """
    count, rays = profile.shape[0], np.arange(profile.shape[1])
    inwards = np.minimum(np.arange(int(inside.max()) + 1)[:, None], inside)
    just_inside = profile[np.maximum(0, outer - inwards), rays]
    peak = just_inside.max(axis=0)
    if outermost.any():
        peak[outermost] = _first_height(just_inside[:, outermost])
    level = 0.5 * peak
    if not from_ground.all():
        pale = np.minimum(_just_outside(profile, outer, inside), 2 * level)
        level += np.where(from_ground, 0.0, 0.5 * pale)
    # Where the ray leaves at once, the last sample over half the peak lies before; else it is looked for outwards.
    over = just_inside >= level
    last_over = np.where(over.any(axis=0), outer - over.argmax(axis=0), -1)
    on = np.flatnonzero(over[0])
    numbers = np.arange(count, dtype=np.uint16)[:, None]
    below = (profile[:, on] < np.ceil(level[on]).astype(np.uint8)) & (numbers > outer[on].astype(np.uint16))
    last_over[on] = np.where(below, numbers, np.uint16(count)).min(axis=0).astype(np.intp) - 1
    k = np.clip(last_over, 0, count - 2)
    here, next_one = profile[k, rays].astype(np.float64), profile[k + 1, rays]
    drop = here - next_one
    part = np.where(drop > 0, (here - level) / np.where(drop > 0, drop, 1.0), 0.5)
    goes_on = (last_over < 0) | (last_over >= count - 1) | (outer >= count - 1)
    return np.where(goes_on, -1.0, k + np.clip(part, 0.0, 1.0))


def _first_height(inwards: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(rays,) what differences (samples, rays), from outside inwards, rise to first: an outline's, not the fill's."""
    values = inwards.astype(np.int16)
    level_off = np.diff(values, axis=0) <= LEVEL_OFF * values[:-1]
    first = np.where(level_off.any(axis=0), level_off.argmax(axis=0), len(values) - 1)
    return np.asarray(inwards[first, np.arange(inwards.shape[1])])


def _just_outside(profile: NDArray[np.uint8], outer: Numbers, beyond: Numbers) -> Values:
    """(rays,) the least within so many samples (rays,) beyond the outer one; nought where there are none."""
    count = len(profile)
    outwards = np.minimum(np.arange(1, int(beyond.max()) + 1)[:, None], beyond)
    found = profile[np.minimum(outer + outwards, count - 1), np.arange(profile.shape[1])].min(axis=0)
    return np.where(outer < count - 1, found, 0.0)


def _beside(points: Values, middles: Values, still: Sequence[Lines]) -> NDArray[np.uint8]:
    """(k, rays) how strong the background's own lines are just outside edge points (k, rays, 2)."""
    outward = points - middles[:, None]
    outward /= np.maximum(np.sqrt((outward**2).sum(axis=2, keepdims=True)), 1e-9)
    places = points + _BESIDE_EDGE * outward
    found = np.empty(points.shape[:2], np.uint8)
    # All of a clip's share one background.
    for lines, group in itertools.groupby(range(len(still)), key=lambda k: still[k]):
        some = list(group)
        found[some] = lines.at_or_beside(places[:, some]).max(axis=0)
    return found


def _pale_beyond(found: Sequence[Edge], sights: Sequence[Sight]) -> Values:
    """(k,) on what share of the way round each shape something is drawn just outside it, however faint."""
    shapes = [edge.shape for edge in found]
    outside = np.array([max(PALE_PX, PALE_RADII * s.minor / 2) for s in shapes])
    just_outside = 1 + 2 * outside / np.array([s.minor for s in shapes])
    arms = arms_of(shapes, _TURNS[::2]) * just_outside[:, None, None]
    ring = _Cuttings(shapes, sights, float(just_outside.max())).along(arms, np.ones(1))[0]
    thresholds = np.array([max(s.threshold, s.palest * e.contrast) for s, e in zip(sights, found, strict=True)])
    return np.asarray(np.mean(ring > thresholds[:, None], axis=1), dtype=np.float64)
