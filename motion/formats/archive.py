"""A zip or a tar (plain or packed) of numbered pictures. Nothing is ever unpacked to a name on disk."""

from __future__ import annotations

import bz2
import gzip
import lzma
import stat
import tarfile
import tempfile
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import IO

from motion.clip import Clip
from motion.errors import ClipError, DamagedFile, NotAClip, OverLimit, UnsafeArchive
from motion.formats import numbering, pictures, stills
from motion.formats.foreign import FOREIGN_ERRORS
from motion.formats.limits import MEGABYTE, Limits

PACKED = {b"\x1f\x8b": gzip.GzipFile, b"BZh": bz2.BZ2File, b"\xfd7zXZ\x00": lzma.LZMAFile}
"""What unpacks a packed tar, by its first bytes."""
TAR_MARK, TAR_MARK_AT = b"ustar", 257
CHUNK = 1 << 20
NAMELESS = "The archive has an entry without a name. Make it again."
FOREIGN = (zipfile.BadZipFile, tarfile.TarError, lzma.LZMAError, *FOREIGN_ERRORS)
ANIMATIONS = (b"GIF8", b"\x1aE\xdf\xa3")


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One file in an archive: its name there and its size unpacked."""

    name: str
    size: int


def is_tar(head: bytes) -> bool:
    """Whether a file's first bytes are those of a tar, plain or packed."""
    return head[TAR_MARK_AT : TAR_MARK_AT + 5] == TAR_MARK or head.startswith(tuple(PACKED))


def read_zip(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open a zip as a clip. Raises ClipError; see ``motion.formats.read``."""
    try:
        archive = zipfile.ZipFile(path)
    except FOREIGN as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be opened as a zip. Make it again.") from error
    infos = archive.infolist()
    _refuse_many(len(infos), name, limits)
    if any(not i.filename for i in infos):
        raise UnsafeArchive(NAMELESS)
    wanted = [i for i in infos if not i.is_dir() and not numbering.is_clutter(i.filename)]
    for info in wanted:
        if stat.S_ISLNK(info.external_attr >> 16):
            _refuse_link(info.filename)
        if info.flag_bits & 0x1:
            raise UnsafeArchive("The zip is locked with a password. Make it again without one.")
    entries = [Entry(name=i.filename, size=i.file_size) for i in wanted]
    return _assemble(entries, archive.open, fps, name, limits)


def read_tar(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open a tar as a clip. Raises ClipError; see ``motion.formats.read``."""
    try:
        tar = _Tar(_plain(path, name, limits))
        members = _members(tar.archive, name, limits)
    except ClipError:
        raise
    except FOREIGN as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be opened as a tar. Make it again.") from error
    wanted = [m for m in members if not m.isdir() and not numbering.is_clutter(m.name)]
    for member in wanted:
        if not member.isfile():
            _refuse_link(member.name)
    tar.members = {m.name: m for m in wanted}
    return _assemble([Entry(name=m.name, size=m.size) for m in wanted], tar.opened, fps, name, limits)


class _Tar:
    """A tar that stays open as long as a clip reads from it."""

    def __init__(self, stream: IO[bytes]) -> None:
        self._stream = stream
        self.archive = tarfile.open(fileobj=stream, mode="r:")  # noqa: SIM115 (closed with this)
        self.members: dict[str, tarfile.TarInfo] = {}

    def opened(self, entry: str) -> IO[bytes]:
        stream = self.archive.extractfile(self.members[entry])
        if stream is None:
            raise OSError("no content")
        return stream

    def __del__(self) -> None:
        self._stream.close()


def _members(archive: tarfile.TarFile, name: str, limits: Limits) -> list[tarfile.TarInfo]:
    members = []
    for member in archive:
        members.append(member)
        _refuse_many(len(members), name, limits)
    return members


def _plain(path: Path, name: str, limits: Limits) -> IO[bytes]:
    """The tar itself; a packed one is unpacked into a file without a name, and never beyond the limit."""
    with path.open("rb") as stream:
        head = stream.read(8)
    unpacker = next((u for mark, u in PACKED.items() if head.startswith(mark)), None)
    if unpacker is None:
        return path.open("rb")
    plain = tempfile.TemporaryFile()  # noqa: SIM115 (the clip reads from it)
    try:
        with unpacker(path) as packed:
            while chunk := packed.read(CHUNK):
                plain.write(chunk)
                if plain.tell() > limits.unpacked_bytes:
                    raise OverLimit(f"“{name}” unpacks to more than {limits.unpacked_bytes // MEGABYTE} MB.")
    except BaseException:
        plain.close()
        raise
    plain.seek(0)
    return plain


def _assemble(entries: list[Entry], opened: Callable[[str], IO[bytes]], fps: float, name: str, limits: Limits) -> Clip:
    for entry in entries:
        _refuse_unsafe(entry, limits)
    if sum(e.size for e in entries) > limits.unpacked_bytes:
        raise OverLimit(f"“{name}” unpacks to more than {limits.unpacked_bytes // MEGABYTE} MB.")

    def fetch(entry: str, most: int = limits.entry_bytes + 1) -> bytes:
        # Never more of an entry than the limit, whatever its header claims.
        label = f"“{PurePosixPath(entry).name}”"
        try:
            with opened(entry) as stream:
                data = stream.read(most)
        except FOREIGN as error:
            raise DamagedFile(f"{label} in the archive is damaged. Make the archive again.") from error
        limits.check_entry(len(data), label)
        return data

    heads = {e.name: fetch(e.name, pictures.HEAD_BYTES) for e in entries}
    frames = [n for n, head in heads.items() if pictures.may_be_frame(n, head)]
    if not frames:
        _refuse_wrapped(heads.items())
    remarks = stills.left_out(len(entries) - len(frames))
    return stills.assemble(frames, fetch, fps=fps, name=name, limits=limits, remarks=remarks)


def _refuse_wrapped(heads: Iterable[tuple[str, bytes]]) -> None:
    for name, head in heads:
        if head.startswith(ANIMATIONS) or head[4:8] == b"ftyp":
            raise NotAClip(f"The archive holds a clip, “{PurePosixPath(name).name}”. Hand that in by itself.")


def _refuse_many(count: int, name: str, limits: Limits) -> None:
    if count > limits.entries:
        raise OverLimit(f"“{name}” holds {count} files or more; at most {limits.entries} are taken.")


def _refuse_link(name: str) -> None:
    raise UnsafeArchive(
        f"The archive holds a link (“{PurePosixPath(name).name}”) in place of a picture. Pack the pictures themselves."
    )


def _refuse_unsafe(entry: Entry, limits: Limits) -> None:
    path = PurePosixPath(entry.name.replace("\\", "/"))
    if path.is_absolute() or ".." in path.parts or (path.parts and path.parts[0].endswith(":")):
        raise UnsafeArchive(f"The archive has an entry that points out of it (“{path.name}”). Make it again.")
    if not path.name:
        raise UnsafeArchive(NAMELESS)
    limits.check_entry(entry.size, f"“{path.name}”")
