"""Another timing for the same drawings: which shows when, and for how long. The clip itself is never changed."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from motion.errors import BadChange
from motion.stored import Schema

MOST_FRAMES = 2000
LONGEST = 240
"""A drawing shows for at most so many frames."""
MOST_ROUNDS = 12


@dataclass(frozen=True, slots=True)
class Held:
    """A drawing by number, and for how many frames it shows."""

    drawing: int
    frames: int


KEPT = Schema(name="nettlecap.timing/1", steps={"": lambda pairs: {"schema": "nettlecap.timing/1", "pairs": pairs}})
"""How a timing is kept: at first as bare pairs."""
Timing = tuple[Held, ...]
"""A whole clip's exposures in playing order."""


def change(timing: Timing, kind: str, first: int, last: int, count: int = 1) -> Timing:
    """The timing with the exposures from ``first`` to ``last`` (indices from 0, both included) changed.

    ``hold`` shows each for ``count`` frames; ``longer`` for so many more (below nought: fewer, at least one);
    ``out`` takes them out; ``swap`` lets the first and the last change places; ``reverse`` turns their order round;
    ``repeat`` shows them ``count`` times in a row. Raises BadChange in words where that cannot be.
    """
    if kind not in CHANGES:
        raise BadChange("This cannot be done to a timing.")
    if not 0 <= first <= last < len(timing):
        raise BadChange("Choose drawings of this timing first.")
    changed = (*timing[:first], *CHANGES[kind](timing[first : last + 1], count), *timing[last + 1 :])
    if not changed:
        raise BadChange("At least one drawing has to stay.")
    if sum(h.frames for h in changed) > MOST_FRAMES:
        raise BadChange(f"A timing has at most {MOST_FRAMES} frames.")
    return changed


def _hold(part: Timing, count: int) -> Timing:
    return tuple(replace(h, frames=_frames(count)) for h in part)


def _longer(part: Timing, count: int) -> Timing:
    return tuple(replace(h, frames=_frames(h.frames + count)) for h in part)


def _frames(count: int) -> int:
    if not 1 <= count <= LONGEST:
        raise BadChange(f"A drawing shows for 1 to {LONGEST} frames.")
    return count


def _swap(part: Timing, count: int) -> Timing:
    if len(part) < 2:
        raise BadChange("Choose the two drawings that are to change places, and those between.")
    return (part[-1], *part[1:-1], part[0])


def _repeat(part: Timing, count: int) -> Timing:
    if not 1 <= count <= MOST_ROUNDS:
        raise BadChange(f"Drawings are repeated up to {MOST_ROUNDS} times.")
    return part * count


CHANGES: dict[str, Callable[[Timing, int], Timing]] = {
    "hold": _hold,
    "longer": _longer,
    "out": lambda part, count: (),
    "swap": _swap,
    "reverse": lambda part, count: part[::-1],
    "repeat": _repeat,
}


def of_exposures(exposures: Sequence[dict[str, Any]]) -> Timing:
    """The timing of a findings file's exposures."""
    return tuple(Held(e["drawing"], e["frames"]) for e in exposures)


def read(told: Any, drawings: set[int]) -> Timing:
    """A timing from pairs of drawing and frames; raises BadChange where it is none, or names other drawings."""
    try:
        timing = tuple(Held(int(drawing), int(frames)) for drawing, frames in told)
    except (TypeError, ValueError, OverflowError):
        raise BadChange("This is no timing.") from None
    whole = bool(timing) and all(h.drawing in drawings and 1 <= h.frames <= LONGEST for h in timing)
    if not whole or sum(h.frames for h in timing) > MOST_FRAMES:
        raise BadChange("This is no timing of this clip.")
    return timing


def pairs(timing: Timing) -> list[list[int]]:
    """A timing as pairs of drawing and frames, as pages have it."""
    return [[h.drawing, h.frames] for h in timing]


def kept(timing: Timing) -> dict[str, Any]:
    """A timing as it is kept."""
    return KEPT.written({"pairs": pairs(timing)})


def pairs_of(document: Any) -> list[list[int]]:
    """The pairs of what ``kept`` made, or an earlier version of it. Raises NewerDocument."""
    found: list[list[int]] = KEPT.read(document)["pairs"]
    return found


def sheet_csv(timing: Timing) -> str:
    """The exposure sheet: first frame, last frame and drawing, a row an exposure."""
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    rows.writerow(["first_frame", "last_frame", "drawing"])
    frame = 1
    for held in timing:
        rows.writerow([frame, frame + held.frames - 1, held.drawing])
        frame += held.frames
    return stream.getvalue()


def sheet_json(timing: Timing, fps: float) -> str:
    """The exposure sheet as JSON, with its rate."""
    return json.dumps({"fps": fps, "exposures": [{"drawing": h.drawing, "frames": h.frames} for h in timing]}, indent=1)
