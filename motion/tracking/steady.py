"""Pictures made comparable: laid as the first one lies, in the first one's light."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.shift import STILL, Shift
from motion.tracking.light import Box, Light, words
from motion.tracking.registration import DRIFTS_PX, Register
from motion.tracking.views import Lit, View

FLICKERS = 0.004
"""Light that differs by a smaller share in all pictures is the same."""
GRID = 8
"""Light is compared in every so many rows and columns."""
THINNED = 8
"""Edges are looked for in every so many columns."""
LOOKED_AT = 6
"""So many pictures tell whether a clip drifts."""
ENOUGH = 2
"""So many of them must be off: one picture alone may be odd in another way."""
EDGE, FEWEST_EDGES, SAME_EDGES = 12, 50, 0.5
"""Levels that make an edge, how many pixels of it are needed, and which share of them tells that nothing drifts."""
DARK = 20
"""Pixels darker than this tell nothing about the light ..."""
LEAST_BRIGHT = 0.05
"""... and fewer of the others than this share neither."""
ANCHOR_DRIFTS_PX = 0.35
"""What little is drawn in one place tells less exactly whether it drifts."""
OPAQUE = np.array([0, 0, 0, 255], np.uint8).view(np.uint32)
"""What a pixel's opacity is, all channels read as one number."""


class Lamp:
    """The light of a clip's first picture, by which that of the others is told.

    Made from every ``GRID`` pixels of every so many rows of it.
    """

    def __init__(self, few: Light) -> None:
        self._few, self._pixels = few, words(few)

    @cached_property
    def _bright(self) -> NDArray[np.intp]:
        bright = self._few[..., :3].min(axis=2) > DARK
        return np.flatnonzero(bright) if bright.mean() >= LEAST_BRIGHT else np.zeros(0, np.intp)

    @cached_property
    def _colours(self) -> NDArray[np.float32]:
        return self._at_bright(self._few)

    def gain(self, few: Light) -> NDArray[np.float64]:
        """(3,) how much brighter each colour is in as few pixels of another picture: the middle over the picture."""
        same = np.count_nonzero(words(few) == self._pixels) > 0.5 * self._pixels.size
        if same or not len(self._bright):
            return np.ones(3)
        return np.array([median(ratio) for ratio in self._at_bright(few) / self._colours])

    def _at_bright(self, few: Light) -> NDArray[np.float32]:
        """(3, n) the colours where the first picture is bright, never nought."""
        pixels = few.reshape(-1, few.shape[2])[self._bright, :3]
        return np.maximum(np.ascontiguousarray(pixels.T), 1).astype(np.float32)


@dataclass(frozen=True, slots=True)
class Steady:
    """What to take out of each picture of a clip: nothing, drift, flicker, or both."""

    register: Register | None
    lamp: Lamp | None

    @property
    def changes(self) -> bool:
        """Whether equal drawings give unequal pictures."""
        return self.register is not None or self.lamp is not None

    def steady(self, view: View) -> tuple[View, Shift]:
        """A picture in the light of the first and laid as it lies, and how it lay."""
        if not self.changes:
            return view, STILL
        light = self._relit(view)
        if self.register is None:
            return Lit(light), STILL
        shift = self._shift(view, light)
        return Lit(self.register.straighten(light, shift)), shift

    def lies(self, view: View) -> Shift:
        """How a picture lies."""
        return self._shift(view, self._relit(view))

    def _relit(self, view: View) -> Light:
        return view.light() if self.lamp is None else _relit(view.light(), self.lamp)

    def _shift(self, view: View, light: Light) -> Shift:
        if self.register is None:
            return STILL
        # As the reference is: a video's own brightness is not that of its colours to the level.
        return self.register.shift_of(view.grey() if self.lamp is None else light)


NOTHING = Steady(None, None)


def look(samples: Sequence[View], anchor: Box | None = None, *, stays: bool = False) -> Steady:
    """Whether the pictures of a clip, of which these are some, drift or flicker. The first one is the clip's first.

    Where too little stands still all over, what is drawn in a box that is known to belong to the paper (``anchor``)
    tells of drift. ``stays`` is whether the subject stays in its place, where it would stand still itself.
    """
    if len(samples) < 3 or not samples[0].opaque:
        return NOTHING
    first = samples[0]
    lamp = Lamp(first.fewer(GRID))
    few = [samples[round(i)] for i in np.linspace(1, len(samples) - 1, min(LOOKED_AT, len(samples) - 1))]
    flickers = sum(abs(lamp.gain(s.fewer(GRID)) - 1.0).max() > FLICKERS for s in few) >= ENOUGH
    if not flickers and _same_edges(first.columns(THINNED), [s.columns(THINNED) for s in few]):
        return NOTHING
    lit = [_relit(s.light(), lamp) if flickers else s.grey() for s in few]
    reference = first.light() if flickers else first.grey()
    register = _drifting(Register(reference, lit, stays=stays), lit, DRIFTS_PX)
    if register is None and anchor is not None:
        register = _drifting(Register(reference, lit, anchor=anchor), lit, ANCHOR_DRIFTS_PX)
    return Steady(register, lamp if flickers else None)


def _drifting(register: Register, pictures: Sequence[NDArray[np.uint8]], least: float) -> Register | None:
    """The register, where it finds that some of the pictures lie off by more than so many px."""
    if not register.has_edges:
        return None
    height, width = pictures[0].shape[:2]
    off = [register.shift_of(p).farthest(width, height) > least for p in pictures]
    return register if sum(off) >= ENOUGH else None


def _same_edges(one: NDArray[np.uint8], others: Sequence[NDArray[np.uint8]]) -> bool:
    """Whether most pixels beside an edge in one picture are to the level the same in all others, as in digital work."""
    edges = np.flatnonzero(cv2.absdiff(one[1:], one[:-1]) > EDGE)
    if len(edges) < FEWEST_EDGES:
        return False
    beside = one[1:].reshape(-1)[edges]
    return all(np.mean(other[1:].reshape(-1)[edges] == beside) > SAME_EDGES for other in others)


def _relit(light: Light, lamp: Lamp) -> Light:
    gain = lamp.gain(light[::GRID, ::GRID])
    if np.abs(gain - 1.0).max() < FLICKERS / 4:
        return light
    if np.ptp(gain) < FLICKERS / 2:
        return _opaque(np.asarray(cv2.convertScaleAbs(light, alpha=1 / float(gain.mean())), dtype=np.uint8))
    levels = np.arange(256)[:, None]
    table = np.clip(np.round(levels / np.append(gain, 1.0)), 0, 255).astype(np.uint8)
    return np.asarray(cv2.LUT(light, table[None]), dtype=np.uint8)


def _opaque(light: Light) -> Light:
    """The same with nothing shining through, in place."""
    pixels = words(light)
    np.bitwise_or(pixels, OPAQUE, out=pixels)
    return light
