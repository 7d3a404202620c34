"""A zip of numbered PNG pictures. Nothing is ever unpacked to disk."""

from __future__ import annotations

import stat
import zipfile
from pathlib import Path, PurePosixPath

from motion.clip import Clip
from motion.errors import DamagedFile, OverLimit, UnsafeArchive
from motion.formats import numbering, stills
from motion.formats.limits import Limits
from motion.formats.pictures import FOREIGN_ERRORS


def read(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open the archive as a clip. Raises ClipError; see ``motion.formats.read``."""
    try:
        with zipfile.ZipFile(path) as archive:
            entries = archive.infolist()
    except (zipfile.BadZipFile, *FOREIGN_ERRORS) as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be opened as a zip. Make it again.") from error
    if len(entries) > limits.entries:
        raise OverLimit(f"“{name}” holds {len(entries)} files; at most {limits.entries} are taken.")
    wanted = [e for e in entries if not e.is_dir() and not numbering.is_clutter(e.filename)]
    for entry in wanted:
        _refuse_unsafe(entry, limits)
    frames = [e.filename for e in wanted if e.filename.lower().endswith(".png")]
    left_out = len(wanted) - len(frames)
    remarks = (f"{left_out} files that are not PNG pictures were left out.",) if left_out else ()
    reader = _Entries(path, limits)
    return stills.assemble(frames, reader.fetch, fps=fps, name=name, limits=limits, remarks=remarks)


class _Entries:
    """Reads single entries, never more of one than the limit whatever its header claims."""

    def __init__(self, path: Path, limits: Limits) -> None:
        self._archive = zipfile.ZipFile(path)
        self._limits = limits

    def fetch(self, name: str) -> bytes:
        try:
            with self._archive.open(name) as stream:
                data = stream.read(self._limits.entry_bytes + 1)
        except (zipfile.BadZipFile, RuntimeError, *FOREIGN_ERRORS) as e:
            raise DamagedFile(f"“{PurePosixPath(name).name}” in the zip is damaged. Make the zip again.") from e
        if len(data) > self._limits.entry_bytes:
            raise OverLimit(f"“{PurePosixPath(name).name}” is too large to be one frame.")
        return data


def _refuse_unsafe(entry: zipfile.ZipInfo, limits: Limits) -> None:
    path = PurePosixPath(entry.filename.replace("\\", "/"))
    if path.is_absolute() or ".." in path.parts or (path.parts and path.parts[0].endswith(":")):
        raise UnsafeArchive(f"The zip has an entry that points out of it (“{path.name}”). Make the zip again.")
    if stat.S_ISLNK(entry.external_attr >> 16):
        raise UnsafeArchive(f"The zip holds a link (“{path.name}”) in place of a picture. Zip the pictures themselves.")
    if entry.flag_bits & 0x1:
        raise UnsafeArchive("The zip is locked with a password. Make it again without one.")
    if entry.file_size > limits.entry_bytes:
        raise OverLimit(f"“{path.name}” is too large to be one frame.")
