"""What stands still across the drawings."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.light import Light, difference, words

LEAST_CONTRAST = 14
# A picture lacks its background where so much of what is drawn there differs; little that is drawn tells nothing.
MISSING, FEWEST_DRAWN = 0.5, 100
STRAIGHTENING_LEAVES = 0.3
# A value that neighbours suggest is believed over the commonest one if the pixel ever shows it this often ...
GUESS_SUPPORT = 0.12
# ... and this closely (levels of 255).
GUESS_REACH = 28


@dataclass(frozen=True)
class Background:
    """The still part of the pictures, and how much single pixels flicker there (levels of 255, about 3 sigma).

    ``doubt`` (height, width) is by how many levels a picture may differ from it without telling anything, where
    pictures had to be straightened and their edges do not meet to the pixel; None where all are as they came.
    """

    light: Light
    noise: float
    doubt: NDArray[np.uint8] | None = None

    @cached_property
    def without_lines(self) -> Light:
        """The same with its thin lines gone."""
        return calm(self.light)

    @cached_property
    def ink(self) -> NDArray[np.uint8]:
        """(height, width) by how many levels its lines stand out of what is around them."""
        return difference(self.light, self.without_lines)

    @property
    def threshold(self) -> int:
        """The least difference that counts as something drawn there."""
        return int(min(90, max(LEAST_CONTRAST, 1.7 * self.noise)))

    def differs(self, light: Light) -> NDArray[np.uint8]:
        """(height, width) by how much a picture differs from it, levels."""
        off = difference(light, self.light)
        return off if self.doubt is None else np.asarray(cv2.subtract(off, self.doubt), dtype=np.uint8)


def noise_level(samples: Sequence[Light]) -> float:
    """How far still pixels differ between two pictures, as the 99th percentile of the calmer nine tenths."""
    if len(samples) < 2:
        return 0.0
    levels = []
    few = [_fewer(light) for light in samples]
    for one, other in itertools.pairwise(few):
        levels.append(float(np.percentile(difference(one, other), 90)))
    return float(np.median(levels)) * 1.35


def _fewer(light: Light) -> Light:
    """Every fourth pixel of every fourth row."""
    few = np.ascontiguousarray(words(light)[::4, ::4])
    return few.view(np.uint8).reshape(*few.shape, 4)


def estimate(samples: Sequence[Light], *, straightened: bool = False) -> Background:
    """The background behind a moving shape from pictures spread over the clip.

    Where nothing ever changes it is what all pictures show. Elsewhere it is, of the values seen there, the one
    that the still surroundings in the same row suggest, so that a ball that lies in one place for most of the
    clip is not taken for scenery; where they suggest nothing that was ever seen, it is the middle value.
    """
    noise = noise_level(samples)
    spread = difference(_over_all(np.maximum, samples), _over_all(np.minimum, samples))
    changed = spread > max(LEAST_CONTRAST, 2.2 * noise)
    changed = cv2.dilate(changed.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    light = _calm(samples, noise)
    if changed.any():
        guess = _across_rows(light, changed)
        light[changed] = _choose(np.stack([_at(s, changed) for s in samples]), _at(guess, changed), noise)
    return Background(light, noise, _edges(light) if straightened else None)


def _over_all(pick: np.ufunc, samples: Sequence[Light]) -> Light:
    """The greatest or the least of all samples at each place."""
    found = samples[0].copy()
    for light in samples[1:]:
        pick(found, light, out=found)
    return found


def _at(light: Light, where: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """(n, 4) the pixels at n places, four bytes at a time."""
    return words(light)[where].view(np.uint8).reshape(-1, 4)


def _edges(light: Light) -> NDArray[np.uint8]:
    """By how much neighbouring pixels differ, as a share that straightening may leave."""
    grey = cv2.cvtColor(light, cv2.COLOR_RGBA2GRAY)
    ranges = cv2.morphologyEx(grey, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    return np.asarray(ranges.astype(np.float32) * STRAIGHTENING_LEAVES, dtype=np.uint8)


def _calm(samples: Sequence[Light], noise: float) -> Light:
    if noise < 1:
        return samples[0].copy()
    total = np.zeros(samples[0].shape, np.float32)
    for light in samples:
        cv2.accumulate(light, total)
    return np.asarray(np.round(total / len(samples)), dtype=np.uint8)


def _choose(seen: NDArray[np.uint8], guess: NDArray[np.uint8], noise: float) -> NDArray[np.uint8]:
    """(n, 4) of the values seen (k, n, 4) at n pixels, by the guess (n, 4) or the median."""
    off = np.stack([_largest_off(one, guess) for one in seen])
    nearest = np.take_along_axis(seen, off.argmin(axis=0)[None, :, None], axis=0)[0]
    alike = max(10.0, 2 * noise)
    support = np.mean([_largest_off(one, nearest) <= alike for one in seen], axis=0)
    doubted = ~((off.min(axis=0) <= GUESS_REACH + noise) & (support >= GUESS_SUPPORT))
    chosen = np.ascontiguousarray(nearest)
    chosen[doubted] = np.sort(seen[:, doubted], axis=0)[seen.shape[0] // 2]
    return chosen


def _largest_off(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(n,) the largest difference over the channels of two (n, 4)."""
    # As a picture one pixel wide, for which this is quickest.
    return difference(one.reshape(-1, 1, 4), other.reshape(-1, 1, 4))[:, 0]


def _across_rows(light: Light, changed: NDArray[np.bool_]) -> Light:
    """Fill the changed pixels of each row in a straight line between the still ones beside them."""
    filled = light.copy()
    rows = np.flatnonzero(changed.any(axis=1) & (np.count_nonzero(changed, axis=1) <= changed.shape[1] - 4))
    # What lies beside all that changed is still, so no farther column is ever gone by.
    wide = np.flatnonzero(changed.any(axis=0))
    first, last = max(0, int(wide[0]) - 1), min(light.shape[1], int(wide[-1]) + 2)
    gaps = changed[rows, first:last]
    columns = np.arange(first, last, dtype=np.int32)
    left = np.maximum.accumulate(np.where(gaps, np.int32(-1), columns), axis=1)
    right = np.minimum.accumulate(np.where(gaps, np.int32(light.shape[1]), columns)[:, ::-1], axis=1)[:, ::-1]
    row, column = np.nonzero(gaps)
    left, right = left[row, column], right[row, column]
    column += first
    # At the edge of the frame there is one still pixel to go by.
    left, right = np.where(left < 0, right, left), np.where(right >= light.shape[1], left, right)
    part = ((column - left) / np.maximum(1, right - left))[:, None]
    one, other = light[rows[row], left].astype(np.float32), light[rows[row], right].astype(np.float32)
    filled[rows[row], column] = np.round(one + (other - one) * part).astype(np.uint8)
    return filled


class Missable:
    """Tells pictures behind whose ball the background is missing, its layer having been switched off in export."""

    def __init__(self, background: Background) -> None:
        self._background = background
        paper = np.empty_like(background.light)
        paper[:] = _commonest(background.light)
        self._drawn = (difference(background.light, paper) > background.threshold)[::2, ::2]
        self._drawn_count = int(np.count_nonzero(self._drawn))

    def differs(self, light: Light) -> tuple[NDArray[np.uint8], bool]:
        """(height, width) by how much a picture differs from what stands still, and whether that is missing in it."""
        return self.without_background(light, self._background.differs(light))

    def without_background(self, light: Light, differs: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], bool]:
        """The same where it is known how the picture ``differs`` from the whole background.

        Where ground or scenery is missing, what looks like the bare paper or like the background without its lines
        is nothing drawn either.
        """
        if not self._is_missing(differs):
            return differs, False
        paper = np.empty_like(light)
        paper[:] = _commonest(light)
        off = cv2.min(difference(light, paper), difference(light, self._background.without_lines))
        return np.asarray(cv2.min(differs, off), dtype=np.uint8), True

    def _is_missing(self, differs: NDArray[np.uint8]) -> bool:
        if self._drawn_count < FEWEST_DRAWN:
            return False
        over = (differs[::2, ::2] > self._background.threshold) & self._drawn
        return int(np.count_nonzero(over)) > MISSING * self._drawn_count


def calm(light: Light) -> Light:
    """A background without its lines: thin ones vanish when it is shrunk and its middle values are taken."""
    height, width = light.shape[:2]
    small = cv2.medianBlur(cv2.resize(light, (width // 4, height // 4), interpolation=cv2.INTER_AREA), 5)
    return np.asarray(cv2.resize(small, (width, height), interpolation=cv2.INTER_LINEAR), dtype=np.uint8)


def _commonest(light: Light) -> NDArray[np.uint8]:
    """(4,) the colour that most pixels have, in steps of eight levels."""
    few = np.ascontiguousarray(light[::4, ::4].reshape(-1, 4))
    keys = (few.astype(np.uint32) >> 3) @ np.array([1, 64, 4096, 262144], np.uint32)
    values, counts = np.unique(keys, return_counts=True)
    return np.asarray(np.median(few[keys == values[counts.argmax()]], axis=0), dtype=np.uint8)
