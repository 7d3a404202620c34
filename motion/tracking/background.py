"""What stands still across the drawings."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Planes
from motion.ranks import level_over
from motion.tracking import planes as pl
from motion.tracking import still
from motion.tracking.differs import Differs
from motion.tracking.light import (
    NOWHERE,
    Box,
    Light,
    difference,
    is_opaque,
    sheet_of,
    where_drawn,
    where_unequal,
    within,
    words,
)
from motion.tracking.lines import Lines
from motion.tracking.views import Planar, View

LEAST_CONTRAST = 14
# A picture lacks its background where so much of what is drawn there differs; little that is drawn tells nothing.
MISSING, FEWEST_DRAWN = 0.5, 100
STRAIGHTENING_LEAVES, RING_PX = 0.3, 3
NOISE_PIXELS = 14_000
"""Noise is told from about so many pixels of a picture, ..."""
NOISE_PAIRS = 5
"""... and from so many pairs of pictures, where there are as many."""
MOST_NOISE, NINE_TENTHS_BY_HALF = 40.0, 2.4
"""No grain of paper or codec differs by more levels than the first, so that what moves is larger than a tenth of the
picture; then nine tenths of the noise are told from what half of it does not exceed, as in any grain that is normally
distributed."""
Sample = TypeVar("Sample")
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Background:
    """The still part of the pictures, and how much single pixels flicker there (levels of 255, about 3 sigma).

    ``doubt`` (height, width) is by how many levels a picture may differ from it without telling anything, where
    pictures had to be straightened and their edges do not meet to the pixel; None where all are as they came.
    ``planes`` is the same as a video's codec would hold it, where the pictures are a video's. ``changes`` (height / 2,
    width / 2) is where the pictures that it is told from differ, None where that is not known.
    """

    light: Light
    noise: float
    doubt: NDArray[np.uint8] | None = None
    planes: Planes | None = None
    changes: NDArray[np.bool_] | None = None

    @cached_property
    def lines(self) -> Lines:
        """What is drawn in it in lines."""
        return Lines.of(self.light)

    @property
    def shade(self) -> NDArray[np.uint8]:
        """(height, width) how bright it is, as a picture before it tells."""
        return np.ascontiguousarray(self.light[..., 1]) if self.planes is None else self.planes.luma

    @property
    def threshold(self) -> int:
        """The least difference that counts as something drawn there."""
        return int(min(90, max(LEAST_CONTRAST, 1.7 * self.noise)))

    def differs(self, view: View) -> Differs:
        """By how much a picture differs from it."""
        if self.planes is not None and isinstance(view, Planar):
            return self._differs_within(view, pl.where(view.planes, self.planes, self.threshold))
        if self.noise < 1 and self.doubt is None:
            return self._differs_within(view, where_unequal(view.light(), self.light))
        # Every other row is enough: nothing that is drawn is thinner than two.
        rows = np.s_[::2, :]
        left, top, right, bottom = where_drawn(self._off(view.light()[rows], rows), self.threshold)
        return self._differs_within(view, (left, 2 * top, right, min(len(self.light), 2 * bottom)))

    def _differs_within(self, view: View, box: Box) -> Differs:
        height, width = self.light.shape[:2]
        part = self._off(view.part(box), within(box)) if box != NOWHERE else np.zeros((0, 0), np.uint8)
        return Differs(part, box, (height, width))

    def _off(self, part: Light, where: tuple[slice, slice]) -> NDArray[np.uint8]:
        """By how many levels a part of a picture differs from what stands still ``where`` it lies."""
        off = difference(part, self.light[where])
        return off if self.doubt is None else np.asarray(cv2.subtract(off, self.doubt[where]), dtype=np.uint8)


@dataclass(frozen=True, slots=True, eq=False)
class Covered:
    """(height / 2, width / 2) where what moves is known to be in front all the time, and where it then was ``left``, in
    what was told to stand still; None where that is not known. Where it is in front ``nearly`` all the time, rows tell
    what is behind whose both ends are alike. ``columns`` may tell it, too, of what reaches across scenery on a ground.
    """

    where: Mask
    left: Mask | None = None
    nearly: Mask | None = None
    columns: bool = False


InFront = Callable[[Background], Covered | None]
"""Tells where something that moves is in front; None: nowhere."""


def noise_level(few: Sequence[Light]) -> float:
    """How far still pixels differ between two pictures, as the 99th percentile of the calmer nine tenths.

    Every so many pixels of every so many rows of them are enough.
    """
    if len(few) < 2:
        return 0.0
    return float(np.median([_unlike(difference(one, other)) for one, other in itertools.pairwise(few)])) * 1.35


def _unlike(differs: NDArray[np.uint8]) -> float:
    """What the calmer nine tenths of two pictures' differences do not exceed, or half of them where more moves."""
    level = level_over(differs, 0.9)
    return level if level <= MOST_NOISE else min(level, NINE_TENTHS_BY_HALF * level_over(differs, 0.5))


def _fewer(light: Light, step: int) -> Light:
    """Every so many pixels of every so many rows, which is quickest four bytes at a time."""
    few = np.ascontiguousarray(words(light)[::step, ::step])
    return few.view(np.uint8).reshape(*few.shape, 4)


def estimate(samples: Sequence[Light], *, straightened: bool = False, in_front: InFront | None = None) -> Background:
    """The background behind a moving shape from pictures spread over the clip.

    ``in_front`` tells from it where something that moves is in front in all of them; there it is told anew.
    """
    noise = noise_level([_fewer(s, _noise_step(s.shape[0] * s.shape[1])) for s in _some(samples)])
    channels = list(zip(*(cv2.split(s) for s in samples), strict=True))
    # Where all is opaque there is nothing to be told of how much it is.
    told_of, opaque = (channels[:3], channels[3][:1]) if all(map(is_opaque, samples)) else (channels, ())
    levels = max(LEAST_CONTRAST, 2.2 * noise)
    changed = still.changes(told_of[0], levels)
    for channel in told_of[1:]:
        np.maximum(changed, still.changes(channel, levels), out=changed)
    moving = still.widened(changed)
    changes = moving if not straightened else still.widened(_wide(changed))

    def told(covered: Covered | None, before: Sequence[NDArray[np.uint8]]) -> Told:
        whole = None if covered is None else _doubled(covered.where, moving.shape)
        left = None if covered is None or covered.left is None else _doubled(covered.left, moving.shape)
        everywhere = moving if whole is None else moving | whole
        own = None if left is None else still.Left(left, before)
        nearly = None if covered is None or covered.nearly is None else _doubled(covered.nearly, moving.shape)
        columns = covered is not None and covered.columns
        found, _ = still.behind(told_of, everywhere, noise, whole, own, nearly, columns=columns)
        light = np.asarray(cv2.merge([*found, *opaque]), dtype=np.uint8)
        doubt = _edges(light) if straightened else None
        return Background(light, noise, doubt, changes=changes[::2, ::2]), found

    return _told_anew(told, in_front)


def estimate_planes(samples: Sequence[Planes], in_front: InFront | None = None) -> Background:
    """The same from a video's pictures. Which of them is taken is told at half their size, as their colours are."""
    noise = noise_level([pl.fewer(s, _noise_step(s.luma.size)) for s in _some(samples)])
    levels = max(LEAST_CONTRAST, 2.2 * noise)
    channels = [[pl.halved(s.luma) for s in samples], [s.blue for s in samples], [s.red for s in samples]]
    changed = still.changes(channels[0], pl.LUMA * levels)
    for channel in channels[1:]:
        np.maximum(changed, still.changes(channel, pl.CHROMA * levels), out=changed)
    moving = still.widened(changed, by=1)

    def told(covered: Covered | None, before: Sequence[NDArray[np.uint8]]) -> Told:
        whole = None if covered is None else covered.where
        everywhere = moving if whole is None else moving | whole
        own = None if covered is None or covered.left is None else still.Left(covered.left, before)
        nearly = None if covered is None else covered.nearly
        columns = covered is not None and covered.columns
        halves, taken = still.behind(channels, everywhere, noise, whole, own, nearly, columns=columns)
        _, blue, red = halves
        grey = still.put_together([s.luma for s in samples], taken, noise)
        found = Planes(luma=grey, blue=blue, red=red, full=samples[0].full)
        return Background(pl.coloured(found), noise, planes=found, changes=moving), halves

    return _told_anew(told, in_front)


Told = tuple[Background, list[NDArray[np.uint8]]]
"""What stands still, and the same channel by channel."""


def _told_anew(
    told: Callable[[Covered | None, Sequence[NDArray[np.uint8]]], Told], in_front: InFront | None
) -> Background:
    plain, channels = told(None, ())
    covered = None if in_front is None else in_front(plain)
    return plain if covered is None else told(covered, channels)[0]


def _wide(changed: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What changes, but for rings around what stands still, whose edges do not meet to the pixel once straightened."""
    return np.asarray(cv2.morphologyEx(changed, cv2.MORPH_OPEN, np.ones((RING_PX, RING_PX), np.uint8)), dtype=np.uint8)


def _doubled(half: Mask, size: tuple[int, ...]) -> Mask:
    """(height, width) what is told of every other pixel of every other row."""
    whole = np.repeat(np.repeat(half, 2, axis=0), 2, axis=1)
    return np.asarray(whole[: size[0], : size[1]])


def _noise_step(pixels: int) -> int:
    """Of every how many pixels in every how many rows of a picture of so many noise is told; an even number."""
    return 2 * max(1, round(math.sqrt(pixels / NOISE_PIXELS) / 2))


def _some(samples: Sequence[Sample]) -> Sequence[Sample]:
    """Every other one of many samples, which tell the noise as well."""
    return samples[::2] if len(samples) >= 2 * NOISE_PAIRS else samples


def _edges(light: Light) -> NDArray[np.uint8]:
    """By how much neighbouring pixels differ, as a share that straightening may leave."""
    grey = cv2.cvtColor(light, cv2.COLOR_RGBA2GRAY)
    ranges = cv2.morphologyEx(grey, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    return np.asarray(ranges.astype(np.float32) * STRAIGHTENING_LEAVES, dtype=np.uint8)


class Missable:
    """Tells pictures behind whose subject the background is missing, its layer having been switched off in export."""

    def __init__(self, background: Background) -> None:
        self._background = background
        light = _fewer(background.light, 2)
        self._drawn = difference(light, sheet_of(light)) > background.threshold
        self._drawn_count = int(np.count_nonzero(self._drawn))
        # What a subject that hardly leaves its place has left of itself in the background is no scenery.
        changes = background.changes
        known = changes is not None and changes.shape == self._drawn.shape
        self._untouched = self._drawn & ~changes if known and changes is not None else np.zeros_like(self._drawn)
        self._untouched_count = int(np.count_nonzero(self._untouched))

    def without_background(self, view: View, differs: Differs) -> tuple[Differs, bool]:
        """How a picture differs from what stands still in it, and whether ground or scenery is missing there.

        It ``differs`` so from the whole background. Where that is missing, what looks like the bare paper or like the
        background without its lines is nothing drawn either.
        """
        if not self._is_missing(view, differs):
            return differs, False
        light, here = view.light(), within(differs.box)
        of_sheet = difference(light[here], sheet_of(light)[here])
        off = cv2.min(of_sheet, difference(light[here], self._without_lines[here]))
        return replace(differs, part=np.asarray(cv2.min(differs.part, off), dtype=np.uint8)), True

    @cached_property
    def _without_lines(self) -> Light:
        return self._background.lines.whole_without()

    def _is_missing(self, view: View, differs: Differs) -> bool:
        if self._drawn_count < FEWEST_DRAWN:
            return False
        left, top, right, bottom = differs.box
        rows, columns = within(((left + 1) // 2, (top + 1) // 2, (right + 1) // 2, (bottom + 1) // 2))
        drawn, least = self._drawn[rows, columns], MISSING * self._drawn_count
        if np.count_nonzero(drawn) <= least:
            return False
        over = differs.part[top % 2 :: 2, left % 2 :: 2] > self._background.threshold
        missing = over & drawn
        if self._untouched_count >= FEWEST_DRAWN:
            gone = np.count_nonzero(over & self._untouched[rows, columns])
            if gone <= MISSING * self._untouched_count:
                return False
        return int(np.count_nonzero(missing)) > least and self._is_bare(view, missing, rows, columns, least)

    def _is_bare(self, view: View, missing: NDArray[np.bool_], rows: slice, columns: slice, least: float) -> bool:
        """Whether a picture shows paper where something is ``missing``, and nothing in front nor a line that moved."""
        light = _fewer(view.light(), 2)
        bare = cv2.min(
            difference(light[rows, columns], sheet_of(light)[rows, columns]),
            difference(light[rows, columns], self._fewer_without_lines[rows, columns]),
        )
        return int(np.count_nonzero(missing & (bare <= self._background.threshold))) > least

    @cached_property
    def _fewer_without_lines(self) -> Light:
        return _fewer(self._without_lines, 2)
