"""A sound track beside a clip: what it is and how long it lasts."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import av

from motion.errors import DamagedFile, NotAClip, OverLimit
from motion.formats.foreign import FOREIGN_ERRORS
from motion.formats.limits import MEGABYTE

CONTENT_TYPES = {"wav": "audio/wav", "ogg": "audio/ogg", "flac": "audio/flac", "mp3": "audio/mpeg"}
MOST_BYTES = 40 * MEGABYTE
LONGEST_S = 600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Sound:
    """A sound track: one of ``CONTENT_TYPES``, and its length in seconds."""

    kind: str
    seconds: float


def kind_of(head: bytes) -> str | None:
    """What kind of sound a file is by its first bytes; None for none."""
    if head.startswith(b"RIFF") and head[8:12] == b"WAVE":
        return "wav"
    if head.startswith(b"OggS"):
        return "ogg"
    if head.startswith(b"fLaC"):
        return "flac"
    # Layer III by its tag, or by the bits that begin each of its frames.
    if head.startswith(b"ID3") or (len(head) > 1 and head[0] == 0xFF and head[1] & 0xE6 == 0xE2):
        return "mp3"
    return None


def read(path: Path, name: str) -> Sound:
    """Look through a whole sound file. Raises ClipError when it is none, too long, or damaged."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        kind = kind_of(stream.read(16))
    if kind is None:
        raise NotAClip(f"“{name}” is not a sound that can be read. Hand in WAV, OGG, FLAC or MP3.")
    if size > MOST_BYTES:
        raise OverLimit(f"“{name}” has {size / MEGABYTE:.0f} MB; a sound has at most {MOST_BYTES // MEGABYTE} MB.")
    try:
        seconds = _seconds(path)
    except (av.FFmpegError, *FOREIGN_ERRORS) as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be played. Export the sound again.") from error
    if seconds == 0:
        raise NotAClip(f"There is no sound in “{name}”.")
    if seconds > LONGEST_S:
        raise OverLimit(f"“{name}” lasts {seconds / 60:.0f} minutes; an exercise has seconds.")
    return Sound(kind=kind, seconds=round(seconds, 3))


def _seconds(path: Path) -> float:
    """Length by the samples that can be decoded, up to a little over the longest that is taken."""
    options = {"protocol_whitelist": "file", "format_whitelist": "wav,ogg,flac,mp3"}
    samples, rate = 0, 0
    with av.open(str(path), mode="r", options=options) as container:
        if not container.streams.audio:
            return 0.0
        for frame in container.decode(container.streams.audio[0]):
            samples, rate = samples + frame.samples, frame.sample_rate
            if rate and samples > (LONGEST_S + 1) * rate:
                break
    return samples / rate if rate else 0.0
