"""What the brief asks of the timing: length, swings, exposure, damping, weight, a cycle that closes."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from motion.checks import asked as asking
from motion.checks import overlay
from motion.exercises.pendulum.checks.timing import held, kept
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.smooth import COARSE, TWICE
from motion.findings import Finding
from motion.physics import GRAVITY

DAMPING = 0.04
WEIGHT_FACTOR = 1.35
SEAM_R, SEAM_PX = 0.02, 2.0


def check(scene: Scene) -> list[Finding]:
    """Every finding about what the brief asks."""
    return [
        *length(scene),
        *swings(scene),
        *exposure(scene),
        *damping(scene),
        *(() if scene.jointed else weight(scene)),
        *loop(scene),
    ]


def length(scene: Scene) -> Iterator[Finding]:
    """``timing.length``: the clip is shorter or longer than asked. Measured: frames. Tolerance: none."""
    told = asking.length(scene.brief, scene.track.exposures[-1].last_frame)
    if told is not None:
        yield scene.whole_clip("timing.length", **told)


def swings(scene: Scene) -> Iterator[Finding]:
    """``timing.swings``: fewer or more swings than asked.

    Measured: swings from extreme to extreme; cut ones and such as only settle do not count. Tolerance: none.
    """
    asked, found = scene.asked.swings, len(scene.reading.judged)
    if asked is None or found == asked:
        return
    off = abs(found - asked)
    yield scene.whole_clip(
        "timing.swings",
        times=1.0 + off,
        measured=float(found),
        expected=float(asked),
        tolerance=0.0,
        unit="swings",
        message=f"It makes {found} swing{'' if found == 1 else 's'} from extreme to extreme; the brief asks for "
        f"{asked}.",
        advice=f"{'Add' if found < asked else 'Take away'} {off} swing{'s' if off > 1 else ''}.",
    )


def exposure(scene: Scene) -> list[Finding]:
    """``timing.exposure``: drawings are not exposed as the brief asks, on ones or on twos.

    Measured: a drawing's frames. Tolerance: none. Drawings within a tenth of an extreme, the rest at the end, and the
    clip's first and last drawing may be exposed otherwise.
    """
    asked, reading, found = asking.exposure(scene.brief), scene.reading, []
    if asked is None:
        return []
    holds = {f.first_frame for f in held(scene)}
    for index in range(1, len(reading.steps) - max(1, reading.resting)):
        step = reading.steps[index]
        if step.frames != asked and step.frame not in holds and not scene.near_extreme(index):
            found.append(scene.finding("timing.exposure", [step], **asking.exposed(scene.brief, step, asked)))
    return scene.merged(found)


def damping(scene: Scene) -> Iterator[Finding]:
    """``timing.damping``: it keeps more or less of its swing than asked.

    Measured: the middle share of the angle kept from one extreme to the next. Expected: the brief's range. Tolerance:
    0.04.
    """
    asked, shares = scene.asked.keeps, [share for _, share in kept(scene)]
    if asked is None or not shares:
        return
    share, allowed = float(np.median(shares)), DAMPING * scene.leniency
    off = max(asked[0] - share, share - asked[1])
    if off <= allowed:
        return
    word, mend = ("less", "farther") if share < asked[0] else ("more", "less far")
    yield scene.whole_clip(
        "timing.damping",
        times=off / allowed,
        measured=share,
        expected=asked[0] if share < asked[0] else asked[1],
        tolerance=allowed,
        unit="share",
        message=f"From one extreme to the next it keeps {100 * share:.0f} % of its angle, {word} than the brief's "
        f"{100 * asked[0]:.0f} to {100 * asked[1]:.0f} %.",
        advice=f"Let every swing go {mend} than now, each by the same share of the one before.",
    )


def weight(scene: Scene) -> Iterator[Finding]:
    """``timing.weight``: it reads too floaty or too heavy for its length.

    Measured: the gravity by which it swings over the real one, at its real length and the brief's rate, corrected for
    how far it goes. Tolerance: a factor of 1.35 either way.
    """
    real, judged = scene.asked.length_m, scene.reading.judged
    if real is None or not judged:
        return
    seconds = [
        s.frames / scene.brief.fps / (1 + math.radians(s.degrees / 2) ** 2 / 16)
        for s in judged
        if s.timed or len(judged) < 2
    ]
    factor = (math.pi / float(np.median(seconds))) ** 2 * real / GRAVITY
    allowed = WEIGHT_FACTOR**scene.leniency
    times = abs(math.log(factor)) / math.log(allowed)
    if times <= 1:
        return
    word, mend = ("floaty", "Take frames away from") if factor < 1 else ("heavy", "Add frames to")
    wanted = math.pi * math.sqrt(real / GRAVITY) * scene.brief.fps
    yield scene.whole_clip(
        "timing.weight",
        times=times,
        measured=factor,
        expected=1.0,
        tolerance=allowed - 1,
        unit="factor",
        message=f"It reads too {word} for its length: it swings as if gravity were {factor:.1f} times the real one.",
        advice=f"{mend} every swing: at {real:g} m one takes about {wanted:.0f} frames.",
    )


def loop(scene: Scene) -> Iterator[Finding]:
    """``timing.loop``: the cycle does not close.

    Measured: how far the first drawing lies from where the last ones lead, along the arc, px. Tolerance: the larger of
    0.02 of the line's length and 2 px.
    """
    reading = scene.reading
    steps = reading.steps
    if not scene.brief.loop or len(steps) < 5 or reading.resting:
        return
    if steps[0].frame != 1 or steps[-1].last_frame != scene.track.exposures[-1].last_frame:
        return
    first, off, allowed = steps[0], _seam(scene), scene.px(SEAM_R, SEAM_PX)
    gap = min(abs(steps[1].angle - first.angle), abs(steps[-1].angle - steps[-2].angle))
    allowed = max(allowed, 0.18 * math.radians(gap) * reading.length * scene.leniency)
    if abs(off) <= allowed:
        return
    last = steps[-1]
    belongs = last.angle - math.degrees(off / reading.length)
    yield scene.finding(
        "timing.loop",
        [last],
        times=abs(off) / allowed,
        measured=abs(off),
        expected=0.0,
        tolerance=allowed,
        unit="px",
        message=f"The cycle does not close: from frame {last.last_frame} to frame 1 the weight jumps {abs(off):.0f} px "
        "beside its smooth motion.",
        advice="Place the last drawing one step before the first, in the rhythm of those beside them.",
        overlay=(overlay.place(last, *reading.place(belongs)),),
    )


def _by_phase(scene: Scene, before: float, after: float) -> list[float]:
    """Where a drawing midway in time between two angles lies on a sine of the clip's usual reach."""
    reach, middle = scene.reading.amplitude, scene.reading.middle
    phases = [math.asin(max(-1.0, min(1.0, (a - middle) / reach))) for a in (before, after)]
    return [middle + reach * math.sin(sum(phases) / 2)]


def _seam(scene: Scene) -> float:
    """How far the last drawing lies from where those beside it, over the seam, lead; the least of several ways, px."""
    steps = scene.reading.steps
    period = float(steps[-1].last_frame)
    near = [steps[-3], steps[-2], steps[0], steps[1]]
    clocks = [steps[-3].frame, steps[-2].frame, steps[0].frame + period, steps[1].frame + period]
    last = steps[-1]
    own = np.array([s.angle for s in near])
    places = [float(np.polyval(np.polyfit(np.array(clocks) - last.frame, own, 3), 0.0))]
    coarse = len(steps) <= COARSE * (len(scene.reading.extremes) - 1) + 1
    if coarse or abs(near[1].angle - near[0].angle) >= TWICE * abs(near[2].angle - near[1].angle) / 2:
        places.append((near[1].angle + near[2].angle) / 2)
    places += _by_phase(scene, near[1].angle, near[2].angle)
    if abs(last.angle - steps[0].angle) < abs(steps[1].angle - steps[0].angle) * 0.1:
        # The first drawing shown again is right where it stands at an extreme.
        return 0.0
    off = min((last.angle - p for p in places), key=abs)
    at_extreme = (near[1].angle - last.angle) * (near[2].angle - last.angle) > 0
    if at_extreme and abs(last.angle - scene.reading.middle) <= 1.05 * scene.reading.amplitude:
        return 0.0
    return math.radians(off) * scene.reading.length
