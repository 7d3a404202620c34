"""Pictures made comparable: laid as the first one lies, in the first one's light."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.light import Light
from motion.tracking.registration import DRIFTS_PX, STILL, Register, Shift
from motion.tracking.views import Lit, View

FLICKERS = 0.004
"""Light that differs by a smaller share in all pictures is the same."""
GRID = 8
"""Light is compared in every so many rows and columns."""
THINNED = 4
"""Edges are looked for in every so many columns."""
LOOKED_AT = 6
"""So many pictures tell whether a clip drifts."""
ENOUGH = 2
"""So many of them must be off: one picture alone may be odd in another way."""
EDGE, FEWEST_EDGES, SAME_EDGES = 12, 100, 0.5
"""Levels that make an edge, how many pixels of it are needed, and which share of them tells that nothing drifts."""
DARK = 20
"""Pixels darker than this tell nothing about the light."""


@dataclass(frozen=True, slots=True)
class Steady:
    """What to take out of each picture of a clip: nothing, drift, flicker, or both."""

    register: Register | None
    reference: NDArray[np.float32] | None

    @property
    def changes(self) -> bool:
        """Whether equal drawings give unequal pictures."""
        return self.register is not None or self.reference is not None

    def steady(self, view: View) -> tuple[View, Shift]:
        """A picture in the light of the first and laid as it lies, and how it lay."""
        if not self.changes:
            return view, STILL
        light = view.light()
        if self.reference is not None:
            light = _relit(light, self.reference)
        if self.register is None:
            return Lit(light), STILL
        shift = self.register.shift_of(light)
        return Lit(self.register.straighten(light, shift)), shift


NOTHING = Steady(None, None)


def look(samples: Sequence[View]) -> Steady:
    """Whether the pictures of a clip, of which these are some, drift or flicker. The first one is the clip's first."""
    if len(samples) < 3 or not samples[0].opaque:
        return NOTHING
    first = samples[0]
    reference = _colours(first.fewer(GRID))
    few = [samples[round(i)] for i in np.linspace(1, len(samples) - 1, min(LOOKED_AT, len(samples) - 1))]
    flickers = sum(abs(_gain(s.fewer(GRID), reference) - 1.0).max() > FLICKERS for s in few) >= ENOUGH
    if not flickers and all(_same_edges(first.columns(THINNED), s.columns(THINNED)) for s in few):
        return NOTHING
    lit = [_relit(s.light(), reference) if flickers else s.grey() for s in few]
    register = Register(first.grey(), lit)
    height, width = lit[0].shape[:2]
    off = [register.shift_of(s).farthest(width, height) > DRIFTS_PX for s in lit] if register.has_edges else []
    drifts = sum(off) >= ENOUGH
    return Steady(register if drifts else None, reference if flickers else None)


def _same_edges(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> bool:
    """Whether most pixels beside an edge in one picture are to the level the same in another, as in digital work."""
    edges = cv2.absdiff(one[1:], one[:-1]) > EDGE
    if np.count_nonzero(edges) < FEWEST_EDGES:
        return False
    return bool(np.mean((one[1:] == other[1:])[edges]) > SAME_EDGES)


def _colours(few: Light) -> NDArray[np.float32]:
    return np.maximum(few[..., :3].astype(np.float32), 1.0)


def _gain(few: Light, reference: NDArray[np.float32]) -> NDArray[np.float32]:
    """(3,) how much brighter each colour is than in the reference: the middle over the picture."""
    seen = _colours(few)
    if np.count_nonzero(seen[..., 1] == reference[..., 1]) > 0.5 * seen[..., 1].size:
        return np.ones(3, np.float32)
    bright = reference.min(axis=2) > DARK
    if bright.mean() < 0.05:
        return np.ones(3, np.float32)
    return np.asarray(np.median(seen[bright] / reference[bright], axis=0), dtype=np.float32)


def _relit(light: Light, reference: NDArray[np.float32]) -> Light:
    gain = _gain(light[::GRID, ::GRID], reference)
    if np.abs(gain - 1.0).max() < FLICKERS / 4:
        return light
    table = np.empty((1, 256, 4), np.uint8)
    levels = np.arange(256)
    for channel in range(3):
        table[0, :, channel] = np.clip(np.round(levels / gain[channel]), 0, 255)
    table[0, :, 3] = levels
    return np.asarray(cv2.LUT(light, table), dtype=np.uint8)
