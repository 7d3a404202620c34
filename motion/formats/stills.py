"""Footage made of encoded still pictures, however they are kept."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Sequence
from pathlib import PurePosixPath

from motion.clip import Clip, Picture
from motion.errors import NotAClip
from motion.formats import numbering, pictures
from motion.formats.limits import Limits

Fetch = Callable[[str], bytes]
"""Gives the bytes of the picture of that name. Raises ClipError."""


class StillFootage:
    """Pictures that are fetched and decoded one at a time."""

    def __init__(self, names: Sequence[str], fetch: Fetch, prints: Sequence[str], limits: Limits) -> None:
        self._names = names
        self._fetch = fetch
        self._prints = prints
        self._limits = limits

    def __len__(self) -> int:
        return len(self._names)

    def fingerprint(self, index: int) -> str | None:
        return self._prints[index]

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        for index in indices:
            name = self._names[index]
            yield pictures.decode(self._fetch(name), f"“{PurePosixPath(name).name}”", self._limits)


def assemble(
    names: Sequence[str], fetch: Fetch, *, fps: float, name: str, limits: Limits, remarks: Sequence[str] = ()
) -> Clip:
    """A clip from numbered stills, one frame each. Raises NotAClip for pictures of different sizes."""
    if not names:
        raise NotAClip(f"There are no pictures in “{name}”.")
    order = numbering.in_order(names)
    ordered = [names[i] for i in order.indices]
    prints = []
    size = (0, 0)
    for picture_name in ordered:
        label = f"“{PurePosixPath(picture_name).name}”"
        data = fetch(picture_name)
        own = pictures.measure(data, label, limits)
        prints.append(hashlib.blake2b(data, digest_size=16).hexdigest())
        size = own if not prints[1:] else size
        if own != size:
            raise NotAClip(
                f"{label} is {own[0]} × {own[1]} px, but the pictures before it are {size[0]} × {size[1]}. "
                "Export all frames at one size."
            )
    limits.check_count(len(ordered), *size)
    return Clip(
        name=name,
        fps=fps,
        width=size[0],
        height=size[1],
        footage=StillFootage(ordered, fetch, prints, limits),
        picture_frames=(1,) * len(ordered),
        remarks=(*remarks, *_gap_remark(order.missing)),
    )


def left_out(count: int) -> tuple[str, ...]:
    """What to say of files beside the pictures."""
    if not count:
        return ()
    files = "1 file that is no picture was" if count == 1 else f"{count} files that are no pictures were"
    return (f"{files} left out.",)


def _gap_remark(missing: Sequence[int]) -> tuple[str, ...]:
    if not missing:
        return ()
    shown = ", ".join(map(str, missing[:8])) + (", …" if len(missing) > 8 else "")
    return (f"The numbers of the pictures leave out {shown}. They were read in order, without a pause there.",)
