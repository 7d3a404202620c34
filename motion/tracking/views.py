"""What one picture of a clip shows, as far as it is asked: a video's is not turned into colours all over."""

from __future__ import annotations

from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture, Planes
from motion.tracking import planes as pl
from motion.tracking.light import Box, Light, to_light, within


class View(Protocol):
    """One picture."""

    @property
    def opaque(self) -> bool:
        """Whether nothing shows through it."""

    def light(self) -> Light:
        """All of it."""

    def part(self, box: Box) -> Light:
        """What lies within a box."""

    def fewer(self, step: int) -> Light:
        """Every so many pixels of every so many rows."""

    def columns(self, step: int) -> NDArray[np.uint8]:
        """(height, width / step) how bright every so many columns are, roughly."""

    def grey(self) -> NDArray[np.uint8]:
        """(height, width) how bright it is."""

    def shade(self, box: Box) -> NDArray[np.uint8]:
        """How bright what lies within a box is, roughly: two pictures' colours differ by no less than this does."""


class Lit:
    """A picture in colours."""

    def __init__(self, light: Light) -> None:
        self._light = light

    @classmethod
    def of(cls, picture: Picture) -> Lit:
        """What a picture shows, by its opacity."""
        return cls(to_light(picture))

    @property
    def opaque(self) -> bool:
        return bool(self._light[..., 3].min() == 255)

    def light(self) -> Light:
        return self._light

    def part(self, box: Box) -> Light:
        return self._light[within(box)]

    def fewer(self, step: int) -> Light:
        return self._light[::step, ::step]

    def columns(self, step: int) -> NDArray[np.uint8]:
        return np.ascontiguousarray(self._light[:, ::step, 1])

    def grey(self) -> NDArray[np.uint8]:
        return np.asarray(cv2.cvtColor(self._light, cv2.COLOR_RGBA2GRAY), dtype=np.uint8)

    def shade(self, box: Box) -> NDArray[np.uint8]:
        return np.ascontiguousarray(self._light[within(box)][..., 1])


class Planar:
    """A picture as a video's codec holds it, of which only what is asked for is turned into colours."""

    opaque = True

    def __init__(self, planes: Planes) -> None:
        self.planes = planes

    def light(self) -> Light:
        return pl.coloured(self.planes)

    def part(self, box: Box) -> Light:
        return pl.part(self.planes, box)

    def fewer(self, step: int) -> Light:
        return pl.fewer(self.planes, step)

    def columns(self, step: int) -> NDArray[np.uint8]:
        return np.ascontiguousarray(self.planes.luma[:, ::step])

    def grey(self) -> NDArray[np.uint8]:
        return self.planes.luma

    def shade(self, box: Box) -> NDArray[np.uint8]:
        return self.planes.luma[within(box)]
