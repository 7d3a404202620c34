"""A drawing as it is kept: a PNG without anything that the picture does not need, and nothing lost."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from motion.clip import Picture

MOST_COLOURS = 256
LEVEL = 6


def encode(picture: Picture) -> bytes:
    """A picture (height, width, 4) as PNG bytes that decode to the same values.

    Without its alpha where it is opaque, and with a palette where it has few colours, as most drawings do.
    """
    image = Image.fromarray(picture)
    if picture[..., 3].min() == 255:
        image = image.convert("RGB")
        if image.getcolors(MOST_COLOURS) is not None:
            image = _with_palette(picture)
    stream = io.BytesIO()
    image.save(stream, format="PNG", compress_level=LEVEL)
    return stream.getvalue()


def _with_palette(picture: Picture) -> Image.Image:
    packed = picture[..., 0].astype(np.uint32) << 16 | picture[..., 1].astype(np.uint32) << 8 | picture[..., 2]
    colours = np.unique(packed)
    image = Image.fromarray(np.searchsorted(colours, packed).astype(np.uint8), mode="P")
    image.putpalette(np.column_stack([colours >> 16, colours >> 8 & 255, colours & 255]).astype(np.uint8).tobytes())
    return image
