"""Whether what somebody picked is a clip, and how it is to be read. Files are opened in a process of their own."""

from __future__ import annotations

from pathlib import Path

from motion import jobs, preparation, sandbox
from motion.errors import MotionError, OnePicture
from motion.formats.limits import DEFAULT, MEGABYTE
from motion.formats.sound import Sound
from motion.preparation import Preparation
from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.takes.store import Uploaded

CHECK_SECONDS = 120.0


def check(path: Path, name: str, brief: Brief, asked: Preparation = preparation.NONE) -> jobs.Receipt:
    """What the file holds, read as asked. Raises Refusal where it is no clip."""
    try:
        receipt: jobs.Receipt = sandbox.run(jobs.check, path, name, brief.core.fps, asked, seconds=CHECK_SECONDS)
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return receipt


def reading_of(path: Path, name: str, brief: Brief, *, may_be_sheet: bool) -> Preparation:
    """How the file is to be read: as it is, or divided by a guessed grid where it is one picture."""
    if not may_be_sheet:
        return preparation.NONE
    try:
        sandbox.run(jobs.open_only, path, name, brief.core.fps, seconds=CHECK_SECONDS)
    except OnePicture:
        try:
            return Preparation(grid=sandbox.run(jobs.guess_grid, path, name, seconds=CHECK_SECONDS))
        except MotionError as error:
            raise Refusal(f"{error} Nothing was handed in.") from error
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return preparation.NONE


def listen(path: Path, name: str) -> Sound:
    """What a sound file holds. Raises Refusal where it is none."""
    try:
        heard: Sound = sandbox.run(jobs.listen, path, name, seconds=CHECK_SECONDS)
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return heard


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
