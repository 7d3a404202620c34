"""Spacing of a pendulum: slow at the extremes, fast through the middle, no drawing out of its place."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.reading import Swing
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.smooth import Off
from motion.exercises.pendulum.steps import Step
from motion.exercises.pendulum.turns import Extreme
from motion.findings import Finding, span

EVEN, LEAST_GAPS = 0.8, 5
OFF_MIDDLE, OFF_MIDDLE_FRAMES = 0.10, 1.0
NEAR_EXTREME, HANGS, HANGS_FRAMES = 0.10, 0.25, 2.0
STOPS, STOPS_DEGREES, STOPS_SHARE, SEEN_PX = 0.35, 3.0, 0.10, 2.0
ALIKE = 0.45
"""Even steps are about as wide beside both extremes."""
EASES = 0.75
"""A last gap that is so much slower than those before it eases out."""
HALVED = (0.35, 0.65)
"""Each gap towards an extreme by halves is such a share of the one before, ..."""
LAST_TWO = 0.75
"""... and the last two, beside the extreme, are alike: what is left is halved no more."""


def check(scene: Scene) -> list[Finding]:
    """Every spacing finding of a pendulum."""
    evens = {s.number: f for s in scene.reading.swings if (f := even(scene, s))}
    halts = list(dead_stop(scene))
    found = [*evens.values(), *halts]
    for swing in scene.reading.judged:
        if not any(swing.number + k in evens for k in (-1, 0, 1)):
            found += off_middle(scene, swing)
    middles = [(f.first_frame, f.last_frame) for f in found if f.code == "spacing.off_middle"]
    hung = [f for e in scene.reading.extremes for f in hangs(scene, e) if not _inside(f, middles)]
    whole = [(f.first_frame, f.last_frame) for f in (*evens.values(), *halts)]
    jumps = [
        jump(scene, index, off)
        for index, off in scene.off.items()
        if off.along_times > 1 and off.along_times >= off.across_times
    ]
    loose = [j for j in jumps if not any(first <= j.first_frame <= last for first, last in whole)]
    return [*found, *hung, *scene.merged(loose)]


def _inside(finding: Finding, spans: list[tuple[int, int]]) -> bool:
    """Whether a finding lies within, or touches, what is told of a whole swing that is slow on one side."""
    return any(first <= finding.last_frame and finding.first_frame <= last for first, last in spans)


def even(scene: Scene, swing: Swing) -> Finding | None:
    """``spacing.even``: a swing goes in even steps, with no slowing into and out of its extremes.

    Measured: the mean of its first and its last gap over that of its middle gap or two. Tolerance: at most 0.8, in
    swings of 5 gaps and more.
    """
    ratio, allowed = evenness(scene, swing), 1 - (1 - EVEN) / scene.leniency
    if ratio is None or ratio <= allowed:
        return None
    steps = scene.steps_of(swing)
    first, last = span(steps[0].frame, steps[-1].last_frame), swing.number
    ends = abs(steps[1].angle - steps[0].angle)
    return scene.finding(
        "spacing.even",
        steps,
        times=1 + 4 * (ratio - allowed),
        measured=ratio,
        expected=0.0,
        tolerance=allowed,
        unit="share",
        message=f"{first}: swing {last} goes in even steps. Its gaps beside the extremes ({ends:.1f}°) are as wide as "
        "those through the middle; a weight slows into an extreme and gathers speed out of it.",
        advice="Keep both extremes, put the drawings beside them closer to them, and open the gaps through the middle.",
        overlay=tuple(_sine_places(scene, swing)),
    )


def is_even(scene: Scene, swing: Swing) -> bool:
    """Whether a swing goes in even steps, or nearly."""
    ratio = evenness(scene, swing)
    return ratio is not None and ratio > EVEN


def evenness(scene: Scene, swing: Swing) -> float | None:
    """The mean of a swing's first and last gap over that of its middle gap or two; None where it has too few."""
    if not swing.whole or scene.reading.settles(swing) or len(swing.steps) - 1 < LEAST_GAPS:
        return None
    speeds = _speeds(scene.steps_of(swing))
    if min(speeds[0], speeds[-1]) < ALIKE * max(speeds[0], speeds[-1]) and any(off_middle(scene, swing)):
        # Fast out of one extreme and slow into the other: that is told as what it is.
        return None
    middle = (len(speeds) - 1) / 2
    inner = float(np.mean([speeds[math.floor(middle)], speeds[math.ceil(middle)]]))
    return (speeds[0] + speeds[-1]) / 2 / inner if inner else 0.0


def _sine_places(scene: Scene, swing: Swing) -> Iterator[overlay.Mark]:
    """Where the drawings of a swing belong on a sine from extreme to extreme."""
    half, steps = (swing.end.angle - swing.start.angle) / 2, scene.steps_of(swing)
    start, end = steps[0].clock, steps[-1].clock
    for step in steps[1:-1]:
        share = (step.clock - start) / max(1e-6, end - start)
        yield overlay.place(step, *scene.reading.place(swing.middle - half * math.cos(math.pi * share)))


def _speeds(steps: list[Step]) -> list[float]:
    """Degrees a frame from each drawing to the next."""
    return [abs(b.angle - a.angle) / max(1e-6, b.clock - a.clock) for a, b in itertools.pairwise(steps)]


def off_middle(scene: Scene, swing: Swing) -> Iterator[Finding]:
    """``spacing.off_middle``: it is fast or slow on the wrong side, and does not pass the middle at half time.

    Measured: frames between the time at which it passes the middle between its extremes and half its time. Tolerance:
    the larger of 1 frame and 10 % of the swing's duration.
    """
    steps = scene.steps_of(swing)
    passes = _passing(steps, swing.middle)
    if passes is None or swing.frames <= 0:
        return
    half = (swing.start.time + swing.end.time) / 2
    off = passes - half
    # Where the clip cuts an extreme off, it may lie so much farther away, and half time with it.
    off = max(0.0, off - swing.end.cut / 2) if off > 0 else min(0.0, off + swing.start.cut / 2)
    allowed = max(OFF_MIDDLE_FRAMES, OFF_MIDDLE * swing.frames) * scene.leniency
    if abs(off) <= allowed:
        return
    late = off > 0
    yield scene.finding(
        "spacing.off_middle",
        steps,
        times=abs(off) / allowed,
        measured=off,
        expected=0.0,
        tolerance=allowed,
        unit="frames",
        message=f"{span(steps[0].frame, steps[-1].last_frame)}: swing {swing.number} passes the middle between its "
        f"extremes {abs(off):.1f} frames too {'late' if late else 'early'}: it is slow on its "
        f"{'first' if late else 'second'} half and fast on the other.",
        advice="Put the breakdown at the middle of the swing, and favour both extremes alike.",
        overlay=tuple(_sine_places(scene, swing)),
    )


def _passing(steps: list[Step], angle: float) -> float | None:
    """When a swing passes an angle, by the clock."""
    for one, other in itertools.pairwise(steps):
        if (one.angle - angle) * (other.angle - angle) <= 0 and one.angle != other.angle:
            share = (angle - one.angle) / (other.angle - one.angle)
            return one.clock + share * (other.clock - one.clock)
    return None


def jump(scene: Scene, index: int, off: Off) -> Finding:
    """``spacing.jump``: one drawing sits too far along its arc, or too far back.

    Measured: how far it lies along the arc from the smooth motion of its neighbours, px: the nearest of a curve
    through two of them on each side, a sine, gravity's own and halves. Tolerance: the largest of 18 % of the local
    gap, 0.02 of the line's length, and 2 px.
    """
    step = scene.reading.steps[index]
    way = "too far along" if off.along > 0 else "too far back"
    back = "back" if off.along > 0 else "on"
    return scene.finding(
        "spacing.jump",
        [step],
        times=off.along_times,
        measured=abs(off.along),
        expected=0.0,
        tolerance=off.along_allowed,
        unit="px",
        message=f"{span(step.frame, step.last_frame)}: drawing {step.drawing} sits {abs(off.along):.0f} px {way} on "
        "its arc between its neighbours.",
        advice=f"Move drawing {step.drawing} {abs(off.along):.0f} px {back} along the arc.",
        overlay=(overlay.place(step, *scene.reading.place(off.angle, step.length)),),
    )


def hangs(scene: Scene, extreme: Extreme) -> Iterator[Finding]:
    """``spacing.hangs``: it floats at an extreme, by close drawings or by a long hold.

    Measured: the frames within a tenth of that extreme, from the middle of the swings on. Expected: those of a sine of
    the same duration, or of halves where it goes by halves. Tolerance: the larger of 2 frames and 25 % more.
    """
    reading = scene.reading
    swings = [s for s in reading.swings if s.start is extreme or s.end is extreme]
    angle = extreme.angle - reading.middle
    if not extreme.whole or len(swings) < 2 or abs(angle) < 8.0 or any(reading.settles(s) for s in swings):
        return
    level = reading.middle + (1 - NEAR_EXTREME) * angle
    around = [reading.steps[i] for i in range(swings[0].steps[0], swings[1].steps[-1] + 1)]
    drawn, held = _within(around, level, outward=angle > 0)
    if drawn is None:
        return
    duration = float(np.median([s.frames for s in reading.swings if s.timed] or [swings[0].frames]))
    expected = max(2 * math.acos(1 - NEAR_EXTREME) / math.pi * duration, _by_halves(scene, swings, level))
    allowed = max(HANGS_FRAMES, HANGS * expected) * scene.leniency
    if drawn - expected <= allowed:
        return
    at = reading.steps[extreme.step]
    more = drawn - expected
    steps = held or [at]
    yield scene.finding(
        "spacing.hangs",
        steps,
        times=more / allowed,
        measured=drawn,
        expected=expected,
        tolerance=allowed,
        unit="frames",
        message=f"{span(steps[0].frame, steps[-1].last_frame)}: it floats at this extreme, {drawn:.0f} frames within a "
        f"tenth of it where {expected:.0f} would do.",
        advice=f"Take about {more:.0f} frames away here: shorten the hold, or leave out a drawing.",
        overlay=tuple(_taken_away(steps, at, round(more))),
    )


def _taken_away(steps: list[Step], at: Step, frames: int) -> Iterator[overlay.Mark]:
    """So many frames taken from drawings about an extreme, the nearest to it first; one frame of it stays."""
    for step in sorted(steps, key=lambda s: abs(s.frame - at.frame)):
        less = min(frames, step.frames - (step is at))
        if less > 0:
            yield overlay.frames(step.frame, -less)
            frames -= less


def _within(steps: list[Step], level: float, *, outward: bool) -> tuple[float | None, list[Step]]:
    """For how many frames it is beyond an angle, and the drawings that show it there."""
    sign = 1.0 if outward else -1.0
    beyond = [s for s in steps if sign * (s.angle - level) >= 0]
    if not beyond:
        return None, []
    first, last = steps.index(beyond[0]), steps.index(beyond[-1])
    begins, ends = float(beyond[0].frame), float(beyond[-1].frame)
    if first > 0:
        begins = _when(steps[first - 1], beyond[0], level)
    if last + 1 < len(steps):
        ends = _when(beyond[-1], steps[last + 1], level)
    return ends - begins, beyond


def _when(one: Step, other: Step, level: float) -> float:
    """When it passes an angle between two drawings: on the move, which begins after the hold of the first of them."""
    share = (level - one.angle) / (other.angle - one.angle) if other.angle != one.angle else 0.0
    moves = min(other.frame - one.frame, max(1.0, other.clock - one.clock))
    return other.frame - (1 - share) * moves


def _by_halves(scene: Scene, swings: list[Swing], level: float) -> float:
    """Frames beyond an angle where the gaps towards the extreme are halved each time; 0 where they are not."""
    inward, outward = scene.steps_of(swings[0]), scene.steps_of(swings[1])
    total = 0.0
    for steps in (inward, outward[::-1]):
        near = steps[-4:]
        gaps = [abs(b.angle - a.angle) for a, b in itertools.pairwise(near)]
        halved = len(gaps) == 3 and HALVED[0] <= gaps[1] / max(1e-6, gaps[0]) <= HALVED[1]
        if not halved or gaps[2] < LAST_TWO * gaps[1]:
            return 0.0
        away = math.copysign(1.0, steps[-1].angle - steps[0].angle)
        moves = [(a, b) for a, b in itertools.pairwise(steps) if away * ((a.angle + b.angle) / 2 - level) >= 0]
        total += sum(abs(b.clock - a.clock) for a, b in moves)
    return total


def dead_stop(scene: Scene) -> Iterator[Finding]:
    """``spacing.dead_stop``: it stops at speed between two drawings, with nothing to stop it.

    Measured: its speed on the last move before it rests, as a share of the last swing's mean speed, where the swing
    goes farther than 3 degrees and a tenth of the extremes' angle. Tolerance: 35 %.
    """
    reading = scene.reading
    if not reading.resting or len(reading.steps) <= reading.resting + 1:
        return
    rest, before = reading.steps[-reading.resting], reading.steps[-reading.resting - 1]
    from_step = reading.extremes[-2].step if len(reading.extremes) > 1 else 0
    steps = list(reading.steps[from_step : len(reading.steps) - reading.resting + 1])
    far = abs(rest.angle - steps[0].angle)
    if len(steps) < 3 or far <= max(STOPS_DEGREES, STOPS_SHARE * reading.amplitude):
        return
    if math.dist((before.x, before.y), (rest.x, rest.y)) <= scene.px(0.0, SEEN_PX):
        # So small a gap is not seen to stop.
        return
    speeds = _speeds(steps)
    mean = far / max(1e-6, steps[-1].clock - steps[0].clock)
    share = speeds[-1] / mean if mean else 0.0
    allowed = STOPS * scene.leniency
    if share <= allowed or speeds[-1] <= EASES * max(speeds[-4:-1]):
        return
    yield scene.finding(
        "spacing.dead_stop",
        [before, rest],
        times=share / allowed,
        measured=share,
        expected=0.0,
        tolerance=allowed,
        unit="share",
        message=f"Frame {rest.frame}: it stops dead. The last gap is {abs(rest.angle - before.angle):.1f}°, as fast as "
        "the swing itself, and nothing stops it.",
        advice=f"Let it ease out: add drawings before frame {rest.frame}, each gap about half of the one before.",
        overlay=(overlay.gap(before, before.x, before.y, rest.x, rest.y),),
    )
