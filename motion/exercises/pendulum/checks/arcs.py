"""Arcs of a pendulum: every drawing at its line's length from the pivot, each swing a little less far."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.pendulum.checks import links
from motion.exercises.pendulum.reading import Swing
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.smooth import Off
from motion.exercises.pendulum.turns import Extreme
from motion.findings import Finding, span

STRAIGHT, STRAIGHT_DEGREES = 0.60, 40.0
RISES, RISES_DEGREES = 0.06, 2.0
LOPSIDED = 0.12
OFF_LENGTH, OFF_DRAWINGS = 0.04, 3


def check(scene: Scene) -> list[Finding]:
    """Every arc finding, and that of a line whose length is not one drawing's matter.

    The end of what hangs in parts keeps no arc: only how far it swings to either side is judged.
    """
    if scene.jointed:
        return [*links.lengths(scene), *lopsided(scene)]
    straights = [f for s in scene.reading.swings if (f := straight(scene, s))]
    cut = {i for s in scene.reading.swings if _sagitta(scene, s) for i in s.steps} if straights else set()
    lengths = [] if straights else list(length(scene))
    told = {i for i, s in enumerate(scene.reading.steps) for f in lengths if f.first_frame <= s.frame <= f.last_frame}
    single = [
        off_path(scene, index, off)
        for index, off in scene.off.items()
        if off.across_times > 1
        and off.across_times > off.along_times
        and index not in told | cut
        and abs(scene.reading.steps[index].length - scene.reading.length) > off.across_allowed / 2
    ]
    return [*straights, *lengths, *scene.merged(single), *rising_swings(scene), *lopsided(scene)]


def off_path(scene: Scene, index: int, off: Off) -> Finding:
    """``arc.off_path``: a drawing's weight lies off the arc around its pivot.

    Measured: its distance to the pivot off the median of three neighbours on each side, px. Tolerance: the larger of
    0.03 of the line's length and 2 px.
    """
    step = scene.reading.steps[index]
    side = "outside" if off.across > 0 else "inside"
    return scene.finding(
        "arc.off_path",
        [step],
        times=off.across_times,
        measured=abs(off.across),
        expected=0.0,
        tolerance=off.across_allowed,
        unit="px",
        message=f"{span(step.frame, step.last_frame)}: the weight of drawing {step.drawing} lies {abs(off.across):.0f} "
        f"px {side} the arc around its pivot.",
        advice=f"Move the weight of drawing {step.drawing} {abs(off.across):.0f} px along its line, onto the arc.",
        overlay=(_arc(scene, index), overlay.place(step, *scene.reading.place(step.angle, off.length))),
    )


def _arc(scene: Scene, index: int) -> overlay.Mark:
    """The arc around the pivot, from the drawing before to the one after."""
    steps = scene.reading.steps
    ends = steps[max(0, index - 2)].angle, steps[min(len(steps) - 1, index + 2)].angle
    return overlay.path(steps[index], [scene.reading.place(a) for a in np.linspace(*ends, 9)])


def _sagitta(scene: Scene, swing: Swing) -> tuple[float, float] | None:
    """How far a swing's path bends away from straight, and how far the arc would, px; None where it is too small."""
    steps = scene.steps_of(swing)
    if not swing.whole or swing.degrees <= STRAIGHT_DEGREES or len(steps) < 4:
        return None
    start, end = np.array([steps[0].x, steps[0].y]), np.array([steps[-1].x, steps[-1].y])
    chord = end - start
    far = float(np.hypot(*chord))
    pivot = np.array([scene.reading.pivot.x, scene.reading.pivot.y])
    away = (start + end) / 2 - pivot
    across = np.array([-chord[1], chord[0]]) / far
    across = across if float(across @ away) > 0 else -across
    bends = max(float((np.array([s.x, s.y]) - start) @ across) for s in steps)
    reach = (steps[0].length + steps[-1].length) / 2
    turn = math.radians(abs(steps[-1].angle - steps[0].angle)) / 2
    return bends, reach * (1 - math.cos(turn))


def straight(scene: Scene, swing: Swing) -> Finding | None:
    """``arc.straight``: a swing cuts across, and its line shortens through the middle.

    Measured: how far its path bends away from straight, as a share of what the circle around the pivot does, in swings
    of more than 40 degrees from extreme to extreme. Tolerance: at least 0.6.
    """
    bends = _sagitta(scene, swing)
    if bends is None or not bends[1] or not _shortens(scene, swing):
        return None
    share = bends[0] / bends[1]
    allowed = 1 - (1 - STRAIGHT) * scene.leniency
    if share >= allowed:
        return None
    steps = scene.steps_of(swing)
    angles = np.linspace(steps[0].angle, steps[-1].angle, 17)
    return scene.finding(
        "arc.straight",
        steps,
        times=(1 - share) / (1 - allowed),
        measured=share,
        expected=1.0,
        tolerance=allowed,
        unit="share",
        message=f"{span(steps[0].frame, steps[-1].last_frame)}: swing {swing.number} cuts across. It bends by "
        f"{100 * max(0.0, share):.0f} % of the arc around its pivot; its line shortens through the middle.",
        advice="Keep the line's length: draw the arc around the pivot first, and put each weight on it.",
        overlay=(
            overlay.path(steps[len(steps) // 2], [scene.reading.place(a) for a in angles]),
            *(overlay.place(s, *scene.reading.place(s.angle)) for s in steps[1:-1]),
        ),
    )


def _shortens(scene: Scene, swing: Swing) -> bool:
    """Whether the line is shorter than usual through the middle, and not only longer than usual at an extreme."""
    middle = min(scene.steps_of(swing), key=lambda s: abs(s.angle - swing.middle))
    return middle.length < (1 - OFF_LENGTH / 2) * scene.reading.length


def length(scene: Scene) -> Iterator[Finding]:
    """``volume.length``: the line is longer or shorter in some drawings.

    Measured: the greatest distance of a weight from the pivot off its usual one, as a share of it, in three drawings
    or more. Tolerance: 4 %; one or two drawings are told as off their arc.
    """
    reading, allowed = scene.reading, OFF_LENGTH * scene.leniency
    off = [i for i, s in enumerate(reading.steps) if abs(s.length / reading.length - 1) > allowed]
    if len(off) < OFF_DRAWINGS:
        return
    for run in _runs(off):
        if len(run) < OFF_DRAWINGS and len(off) - len(run) < OFF_DRAWINGS - 1:
            continue
        steps = [reading.steps[i] for i in run]
        worst = max(steps, key=lambda s: abs(s.length - reading.length))
        share = worst.length / reading.length - 1
        word = "longer" if share > 0 else "shorter"
        yield scene.finding(
            "volume.length",
            steps,
            times=abs(share) / allowed,
            measured=share,
            expected=0.0,
            tolerance=allowed,
            unit="share",
            message=f"{span(steps[0].frame, steps[-1].last_frame)}: the line is up to {100 * abs(share):.0f} % {word} "
            "than in the other drawings.",
            advice=f"Draw it at its one length, {reading.length:.0f} px from the pivot to the middle of the weight.",
            overlay=tuple(overlay.place(s, *reading.place(s.angle)) for s in steps),
        )


def _runs(indices: list[int]) -> list[list[int]]:
    runs: list[list[int]] = []
    for i in indices:
        if runs and i - runs[-1][-1] <= 1:
            runs[-1].append(i)
        else:
            runs.append([i])
    return runs


def rising_swings(scene: Scene) -> Iterator[Finding]:
    """``arc.rising_swings``: a later swing goes farther than the one before, with nothing to drive it.

    Measured: by how much an extreme goes past both the one before and the one before that, degrees from the swings'
    own middle. Tolerance: the larger of 2 degrees and 6 % of the extremes' angle. A cycle is not judged.
    """
    reading = scene.reading
    if scene.brief.loop:
        return
    allowed = max(RISES_DEGREES, RISES * reading.amplitude) * scene.leniency
    extremes = [e for e in reading.extremes if e.whole]
    for one, two, three in zip(extremes, extremes[1:], extremes[2:], strict=False):
        goes, before = abs(three.angle - reading.middle), max(abs(e.angle - reading.middle) for e in (one, two))
        off = goes - before
        if off <= allowed or _is_off(scene, one, two, three):
            continue
        at = reading.steps[three.step]
        belongs = reading.middle + math.copysign(before, three.angle - reading.middle)
        yield scene.finding(
            "arc.rising_swings",
            [at],
            times=off / allowed,
            measured=off,
            expected=0.0,
            tolerance=allowed,
            unit="degrees",
            message=f"{span(at.frame, at.last_frame)}: this swing goes {off:.0f}° farther than the two before it, and "
            "nothing drives it.",
            advice=f"Bring this extreme back to {before:.0f}° or less from the middle, and the drawings beside it with "
            "it.",
            overlay=(overlay.place(at, *reading.place(belongs)),),
        )


def _is_off(scene: Scene, *extremes: Extreme) -> bool:
    """Whether a drawing at one of these extremes is told as out of its place already."""
    return any(e.step in scene.off and scene.off[e.step].along_times > 1 for e in extremes)


def lopsided(scene: Scene) -> Iterator[Finding]:
    """``arc.lopsided``: it swings farther to one side.

    Measured: the middle of its extremes off the rest line, degrees, dying away taken out: (a + 2b + c) / 4 over three
    that follow each other. Tolerance: 12 % of the extremes' angle.
    """
    reading = scene.reading
    angles = [e.angle for e in reading.extremes if e.whole]
    if len(angles) < 3 or (not scene.jointed and any(rising_swings(scene))):
        return
    off, allowed = reading.middle, LOPSIDED * reading.amplitude * scene.leniency
    if abs(off) <= allowed:
        return
    far = [abs(a) for a in angles if a * off > 0]
    near = [abs(a) for a in angles if a * off < 0]
    side = "right" if off > 0 else "left"
    reaches = f"up to {max(far, default=0):.0f}° there and {max(near, default=0):.0f}° on the other"
    marks = [overlay.place(reading.steps[e.step], *reading.place(e.angle - off)) for e in reading.extremes if e.whole]
    yield scene.whole_clip(
        "arc.lopsided",
        times=abs(off) / allowed,
        measured=off,
        expected=0.0,
        tolerance=allowed,
        unit="degrees",
        message=f"It swings farther to the {side}: {reaches}. Its middle is {abs(off):.0f}° off the rest line.",
        advice="Measure both extremes from the rest line, and let the later one go a little less far.",
        overlay=tuple(marks),
    )
