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
BEYOND, FEWEST_BEYOND = 0.85, 12
"""Its taper is told from there to such a share of its length, by so many stations at least."""
ACROSS = 0.5
NEAR, FARTHER, WHOLE, LEAST_NARROW_PX = 0.25, 0.45, 0.9, 0.9
"""So near the root, as a share of its length, a strand may be cut short, where it is so much narrower, and by so many
px, than it is between there and somewhat farther on."""
WIDENS = 1.6
"""What is so many times as wide as it usually is belongs to a weight."""
STATIONS_BACK = 8
"""By so many stations before an end its direction and its width there are told."""
LEAST_ROUND_PX = 2.5
"""Half as wide at least is a rounding whose outline tells where its middle is."""
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
    usual = np.full(first, float(np.median(widths[first:last])))
    beyond = np.arange(first, round(BEYOND * len(widths)))
    # Where a weight begins it widens, and shows no edges.
    beyond = beyond[(widths[beyond] > 0) & (widths[beyond] < WIDENS * usual[0])]
    if len(beyond) >= last - first + FEWEST_BEYOND:
        # What tapers grows on towards the root; a thin line's widths differ by as much as its edges' pixels.
        slope, level = np.polyfit(beyond, widths[beyond], 1)
        if abs(slope) * len(beyond) > LEAST_NARROW_PX:
            usual = np.clip(level + slope * np.arange(first), usual, 2 * usual)
    narrow = widths[:first] < np.minimum(WHOLE * usual, usual - LEAST_NARROW_PX)
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
    half, back = _end_width(widths)
    begin = max(0, len(points) - 1 - back)
    before = max(0, begin - STATIONS_BACK)
    way = points[begin] - points[before] if begin > before else points[-1] - points[0]
    way = way / max(1e-9, float(np.hypot(*way)))
    start = points[max(0, len(points) - 1 - min(back, 3))]
    ahead = np.arange(0.0, 3 * STEP + 3 * half + 8, 0.25)
    reach = np.linspace(-half, half, max(3, 2 * math.ceil(half) + 1))
    square = np.array([-way[1], way[0]])
    places = start + ahead[:, None, None] * way + reach[None, :, None] * square
    shown = _shown(cover, places)
    middle = shown[:, len(reach) // 2]
    over = np.flatnonzero(middle > 0.5)
    last = float(ahead[over[-1]]) if len(over) else 0.0
    square_part = (ahead > last - half) & (ahead <= last)
    fills = float((shown[square_part] > 0.5).mean()) if square_part.any() else 1.0
    if fills >= ROUND:
        at = start + last * way
    else:
        at = _middle_of_rounding(cover, start + (last - half) * way, way, half)
    return float(at[0]), float(at[1])


def _end_width(widths: Floats) -> tuple[float, int]:
    """Half as wide as a strand is where its rounding begins, px, and how many stations before its end that is."""
    known = np.flatnonzero(np.isfinite(widths))
    if not len(known):
        return 1.0, 6
    half = 0.5 * float(np.median(widths[known[-8:]]))
    back = math.ceil(0.5 * float(np.nanmax(widths[known[-math.ceil(2 * half / STEP) - 4 :]])) / STEP) + 1
    own = known[known < len(widths) - back][-STATIONS_BACK:]
    if len(own) < 4:
        return half, 6
    slope, level = np.polyfit(own - len(widths), widths[own], 1)
    usual = float(np.median(widths[own]))
    # It narrows on as it did; its rounding begins half its width before its end.
    told = level + min(0.0, float(slope)) * (-0.5 * usual / STEP)
    return 0.5 * min(1.1 * usual, max(0.3 * usual, float(told))), back


def _middle_of_rounding(cover: Cover, at: Floats, way: Floats, half: float) -> Floats:
    """The centre of a round end, by where its outline lies around a place near it."""
    if half < LEAST_ROUND_PX:
        return at
    turns = math.atan2(way[1], way[0]) + np.radians(np.linspace(-75, 75, 31))
    rays = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    along_ray = np.arange(0.3 * half, 1.8 * half + 3, 0.25)
    for _ in range(2):
        shown = _shown(cover, at + along_ray[None, :, None] * rays[:, None])
        out = (shown <= 0.5).argmax(axis=1)
        sound = (out > 0) & (shown[:, 0] > 0.5)
        if sound.sum() < 10:
            return at
        before, after = shown[sound, out[sound] - 1], shown[sound, out[sound]]
        edge = along_ray[out[sound]] - 0.25 * (0.5 - after) / np.maximum(1e-6, before - after)
        off = edge - half
        near = np.abs(off - np.median(off)) <= max(0.5, 2.5 * float(np.median(np.abs(off - np.median(off)))))
        moved = np.linalg.lstsq(rays[sound][near], off[near], rcond=None)[0]
        far = float(np.hypot(*moved))
        if far > 0.6 * half:
            return at
        at = at + moved
    return at


def _shown(cover: Cover, places: Floats) -> Floats:
    """(...) how far ink covers places (..., 2), px."""
    x, y = np.ascontiguousarray(np.moveaxis(places, -1, 0), dtype=np.float32)
    shape = x.shape
    told = cv2.remap(
        cover, x.reshape(len(x), -1), y.reshape(len(y), -1), cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT
    )
    return np.asarray(told, dtype=np.float64).reshape(shape)
