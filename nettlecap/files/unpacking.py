"""Unpacking archives of our own making, and trusting them no further: plain files below one folder, and nothing else.

Not by the library's own extraction, whose filters are missing from some of the Pythons on which this runs.
"""

from __future__ import annotations

import shutil
import tarfile
from pathlib import Path, PurePosixPath


def unpack(archive: tarfile.TarFile, to: Path) -> None:
    """Unpack files and folders below ``to``. Raises tarfile.TarError where anything else is in it, or a way out."""
    to.mkdir(parents=True, exist_ok=True)
    for member in archive:
        inside = PurePosixPath(member.name)
        if inside.is_absolute() or ".." in inside.parts or not (member.isfile() or member.isdir()):
            raise tarfile.TarError(f"“{member.name}” does not belong in it")
        at = to / inside
        if member.isdir():
            at.mkdir(parents=True, exist_ok=True)
            continue
        at.parent.mkdir(parents=True, exist_ok=True)
        content = archive.extractfile(member)
        assert content is not None  # noqa: S101 (a file has one)
        with content, at.open("wb") as stream:
            shutil.copyfileobj(content, stream)
