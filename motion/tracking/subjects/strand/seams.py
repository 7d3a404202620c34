"""Joints that are drawn: lines across a chain that lie at the same place along it in every drawing.

Links that cover each other end in an arc of their own rounding, others in a straight edge or a pin. Where a chain
hardly bends they are all that tells its joints.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.strand.middle import directions
from motion.tracking.subjects.strand.polyline import along, placed

Floats = NDArray[np.float64]
TRIED = 16
ACROSS, OFFSETS = 0.72, 9
"""It is looked at within such a share of its width, in so many places across it."""
SPANS = 30
"""A line goes across it where so many in a hundred of those places differ less than the others."""
LOOSE_PX = 2
STANDS_OUT, LEAST = 6.0, 18.0
"""A line differs from what lies along the chain by so many times what that itself does, and by so many levels."""


@dataclass(frozen=True, slots=True)
class Strip:
    """A drawing's chain: the (n, 2) middle line from the root to the end, px, and its ink."""

    line: Floats
    sheet: Sheet


def seams_of(strips: Sequence[Strip], wide: float, weight: float = 0.0) -> tuple[float, ...]:
    """How far from the root, px, lines go across the chain, the clearest first; ``weight`` px at its end hide it."""
    some = strips[:: max(1, len(strips) // TRIED)]
    length = min(float(along(s.line)[-1]) for s in some)
    if wide < 5 or length < 4 * wide:
        return ()
    reach = np.linspace(-0.5, 0.5, OFFSETS) * ACROSS * wide
    unlike = np.median([_unlike(s, math.floor(length), reach) for s in some], axis=0)
    pooled = np.asarray(cv2.dilate(unlike.astype(np.float32), np.ones((2 * LOOSE_PX + 1, 1), np.uint8)), np.float32)
    bulge = np.sqrt(np.maximum(0.0, (0.5 * wide - 1.5) ** 2 - reach**2))
    shapes = (-bulge, bulge, 0 * bulge)
    scores = np.max([_lines_across(pooled, shift) for shift in shapes], axis=0)
    # Next to the root a part of it is missing, which looks like an edge as well.
    begins = float(np.median([np.hypot(*(s.line[1] - s.line[0])) for s in some])) + 0.3 * wide
    inner = slice(math.ceil(max(0.8 * wide, begins)), math.floor(length - 0.8 * wide - weight / 2))
    return tuple(_sharpened(unlike, place, shapes, wide) for place in _peaks(scores, inner, wide))


def _sharpened(unlike: Floats, place: float, shapes: Sequence[Floats], wide: float) -> float:
    """Where the joint is whose line goes across about a place: the line's shape tells on which side of it."""
    near = np.arange(max(0.0, place - wide - 3), min(len(unlike) - 1.0, place + wide + 3), 0.5)
    offsets = np.broadcast_to(np.arange(unlike.shape[1]), (len(near), unlike.shape[1]))
    best, found = 0.0, place
    for shift in shapes:
        told = ndimage.map_coordinates(unlike, [near[:, None] + shift[None, :], offsets], order=1, mode="nearest")
        score = told.mean(axis=1)
        if float(score.max()) > best:
            best, found = float(score.max()), float(near[int(score.argmax())])
    return found


def _unlike(strip: Strip, count: int, reach: Floats) -> Floats:
    """(count, offsets) by how much what is drawn at each px along the chain differs from what usually is."""
    middles = placed(strip.line, np.arange(count, dtype=np.float64))
    ways = directions(middles)
    square = np.stack([-ways[:, 1], ways[:, 0]], axis=1)
    places = middles[:, None] + reach[None, :, None] * square[:, None] - (strip.sheet.left, strip.sheet.top)
    x, y = np.ascontiguousarray(np.moveaxis(places, -1, 0), dtype=np.float32)
    cover = 255 * np.asarray(cv2.remap(strip.sheet.cover, x, y, cv2.INTER_LINEAR), dtype=np.float64)
    colour = np.asarray(cv2.remap(strip.sheet.colour, x, y, cv2.INTER_LINEAR), dtype=np.float64)[..., :3]
    told = np.concatenate([colour * (cover[..., None] / 255), cover[..., None]], axis=2)
    return np.asarray(np.abs(told - np.median(told, axis=0)).max(axis=2))


def _lines_across(pooled: NDArray[np.float32], shift: Floats) -> Floats:
    """(n,) by how much a line differs that crosses at each px along, bent by ``shift`` px at each place across."""
    count = len(pooled)
    at = np.arange(count)[:, None] + np.rint(shift).astype(np.intp)[None, :]
    told = pooled[np.clip(at, 0, count - 1), np.arange(pooled.shape[1])[None, :]]
    return np.asarray(np.percentile(told, SPANS, axis=1))


def _peaks(scores: Floats, inner: slice, wide: float) -> tuple[float, ...]:
    """Where scores stand out, the highest first, no two nearer than a link is wide."""
    own = scores[inner]
    if len(own) < 3 * wide:
        return ()
    usual = float(np.median(own))
    spread = max(1.0, 1.48 * float(np.median(np.abs(own - usual))))
    found = list[float]()
    for at in np.argsort(-own, kind="stable"):
        if own[at] - usual < max(LEAST, STANDS_OUT * spread):
            break
        # Of a flat top the middle.
        top = np.flatnonzero(own >= 0.95 * own[at])
        run = top[np.abs(top - at) <= 2 * LOOSE_PX + 1]
        place = inner.start + float(run.mean())
        if all(abs(place - other) > wide for other in found):
            found.append(place)
    return tuple(found)
