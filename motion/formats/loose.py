"""A folder of numbered pictures."""

from __future__ import annotations

from pathlib import Path

from motion.clip import Clip
from motion.errors import DamagedFile, OverLimit
from motion.formats import numbering, pictures, stills
from motion.formats.limits import Limits


def read(folder: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open a folder as a clip. Links are not followed. Raises ClipError; see ``motion.formats.read``."""
    files = {p.name: p for p in folder.iterdir() if p.is_file() and not p.is_symlink()}
    if len(files) > limits.entries:
        raise OverLimit(f"“{name}” holds {len(files)} files; at most {limits.entries} are taken.")
    files = {n: p for n, p in files.items() if not numbering.is_clutter(n)}
    frames = sorted(n for n, p in files.items() if pictures.may_be_frame(n, _head(p)))

    def fetch(picture: str) -> bytes:
        path = files[picture]
        try:
            limits.check_entry(path.stat().st_size, f"“{picture}”")
            return path.read_bytes()
        except OSError as error:
            raise DamagedFile(f"“{picture}” cannot be opened.") from error

    remarks = stills.left_out(len(files) - len(frames))
    return stills.assemble(frames, fetch, fps=fps, name=name, limits=limits, remarks=remarks)


def _head(path: Path) -> bytes:
    try:
        with path.open("rb") as stream:
            return stream.read(pictures.HEAD_BYTES)
    except OSError:
        return b""
