"""Preflight: what students forget when they export. Told before a hand-in is final; it costs no marks."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from motion.brief import Brief
from motion.clip import Clip
from motion.findings import span
from motion.formats.durations import is_whole
from motion.track import Shape, Track

TAIL_S = 0.75
DRIFTS_PX = 1.2
"""Paper that moves less, in a frame up to 960 wide, seems to lie still; what it moves is taken out all the same."""
SEEN_D = 0.3
"""Less of what moves, in its own sizes, within the frame is not worth a drawing."""


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


def check(clip: Clip, track: Track, brief: Brief, mover: str, lacks: tuple[str, str] | None = None) -> list[Note]:
    """Every preflight point of a clip, in playing order.

    ``mover`` is what moves, in a word; ``lacks`` why there is nothing to judge, as code and message.
    """
    notes = [*_about_the_file(clip, brief), *_about_the_mover(clip, track, mover)]
    notes += _about_the_export(clip, track, mover)
    if lacks:
        notes.append(Note(code=lacks[0], first_frame=1, last_frame=clip.frames, message=lacks[1]))
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
    read_as = _read_as(clip, brief.fps)
    if read_as:
        yield note("preflight.rate", f"{read_as} If it was meant otherwise, say for how many frames a picture stays.")
    for remark in clip.remarks:
        yield note("preflight.file", remark)


def _read_as(clip: Clip, asked: float) -> str:
    """How a file of another rate than asked for was read, as a sentence; empty where there is nothing to say."""
    if not clip.source_fps:
        return ""
    each, steady = asked / clip.source_fps, len(set(clip.picture_frames)) == 1
    plays = f"The file plays {clip.source_fps:.3g} pictures a second, and the brief asks for {asked:g} frames;"
    if not is_whole(each):
        how = "each picture was read as one frame." if steady else "its times were read as whole frames of the brief's."
        return f"{plays} {how}"
    return f"{plays} each picture was read as {each:.0f} frames." if steady and each > 1.5 else ""


def _about_the_mover(clip: Clip, track: Track, mover: str) -> Iterator[Note]:
    if len(track.shapes) < 2 or sum(s is not None for s in track.shapes) < 2:
        yield Note(
            code="preflight.no_subject",
            first_frame=1,
            last_frame=clip.frames,
            message=f"Nothing that moves was found to follow. Is the {mover} on every frame, and is it one clip?",
        )
        return
    for first, until in _cut_off(track):
        if _comes_or_goes(track, first, until, clip.width):
            continue
        yield Note(
            code="preflight.edge",
            first_frame=first,
            last_frame=until,
            message=f"{span(first, until)}: the {mover} is cut off by the edge of the frame.",
        )
    yield from _empty(track, clip.width)
    yield from _rest(clip, track)


def _empty(track: Track, width: int) -> Iterator[Note]:
    """Empty frames in the clip, and at its end. What moves outside of the frame leaves them empty rightly."""
    last_frame = track.exposures[-1].last_frame
    for first, until in runs(track, track.oversights.empty):
        if until == last_frame:
            yield Note(
                code="preflight.tail",
                first_frame=first,
                last_frame=until,
                message=f"{span(first, until)} {_are(first, until)} empty, after the action. Trim the end.",
            )
        elif not _outside(track, first, until, width):
            yield Note(
                code="preflight.blank",
                first_frame=first,
                last_frame=until,
                message=f"{span(first, until)} {_are(first, until)} empty. Export again with every drawing in place.",
            )


def _outside(track: Track, first: int, until: int, width: int) -> bool:
    """Whether what moves is outside of the frame in these frames, by where it is before and after them."""
    shown = [(e.first_frame, e.last_frame, s) for e in track.exposures if (s := track.shape_of(e.drawing))]
    before = [(last, s) for _, last, s in shown if last < first]
    after = [(begins, s) for begins, _, s in shown if begins > until][::-1]
    return _goes_out(width, before, after, first) or _goes_out(width, after, before, until)


Shown = tuple[int, Shape]


def _goes_out(width: int, towards: Sequence[Shown], beyond: Sequence[Shown], frame: int) -> bool:
    """Whether the drawings towards a frame, the nearest last, lead it out of sight.

    A single one leads on to those ``beyond`` the frame.
    """
    if not towards:
        return False
    (near, one), rest = towards[-1], [*towards[:-1], *beyond][-1:]
    if not rest:
        return one.clipped
    far, other = towards[-2] if len(towards) > 1 else rest[0]
    share = (frame - near) / (near - far)
    x, y = one.x + share * (one.x - other.x), one.y + share * (one.y - other.y)
    seen = SEEN_D * math.sqrt(one.area)
    across, down = one.width / 2 - seen, one.height / 2 - seen
    return x + across < 0 or x - across > width - 1 or y + down < 0


def _rest(clip: Clip, track: Track) -> Iterator[Note]:
    shown = [e for e in track.exposures if e.drawing not in track.oversights.empty]
    last = shown[-1]
    if last.frames > TAIL_S * clip.fps:
        yield Note(
            code="preflight.tail",
            first_frame=last.first_frame,
            last_frame=last.last_frame,
            message=f"The last drawing stays for {last.frames} frames. Trim the end if that is not meant.",
        )


def _about_the_export(clip: Clip, track: Track, mover: str) -> Iterator[Note]:
    """What was left on or switched off, and paper that did not lie still."""
    for first, until in runs(track, track.oversights.ghosts, gap=2):
        yield Note(
            code="preflight.ghosts",
            first_frame=first,
            last_frame=until,
            message=f"{span(first, until)}: neighbouring drawings show through. They were left out of the measuring; "
            "switch them off and export again.",
        )
    if track.guide_shows:
        yield Note(
            code="preflight.guide",
            first_frame=1,
            last_frame=clip.frames,
            message=f"A path guide is still visible behind the {mover}. It was taken for background; hide it and "
            "export again.",
        )
    for first, until in runs(track, track.oversights.bare):
        yield Note(
            code="preflight.background_drops",
            first_frame=first,
            last_frame=until,
            message=f"{span(first, until)}: the ground or the scenery is missing. Keep its layer switched on for every "
            "frame.",
        )
    off = _drift(clip, track)
    if off >= DRIFTS_PX * max(1.0, clip.width / 960):
        yield Note(
            code="preflight.drift",
            first_frame=1,
            last_frame=clip.frames,
            message=f"The paper does not lie still: it is up to {off:.1f} px off. That was taken out before measuring; "
            "peg the paper, and fix the camera, for the next take.",
        )


def _drift(clip: Clip, track: Track) -> float:
    """How far the paper lies off its place, px: in more drawings than one, since one alone may be odd otherwise."""
    off = sorted(s.farthest(clip.width, clip.height) for s in track.shifts)
    return off[-2] if len(off) > 1 else 0.0


def _are(first: int, until: int) -> str:
    return "is" if first == until else "are"


def runs(track: Track, drawings: frozenset[int], gap: int = 1) -> list[tuple[int, int]]:
    """First and last frames of the runs in which these drawings show, less than ``gap`` frames apart taken as one."""
    found: list[tuple[int, int]] = []
    for exposure in track.exposures:
        if exposure.drawing not in drawings:
            continue
        if found and exposure.first_frame - found[-1][1] <= gap:
            found[-1] = (found[-1][0], exposure.last_frame)
        else:
            found.append((exposure.first_frame, exposure.last_frame))
    return found


def _comes_or_goes(track: Track, first: int, until: int, width: int) -> bool:
    """Whether what moves is cut off because it comes into the frame or leaves it.

    That is so at the clip's start or end, where the drawings beside it that are not cut off move away from that edge
    of the frame or towards it.
    """
    seen = [(e.first_frame, s) for e in track.exposures if (s := track.shape_of(e.drawing))]
    whole = [(frame, s) for frame, s in seen if not s.clipped]
    cut = [s for frame, s in seen if first <= frame <= until]
    if len(whole) < 2:
        return False
    over_top = cut[0].y - cut[0].height / 2 < 0
    side = 1 if cut[0].x > width / 2 else -1

    def out(one: Shape, other: Shape) -> float:
        return one.y - other.y if over_top else side * (other.x - one.x)

    if whole[-1][0] < first:
        return out(whole[-2][1], whole[-1][1]) > 0
    return whole[0][0] > until and out(whole[0][1], whole[1][1]) < 0


def _cut_off(track: Track) -> list[tuple[int, int]]:
    """Runs of frames, first and last, in which the edge of the frame cuts what moves."""
    return runs(track, frozenset(s.drawing for s in track.shapes if s is not None and s.clipped))
