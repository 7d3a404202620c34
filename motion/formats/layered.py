"""OpenRaster: a zip of layers as PNGs, with their places and opacities, and what they look like together."""

from __future__ import annotations

import io
import zipfile

from PIL import Image

from motion.clip import Picture
from motion.errors import OverLimit
from motion.formats.limits import Limits
from motion.formats.rgba import to_rgba
from motion.formats.safe_xml import parse

MERGED = "mergedimage.png"
MOST_LAYERS = 200


def measure(data: bytes, limits: Limits) -> tuple[int, int]:
    """Width and height in px. Raises what zip and XML raise on damaged data."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        root = parse(_entry(archive, "stack.xml", limits))
    return int(root.get("w", "0")), int(root.get("h", "0"))


def decode(data: bytes, limits: Limits) -> Picture:
    """All visible layers together: the file's own merged picture, or where it has none, put together from below."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        if MERGED in archive.namelist():
            merged = _picture(archive, MERGED, limits)
            if merged.size == measure(data, limits):
                return to_rgba(merged)
        return to_rgba(_put_together(archive, limits))


def _put_together(archive: zipfile.ZipFile, limits: Limits) -> Image.Image:
    root = parse(_entry(archive, "stack.xml", limits))
    size = int(root.get("w", "0")), int(root.get("h", "0"))
    limits.check_size(*size, "The layered picture")
    canvas = Image.new("RGBA", size)
    layers = [e for e in root.iter("layer") if e.get("visibility", "visible") == "visible"]
    if len(layers) > MOST_LAYERS:
        raise OverLimit(f"A picture with {len(layers)} layers is more than can be read; at most {MOST_LAYERS}.")
    # The first layer in the stack is the topmost.
    for layer in reversed(layers):
        picture = _picture(archive, layer.get("src", ""), limits).convert("RGBA")
        opacity = min(1.0, max(0.0, float(layer.get("opacity", "1"))))
        picture.putalpha(picture.getchannel("A").point(lambda a, o=opacity: round(a * o)))
        placed = Image.new("RGBA", size)
        placed.paste(picture, (int(float(layer.get("x", "0"))), int(float(layer.get("y", "0")))))
        canvas = Image.alpha_composite(canvas, placed)
    return canvas


def _picture(archive: zipfile.ZipFile, name: str, limits: Limits) -> Image.Image:
    image = Image.open(io.BytesIO(_entry(archive, name, limits)), formats=("PNG",))
    limits.check_size(max(image.width, limits.least_side), max(image.height, limits.least_side), "A layer")
    image.load()
    return image


def _entry(archive: zipfile.ZipFile, name: str, limits: Limits) -> bytes:
    with archive.open(name) as stream:
        data = stream.read(limits.entry_bytes + 1)
    if len(data) > limits.entry_bytes:
        raise OverLimit("A layer of the picture is too large.")
    return data
