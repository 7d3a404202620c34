"""Animated GIF, PNG and WebP: pictures with durations of their own, in hundredths or thousandths of a second."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from PIL import GifImagePlugin, Image

from motion.clip import Clip, Picture
from motion.errors import ClipError, DamagedFile, NotAClip, OverLimit
from motion.formats import durations
from motion.formats.foreign import FOREIGN_ERRORS
from motion.formats.limits import Limits
from motion.formats.rgba import to_rgba

RESOLUTION_S = {"GIF": 0.01, "PNG": 0.001, "WEBP": 0.001}
"""How finely each format counts time."""
HELD_BYTES = 150_000_000
"""How much of what changes is kept in memory."""
# A delay of nought, or in a GIF of one hundredth, is shown by viewers as a tenth of a second.
UNSET_DELAY_S = 0.1

GifImagePlugin.LOADING_STRATEGY = GifImagePlugin.LoadingStrategy.RGB_AFTER_DIFFERENT_PALETTE_ONLY


class ChangingFootage:
    """Pictures kept as what changes from one to the next, since these formats play only forwards.

    Where that would take too much memory (a lossy file changes everywhere), the file is played again instead.
    """

    def __init__(self, path: Path, offset: int, first: Picture) -> None:
        self._path, self._offset = path, offset
        self._first = first
        self._changes: list[tuple[int, int, Picture] | None] = [None]
        self._same = [True]
        self._last = first
        self._held = 0

    def add(self, picture: Picture) -> None:
        """Append the next picture."""
        # A pixel's four bytes at once: byte by byte it takes longer than reading the file.
        one, other = (np.ascontiguousarray(p).view(np.uint32)[..., 0] for p in (picture, self._last))
        differs = one != other
        rows, columns = np.flatnonzero(differs.any(axis=1)), np.flatnonzero(differs.any(axis=0))
        self._same.append(rows.size == 0)
        self._last = picture
        if self._held > HELD_BYTES:
            return
        if rows.size == 0:
            self._changes.append(None)
            return
        top, left = int(rows[0]), int(columns[0])
        patch = picture[top : rows[-1] + 1, left : columns[-1] + 1].copy()
        self._changes.append((top, left, patch))
        self._held += patch.nbytes
        if self._held > HELD_BYTES:
            self._changes = []

    def __len__(self) -> int:
        return len(self._same)

    def fingerprint(self, index: int) -> str | None:
        """Runs of pictures in which nothing changes share one."""
        while index > 0 and self._same[index]:
            index -= 1
        return f"picture {index}"

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return self._played_again(indices) if self._held > HELD_BYTES else self._kept(indices)

    def _kept(self, indices: Sequence[int]) -> Iterator[Picture]:
        wanted = set(indices)
        canvas = self._first.copy()
        for index, change in enumerate(self._changes):
            if change is not None:
                top, left, patch = change
                canvas[top : top + patch.shape[0], left : left + patch.shape[1]] = patch
            if index in wanted:
                yield canvas.copy()

    def _played_again(self, indices: Sequence[int]) -> Iterator[Picture]:
        with Image.open(self._path, formats=tuple(RESOLUTION_S)) as image:
            for index in indices:
                image.seek(index + self._offset)
                yield to_rgba(image)


def read(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open an animation as a clip. Raises ClipError; see ``motion.formats.read``."""
    try:
        return _read(path, fps, name, limits)
    except ClipError:
        raise
    except FOREIGN_ERRORS as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be read as an animation. Export it again.") from error


def is_animated(path: Path) -> bool:
    """Whether a PNG or WebP holds more than one picture; False for what cannot be opened."""
    try:
        with Image.open(path, formats=("PNG", "WEBP")) as image:
            return getattr(image, "n_frames", 1) > 1
    except FOREIGN_ERRORS:
        return False


def _read(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    with Image.open(path, formats=tuple(RESOLUTION_S)) as image:
        kind = image.format or "GIF"
        width, height = image.size
        limits.check_size(width, height, f"“{name}”")
        footage: ChangingFootage | None = None
        delays: list[float] = []
        for index in range(limits.pictures + 1):
            try:
                image.seek(index)
            except EOFError:
                break
            if image.size != (width, height):
                raise DamagedFile(f"“{name}” is damaged: picture {index + 1} is of another size. Export it again.")
            if index == 0 and image.info.get("default_image"):
                # Shown only where animation is not understood; not a part of it.
                continue
            picture = to_rgba(image)
            if footage is None:
                footage = ChangingFootage(path, index, picture)
            else:
                footage.add(picture)
            delays.append(_delay_s(image.info.get("duration", 0), kind))
            limits.check_length(len(delays), sum(delays))
            # As they come: to count them first, they would have to be opened all the same.
            limits.check_count(max(2, len(delays)), width, height)
        else:
            raise OverLimit(f"“{name}” has more than {limits.pictures} pictures.")
    if footage is None or len(footage) < 2:
        raise NotAClip(f"“{name}” is a single picture, not an animation.")
    limits.check_count(len(footage), width, height)
    frames, rounded = durations.to_frames(delays, fps, RESOLUTION_S[kind])
    remarks = []
    if rounded:
        remarks.append(f"The file's own durations were rounded to whole frames at {fps:g} a second.")
    return Clip(
        name=name,
        fps=fps,
        width=width,
        height=height,
        footage=_Shown(footage, frames) if 0 in frames else footage,
        picture_frames=tuple(n for n in frames if n > 0),
        source_fps=round(durations.source_rate(delays, fps, RESOLUTION_S[kind]), 3),
        remarks=tuple(remarks),
    )


class _Shown:
    """Footage without the pictures that are shown for less than a frame."""

    def __init__(self, inner: ChangingFootage, frames: Sequence[int]) -> None:
        self._inner = inner
        self._kept = [i for i, n in enumerate(frames) if n > 0]

    def __len__(self) -> int:
        return len(self._kept)

    def fingerprint(self, index: int) -> str | None:
        return self._inner.fingerprint(self._kept[index])

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return self._inner.pictures([self._kept[i] for i in indices])


def _delay_s(milliseconds: float, kind: str) -> float:
    seconds = float(milliseconds) / 1000.0
    return seconds if seconds > (0.0105 if kind == "GIF" else 0.0005) else UNSET_DELAY_S
