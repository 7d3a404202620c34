"""Preflight: what students forget when they export. Told before a hand-in is final; it costs no marks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from motion.brief import Brief
from motion.clip import Clip
from motion.findings import span
from motion.tracking.track import Track

TAIL_S = 0.75
RATE_SLACK = 0.06


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One preflight point on a range of frames."""

    code: str
    first_frame: int
    last_frame: int
    message: str

    def to_json(self) -> dict[str, Any]:
        """The note as in the findings file."""
        return {
            "code": self.code,
            "first_frame": self.first_frame,
            "last_frame": self.last_frame,
            "message": self.message,
        }


def check(clip: Clip, track: Track, brief: Brief) -> list[Note]:
    """Every preflight point of a clip, in playing order."""
    notes = [*_about_the_file(clip, brief), *_about_the_ball(clip, track)]
    return sorted(notes, key=lambda n: (n.first_frame, n.code))


def _about_the_file(clip: Clip, brief: Brief) -> Iterator[Note]:
    def note(code: str, message: str) -> Note:
        return Note(code=code, first_frame=1, last_frame=clip.frames, message=message)

    if brief.canvas and brief.canvas != (clip.width, clip.height):
        yield note(
            "preflight.size",
            f"The frames are {clip.width} × {clip.height} px; the brief asks for "
            f"{brief.canvas[0]} × {brief.canvas[1]}.",
        )
    if brief.frames and not brief.frames[0] <= clip.frames <= brief.frames[1]:
        yield note(
            "preflight.length",
            f"The clip has {clip.frames} frames; the brief asks for {brief.frames[0]} to {brief.frames[1]}.",
        )
    if clip.source_fps and not _rates_agree(clip.source_fps, brief.fps):
        yield note(
            "preflight.rate",
            f"The file plays at up to {clip.source_fps:g} pictures a second; the brief asks for {brief.fps:g} frames. "
            "It was read at the brief's rate.",
        )
    for remark in clip.remarks:
        yield note("preflight.file", remark)


def _rates_agree(source: float, asked: float) -> bool:
    """Whether the file's rate is the asked one or a whole part of it (on twos, on threes)."""
    share = asked / source
    return abs(share - round(share)) <= RATE_SLACK * max(1.0, share) and round(share) >= 1


def _about_the_ball(clip: Clip, track: Track) -> Iterator[Note]:
    if len(track.shapes) < 2 or sum(s is not None for s in track.shapes) < 2:
        yield Note(
            code="preflight.no_subject",
            first_frame=1,
            last_frame=clip.frames,
            message="Nothing that moves was found to follow. Is the ball on every frame, and is it one clip?",
        )
        return
    for first, until in _cut_off(track):
        if _comes_or_goes(track, first, until):
            continue
        yield Note(
            code="preflight.edge",
            first_frame=first,
            last_frame=until,
            message=f"{span(first, until)}: the ball is cut off by the edge of the frame.",
        )
    last = track.exposures[-1]
    if last.frames > TAIL_S * clip.fps:
        yield Note(
            code="preflight.tail",
            first_frame=last.first_frame,
            last_frame=last.last_frame,
            message=f"The last drawing stays for {last.frames} frames. Trim the end if that is not meant.",
        )


def _comes_or_goes(track: Track, first: int, until: int) -> bool:
    """Whether the ball is cut off because it comes into the frame or leaves it.

    That is so at the clip's start or end, where the drawings beside it that are not cut off move away from that edge
    of the frame or towards it.
    """
    seen = [(e.first_frame, s) for e in track.exposures if (s := track.shape_of(e.drawing))]
    whole = [(frame, s) for frame, s in seen if not s.clipped]
    cut = [s for frame, s in seen if first <= frame <= until]
    if len(whole) < 2 or track.ground is None:
        return False
    side = 1 if cut[0].x > track.ground.width / 2 else -1
    if whole[-1][0] < first:
        return side * (whole[-1][1].x - whole[-2][1].x) > 0
    return whole[0][0] > until and side * (whole[1][1].x - whole[0][1].x) < 0


def _cut_off(track: Track) -> list[tuple[int, int]]:
    """Runs of frames, first and last, in which the edge of the frame cuts the ball."""
    runs: list[tuple[int, int]] = []
    for exposure in track.exposures:
        shape = track.shape_of(exposure.drawing)
        if shape is None or not shape.clipped:
            continue
        if runs and runs[-1][1] + 1 == exposure.first_frame:
            runs[-1] = (runs[-1][0], exposure.last_frame)
        else:
            runs.append((exposure.first_frame, exposure.last_frame))
    return runs
