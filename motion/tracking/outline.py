"""From a difference picture to outlines, and from an outline to a sub-pixel ellipse."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median, percentile
from motion.tracking import ellipse as ell
from motion.tracking.ellipse import Ellipse
from motion.tracking.light import NOWHERE, Box, where_over, within

RAYS = 120
MOST_CANDIDATES = 6
# A ball is no flatter, px.
LEAST_MINOR = 4
# An ellipse so many times as long as what was seen of it was never seen.
BEYOND = 4.0
# What is thinner than these shares of a thing's thickest part is first taken for whiskers (a speed line, a line that
# touches it), then for a trail (speed lines run together, a neighbour showing through).
BODIES = (0.175, 0.75)
# What lies so many times as far off an outline as a smooth one's points do sticks out of it.
STICKS_OUT = 2.5
ROUND_ENOUGH, LEAST_ROUND = 0.93, 0.2
# Faint marks are taken for part of the ball where they make its outline rounder by so much.
ROUNDER = 0.1
# Beyond an edge by so much (px, and radii) only something drawn shows, no soft edge; on so much of the way round it may
# be a pale outline or a pale half of the ball.
PALE_PX, PALE_RADII = 1.6, 0.03
PALE_SHARE = 0.3
# Marks fainter than this part of the outline do not count as its edge.
FAINT = 0.3
# Background ink so strong beside the outline may hide where it ends.
AS_STRONG = 0.5
# Along which part of each ray the edge is looked for, in radii, and how often the fit is reweighted: first far and
# roughly, then near and well.
PASSES = ((0.55, 1.45, 2), (0.78, 1.22, 4))
_TURNS = np.linspace(0, 2 * np.pi, RAYS, endpoint=False)
_RAY_NUMBERS = np.arange(RAYS)
_BESIDE_EDGE = np.array([0.8, 1.8])[:, None, None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A thing in one drawing that may be the ball.

    ``roundness`` is 1 where the outline is an ellipse all round; ``contrast`` in levels of 255.
    """

    ellipse: Ellipse
    clipped: bool
    contrast: float
    roundness: float

    @property
    def size(self) -> float:
        """Diameter of the circle of the same area, px."""
        return float(np.sqrt(self.ellipse.major * self.ellipse.minor))


@dataclass(frozen=True, slots=True, kw_only=True)
class Sight:
    """What one drawing shows: ``differs`` (height, width) uint8 is its difference from the background.

    Less than ``threshold`` levels count as nothing, and so do marks fainter than a share ``faint`` of the outline (a
    shadow, a smudge). ``still_ink`` is by how much background pixels stand out from their surroundings (lines): an
    edge that ends on ink about as strong is not believed, since ink on ink shows no difference. Nothing that counts
    lies outside of ``box``.
    """

    differs: NDArray[np.uint8]
    threshold: int
    still_ink: NDArray[np.uint8]
    box: Box
    faint: float = FAINT

    def smeared(self, by: float) -> Sight:
        """The same blurred by so many px, which steadies grainy pictures."""
        if self.box == NOWHERE:
            return self
        blurred = self.differs.copy()
        blurred[within(self.box)] = cv2.GaussianBlur(self.differs[within(self.box)], (0, 0), by)
        return replace(self, differs=blurred)


def candidates(sight: Sight, *, closing: bool = True) -> list[Candidate]:
    """What may be the ball in one drawing, largest first; ``closing`` mends broken outlines before it looks."""
    reach = _odd(max(3, round(min(sight.differs.shape) * 0.011))) if closing else 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    box = _bounds(sight, margin=reach + 2)
    if box == NOWHERE:
        return []
    left, top, _, _ = box
    mask = (sight.differs[within(box)] > sight.threshold).astype(np.uint8)
    closed = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, kernel)
    contours, _ = cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    contours = sorted(contours, key=cv2.contourArea, reverse=True)[:MOST_CANDIDATES]
    found = [_measure(np.asarray(c, dtype=np.int32), (left, top), sight) for c in contours if cv2.contourArea(c) >= 24]
    return [c for c in found if c is not None]


def _bounds(sight: Sight, margin: int) -> Box:
    """The box of all that counts, with a margin where there is room for one."""
    if sight.box == NOWHERE:
        return NOWHERE
    left, top, _, _ = sight.box
    inner = where_over(sight.differs[within(sight.box)], sight.threshold)
    if inner == NOWHERE:
        return NOWHERE
    height, width = sight.differs.shape
    return (
        max(0, left + inner[0] - margin),
        max(0, top + inner[1] - margin),
        min(width, left + inner[2] + margin),
        min(height, top + inner[3] + margin),
    )


def near(sight: Sight, start: Ellipse) -> Candidate | None:
    """The ball whose outline lies near an ellipse, if there is one."""
    found = _refined(sight, start, rough=True, clipped=False)
    return found if found.roundness > LEAST_ROUND else None


def _measure(contour: NDArray[np.int32], offset: tuple[int, int], sight: Sight) -> Candidate | None:
    """The ball in a contour: as it is, or if that is no ellipse what is left of it without trails and tails."""
    middle = np.array(offset, dtype=np.float64)
    points = contour.reshape(-1, 2) + middle
    whole = ell.fit(_hull(points))
    if whole is not None and whole.minor >= LEAST_MINOR and _is_smooth(whole, points):
        return _refined(sight, whole, rough=False, clipped=_touches_edge(points, sight))
    found: list[Candidate] = []
    for thickness in BODIES:
        body = _body(contour, thickness)
        if body is None:
            continue
        candidate, rough = _fitted(body + middle, sight)
        if candidate is not None:
            found.append(candidate)
            if not rough or candidate.roundness >= ROUND_ENOUGH:
                break
    return max(found, key=lambda c: c.roundness, default=None)


def _fitted(points: NDArray[np.float64], sight: Sight) -> tuple[Candidate | None, bool]:
    """The ellipse that fits near a rough outline (n, 2), and whether the outline was far from one."""
    hull = _hull(points)
    first = ell.fit(hull)
    # Where the rough outline is an ellipse already, looking near it is enough.
    rough = first is None or _is_rough(first, hull)
    if rough:
        steadier = ell.fit_robust(hull, rounds=2)
        first = steadier[0] if steadier else None
    if first is None or first.minor < LEAST_MINOR or first.major > BEYOND * max(np.ptp(points, axis=0)):
        return None, rough
    return _refined(sight, first, rough=rough, clipped=_touches_edge(points, sight)), rough


def _touches_edge(points: NDArray[np.float64], sight: Sight) -> bool:
    """Whether an outline goes up to the frame's edge."""
    height, width = sight.differs.shape
    (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
    return bool(left <= 1 or top <= 1 or right >= width - 2 or bottom >= height - 2)


def _refined(sight: Sight, first: Ellipse, *, rough: bool, clipped: bool) -> Candidate:
    """The ellipse through the edge that lies near a first one.

    Faint marks are left out at first, as shadows and smudges are. Where that leaves no whole ellipse and they complete
    one, they are the pale part of the ball itself.
    """
    found = _through_edge(sight, first, rough=rough, clipped=clipped)
    round_enough = found.roundness >= ROUND_ENOUGH
    if sight.faint > FAINT or (round_enough and _pale_beyond(found.ellipse, sight) < PALE_SHARE):
        return found
    whole = _through_edge(replace(sight, faint=0.0), first, rough=True, clipped=clipped)
    needed = found.roundness if round_enough else min(ROUND_ENOUGH, found.roundness + ROUNDER)
    return whole if whole.roundness >= needed - 1 / RAYS else found


def _pale_beyond(shape: Ellipse, sight: Sight) -> float:
    """On what share of the way round a shape something is drawn just outside it, however faint."""
    outside = max(PALE_PX, PALE_RADII * shape.minor / 2)
    just_outside = np.array([1 + 2 * outside / shape.minor])
    ring = _along(sight.differs, np.array([shape.x, shape.y]), shape.arms(_TURNS[::2]), just_outside)
    return float(np.count_nonzero(ring > sight.threshold)) / len(ring)


def _through_edge(sight: Sight, first: Ellipse, *, rough: bool, clipped: bool) -> Candidate:
    """The ellipse through the edge near a first one; a rough one is looked at from farther away first."""
    height, width = sight.differs.shape
    shape, contrast, agreed = first, float(sight.threshold), 0.0
    for low, high, rounds in PASSES if rough else PASSES[-1:]:
        edge, contrast = _edge_points(shape, sight, low, high, clipped)
        if len(edge) < RAYS // 5:
            break
        fitted = ell.fit_robust(edge, rounds)
        if fitted is None or not 0.4 < fitted[0].major / shape.major < 2.5 or fitted[0].minor < LEAST_MINOR:
            break
        shape, weights = fitted
        close = np.abs(shape.residuals(edge)) < max(1.0, 0.05 * shape.minor)
        agreed = float(np.count_nonzero((weights > 0) & close)) / RAYS
    clipped = clipped or _reaches_out(shape, width, height)
    return Candidate(ellipse=shape, clipped=clipped, contrast=contrast, roundness=min(1.0, agreed))


def _reaches_out(shape: Ellipse, width: int, height: int) -> bool:
    """Whether more than half a pixel of a shape lies outside the frame."""
    across, down = shape.half_width, shape.half_height
    return shape.x - across < -1.0 or shape.y - down < -1.0 or shape.x + across > width or shape.y + down > height


def _is_rough(shape: Ellipse, hull: NDArray[np.float64]) -> bool:
    return percentile(np.abs(shape.residuals(hull)), 90) > max(1.0, 0.02 * shape.minor)


def _is_smooth(shape: Ellipse, points: NDArray[np.float64]) -> bool:
    """Whether points lie along a shape's outline all round, and nothing sticks out of it."""
    off, allowed = np.abs(shape.residuals(points)), max(1.5, 0.03 * shape.minor)
    return percentile(off, 90) <= allowed and float(off.max()) <= STICKS_OUT * allowed


def _body(contour: NDArray[np.int32], share: float) -> NDArray[np.float64] | None:
    """The contour without what is thinner than a share of its thickest part: (n, 2) points."""
    x, y, w, h = cv2.boundingRect(contour)
    pad = 2
    filled = np.zeros((h + 2 * pad, w + 2 * pad), np.uint8)
    cv2.drawContours(filled, [contour - np.array([x - pad, y - pad])], -1, 1, cv2.FILLED)
    thickness = _odd(max(3, round(2 * share * float(cv2.distanceTransform(filled, cv2.DIST_L2, 3).max()))))
    opened = cv2.morphologyEx(
        filled, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (thickness, thickness))
    )
    parts, _ = cv2.findContours(opened, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not parts:
        return None
    largest = max(parts, key=cv2.contourArea)
    return np.asarray(largest.reshape(-1, 2), dtype=np.float64) + np.array([x - pad, y - pad], dtype=np.float64)


def _hull(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """The convex hull as evenly spaced points: a ball is convex, whatever a broken outline shows."""
    corners = cv2.convexHull(points.astype(np.float32)).reshape(-1, 2).astype(np.float64)
    closed = np.vstack([corners, corners[:1]])
    steps = np.hypot(*np.diff(closed, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    at = np.linspace(0, along[-1], 97)[:-1]
    return np.stack([np.interp(at, along, closed[:, 0]), np.interp(at, along, closed[:, 1])], axis=1)


def _edge_points(
    shape: Ellipse, sight: Sight, low: float, high: float, clipped: bool
) -> tuple[NDArray[np.float64], float]:
    """Sub-pixel points (n, 2) of the outer edge along rays, and the outline's contrast.

    The edge lies where the difference falls through half of what it reaches just inside.
    """
    steps = max(24, int((high - low) * shape.major))
    middle, arms = np.array([shape.x, shape.y]), shape.arms(_TURNS)
    scales = low + (high - low) / (steps - 1) * np.arange(steps)
    profile = _along(sight.differs, middle, arms, scales)
    inside_px = max(2, int(np.ceil(3.0 / (shape.minor / 2 * (high - low) / steps))))
    contrast = median(profile.max(axis=1).astype(np.float64))
    floor = max(float(sight.threshold), sight.faint * contrast)
    marked = profile >= floor
    outer = steps - 1 - np.argmax(marked[:, ::-1], axis=1)
    has = marked[_RAY_NUMBERS, outer]
    at = _crossings(profile, np.where(has, outer, steps - 1), inside_px, from_ground=sight.faint <= FAINT)
    found = has & (at >= 0)
    points = middle + arms[found] * (low + (high - low) / (steps - 1) * at[found])[:, None]
    good = ~_on_still_ink(points, shape, sight.still_ink, AS_STRONG * contrast)
    if clipped:
        height, width = sight.differs.shape
        good &= ((points > 2.0) & (points < np.array([width - 3.0, height - 3.0]))).all(axis=1)
    return points[good], contrast


def _crossings(
    profile: NDArray[np.uint8], outer: NDArray[np.int64], inside: int, *, from_ground: bool
) -> NDArray[np.float64]:
    """(rays,) at which sample, and part of one, each ray leaves the outline; -1 where the outline goes on to its end.

    That is at half of the peak within ``inside`` samples of its outer end. ``profile`` (rays, samples) are differences
    along the rays, ``outer`` (rays,) the last marked sample. Half is counted from nothing, or if not ``from_ground``
    from what lies just outside.
    """
    count = profile.shape[1]
    just_inside = profile[_RAY_NUMBERS[:, None], np.maximum(0, outer[:, None] - np.arange(inside + 1))]
    level = 0.5 * just_inside.max(axis=1)
    if not from_ground:
        level += 0.5 * np.minimum(_just_outside(profile, outer, inside), 2 * level)
    # Where the ray leaves at once, the last sample over half the peak lies before; else it is looked for outwards.
    over = just_inside >= level[:, None]
    last_over = np.where(over.any(axis=1), outer - over.argmax(axis=1), -1)
    on = np.flatnonzero(over[:, 0])
    below = (profile[on] < level[on, None]) & (np.arange(count) > outer[on, None])
    last_over[on] = np.where(below.any(axis=1), below.argmax(axis=1), count) - 1
    k = np.clip(last_over, 0, count - 2)
    here, next_one = profile[_RAY_NUMBERS, k].astype(np.float64), profile[_RAY_NUMBERS, k + 1]
    drop = here - next_one
    part = np.where(drop > 0, (here - level) / np.where(drop > 0, drop, 1.0), 0.5)
    goes_on = (last_over < 0) | (last_over >= count - 1) | (outer >= count - 1)
    return np.where(goes_on, -1.0, k + np.clip(part, 0.0, 1.0))


def _just_outside(profile: NDArray[np.uint8], outer: NDArray[np.int64], beyond: int) -> NDArray[np.float64]:
    """(rays,) the least within so many samples beyond the outer one; nought where there are none."""
    count = profile.shape[1]
    at = outer[:, None] + np.arange(1, beyond + 1)
    found = profile[_RAY_NUMBERS[:, None], np.minimum(at, count - 1)].min(axis=1)
    return np.where(outer < count - 1, found, 0.0)


def _on_still_ink(
    points: NDArray[np.float64], shape: Ellipse, still_ink: NDArray[np.uint8], strength: float
) -> NDArray[np.bool_]:
    """Which edge points end where the background itself has ink of some strength just outside."""
    height, width = still_ink.shape
    if not len(points):
        return np.zeros(0, dtype=bool)
    (left, top), (right, bottom) = points.min(axis=0).astype(int) - 3, points.max(axis=0).astype(int) + 4
    if not (still_ink[max(0, top) : max(0, bottom), max(0, left) : max(0, right)] > strength).any():
        return np.zeros(len(points), dtype=bool)
    outward = points - np.array([shape.x, shape.y])
    outward /= np.maximum(np.sqrt(outward[:, :1] ** 2 + outward[:, 1:] ** 2), 1e-9)
    at = np.rint(points + _BESIDE_EDGE * outward).astype(np.intp)
    columns, rows = at[..., 0].clip(0, width - 1), at[..., 1].clip(0, height - 1)
    return np.asarray((still_ink[rows, columns] > strength).any(axis=0))


def _along(
    values: NDArray[np.uint8], middle: NDArray[np.float64], arms: NDArray[np.float64], scales: NDArray[np.floating]
) -> NDArray[np.uint8]:
    """(n, m) bilinear values at so many times each of n arms from a middle; nothing is outside of the frame."""
    x = (middle[0] + arms[:, 0, None] * scales).astype(np.float32)
    y = (middle[1] + arms[:, 1, None] * scales).astype(np.float32)
    found = cv2.remap(values, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0)
    return np.asarray(found, dtype=np.uint8)


def _odd(value: int) -> int:
    return value if value % 2 else value + 1
