"""Pictures of any kind as red, green, blue and opacity."""

from __future__ import annotations

import numpy as np
from PIL import Image

from motion.clip import Picture


def to_rgba(image: Image.Image) -> Picture:
    """Any Pillow image as red, green, blue, alpha. 16-bit greys are scaled, not cut."""
    if image.mode.startswith("I"):
        grey = (np.asarray(image).astype(np.float64) / 257.0).round().clip(0, 255).astype(np.uint8)
        image = Image.fromarray(grey)
    elif image.mode == "F":
        values = np.nan_to_num(np.asarray(image).astype(np.float64))
        # Floating point pictures run from 0 to 1, or to 255.
        image = Image.fromarray(
            (values * (255.0 if values.max() <= 1.0 else 1.0)).round().clip(0, 255).astype(np.uint8)
        )
    elif image.mode in ("CMYK", "YCbCr", "LAB", "HSV"):
        image = image.convert("RGB")
    return np.asarray(image.convert("RGBA"), dtype=np.uint8)
