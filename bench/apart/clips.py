"""Drawn pictures as a clip: as they are, or read from a file of some form."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from motion import formats
from motion.clip import Clip
from motion.synth import draw, write

Form = write.Form | None
"""The form of a file; None for no file at all."""


@contextmanager
def clip_of(pictures: Iterable[tuple[Any, int]], fps: float, form: Form = None) -> Iterator[Clip]:
    """The clip of pictures (height, width, 3 or 4), each with its exposure in frames; its file is there meanwhile."""
    drawn = [(draw.opaque(picture), frames) for picture, frames in pictures]
    if form is None:
        yield draw.of_pictures(drawn, fps)
        return
    with tempfile.TemporaryDirectory() as folder:
        yield formats.read(write.save(drawn, Path(folder) / f"clip.{write.suffix(form)}", form, fps), fps)
