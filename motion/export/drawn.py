"""What is written: pictures in order with their exposures."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from motion.clip import Picture

Drawn = Iterable[tuple[Picture, int]]
"""Pictures (height, width, 4) in order, each with its exposure in frames."""
PAPER = (255, 255, 255)
"""What formats without transparency get in its place."""


def on_paper(picture: Picture) -> NDArray[np.uint8]:
    """(height, width, 3): the picture without transparency."""
    if picture[..., 3].min() == 255:
        return np.ascontiguousarray(picture[..., :3])
    alpha = picture[..., 3:4].astype(np.float32) / 255.0
    mixed = picture[..., :3] * alpha + np.array(PAPER, np.float32) * (1 - alpha)
    return np.asarray(mixed.round(), dtype=np.uint8)


def as_image(picture: Picture) -> Image.Image:
    """For writing with transparency only where there is some."""
    image = Image.fromarray(picture)
    return image.convert("RGB") if picture[..., 3].min() == 255 else image
