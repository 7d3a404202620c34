"""Video in the common containers. Times come from the pictures' own time stamps, never from a nominal rate."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, TypeVar

import av
import numpy as np

from motion.clip import Clip, Picture, Plane, Planes
from motion.errors import ClipError, DamagedFile, NotAClip, OverLimit
from motion.formats.durations import of_steady
from motion.formats.foreign import FOREIGN_ERRORS
from motion.formats.limits import Limits

Seen = TypeVar("Seen")
FOREIGN = (av.FFmpegError, *FOREIGN_ERRORS)
DEMUXERS = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi"
"""The containers that are read; none that fetches, or that names other files."""
LOSSLESS = ("ffv1", "huffyuv", "ffvhuff", "utvideo", "png", "rawvideo", "qtrle", "gif", "zlib", "flashsv", "magicyuv")
"""Decoders of codecs in which equal pictures stay equal."""
PLANAR = {
    f"yuv{full}{thinned}p": step
    for thinned, step in (("420", (1, 1)), ("422", (2, 1)), ("444", (2, 2)))
    for full in ("", "j")
}
"""Formats of opaque pictures of eight bits a value, and in steps of how many rows and columns their colours are taken,
so that one is left for two pixels either way."""
FULL_RANGE = 2
"""What the library calls a range from 0 to 255."""
STEADY = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class Timing:
    """When each picture shows, in seconds from the first, and how long the last one stays."""

    starts: tuple[float, ...]
    last_s: float

    @property
    def durations(self) -> tuple[float, ...]:
        steps = np.diff([*self.starts, self.starts[-1] + self.last_s])
        return tuple(float(s) for s in steps)

    @property
    def steady(self) -> bool:
        """Whether every picture stays equally long, but for what the container rounds."""
        steps = np.diff(self.starts)
        return bool(len(steps) and np.abs(steps - np.median(steps)).max() <= max(STEADY * np.median(steps), 0.0015))


def is_video(head: bytes) -> bool:
    """Whether a file's first bytes are those of a container that is read."""
    return head[4:8] in (b"ftyp", b"moov", b"mdat", b"wide", b"free") or (
        head.startswith((b"\x1aE\xdf\xa3", b"RIFF")) and (not head.startswith(b"RIFF") or head[8:12] == b"AVI ")
    )


class VideoFootage:
    """Pictures of a video, decoded from the start on each pass.

    ``planar`` tells that they are opaque, upright and eight bits deep, and so can be had as the codec holds them.
    """

    def __init__(self, path: Path, name: str, size: tuple[int, int], kept: Sequence[int], *, planar: bool) -> None:
        self._path, self._name, self._size, self._kept = path, name, size, kept
        self.planar = planar

    def __len__(self) -> int:
        return len(self._kept)

    def fingerprint(self, index: int) -> str | None:
        return None

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return self._decoded(indices, _picture)

    def planes(self, indices: Sequence[int]) -> Iterator[Planes]:
        return self._decoded(indices, _planes)

    def _decoded(self, indices: Sequence[int], seen_as: Callable[[av.VideoFrame], Seen]) -> Iterator[Seen]:
        wanted = [self._kept[i] for i in indices]
        last: av.VideoFrame | None = None
        given = 0
        try:
            with _open(self._path) as container:
                for number, frame in enumerate(container.decode(_stream(container))):
                    if given >= len(wanted):
                        return
                    if number == wanted[given]:
                        last = frame
                        self._check(frame)
                        yield seen_as(frame)
                        given += 1
        except ClipError:
            raise
        except FOREIGN as error:
            raise DamagedFile(f"“{self._name}” is damaged after picture {given}. Export it again.") from error
        if last is None:
            raise DamagedFile(f"“{self._name}” holds no picture that can be decoded. Export it again.")
        # Containers may name a picture more than the codec gives; the last one stays for it.
        for _ in range(given, len(wanted)):
            yield seen_as(last)

    def _check(self, frame: av.VideoFrame) -> None:
        if _size_of(frame) != self._size:
            raise DamagedFile(f"“{self._name}” changes its size on the way. Export it again at one size.")


def _picture(frame: av.VideoFrame) -> Picture:
    picture = np.asarray(frame.to_ndarray(format="rgba"), dtype=np.uint8)
    return np.ascontiguousarray(np.rot90(picture, _quarter_turns(frame)))


def _quarter_turns(frame: av.VideoFrame) -> int:
    return round(frame.rotation / 90) % 4


def _size_of(frame: av.VideoFrame) -> tuple[int, int]:
    """Width and height as it is to be seen."""
    return (frame.height, frame.width) if _quarter_turns(frame) % 2 else (frame.width, frame.height)


def _is_planar(frame: av.VideoFrame) -> bool:
    even = frame.width % 2 == 0 and frame.height % 2 == 0
    return frame.format.name in PLANAR and even and _quarter_turns(frame) == 0


def _planes(frame: av.VideoFrame) -> Planes:
    frame = frame if frame.format.name in PLANAR else frame.reformat(format="yuv420p")
    down, across = PLANAR[frame.format.name]
    luma, blue, red = (_plane(p) for p in frame.planes)
    return Planes(
        luma=luma,
        blue=blue[::down, ::across] if across == 1 else np.ascontiguousarray(blue[::down, ::across]),
        red=red[::down, ::across] if across == 1 else np.ascontiguousarray(red[::down, ::across]),
        full=frame.format.name.startswith("yuvj") or frame.color_range == FULL_RANGE,
    )


def _plane(plane: av.video.plane.VideoPlane) -> Plane:
    """(height, width) the plane's own memory, without what it is padded with; it lives as long as the array."""
    padded: Plane = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    return padded[: plane.height, : plane.width]


def read(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    """Open a video as a clip. Raises ClipError; see ``motion.formats.read``."""
    try:
        return _read(path, fps, name, limits)
    except ClipError:
        raise
    except FOREIGN as error:
        raise DamagedFile(f"“{name}” is damaged and cannot be read as a video. Export it again.") from error


def _read(path: Path, fps: float, name: str, limits: Limits) -> Clip:
    with _open(path) as container:
        stream = _stream(container)
        limits.check_size(stream.codec_context.width, stream.codec_context.height, f"“{name}”")
        packets = container.demux(stream)
        opening, first = _first_picture(packets)
        if first is None:
            raise NotAClip(f"“{name}” holds no picture.")
        size = _size_of(first)
        limits.check_size(*size, f"“{name}”")
        lossy = stream.codec_context.name not in LOSSLESS
        planar = lossy and _is_planar(first)
        timing = _timing(itertools.chain(opening, packets), stream.time_base or Fraction(1, 1000), name, limits)
    limits.check_count(len(timing.starts), *size)
    frames, remark = _to_frames(timing, fps)
    kept = [i for i, n in enumerate(frames) if n > 0]
    return Clip(
        name=name,
        fps=fps,
        width=size[0],
        height=size[1],
        footage=VideoFootage(path, name, size, kept, planar=planar),
        picture_frames=tuple(frames[i] for i in kept),
        lossy=lossy,
        source_fps=round(1.0 / float(np.median(timing.durations)), 3),
        remarks=(remark,) if remark else (),
    )


def _first_picture(packets: Iterator[av.Packet[Any]]) -> tuple[list[av.Packet[Any]], av.VideoFrame | None]:
    """The packets up to the one with which the decoder gives its first picture, and that; None where it never does."""
    opening = []
    for packet in packets:
        opening.append(packet)
        for frame in packet.decode():
            return opening, frame
    return opening, None


def _timing(packets: Iterable[av.Packet[Any]], base: Fraction, name: str, limits: Limits) -> Timing:
    """The time stamps of all pictures in showing order, without decoding them."""
    stamps: list[int] = []
    last = 0.0
    for packet in packets:
        at = packet.pts if packet.pts is not None else packet.dts
        if packet.size == 0 or at is None or packet.is_discard:
            continue
        stamps.append(at)
        last = float((packet.duration or 0) * base)
        if len(stamps) > limits.pictures:
            raise OverLimit(f"“{name}” has more than {limits.pictures} pictures.")
    if len(stamps) < 2:
        raise NotAClip(f"“{name}” holds only one picture. A clip needs at least two.")
    ordered = sorted(set(stamps))
    starts = tuple(float((s - ordered[0]) * base) for s in ordered)
    steps = np.diff(starts)
    usual = float(np.median(steps)) if len(steps) else 1 / 24
    limits.check_length(len(starts), starts[-1])
    return Timing(starts=starts, last_s=last if 0.2 * usual < last < 50 * usual else usual)


def _to_frames(timing: Timing, fps: float) -> tuple[list[int], str | None]:
    """Frames for each picture at the brief's rate, 0 for those that show for less, and what to say about it."""
    durations = timing.durations
    if timing.steady:
        return [of_steady(1.0 / float(np.median(durations)), fps)] * len(durations), None
    ends = np.floor(np.cumsum(durations) * fps + 0.5)
    counts = [int(n) for n in np.diff(ends, prepend=0.0)]
    off = float(np.abs(ends / fps - np.cumsum(durations)).max())
    if off <= 0.0015:
        return counts, None
    passed = counts.count(0)
    lost = f"; {passed} pictures that show for less than a frame were passed over" if passed else ""
    return counts, f"The video's own times were rounded to whole frames at {fps:g} a second{lost}."


def _open(path: Path) -> av.container.InputContainer:
    return av.open(str(path), mode="r", options={"protocol_whitelist": "file", "format_whitelist": DEMUXERS})


def _stream(container: av.container.InputContainer) -> av.VideoStream:
    if not container.streams.video:
        raise NotAClip("There is no picture in this file, only sound.")
    stream = container.streams.video[0]
    stream.codec_context.thread_type = "AUTO"
    stream.codec_context.thread_count = 1
    return stream
