"""Overlap: what hangs in parts follows through, each part a little later than the one that carries it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from motion.exercises.pendulum.parts import Drag, at_rest, drags
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding, span

STIFF, LEADS, TOGETHER = 0.5, 0.75, 1.0
FOLLOWS = 2
"""So many frames later a part is told to come."""


def check(scene: Scene) -> list[Finding]:
    """Every overlap finding, where later parts must come later."""
    if not scene.jointed or not scene.drags:
        return []
    told = drags(scene.reading, tail=scene.asked.hangs == "tail")
    moves = [*leads(scene, told), *stiff(scene, told)]
    # Parts that move as one come to rest as one: that is told already.
    return moves or list(stops_together(scene))


def stiff(scene: Scene, told: Sequence[Drag]) -> Iterator[Finding]:
    """``overlap.stiff``: what should drag moves as one bar.

    Measured: by how many frames a part's extremes come after those of the part above, on average. Expected: later.
    Tolerance: at least 0.5 frames.
    """
    allowed = STIFF / scene.leniency
    bars = [d for d in told if -LEADS * scene.leniency < d.frames < allowed]
    if not bars:
        return
    least = min(bars, key=lambda d: d.frames)
    yield scene.whole_clip(
        "overlap.stiff",
        times=1.0 + (allowed - least.frames) / allowed,
        measured=least.frames,
        expected=float(FOLLOWS),
        tolerance=allowed,
        unit="frames",
        message=f"{_parts(scene, bars)} with the part above, as one bar; parts that hang follow through, each a little "
        "later than the one that carries it.",
        advice=f"Let each part come {FOLLOWS} frames later than the one above: draw it where that one was {FOLLOWS} "
        "frames ago.",
    )


def leads(scene: Scene, told: Sequence[Drag]) -> Iterator[Finding]:
    """``overlap.leads``: a later part goes ahead of what carries it.

    Measured: by how many frames a part's extremes come after those of the part above, on average. Expected: later.
    Tolerance: less than 0.75 frames before.
    """
    allowed = LEADS * scene.leniency
    ahead = [d for d in told if d.frames <= -allowed]
    if not ahead:
        return
    most = min(ahead, key=lambda d: d.frames)
    yield scene.whole_clip(
        "overlap.leads",
        times=-most.frames / allowed,
        measured=most.frames,
        expected=float(FOLLOWS),
        tolerance=allowed,
        unit="frames",
        message=f"{_parts(scene, ahead)} ahead of the part above, by {-most.frames:.1f} frames; what hangs is carried, "
        "and comes after.",
        advice=f"Let it come {FOLLOWS} frames later than the part above, at each extreme.",
    )


def stops_together(scene: Scene) -> Iterator[Finding]:
    """``overlap.stops_together``: all parts come to rest on the same frame.

    Measured: by how many frames the last part comes to rest after the first, where it settles. Expected: later.
    Tolerance: at least 1 frame.
    """
    reading, allowed = scene.reading, TOGETHER / scene.leniency
    rests = at_rest(reading, tail=scene.asked.hangs == "tail") if reading.resting else []
    if len(rests) < 2:
        return
    later = rests[-1] - rests[0]
    if later >= allowed:
        return
    last = next(s for s in reading.steps if s.frame == rests[-1])
    yield scene.finding(
        "overlap.stops_together",
        [last],
        times=1.0 + (allowed - later) / allowed,
        measured=later,
        expected=float(FOLLOWS),
        tolerance=allowed,
        unit="frames",
        message=f"{span(last.frame, last.last_frame)}: all parts come to rest together; what hangs from what has "
        "stopped goes on a little, and comes to rest after it.",
        advice=f"Let the parts come to rest one after the other, from the pivot on, each {FOLLOWS} frames later.",
    )


def _parts(scene: Scene, some: Sequence[Drag]) -> str:
    """``Link 2 moves``, ``Links 2 and 3 move``."""
    word = "part" if scene.asked.hangs == "tail" else "link"
    numbers = [str(d.part) for d in some]
    if len(numbers) == 1:
        return f"{word.capitalize()} {numbers[0]} moves"
    return f"{word.capitalize()}s {', '.join(numbers[:-1])} and {numbers[-1]} move"
