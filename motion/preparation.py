"""What a student puts right before a hand-in is final: cells of a sheet, order, rate, trimmed ends.

The file that was handed in stays as it is; this is applied each time that it is read.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, TypeVar, cast

from motion.clip import Clip, Footage, Picture, PlanarFootage, Planes
from motion.errors import NotAClip

MOST_EACH = 24
Seen = TypeVar("Seen")


@dataclass(frozen=True, slots=True, kw_only=True)
class Grid:
    """How a sheet of frames is divided: cells go from left to right, then down; ``cells`` of them are frames."""

    columns: int
    rows: int
    cells: int

    def __post_init__(self) -> None:
        if not (1 <= self.columns <= 64 and 1 <= self.rows <= 64 and 2 <= self.cells <= self.columns * self.rows):
            raise NotAClip("A sheet has 1 to 64 columns and rows, and no more frames than cells; at least two.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Preparation:
    """How a hand-in is to be read; None leaves each as it is in the file.

    ``order`` lists the pictures (counted from 1) as they are to be played, all of them once; ``each`` shows every
    picture for so many frames; ``first`` and ``last`` are the frames that are kept, counted after that.
    """

    grid: Grid | None = None
    order: tuple[int, ...] | None = None
    each: int | None = None
    first: int | None = None
    last: int | None = None

    def __post_init__(self) -> None:
        if self.each is not None and not 1 <= self.each <= MOST_EACH:
            raise NotAClip(f"A picture can be shown for 1 to {MOST_EACH} frames.")
        first = 1 if self.first is None else self.first
        if first < 1 or (self.last is not None and self.last <= first):
            raise NotAClip("Keep at least two frames, the first one first.")

    def to_json(self) -> dict[str, Any]:
        """Only what is set, as JSON keeps it."""
        told = {f.name: getattr(self, f.name) for f in fields(self) if getattr(self, f.name) is not None}
        if self.grid:
            told["grid"] = [self.grid.columns, self.grid.rows, self.grid.cells]
        if self.order:
            told["order"] = list(self.order)
        return told


NONE = Preparation()


def from_json(told: dict[str, Any] | None) -> Preparation:
    """Read what ``to_json`` wrote. Raises NotAClip when it makes no sense."""
    told = told or {}
    try:
        grid = told.get("grid")
        return Preparation(
            grid=Grid(columns=int(grid[0]), rows=int(grid[1]), cells=int(grid[2])) if grid else None,
            order=tuple(int(n) for n in told["order"]) if told.get("order") else None,
            each=_whole(told.get("each")),
            first=_whole(told.get("first")),
            last=_whole(told.get("last")),
        )
    except (TypeError, ValueError, IndexError, KeyError, OverflowError) as error:
        raise NotAClip("What was to be put right could not be understood; nothing was changed.") from error


def _whole(value: Any) -> int | None:
    return None if value is None else int(value)


def apply(clip: Clip, preparation: Preparation) -> Clip:
    """The clip as prepared. Raises NotAClip where that leaves no clip, or names pictures that are not there."""
    if preparation.order is not None:
        clip = _ordered(clip, preparation.order)
    if preparation.each is not None:
        clip = replace(clip, picture_frames=(preparation.each,) * len(clip.picture_frames), source_fps=None)
    if preparation.first is not None or preparation.last is not None:
        clip = _trimmed(clip, preparation.first or 1, preparation.last or clip.frames)
    return clip


def _ordered(clip: Clip, order: Sequence[int]) -> Clip:
    if sorted(order) != list(range(1, len(clip.footage) + 1)):
        raise NotAClip("The order must name every picture once.")
    indices = [n - 1 for n in order]
    frames = tuple(clip.picture_frames[i] for i in indices)
    return replace(clip, footage=_Chosen(clip.footage, indices), picture_frames=frames)


def _trimmed(clip: Clip, first: int, last: int) -> Clip:
    if not 1 <= first < last <= clip.frames:
        raise NotAClip(f"Keep at least two frames, from 1 to {clip.frames}.")
    kept, frames, start = [], [], 1
    for index, count in enumerate(clip.picture_frames):
        shown = min(start + count - 1, last) - max(start, first) + 1
        if shown > 0:
            kept.append(index)
            frames.append(shown)
        start += count
    return replace(clip, footage=_Chosen(clip.footage, kept), picture_frames=tuple(frames))


class _Chosen:
    """Some of a footage's pictures, in an order of their own."""

    def __init__(self, inner: Footage, indices: Sequence[int]) -> None:
        self._inner, self._indices = inner, list(indices)

    def __len__(self) -> int:
        return len(self._indices)

    def fingerprint(self, index: int) -> str | None:
        return self._inner.fingerprint(self._indices[index])

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return self._played(self._inner.pictures, indices)

    @property
    def planar(self) -> bool:
        return isinstance(self._inner, PlanarFootage) and self._inner.planar

    def planes(self, indices: Sequence[int]) -> Iterator[Planes]:
        return self._played(cast("PlanarFootage", self._inner).planes, indices)

    def _played(self, play: Callable[[Sequence[int]], Iterator[Seen]], indices: Sequence[int]) -> Iterator[Seen]:
        wanted = [self._indices[i] for i in indices]
        if wanted == sorted(set(wanted)):
            yield from play(wanted)
            return
        # Footage may only play forwards.
        for index in wanted:
            yield from play([index])
