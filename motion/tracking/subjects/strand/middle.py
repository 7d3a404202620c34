"""A strand's middle line: roughly by how far its ink is from the root, then to a part of a pixel by its two edges."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.ink import Cover
from motion.tracking.subjects.figure.settle import runs
from motion.tracking.subjects.strand.polyline import along, placed
from motion.tracking.subjects.strand.topology import Ways

Floats = NDArray[np.float64]
STEP = 3.0
"""Stations along a strand, px."""
BAND = 6.0
"""Middles are first told from so much of a strand's length, px."""
ACROSS = 0.5
NEAR, FARTHER, WHOLE = 0.25, 0.45, 0.9
"""So near the root, as a share of its length, a strand may be cut short, where it is so much narrower than it is
between there and somewhat farther on."""
ROUND = 0.9
"""An end that fills less of its last square than this is round."""


@dataclass(frozen=True, slots=True, eq=False)
class Middle:
    """A drawing's middle line from near the root to the tip: (n, 2) px in the frame, (n,) how wide it is there.

    ``told`` (n,) where both edges show. ``tip`` is the end of its ink, along its last direction.
    """

    points: Floats
    widths: Floats
    told: NDArray[np.bool_]
    tip: tuple[float, float]


def middle_of(cover: Cover, origin: tuple[float, float], ways: Ways, far: Floats) -> Middle | None:
    """The middle line of ink, each pixel of which is so ``far`` from the root; ``cover`` begins at ``origin``."""
    rough = _rough(ways, far)
    if rough is None:
        return None
    points = _evenly(rough, STEP)
    width = 2.0 * _half_width(ways, far)
    for _ in range(2):
        points, widths, told = _between_edges(cover, points, max(4.0, 0.9 * width + 3.0))
        points = _smooth(points, told)
    told = told & ~_cut_short(widths)
    if not told.any():
        return None
    tip = _tip(cover, points, widths)
    shift = np.array(origin)
    return Middle(points + shift, widths, told, (tip[0] + origin[0], tip[1] + origin[1]))


def _cut_short(widths: Floats) -> NDArray[np.bool_]:
    """(n,) where a strand looks narrower near its root than farther on.

    What its ink covers in every drawing is taken for what stands still there, so that a part of it is missing.
    """
    cut = np.zeros(len(widths), bool)
    widths = _without_necks(np.nan_to_num(widths))
    first, last = round(NEAR * len(widths)), max(round(FARTHER * len(widths)), round(NEAR * len(widths)) + 3)
    narrow = widths[:first] < WHOLE * float(np.median(widths[first:last]))
    if narrow.any():
        # Of the one next to the last of them a part may be missing.
        cut[: int(np.flatnonzero(narrow)[-1]) + 3] = True
    return cut


def _without_necks(widths: Floats) -> Floats:
    """Widths with those between beads filled up: a short narrow place between two wide ones is none."""
    reach = max(1, math.ceil(0.5 * float(np.median(widths)) / STEP))
    padded = np.concatenate([np.zeros(2 * reach), widths, np.full(2 * reach, widths[-1])])
    wide = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1).max(axis=1)
    return np.asarray(np.lib.stride_tricks.sliding_window_view(wide, 2 * reach + 1).min(axis=1))


def _rough(ways: Ways, far: Floats) -> Floats | None:
    """(n, 2) the middles of the pixels that are about as far from the root."""
    reach = far[np.isfinite(far)]
    if not len(reach) or reach.max() < 4 * BAND:
        return None
    bands = np.minimum(np.where(np.isfinite(far), far, reach.max()) / BAND, 1e6).astype(np.intp)
    count = np.bincount(bands)
    sums = [np.bincount(bands, weights=ways.pixels[:, axis]) for axis in (0, 1)]
    there = count > 0
    return np.stack([s[there] / count[there] for s in sums], axis=1)


def _half_width(ways: Ways, far: Floats) -> float:
    """About half as wide as it is: its area by its length."""
    return 2.0 * len(ways.pixels) / max(1.0, float(far[np.isfinite(far)].max()))


def _evenly(points: Floats, step: float) -> Floats:
    """The same line by points at equal distances."""
    length = float(along(points)[-1])
    return placed(points, np.linspace(0, length, max(6, round(length / step) + 1)))


def directions(points: Floats) -> Floats:
    """(n, 2) unit directions along a line of points."""
    ahead = np.gradient(points, axis=0)
    if len(points) >= 7:
        kernel = np.array([1, 2, 3, 2, 1]) / 9
        ahead = np.stack(
            [np.convolve(np.pad(ahead[:, k], 2, mode="edge"), kernel, mode="valid") for k in (0, 1)], axis=1
        )
    return np.asarray(ahead / np.maximum(1e-9, np.hypot(ahead[:, 0], ahead[:, 1]))[:, None])


def _between_edges(cover: Cover, points: Floats, reach: float) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """Points moved square across to the middle between both edges of the ink, its widths, and where both show."""
    ways = directions(points)
    square = np.stack([-ways[:, 1], ways[:, 0]], axis=1)
    aside = np.arange(-reach, reach + ACROSS / 2, ACROSS)
    places = points[:, None] + aside[:, None] * square[:, None]
    x, y = np.ascontiguousarray(np.moveaxis(places, -1, 0), dtype=np.float32)
    profile = np.asarray(cv2.remap(cover, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT), dtype=np.float64)
    low, high = runs(profile, aside)
    told = np.isfinite(low)
    moved = np.where(told, (low + high) / 2, 0.0)
    return points + moved[:, None] * square, np.where(told, high - low, np.nan), told


def _smooth(points: Floats, told: NDArray[np.bool_]) -> Floats:
    """Points that show neither edge lie between those that do."""
    at = np.flatnonzero(told)
    if len(at) < 2:
        return points
    every = np.arange(len(points))
    inner = (every >= at[0]) & (every <= at[-1])
    filled = np.stack([np.interp(every, at, points[at, axis]) for axis in (0, 1)], axis=1)
    return np.where((inner & ~told)[:, None], filled, points)


def _tip(cover: Cover, points: Floats, widths: Floats) -> tuple[float, float]:
    """Where a strand ends: the middle of its rounding, or of its last edge."""
    back = min(len(points) - 1, 6)
    way = points[-1] - points[-1 - back]
    way = way / max(1e-9, float(np.hypot(*way)))
    known = widths[np.isfinite(widths)]
    half = 0.5 * float(np.median(known[-8:])) if len(known) else 1.0
    start = points[-1 - min(back, 3)]
    ahead = np.arange(0.0, 3 * STEP + 3 * half + 8, 0.25)
    reach = np.linspace(-half, half, max(3, 2 * math.ceil(half) + 1))
    square = np.array([-way[1], way[0]])
    places = start + ahead[:, None, None] * way + reach[None, :, None] * square
    x, y = np.ascontiguousarray(np.moveaxis(places, -1, 0), dtype=np.float32)
    shown = np.asarray(cv2.remap(cover, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT), dtype=np.float64)
    middle = shown[:, len(reach) // 2]
    over = np.flatnonzero(middle > 0.5)
    last = float(ahead[over[-1]]) if len(over) else 0.0
    square_part = (ahead > last - half) & (ahead <= last)
    fills = float((shown[square_part] > 0.5).mean()) if square_part.any() else 1.0
    at = start + (last - (half if fills < ROUND else 0.0)) * way
    return float(at[0]), float(at[1])
