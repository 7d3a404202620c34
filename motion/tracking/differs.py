"""By how much a picture differs from what stands still, kept only where something does."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.light import NOWHERE, Box, common, shrunk, within


@dataclass(frozen=True, slots=True, eq=False)
class Differs:
    """By how many levels a picture differs: ``part`` (height, width) uint8 of what lies in ``box``.

    Outside of the box nothing counts, and what is too faint to count may be left out. ``size`` is the whole picture's
    height and width.
    """

    part: NDArray[np.uint8]
    box: Box
    size: tuple[int, int]

    @classmethod
    def of(cls, whole: NDArray[np.uint8], box: Box) -> Differs:
        """From all of a picture, of which only what is in a box counts."""
        height, width = whole.shape
        return cls(whole[within(box)], box, (height, width))

    @property
    def share(self) -> float:
        """Which share of the picture the box takes."""
        return self.part.size / (self.size[0] * self.size[1])

    def whole(self) -> NDArray[np.uint8]:
        """All of the picture."""
        height, width = self.size
        return self.cut((0, 0, width, height))

    def cut(self, box: Box) -> NDArray[np.uint8]:
        """What lies in another box, which may reach beyond the picture."""
        left, top, right, bottom = box
        found = np.zeros((bottom - top, right - left), np.uint8)
        self.lay(found, left, top)
        return found

    def lay(self, into: NDArray[np.uint8], left: int, top: int) -> None:
        """Lay it into what is nought, (rows, columns) from there on in the picture."""
        rows, columns = into.shape
        both = common(self.box, (left, top, left + columns, top + rows))
        if both != NOWHERE:
            x, y = self.box[:2]
            from_here = within((both[0] - x, both[1] - y, both[2] - x, both[3] - y))
            into[within((both[0] - left, both[1] - top, both[2] - left, both[3] - top))] = self.part[from_here]

    def shrunk(self, by: int) -> NDArray[np.uint8]:
        """The means of squares of ``by`` px, a power of two; those that reach beyond the edges count nought there."""
        height, width = self.size
        found = np.zeros((-(-height // by), -(-width // by)), np.uint8)
        if self.box != NOWHERE:
            left, top, _, _ = self.box
            whole_squares = cv2.copyMakeBorder(self.part, top % by, 0, left % by, 0, cv2.BORDER_CONSTANT)
            small = shrunk(np.asarray(whole_squares, dtype=np.uint8), by)
            rows, columns = top // by, left // by
            found[rows : rows + small.shape[0], columns : columns + small.shape[1]] = small
        return found


@dataclass(frozen=True, slots=True, eq=False)
class Packed:
    """What a picture shows where it differs, packed small: by how much, and how bright it is there.

    What differs by no more than ``threshold`` levels is left out.
    """

    data: bytes
    box: Box
    size: tuple[int, int]
    threshold: int

    @classmethod
    def of(cls, differs: Differs, shade: NDArray[np.uint8], threshold: int) -> Packed:
        """Without loss but for what does not count; ``shade`` (height, width) is how bright what lies in its box is."""
        counts = differs.part > threshold
        both = np.concatenate([np.where(counts, part, np.uint8(0)) for part in (differs.part, shade)])
        data = cv2.imencode(".png", both, [cv2.IMWRITE_PNG_COMPRESSION, 1])[1].tobytes() if both.size else b""
        return cls(data, differs.box, differs.size, threshold)

    def unpacked(self, still: NDArray[np.uint8], box: Box) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        """By how much it differs, and how bright it is, in a box that holds its own.

        Where it does not differ it is as what stands ``still`` (height, width) there.
        """
        differs, shade = np.zeros_like(still[within(box)]), still[within(box)].copy()
        if self.data:
            left, top = self.box[0] - box[0], self.box[1] - box[1]
            here = within((left, top, left + self.box[2] - self.box[0], top + self.box[3] - self.box[1]))
            both = np.asarray(cv2.imdecode(np.frombuffer(self.data, np.uint8), cv2.IMREAD_GRAYSCALE), np.uint8)
            own = both[: len(both) // 2]
            differs[here] = own
            shade[here] = np.where(own > 0, both[len(both) // 2 :], shade[here])
        return differs, shade
