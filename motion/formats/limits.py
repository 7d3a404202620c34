"""How much is taken in, checked before anything is decoded."""

from __future__ import annotations

from dataclasses import dataclass, replace

from motion.errors import NotAClip, OverLimit

MEGABYTE = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """Upper bounds on one hand-in.

    ``unpacked_bytes`` is of an archive in all; pixels are width times height, ``total_pixels`` over all pictures.
    ``frames`` and ``seconds`` are how long it plays.
    """

    file_bytes: int = 300 * MEGABYTE
    entry_bytes: int = 60 * MEGABYTE
    unpacked_bytes: int = 2000 * MEGABYTE
    entries: int = 4000
    pictures: int = 1200
    frames: int = 4800
    seconds: float = 600.0
    side: int = 8192
    picture_pixels: int = 17_000_000
    total_pixels: int = 1_000_000_000
    least_side: int = 16

    def for_sheets(self) -> Limits:
        """The same for a sheet of many frames in one picture, which may be larger than a frame."""
        return replace(self, side=2 * self.side, picture_pixels=3 * self.picture_pixels)

    def check_bytes(self, size: int) -> None:
        """Refuse a file of too many bytes."""
        if size > self.file_bytes:
            raise OverLimit(
                f"The file has {size / MEGABYTE:.0f} MB; at most {self.file_bytes // MEGABYTE} MB are taken. "
                "Export smaller pictures."
            )

    def check_entry(self, size: int, label: str) -> None:
        """Refuse a single picture of too many bytes; ``label`` names it in the message."""
        if size > self.entry_bytes:
            raise OverLimit(f"{label} is too large to be one frame.")

    def check_size(self, width: int, height: int, label: str) -> None:
        """Refuse a picture that is too small or too large; ``label`` names it in the message."""
        if min(width, height) < self.least_side:
            raise NotAClip(f"{label} is only {width} × {height} px; at least {self.least_side} px a side are needed.")
        if max(width, height) > self.side or width * height > self.picture_pixels:
            raise OverLimit(
                f"{label} is {width} × {height} px; at most {self.picture_pixels // 1_000_000} million pixels "
                "are taken. Export at the brief's frame size."
            )

    def check_length(self, frames: int, seconds: float) -> None:
        """Refuse a clip that plays too long, whatever its form says of how long its pictures stay."""
        if seconds > self.seconds:
            raise OverLimit(
                f"The clip would play for {_long(seconds)}; an exercise has seconds, and at most "
                f"{self.seconds / 60:.0f} minutes are taken. Check how long its pictures stay."
            )
        if frames > self.frames:
            raise OverLimit(
                f"The clip has {frames} frames; at most {self.frames} are taken. Check how long its pictures stay."
            )

    def check_count(self, pictures: int, width: int, height: int) -> None:
        """Refuse too many pictures, or too many pixels in all; refuse fewer than two."""
        if pictures < 2:
            raise NotAClip("There is only one picture in it. A clip needs at least two.")
        if pictures > self.pictures:
            raise OverLimit(f"There are {pictures} pictures in it; at most {self.pictures} are taken.")
        if pictures * width * height > self.total_pixels:
            raise OverLimit(
                f"{pictures} pictures of {width} × {height} px are more than can be read at once. "
                "Export at the brief's frame size."
            )


def _long(seconds: float) -> str:
    return f"{seconds / 3600:.0f} hours" if seconds >= 7200 else f"{seconds / 60:.0f} minutes"


DEFAULT = Limits()
