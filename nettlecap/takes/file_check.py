"""Whether what somebody handed in is a clip, and how it is to be read; every file is opened in a process of its own."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from motion import jobs, preparation, sandbox
from motion.errors import MotionError, OnePicture, ReaderKilled
from motion.formats.limits import DEFAULT, MEGABYTE
from motion.formats.sound import Sound
from motion.preparation import Preparation
from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.takes import stopping
from nettlecap.takes.store import Uploaded

CHECK_SECONDS = 120.0


def check(path: Path, name: str, brief: Brief, asked: Preparation = preparation.NONE) -> jobs.Receipt:
    """What the file holds, read as asked. Raises Refusal where it is no clip, ReaderKilled as ``sandbox.run``."""
    receipt: jobs.Receipt = _opened(jobs.check, path, name, brief.core.fps, asked)
    return receipt


def reading_of(path: Path, name: str, brief: Brief, *, may_be_sheet: bool) -> Preparation:
    """How the file is to be read: as it is, or divided by a guessed grid where it is one picture. Raises as above."""
    if not may_be_sheet:
        return preparation.NONE
    try:
        _in_sandbox(jobs.open_only, path, name, brief.core.fps)
    except OnePicture:
        return Preparation(grid=_opened(jobs.guess_grid, path, name))
    except ReaderKilled:
        raise
    except MotionError as error:
        raise Refusal(str(error)) from error
    return preparation.NONE


def listen(path: Path, name: str) -> Sound:
    """What a sound file holds. Raises Refusal where it is none, ReaderKilled as above."""
    heard: Sound = _opened(jobs.listen, path, name)
    return heard


def _opened(work: Callable[..., Any], path: Path, *args: Any) -> Any:
    try:
        return _in_sandbox(work, path, *args)
    except ReaderKilled:
        raise
    except MotionError as error:
        raise Refusal(str(error)) from error


def _in_sandbox(work: Callable[..., Any], path: Path, *args: Any) -> Any:
    return sandbox.run(work, path, *args, seconds=CHECK_SECONDS, reads=[path], stopping=stopping.asked.is_set)


def refuse_too_much(files: list[Uploaded]) -> None:
    """Raises Refusal where the files are larger together than is taken."""
    total = sum(getattr(f, "size", 0) or 0 for f in files)
    if total > DEFAULT.file_bytes:
        raise Refusal(
            f"The files have {total / MEGABYTE:.0f} MB together; at most {DEFAULT.file_bytes // MEGABYTE} MB are "
            "taken. Export smaller pictures."
        )


def called(files: list[Uploaded]) -> str:
    """What the clip of these files is called."""
    first = Path(files[0].name or "clip").name[:150]
    return first if len(files) == 1 else f"{first} and {len(files) - 1} more"
