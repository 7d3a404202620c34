"""What a student is told of a clip before it is handed in: each point with its frames, what it means, and its mend."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from nettlecap.takes.models import Take

MEANS = {
    "preflight.ghosts": "Your marker sees them too, and they make single drawings hard to read.",
    "preflight.guide": "It hides the drawings under it, and it is not your work that shows there.",
    "preflight.blank": "It vanishes there when the clip plays, and what is missing cannot be marked.",
    "preflight.tail": "It does not count as animation, and makes the clip longer than its action.",
    "preflight.background_drops": "It flashes when the clip plays.",
    "preflight.size": "Your drawings are measured all the same; only the frame is not the one that was asked for.",
    "preflight.rate": "If each picture was meant to stay longer, say for how many frames.",
    "preflight.length": "The brief marks how long the clip is.",
    "preflight.no_subject": "Nothing can be measured, so nothing can be proposed to your marker.",
    "preflight.edge": "What is outside the frame cannot be measured.",
    "preflight.drift": "What moves trembles with the paper when the clip plays.",
}
NO_MOTION = "Nothing of the motion can be measured, so little can be proposed to your marker."
"""What a point of an exercise's own means: that there is nothing to judge."""
PICTURES_SHOWN = 400


@dataclass(frozen=True, slots=True, kw_only=True)
class Mend:
    """Something that can be put right here: what the button says, and the change that it makes."""

    words: str
    change: dict[str, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """One point about a clip, on a range of frames."""

    first_frame: int
    last_frame: int
    message: str
    means: str
    mend: Mend | None

    @property
    def frames(self) -> str:
        if self.first_frame == self.last_frame:
            return f"frame {self.first_frame}"
        return f"frames {self.first_frame}\N{EN DASH}{self.last_frame}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """One drawing in the strip of a clip, with the pictures of the file that show it, counted as they are played."""

    drawing: int
    frame: int
    pictures: str
    pointed_at: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LookThrough:
    """Everything about a draft beside its player."""

    points: tuple[Point, ...] = ()
    blocks: tuple[Block, ...] = ()
    done: tuple[tuple[str, str], ...] = field(default=())
    """What was put right: the key to take it back by, and what it says."""

    @property
    def may_reorder(self) -> bool:
        return 1 < len(self.blocks) <= PICTURES_SHOWN


def look_through(draft: Take) -> LookThrough:
    """What there is to say about a draft; only what was put right while it is still being looked at."""
    findings = draft.analysis.findings
    done = tuple(_done(draft.prepared))
    if not findings or draft.analysis.unfinished:
        return LookThrough(done=done)
    points = tuple(_point(note, draft) for note in findings["preflight"])
    return LookThrough(points=points, blocks=tuple(_blocks(findings, points)), done=done)


def _point(note: dict[str, Any], draft: Take) -> Point:
    return Point(
        first_frame=note["first_frame"],
        last_frame=note["last_frame"],
        message=note["message"],
        means=_means(note["code"]),
        mend=_mend(note, draft),
    )


def _means(code: str) -> str:
    return MEANS.get(code, NO_MOTION if code.startswith("preflight.no_") else "")


def _mend(note: dict[str, Any], draft: Take) -> Mend | None:
    if note["code"] == "preflight.tail":
        last = note["first_frame"] - 1 if _is_empty(note["first_frame"], draft) else note["first_frame"]
        # Frames are counted from the first one that is kept; the preparation counts them in the file.
        kept_from = draft.prepared.get("first", 1)
        return Mend(words=f"Trim after frame {last}", change={"last": last + kept_from - 1}) if last > 1 else None
    source = (draft.analysis.findings or {}).get("clip", {}).get("source_fps")
    if note["code"] == "preflight.rate" and source:
        each = max(1, round(draft.brief.core.fps / source))
        return Mend(words=f"Show each picture for {each} frame{'s' if each > 1 else ''}", change={"each": each})
    return None


def _is_empty(frame: int, draft: Take) -> bool:
    """Whether nothing is drawn on a frame."""
    findings = draft.analysis.findings or {}
    empty = findings["track"].get("oversights", {}).get("empty", ())
    return any(e["first_frame"] == frame and e["drawing"] in empty for e in findings["clip"]["exposures"])


def _blocks(findings: dict[str, Any], points: tuple[Point, ...]) -> list[Block]:
    """Drawings as they follow each other. Points about the whole clip mark none."""
    frames = findings["clip"]["frames"]
    pictures = _picture_of_frame(findings["clip"].get("picture_frames", []))
    local = [p for p in points if p.last_frame - p.first_frame + 1 < frames]
    blocks = []
    for exposure in findings["clip"]["exposures"]:
        first, last = exposure["first_frame"], exposure["first_frame"] + exposure["frames"] - 1
        own = sorted({pictures[f - 1] for f in range(first, last + 1)}) if pictures else []
        blocks.append(
            Block(
                drawing=exposure["drawing"],
                frame=first,
                pictures=",".join(map(str, own)),
                pointed_at=any(p.first_frame <= last and first <= p.last_frame for p in local),
            )
        )
    return blocks


def _picture_of_frame(picture_frames: list[int]) -> list[int]:
    return [number for number, count in enumerate(picture_frames, start=1) for _ in range(count)]


def _done(prepared: dict[str, Any]) -> list[tuple[str, str]]:
    words = {
        "grid": lambda v: f"Divided into {v[0]} columns and {v[1]} rows, {v[2]} frames",
        "order": lambda v: "Put into another order",
        "each": lambda v: f"Each picture shown for {v} frame{'s' if v > 1 else ''}",
        "first": lambda v: f"Begins at frame {v} of the file",
        "last": lambda v: f"Ends at frame {v} of the file",
    }
    return [(key, words[key](value)) for key, value in prepared.items() if key in words]
