"""Which pictures are the same drawing."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Exposure
from motion.tracking.differs import Differs
from motion.tracking.light import Light, difference, within

THUMB = 8
"""Noisy pictures are compared at this part of their size first."""
THUMB_LEVELS = 2.0


class DrawingCounter:
    """Numbers the drawings of a clip as its pictures come by, in order.

    Pictures without noise are the same drawing when they are equal to the pixel. Noisy ones (``noise`` in
    levels, from the background) are the same when they differ nowhere by more than still paper does. A drawing
    that comes back keeps its number.
    """

    def __init__(self, noise: float) -> None:
        self._noise = noise
        self._numbers: dict[str, int] = {}
        self._shrunk: list[Light] = []
        self._thumbs: list[NDArray[np.float32]] = []
        self._last: tuple[int, Light] | None = None
        self.count = 0

    def known(self, fingerprint: str | None) -> int | None:
        """The number of a picture whose encoded content was met before, without decoding it."""
        return self._numbers.get(fingerprint) if fingerprint else None

    def number(self, light: Light, differs: Differs, fingerprint: str | None = None) -> int:
        """The drawing number of the next picture, a new one if it is new.

        ``differs`` is how far it is from the background: without noise two pictures are equal when they are where they
        differ from it.
        """
        digest = _digest(light, differs) if self._noise < 1 else None
        thumb = None if digest else differs.shrunk(THUMB).astype(np.float32)
        found = self._numbers.get(digest) if digest else self._alike(light, thumb)
        if found is None:
            self.count += 1
            found = self.count
            if thumb is not None:
                self._shrunk.append(_shrink(light))
                self._thumbs.append(thumb)
        if digest:
            self._numbers[digest] = found
        if fingerprint:
            self._numbers[fingerprint] = found
        self._last = (found, light)
        return found

    def _alike(self, light: Light, thumb: NDArray[np.float32] | None) -> int | None:
        """An earlier drawing that this noisy picture shows again: the last one first, then those before."""
        if thumb is None or not self._thumbs:
            return None
        # Grain is gone from thumbs, so they tell at once which few earlier drawings are worth a closer look.
        off = np.abs(np.stack(self._thumbs) - thumb).max(axis=(1, 2))
        worth = set((np.flatnonzero(off <= THUMB_LEVELS + 0.3 * self._noise) + 1).tolist())
        if self._last and self._last[0] in worth and not _moved(light, self._last[1], self._noise):
            return self._last[0]
        small = _shrink(light)
        for number in sorted(worth, reverse=True):
            if not _moved(small, self._shrunk[number - 1], self._noise * 0.5):
                return number
        return None


def _digest(light: Light, differs: Differs) -> str:
    """What tells a picture from others over the same background: where it differs from it, and what is there."""
    content = light[within(differs.box)].tobytes()
    return f"{differs.box}:{hashlib.blake2b(content, digest_size=16).hexdigest()}"


def _shrink(light: Light) -> Light:
    height, width = light.shape[:2]
    return np.asarray(cv2.resize(light, (width // 2, height // 2), interpolation=cv2.INTER_AREA), dtype=np.uint8)


def _moved(one: Light, other: Light, noise: float) -> bool:
    """Whether anything drawn differs: a patch that stands out of the pictures' own flicker."""
    values: NDArray[np.uint8] = difference(one, other)
    smooth = cv2.blur(values, (5, 5))
    calm = float(np.percentile(smooth[::2, ::2], 80))
    return int(np.count_nonzero(smooth > calm + max(6.0, 1.1 * noise))) >= 6


def expose(numbers: Sequence[int], picture_frames: Sequence[int]) -> tuple[Exposure, ...]:
    """Runs of the same drawing as exposures, from each picture's drawing number and its frames."""
    runs: list[list[int]] = []
    for number, frames in zip(numbers, picture_frames, strict=True):
        if runs and runs[-1][0] == number:
            runs[-1][1] += frames
        else:
            runs.append([number, frames])
    exposures, first = [], 1
    for number, frames in runs:
        exposures.append(Exposure(drawing=number, first_frame=first, frames=frames))
        first += frames
    return tuple(exposures)
