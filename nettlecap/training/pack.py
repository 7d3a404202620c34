"""All pictures of a clip in one file, so that a page fetches them at once.

How many there are, how long each is (32 bits each, the low byte first), and then the pictures one after another.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from pathlib import Path

NUMBER = 4


def write(path: Path, pictures: Sequence[bytes]) -> None:
    """Pack pictures as they are."""
    head = struct.pack(f"<{len(pictures) + 1}I", len(pictures), *map(len, pictures))
    path.write_bytes(head + b"".join(pictures))


def one(path: Path, number: int) -> bytes | None:
    """One picture by its number from 1; None where there is no such one. Raises FileNotFoundError."""
    with path.open("rb") as stream:
        (count,) = struct.unpack("<I", stream.read(NUMBER))
        if not 1 <= number <= count:
            return None
        sizes = struct.unpack(f"<{count}I", stream.read(NUMBER * count))
        stream.seek(sum(sizes[: number - 1]), 1)
        return stream.read(sizes[number - 1])
