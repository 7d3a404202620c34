"""Animated GIF, PNG and WebP at a rate. Durations follow the running time, so that they never drift from the rate."""

from __future__ import annotations

from pathlib import Path

from PIL import Image

from motion.export.drawn import Drawn, as_image, on_paper

GIF_UNIT_MS, MS = 10, 1


def to_gif(drawn: Drawn, path: Path, fps: float) -> None:
    """Write a GIF that loops; transparency becomes paper."""
    pictures = list(drawn)
    images = [Image.fromarray(on_paper(picture)) for picture, _ in pictures]
    _save(images, path, "GIF", _delays([n for _, n in pictures], fps, GIF_UNIT_MS))


def to_apng(drawn: Drawn, path: Path, fps: float) -> None:
    """Write an animated PNG that loops, exact to the pixel."""
    pictures = list(drawn)
    _save([as_image(p) for p, _ in pictures], path, "PNG", _delays([n for _, n in pictures], fps, MS))


def to_webp(drawn: Drawn, path: Path, fps: float, quality: int | None = None) -> None:
    """Write an animated WebP that loops: exact to the pixel, or lossy where a ``quality`` (0 to 100) is given."""
    pictures = list(drawn)
    options = {"lossless": True, "quality": 40} if quality is None else {"lossless": False, "quality": quality}
    delays = _delays([n for _, n in pictures], fps, MS)
    _save([as_image(p) for p, _ in pictures], path, "WEBP", delays, **options)


def _delays(frames: list[int], fps: float, unit_ms: int) -> list[int]:
    """Milliseconds for each picture, whole units of the format, that add up to the running time."""
    delays, shown, spent = [], 0, 0
    for count in frames:
        shown += count
        until = round(shown / fps * 1000 / unit_ms)
        delays.append((until - spent) * unit_ms)
        spent = until
    return delays


def _save(images: list[Image.Image], path: Path, kind: str, delays: list[int], **options: object) -> None:
    images[0].save(path, format=kind, save_all=True, append_images=images[1:], duration=delays, loop=0, **options)
