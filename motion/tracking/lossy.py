"""Exposures through lossy video, where one drawing never looks quite the same twice.

What a codec leaves differs from picture to picture in fine grain that a little blur takes away; a drawing that moved
differs along its edges, and that stays. How much stays is told in shares of its own contrast: next to nothing is
a repeat, much is another drawing. Between, a coarse picture of a held drawing and a fine one of a small move leave as
much; then it is its place that tells, which is measured to a few hundredths of a pixel in either. Where no
subject is found, the shares of a clip fall in two heaps, and the clip's own widest gap parts them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import levels
from motion.tracking.differs import Differs
from motion.tracking.light import NOWHERE, Box, around, difference, largest_channel, shrunk
from motion.tracking.views import View

BLUR = 5
PIXELS = 8
"""So many pixels must differ for a drawing to be another."""
SURELY_SAME, SURELY_OTHER = 0.02, 0.4
"""Shares of the contrast below which two pictures always show one drawing, and above which never."""
MUCH = 1.1 * SURELY_OTHER
"""Of a larger share of the greatest contrast so far it need not be known how large it is."""
MOVED_PX, CLEARLY_MOVED_PX, FAR_MOVED_PX = 0.12, 0.2, 0.4
"""A subject that lies so far from where it lay was drawn anew, most likely, for sure, and though the clip's repeats are
far apart from its other pictures."""
FAR_APART = 3.0
"""Repeats leave so many times less than others, where they are far apart."""
REDRAWN = 0.1
"""A subject that lies where it lay was drawn anew, too, where more than this share differs and nothing else does."""
FLICKER = 8
"""Levels up to which a pixel is not worth a look."""
SHRINK = 4
"""Earlier drawings are kept at this part of their size, so that a long clip fits into memory."""
SHRUNK_LIMIT = 0.5
"""How much less than at full size may differ there, where a small move shows less."""
OTHER_HUE, HUE_BLUR, HUE_PIXELS = 0.03, 5, 40
"""Two pictures whose hues differ by such a share of the contrast in so many places are two drawings, though both stand
out of the background as much: thin legs in two colours that have changed places. What a codec leaves goes either way
within so few px of the small picture, and takes itself away, or is in fewer places."""
FINELY = 4
"""Hues that differ little are told in such parts of a level."""
Moved = Callable[[int, int], float | None]
"""How far the subject lies, in the second of two pictures, from where it is in the first, px; None: not known."""
LOW_IN_GAP = 0.4
"""Where in the widest gap (in logarithms, from below) repeats end: nearer to them, as they keep together."""


def step(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> float:
    """By how many levels two pictures differ where they differ most, the codec's own grain taken away.

    Both are (height, width, 4) light, or (height, width) by how far they are from the background.
    """
    differs = difference(one, other) if one.ndim == 3 else cv2.absdiff(one, other)
    left, top, width, height = cv2.boundingRect((differs > FLICKER).astype(np.uint8))
    if width == 0:
        return 0.0
    part = np.s_[max(0, top - BLUR) : top + height + BLUR, max(0, left - BLUR) : left + width + BLUR]
    signed = cv2.subtract(one[part], other[part], dtype=cv2.CV_16S)
    calm = np.asarray(cv2.convertScaleAbs(cv2.blur(signed, (BLUR, BLUR))), dtype=np.uint8)
    return _reached_by(PIXELS, largest_channel(calm) if calm.ndim == 3 else calm)


def rough_step(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> float:
    """Levels that a step between two pictures, (height, width) of brightness, reaches at least."""
    return float(shrunk(np.asarray(cv2.absdiff(one, other), dtype=np.uint8), SHRINK).max())


def hues(view: View) -> NDArray[np.uint8]:
    """(height / 4, width / 4, 3) by how much each channel is more than the pixel's grey, halved, around 128."""
    few = np.ascontiguousarray(view.fewer(SHRINK)[..., :3])
    grey = cv2.cvtColor(cv2.cvtColor(few, cv2.COLOR_RGB2GRAY), cv2.COLOR_GRAY2RGB)
    return np.asarray(cv2.addWeighted(few, 0.5, grey, -0.5, 128), dtype=np.uint8)


def hue_step(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> float:
    """By how many levels the hues of two pictures differ along what is drawn, grain taken away."""
    calm = cv2.blur(cv2.subtract(one, other, dtype=cv2.CV_32F), (HUE_BLUR, HUE_BLUR))
    finely = cv2.convertScaleAbs(calm, alpha=FINELY)
    return 2.0 / FINELY * _reached_by(HUE_PIXELS, largest_channel(np.asarray(finely, dtype=np.uint8)))


def _reached_by(pixels: int, values: NDArray[np.uint8]) -> float:
    """The value that so many pixels reach; the least one where there are fewer."""
    reached = np.cumsum(levels(values)[::-1])[::-1] >= min(pixels, values.size)
    return float(np.flatnonzero(reached)[-1])


def contrast(differs: NDArray[np.uint8]) -> float:
    """How far the drawing stands out of the background, levels; ``differs`` (height, width) is from it."""
    counts = levels(differs) if differs.size else np.zeros(256, np.int64)
    counts[: 2 * FLICKER + 1] = 0
    drawn = np.cumsum(counts)
    return float(np.searchsorted(drawn, 0.9 * drawn[-1])) if drawn[-1] >= PIXELS else 0.0


class Parting(NamedTuple):
    """Up to which share of the contrast a picture repeats the one before, and how far it may seem to move, px."""

    limit: float
    slack_px: float


def parting(shares: Sequence[float]) -> Parting:
    """Where repeats end: in the clip's widest gap."""
    low, high = np.log(SURELY_SAME), np.log(SURELY_OTHER)
    logs = np.clip(np.log(np.maximum(1e-4, np.sort(np.asarray(shares, dtype=np.float64)))), low, high)
    edges = np.concatenate([[low], logs, [high]])
    widest = int(np.argmax(np.diff(edges)))
    gap = float(edges[widest + 1] - edges[widest])
    slack = FAR_MOVED_PX if gap > np.log(FAR_APART) else CLEARLY_MOVED_PX
    return Parting(limit=float(np.exp(edges[widest] + LOW_IN_GAP * gap)), slack_px=slack)


class LossyCounter:
    """Numbers the drawings of a lossy clip once all its pictures have been seen."""

    def __init__(self, *, drifts: bool = False) -> None:
        """``drifts`` tells that pictures were laid straight, after which a subject lies a little less surely."""
        self._returns_px = CLEARLY_MOVED_PX if drifts else MOVED_PX
        self._steps: list[float] = []
        self._contrasts: list[float] = []
        self._coarse: list[bool] = []
        self._shrunk: list[NDArray[np.uint8]] = []
        self._hues: list[NDArray[np.uint8]] = []
        self._last: View | None = None
        self._box = NOWHERE

    def see(self, view: View, differs: Differs, box: Box, *, coarse: bool = False) -> None:
        """Take in the next picture and how far it is from the background.

        All that moves in it lies within ``box``; only there is it held against the last one. ``coarse`` tells that the
        codec left much elsewhere as well.
        """
        self._contrasts.append(contrast(differs.part))
        if self._last is not None:
            self._steps.append(self._step(view, self._last, around(box, self._box)))
        self._last, self._box = view, box
        self._coarse.append(coarse)
        self._shrunk.append(differs.shrunk(SHRINK))
        self._hues.append(hues(view))

    def _step(self, view: View, last: View, box: Box) -> float:
        """By how many levels two pictures differ; where it is much, no more than that it is is looked for."""
        if box == NOWHERE:
            return 0.0
        roughly = rough_step(view.shade(box), last.shade(box))
        return roughly if roughly > MUCH * max(self._contrasts) else step(view.part(box), last.part(box))

    @property
    def repeats(self) -> bool:
        """Whether the picture just seen surely shows the drawing before again, as far as is known by now."""
        return bool(self._steps) and self._steps[-1] <= SURELY_SAME * max(self._contrasts)

    def numbers(self, moved: Moved) -> tuple[list[int], list[int]]:
        """A drawing number for each picture, and the picture in which each drawing shows first.

        ``moved`` is asked only of pairs of pictures that leave it open whether they show one drawing.
        """
        usual = float(np.median([c for c in self._contrasts if c > 0] or [1.0]))
        shares = [s / usual for s in self._steps]
        parted = parting(shares)
        numbers: list[int] = []
        firsts: list[int] = []
        thumbs = _Thumbs(self._shrunk)
        for index in range(len(self._shrunk)):
            sure = SURELY_OTHER if any(self._coarse[max(0, index - 1) : index + 1]) else REDRAWN
            if numbers and _is_held(shares[index - 1], partial(moved, index - 1, index), parted, sure):
                numbers.append(numbers[-1])
                continue
            last = numbers[-1] if numbers else 0
            number = self._seen_before(index, thumbs, firsts, last, usual, parted, moved)
            if number is None:
                firsts.append(index)
                number = len(firsts)
            numbers.append(number)
        return numbers, firsts

    def _seen_before(
        self,
        index: int,
        thumbs: _Thumbs,
        firsts: Sequence[int],
        last: int,
        usual: float,
        parted: Parting,
        moved: Moved,
    ) -> int | None:
        """The earlier drawing that a picture shows again; never the ``last`` one, which it differs from."""
        if not firsts:
            return None
        # What differs so much where a whole patch is one value differs more in the patch.
        alike = thumbs.alike(index, firsts, SHRUNK_LIMIT * SURELY_OTHER * usual)
        for number in alike[::-1] + 1:
            first = firsts[number - 1]
            if number == last or (moved(first, index) or 0.0) > self._returns_px:
                continue
            share = step(self._shrunk[index], self._shrunk[first]) / usual / SHRUNK_LIMIT
            if not _is_held(share, partial(moved, first, index), parted, REDRAWN):
                continue
            if hue_step(self._hues[index], self._hues[first]) <= OTHER_HUE * usual:
                return int(number)
        return None


class _Thumbs:
    """What all pictures differ by from the background, very small, so that those that may be alike are told at once."""

    def __init__(self, pictures: Sequence[NDArray[np.uint8]]) -> None:
        height, width = pictures[0].shape
        rows = -(-height // SHRINK) * SHRINK
        # All shrunk as one that is so much higher.
        below_each_other = np.zeros((len(pictures), rows, width), np.uint8)
        below_each_other[:, :height] = pictures
        small = shrunk(below_each_other.reshape(-1, width), SHRINK)
        self._small = small.reshape(len(pictures), rows // SHRINK, -1)
        # What is greatest in each row and column differs by no more than the pictures do.
        self._greatest = np.concatenate([self._small.max(axis=1), self._small.max(axis=2)], axis=1)

    def alike(self, index: int, others: Sequence[int], levels: float) -> NDArray[np.intp]:
        """Positions of the others that differ nowhere by more than so many levels from the picture at an index."""
        roughly = np.flatnonzero(_most_apart(self._greatest[others], self._greatest[index]) <= levels)
        closely = _most_apart(self._small[np.asarray(others)[roughly]], self._small[index])
        return roughly[closely <= levels]


def _most_apart(several: NDArray[np.uint8], one: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(k,) by how many levels k pictures (k, ...) differ from one where they differ most."""
    off = np.maximum(several, one) - np.minimum(several, one)
    return np.asarray(off.max(axis=tuple(range(1, off.ndim))))


def _is_held(share: float, moved: Callable[[], float | None], parted: Parting, sure: float) -> bool:
    """Whether two pictures show one drawing, by the ``share`` that differs and by how far the subject ``moved``.

    The clip's own limit tells, but for a subject that clearly moved, and one that did not while no more than ``sure``
    differs.
    """
    held = share <= parted.limit
    if not SURELY_SAME < share < SURELY_OTHER:
        return held
    far = moved()
    if far is None:
        return held
    # An edge that moves by so many px leaves that part of the blur's width; what seems to move more was measured badly.
    return min(far, BLUR * share) <= parted.slack_px if held else far <= MOVED_PX and share <= sure
