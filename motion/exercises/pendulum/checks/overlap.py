"""Overlap: what hangs in parts follows through, each part a little later than the one that carries it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.checks import rehung
from motion.exercises.pendulum.parts import Drag, at_rest, drags
from motion.exercises.pendulum.scene import Scene
from motion.findings import Finding, span

STIFF, LEADS, TOGETHER = 0.5, 0.75, 1.0
FOLLOWS, SHARE = 2, 0.2
"""So many frames later a part is told to come, but no more than such a share of a swing."""
AT_FIRST = 0.7
"""Parts that follow in so much of the time in which they move, and stop together, are not stiff."""
ROUNDING = 1e-6
EASES_IN = 0.5
"""Parts that stop together are told to part again over such a share of the clip before."""


def check(scene: Scene) -> list[Finding]:
    """Every overlap finding, where later parts must come later."""
    if not scene.jointed or not scene.drags:
        return []
    tail, together = scene.asked.hangs == "tail", list(stops_together(scene))
    told = drags(scene.reading, tail=tail, cycle=scene.brief.loop)
    if together and _follow(scene, drags(scene.reading, tail=tail, share=AT_FIRST), len(told)):
        # Parts that move as one only towards their rest are told by that.
        return together
    # Parts that move as one all along come to rest as one: that is told already.
    return [*leads(scene, told), *stiff(scene, told)] or together


def _follow(scene: Scene, told: Sequence[Drag], joints: int) -> bool:
    """Whether at all of so many joints the later part comes late enough."""
    return len(told) == joints and all(d.frames >= STIFF / scene.leniency for d in told)


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
        expected=float(_follows(scene)),
        tolerance=allowed,
        unit="frames",
        message=f"{_parts(scene, bars)} with the part above, as one bar; parts that hang follow through, each a little "
        "later than the one that carries it.",
        advice=_advice(scene, bars),
        overlay=_following(scene, told, allowed),
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
        expected=float(_follows(scene)),
        tolerance=allowed,
        unit="frames",
        message=f"{_parts(scene, ahead)} ahead of the part above, by {-most.frames:.1f} frames; what hangs is carried, "
        "and comes after.",
        advice=_advice(scene, ahead),
        overlay=_following(scene, told, STIFF / scene.leniency),
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
    if later >= allowed - ROUNDING:
        return
    steps = list(reading.steps)
    last = next(k for k, s in enumerate(steps) if s.frame >= rests[-1])
    # From where they lie still, as near as is told, to where nothing moves any more.
    own = steps[last : max(last + 1, len(steps) - reading.resting + 1)]
    yield scene.finding(
        "overlap.stops_together",
        own,
        times=1.0 + (allowed - later) / allowed,
        measured=later,
        expected=float(_follows(scene)),
        tolerance=allowed,
        unit="frames",
        message=f"{span(own[0].frame, own[-1].last_frame)}: all parts come to rest together; what hangs from what has "
        "stopped goes on a little, and comes to rest after it.",
        advice="Let the parts come to rest one after the other, from the pivot on, each "
        f"{_follows(scene)} frames later.",
        overlay=_resting(scene, rests),
    )


def _follows(scene: Scene) -> int:
    """By how many frames a part is told to come later: fewer where it swings quickly."""
    swing = float(np.median([s.frames for s in scene.reading.swings])) if scene.reading.swings else math.inf
    return max(1, min(FOLLOWS, math.floor(SHARE * swing)))


def _following(scene: Scene, told: Sequence[Drag], allowed: float) -> tuple[overlay.Mark, ...]:
    """Every drawing with the parts that do not follow far enough behind the one above, and what hangs from them."""
    shifts, late = {0: 0.0}, 0.0
    for drag in told:
        late += max(0.0, _follows(scene) - drag.frames) if drag.frames < allowed else 0.0
        shifts[drag.part - 1] = late
    return rehung.marks(scene, lambda part, frame: shifts[max(k for k in shifts if k <= part)])


def _resting(scene: Scene, rests: Sequence[float]) -> tuple[overlay.Mark, ...]:
    """Every drawing with its parts more and more apart towards the end; the last ones after the first has stopped."""
    follows, stops = _follows(scene), rests[0]
    begins = 1 + (1 - EASES_IN) * (stops - 1)

    def later(part: int, frame: float) -> float:
        return part * follows * min(1.0, max(0.0, (frame - begins) / max(1.0, stops - begins)))

    last = scene.reading.steps[-1]
    exposure = min(s.frames for s in scene.reading.steps)
    ends = math.ceil(stops) + follows * (len(rests) - 1) + exposure
    return rehung.marks(scene, later, range(last.frame + exposure, ends + 1, exposure))


def _advice(scene: Scene, some: Sequence[Drag]) -> str:
    """Which part should come how many frames later, and how that is drawn."""
    follows = _follows(scene)
    each = "it" if len(some) == 1 else "each of them"
    frames = "1 frame" if follows == 1 else f"{follows} frames"
    return f"Let {each} come {frames} later than the part above: draw it where that one was {frames} ago."


def _parts(scene: Scene, some: Sequence[Drag]) -> str:
    """``Link 2 moves``, ``Links 2 and 3 move``."""
    word = "part" if scene.asked.hangs == "tail" else "link"
    numbers = [str(d.part) for d in some]
    if len(numbers) == 1:
        return f"{word.capitalize()} {numbers[0]} moves"
    return f"{word.capitalize()}s {', '.join(numbers[:-1])} and {numbers[-1]} move"
