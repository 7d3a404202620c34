"""What is handed around: a clip, its pictures, and which drawing is exposed when."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
"""(height, width, 4) uint8: red, green, blue, alpha, not premultiplied, rows from the top."""


Plane = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class Planes:
    """An opaque picture as video codecs hold it.

    ``luma`` is (height, width), both even; ``blue`` and ``red`` are (height / 2, width / 2), by how much bluer and
    redder than grey (128) it is. ``full`` tells that black is 0 and white 255, not 16 and 235.
    """

    luma: Plane
    blue: Plane
    red: Plane
    full: bool


class Footage(Protocol):
    """The pictures of a clip, decoded only while someone looks at them."""

    def __len__(self) -> int:
        """How many pictures there are."""

    def fingerprint(self, index: int) -> str | None:
        """A text equal for pictures known to be equal without decoding; None where that is not known."""

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        """Decode the pictures at ``indices`` (from 0, ascending). Raises DamagedFile."""


@runtime_checkable
class PlanarFootage(Footage, Protocol):
    """Footage that also gives its pictures as its codec holds them: less than half of the data, not converted."""

    @property
    def planar(self) -> bool:
        """Whether it does so; not every file of a kind need."""

    def planes(self, indices: Sequence[int]) -> Iterator[Planes]:
        """Decode the pictures at ``indices`` (from 0, ascending). Raises DamagedFile."""


class Unseen:
    """The footage of a clip of which only the measures are known."""

    def __len__(self) -> int:
        return 0

    def fingerprint(self, index: int) -> str | None:
        return None

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return iter(())


@dataclass(frozen=True, slots=True, kw_only=True)
class Exposure:
    """One drawing shown for a run of frames, counted from 1."""

    drawing: int
    first_frame: int
    frames: int

    @property
    def last_frame(self) -> int:
        return self.first_frame + self.frames - 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Clip:
    """A hand-in as read: pictures in order, and for how many frames each is shown.

    ``picture_frames`` has one entry a picture, at least 1 each. ``source_fps`` is the file's own rate
    where it names one. ``lossy`` tells that a drawing may look a little different each time it shows.
    ``remarks`` are sentences about what was odd in the file (gaps in the numbers, rounded durations,
    pictures left out).
    """

    name: str
    fps: float
    width: int
    height: int
    footage: Footage
    picture_frames: tuple[int, ...]
    source_fps: float | None = None
    lossy: bool = False
    remarks: tuple[str, ...] = ()

    @property
    def frames(self) -> int:
        """The clip's length in frames."""
        return sum(self.picture_frames)
