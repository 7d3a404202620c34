"""The line that the subject comes down to: drawn in the background, or inferred from where the subject turns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from motion import curves
from motion.ranks import median
from motion.track import Ground, Shape
from motion.tracking.light import Light, difference

STRIP = 16
"""Lines are looked for in strips this wide, px, ..."""
COLUMN = 8
"""... and followed in columns this far apart."""
STEEPEST = 0.18
LEAST_COVERAGE = 0.45
LEAST_STEP = 12.0
LEAST_SCORE = 5.0
"""Levels by which what is above and below a line must differ along it, on the whole."""
NEARLY_AS_STRONG, CLOSER_PX = 0.5, 1.0
"""A line that is weaker, by no more than this, wins where the subject turns so much closer to it."""
LEAST_APART_D, FLAT = 0.6, 0.95
"""Turns so many sizes apart tell a slope; a subject whose height is no more of its width is pressed flat."""
ABOVE, BELOW, CLOSELY = 9, 4, 7
"""How far above and below where a line should be its edge is looked for, px, and how near it must be strongest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Line:
    y_left: float
    slope: float
    score: float


def find(background: Light, shapes: Sequence[Shape | None], fixed_y: float | None = None) -> Ground | None:
    """The ground under a subject with these shapes, one an exposure; None where nothing can be said.

    A drawn line's ground is its upper edge, a painted floor's its edge. Lines are believed only near the level
    at which the subject turns. ``fixed_y`` is the brief's own ground, which wins.
    """
    width = background.shape[1]
    if fixed_y is not None:
        return Ground(y_left=fixed_y, y_right=fixed_y, width=width, confidence=1.0, drawn=True)
    known = [s for s in shapes if s is not None and not s.clipped]
    if not known:
        return None
    turning = _turning_shapes(shapes) or [max(known, key=lambda s: s.bottom)]
    drawn = _drawn(background, known, turning)
    if drawn is None and len(turning) == 1:
        drawn = _drawn(background, known, turning, _past_lowest(known, turning))
    return drawn or _inferred(turning, _turning_shapes(shapes, ends=True), known, width)


def find_under(background: Light, standing: Sequence[Shape], fixed_y: float | None = None) -> Ground | None:
    """The ground under what stands on it in most drawings: drawn near there, or the level at which most agree."""
    width = background.shape[1]
    if fixed_y is not None:
        return Ground(y_left=fixed_y, y_right=fixed_y, width=width, confidence=1.0, drawn=True)
    if not standing:
        return None
    level = float(np.median([s.bottom for s in standing]))
    near = [s for s in standing if abs(s.bottom - level) < 0.1 * s.major + 4]
    return _drawn(background, standing, near or standing) or _inferred(standing, (), standing, width)


def _turning_shapes(shapes: Sequence[Shape | None], *, ends: bool = False) -> list[Shape]:
    """The lowest shapes of each dip, judged by their bottoms; with ``ends`` those at the clip's ends however high."""
    known = [s for s in shapes if s is not None and not s.clipped]
    if len(known) < 3:
        return []
    bottoms = np.array([s.bottom for s in known])
    size = float(np.median([np.sqrt(s.area) for s in known]))
    alike, lowest = max(1.6, 0.03 * size), float(bottoms.max())
    turns = []
    for i in range(len(known)):
        before, after = bottoms[max(0, i - 3) : i], bottoms[i + 1 : i + 4]
        beside = np.concatenate([before, after])
        # A subject that rests is measured a little higher here and there, and still lands where it landed.
        if bottoms[i] < beside.max() - alike or bottoms[i] - beside.min() <= 0.1 * size:
            continue
        # At the clip's ends a low drawing may be one in the air, thrown in or on its way out.
        if not ends and (before.size == 0 or after.size == 0) and bottoms[i] < lowest - size:
            continue
        turns.append(known[i])
    return turns


def _inferred(
    turning: Sequence[Shape], with_ends: Sequence[Shape], known: Sequence[Shape], width: int
) -> Ground | None:
    """The ground at which most turns agree: level, or sloping where enough turns tell so.

    Where they are divided the lower level wins. Turns at the clip's ends tell a slope together with others only.
    """
    size = float(np.median([np.sqrt(s.area) for s in known]))
    bottoms = np.array([s.bottom for s in turning])
    reach = max(1.6, 0.03 * size)
    votes = (np.abs(bottoms[:, None] - bottoms[None, :]) <= reach).sum(axis=1)
    best = max(range(len(bottoms)), key=lambda i: (votes[i], bottoms[i]))
    agreed, slope = int(votes[best]), 0.0
    level = float(np.median(bottoms[np.abs(bottoms - bottoms[best]) <= reach]))
    sloping = _slope_of(with_ends, reach, size) or _slope_of_two(turning, reach, size)
    if sloping is not None and sloping.agree > agreed:
        slope, level, agreed = sloping
    confidence = round(0.3 + 0.6 * min(1.0, agreed / len(bottoms)) * min(1.0, len(bottoms) / 3), 3)
    return Ground(y_left=level, y_right=level + slope * (width - 1), width=width, confidence=confidence, drawn=False)


class _Sloping(NamedTuple):
    """A line's slope, its y at x = 0, and how many turns agree on it."""

    slope: float
    level: float
    agree: int


def _slope_of(turns: Sequence[Shape], reach: float, size: float) -> _Sloping | None:
    """The sloping line on which most turns agree; None with fewer than three, or where a level does as well."""
    xs, bottoms = np.array([s.x for s in turns]), np.array([s.bottom for s in turns])
    best: _Sloping | None = None
    for i in range(len(xs)):
        for j in range(i + 1, len(xs)):
            if abs(xs[j] - xs[i]) < LEAST_APART_D * size or abs(bottoms[j] - bottoms[i]) > STEEPEST * abs(
                xs[j] - xs[i]
            ):
                continue
            slope = (bottoms[j] - bottoms[i]) / (xs[j] - xs[i])
            agree = np.abs(bottoms - bottoms[i] - slope * (xs - xs[i])) <= 0.6 * reach
            if agree.sum() >= 3 and (best is None or agree.sum() > best.agree):
                fitted, offset = np.polyfit(xs[agree], bottoms[agree], 1)
                best = _Sloping(float(fitted), float(offset), int(agree.sum()))
    return best


def _slope_of_two(turns: Sequence[Shape], reach: float, size: float) -> _Sloping | None:
    """The line through the only two turns, where both are pressed flat: each was put on the ground there."""
    if len(turns) != 2 or any(s.height > FLAT * s.width for s in turns):
        return None
    one, other = turns
    across, down = other.x - one.x, other.bottom - one.bottom
    if abs(across) < LEAST_APART_D * size or not reach < abs(down) <= STEEPEST * abs(across):
        return None
    return _Sloping(down / across, one.bottom - down / across * one.x, 2)


def _past_lowest(known: Sequence[Shape], turning: Sequence[Shape]) -> float:
    """How far below its lowest drawing it may have turned, px, where no drawing shows that: a step of its own."""
    bottoms = [s.bottom for s in known]
    at = [i for i, s in enumerate(known) if s in turning]
    steps = [abs(bottoms[i] - bottoms[j]) for i in at for j in (i - 1, i + 1) if 0 <= j < len(known)]
    return max(steps, default=0.0)


def _drawn(background: Light, known: Sequence[Shape], turning: Sequence[Shape], further: float = 0.0) -> Ground | None:
    """The drawn line along which the subject turns; it may lie so much ``further`` below its lowest drawings, px."""
    size = float(np.median([np.sqrt(s.area) for s in known]))
    height, width = background.shape[:2]
    # Wider than the contacts, so that a wavering line is not taken for a sloping one.
    left = int(max(0, min(s.x for s in turning) - 5 * size))
    right = int(min(width, max(s.x for s in turning) + 5 * size + 1))
    if right - left < 2 * STRIP:
        return None
    near = [s.x - left for s in turning]
    level = float(np.median([s.bottom for s in turning])) + further / 2
    reach = 0.45 * size + 4 + further / 2
    top = int(max(0, level - reach - STEEPEST * (right - left) / 2 - 12))
    bottom = int(min(height, level + reach + STEEPEST * (right - left) / 2 + 12))
    if bottom - top < 8:
        return None
    window = background[top:bottom, left:right]
    middle = float(np.mean(near))
    lines = _lines(difference(window[1:], window[:-1]), (middle, level - top), reach)
    turns = np.array([[s.x - left, s.bottom - top] for s in turning])
    fitted = _best(window, sorted(lines, key=lambda ln: -ln.score), turns, size)
    if fitted is None:
        return None
    slope, offset, coverage = fitted
    at = offset + top - slope * left
    return Ground(
        y_left=at,
        y_right=at + slope * (width - 1),
        width=width,
        confidence=round(min(0.99, coverage), 3),
        drawn=True,
    )


_Fit = tuple[float, float, float]
"""A line's slope, y at the window's left, and which part of it shows under the contacts."""


def _best(window: Light, lines: Sequence[_Line], turns: NDArray[np.float64], size: float) -> _Fit | None:
    """The strongest line, but for one nearly as strong along which the subject turns (n, 2: x, bottom) more closely.

    A quay may be level, and the ground that was drawn over it slope.
    """
    best: _Fit | None = None
    strongest, closest = 0.0, np.inf
    for line in lines:
        if best is not None and (
            line.score < NEARLY_AS_STRONG * strongest or _miss(turns, line.slope, line.y_left) > closest
        ):
            continue
        fitted = _refine(window, line, turns[:, 0].tolist(), size)
        if fitted is None:
            continue
        miss = _miss(turns, fitted[0], fitted[1])
        if miss < closest - CLOSER_PX:
            best, closest = fitted, miss
            strongest = max(strongest, line.score)
    return best


def _miss(turns: NDArray[np.float64], slope: float, offset: float) -> float:
    """How far from a line the subject usually turns, px."""
    return median(np.abs(turns[:, 1] - slope * turns[:, 0] - offset))


def _lines(change: NDArray[np.uint8], near: tuple[float, float], within: float) -> list[_Line]:
    """Near-level lines by the summed vertical ``change`` (rows, columns) along them, the strongest few.

    Those are looked for that pass ``within`` so many px above or below a place ``near`` which the subject turns.
    """
    rows, columns = change.shape
    strips = columns // STRIP
    strength = np.minimum(cv2.resize(change[:, : strips * STRIP], (strips, rows), interpolation=cv2.INTER_AREA), 60)
    smooth = cv2.blur(strength.astype(np.float32), (1, 3), borderType=cv2.BORDER_CONSTANT) * 3
    slopes = np.arange(-STEEPEST, STEEPEST + 1e-9, 0.012)
    # The first row of those that a line of each slope may have at the window's middle, and how many they are.
    first = np.round(near[1] - within - slopes * (near[0] - columns / 2)).astype(int)
    count = int(2 * within) + 2
    shifts = np.round(slopes[:, None] * ((np.arange(strips) + 0.5) * STRIP - columns / 2)).astype(int)
    # Padded with nothing, so that a line may leave the window.
    starts = first[:, None] + shifts
    before, after = max(0, -int(starts.min())), max(0, int(starts.max()) + count - rows)
    padded = np.pad(smooth.T, ((0, 0), (before, after)))
    # (slopes, strips, count): in each strip, its rows moved by as much as the slope asks for.
    taken = np.lib.stride_tricks.sliding_window_view(padded, count, axis=1)[np.arange(strips), before + starts]
    # The middle value as well as the mean: a line is there all along, not strong in one place. The middle one is at
    # most twice the mean, so that most need not be looked for.
    means, dues = taken.mean(axis=1), 4.0 * np.abs(slopes)[:, None]
    scores = np.full(means.shape, -np.inf)
    slope, row = np.nonzero(1.5 * means - dues > LEAST_SCORE)
    scores[slope, row] = 0.5 * means[slope, row] + 0.5 * _middles(taken[slope, :, row]) - dues[slope, 0]
    best = np.argpartition(scores, -4, axis=1)[:, -4:]
    return [
        _Line(
            y_left=float(first[k] + row + 0.5 - slopes[k] * columns / 2),
            slope=float(slopes[k]),
            score=float(scores[k, row]),
        )
        for k in range(len(slopes))
        for row in best[k]
        if scores[k, row] > LEAST_SCORE
    ]


def _middles(values: NDArray[np.float32]) -> NDArray[np.float32]:
    """The middle value along the last axis; of two in the middle their mean."""
    half = values.shape[-1] // 2
    around = [half] if values.shape[-1] % 2 else [half - 1, half]
    return np.asarray(np.partition(values, around, axis=-1)[..., around].mean(axis=-1))


def _refine(window: Light, line: _Line, near: Sequence[float], size: float) -> _Fit | None:
    """Slope, y at the window's left and coverage of the line's upper edge, to a part of a pixel.

    Coverage counts under the contacts (x in ``near``, px), where a short line still is the ground.
    """
    columns = range(COLUMN // 2, window.shape[1] - COLUMN // 2, COLUMN)
    xs = np.array(columns)
    edges = _upper_edges(window, xs, line.y_left + line.slope * xs)
    found = np.isfinite(edges)
    if np.count_nonzero(found) < 6:
        return None
    across, y = xs[found].astype(np.float64), edges[found]
    weights = np.ones_like(across)
    slope, offset, spread = 0.0, 0.0, 0.2
    for _ in range(6):
        slope, offset = curves.polynomial(across, y, 1, weights)
        off = y - (slope * across + offset)
        spread = max(0.2, 1.4826 * median(np.abs(off)))
        weights = np.clip(1 - (off / (4 * spread)) ** 2, 0, None) ** 2 + 1e-6
    agrees = np.abs(y - (slope * across + offset)) < 2.5
    coverage = _coverage(across[agrees], columns, near, size)
    if coverage < LEAST_COVERAGE:
        return None
    if abs(slope) * float(np.ptp(across)) < max(0.8, 2 * spread):
        slope, offset = 0.0, float(np.average(y, weights=weights))
    return float(slope), float(offset), coverage


def _coverage(found: NDArray[np.float64], columns: range, near: Sequence[float], size: float) -> float:
    """Which part of the columns under the contacts shows the line."""
    at = np.array(columns)
    wanted = at[np.abs(at[:, None] - np.array(near)).min(axis=1) <= size]
    if wanted.size == 0:
        return 0.0
    return float(np.isin(wanted, found).mean())


def _upper_edges(window: Light, xs: NDArray[np.intp], about: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n,) where, going down at n places ``xs``, the ground begins; NaN where nothing changes near ``about``, its y."""
    rows, count = len(window), len(xs)
    near = np.round(about).astype(int)
    start, end = np.maximum(0, near - ABOVE), np.minimum(rows - 1, near + BELOW)
    at = start[:, None] + np.arange(ABOVE + BELOW + 1)
    beside = xs[:, None, None] + np.arange(-1, 2)
    part = window[np.clip(at, 0, rows - 1)[..., None], beside].mean(axis=2, dtype=np.float32)
    sheet = np.sort(part[:, :3], axis=1)[:, 1]
    off = np.abs(part - sheet[:, None]).max(axis=2)
    off[at > end[:, None]] = 0.0
    peak = np.where(at >= near[:, None] - CLOSELY, off, 0.0).max(axis=1)
    over = off >= 0.5 * np.maximum(peak, LEAST_STEP)[:, None]
    first = over.argmax(axis=1)
    numbers = np.arange(count)
    before, after = off[numbers, np.maximum(0, first - 1)], off[numbers, first]
    # The half value between two pixel centres is where the edge of an evenly covered pixel lies.
    part_way = np.where(after > before, (0.5 * peak - before) / np.maximum(after - before, 1e-9), 0.5)
    told = (end - start >= 4) & (peak >= LEAST_STEP) & (first > 0)
    return np.where(told, start + first - 1 + part_way, np.nan)
