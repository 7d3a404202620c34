"""What the brief asks of the timing: length, pace, exposure, a cycle that closes."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from motion.checks import asked as asking
from motion.checks import overlay
from motion.exercises.walk.checks import mend, remade
from motion.exercises.walk.checks.shape import knee_is_turned
from motion.exercises.walk.figure import NAMES, SIDES, Place, swapped
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import travel_between
from motion.findings import Finding

TEMPO = 0.5
SEAM, SEAM_PX = 0.04, 2.0
LEGS = ("hip", "head", *(f"{joint}_{side}" for joint in ("knee", "ankle") for side in SIDES))
ARMS = tuple(f"hand_{side}" for side in SIDES)
FOLLOWED = (*LEGS, *ARMS)
ACROSS_SEAM = 2
LEAPS, MOST_LEAP, FEWEST_LEAP = 1.2, 0.6, 4
"""Landmarks leap over the seam that are so many times as far off there as anywhere else; all do where so many of those
that show do, and there are so many."""
MOSTLY = 0.5
"""It is the whole figure that is off where its hips are by so much of what is most."""


def check(scene: Scene) -> list[Finding]:
    """Every finding about what the brief asks."""
    return [*length(scene), *tempo(scene), *exposure(scene), *loop(scene)]


def length(scene: Scene) -> Iterator[Finding]:
    """``timing.length``: the clip is shorter or longer than asked. Measured: frames. Tolerance: none."""
    told = asking.length(scene.brief, scene.track.exposures[-1].last_frame)
    if told is not None:
        yield scene.whole_clip("timing.length", **told)


def tempo(scene: Scene) -> Iterator[Finding]:
    """``timing.tempo``: steps slower or quicker than asked.

    Measured: the mean step, frames. Expected: the brief's range. Tolerance: half a frame.
    """
    asked = scene.asked.step_frames
    frames = [p.frames for p in scene.paces]
    if asked is None or not frames:
        return
    mean, allowed = float(np.mean(frames)), TEMPO * scene.leniency
    off = max(asked[0] - mean, mean - asked[1])
    if off <= allowed:
        return
    word, mend = ("quicker", "Add") if mean < asked[0] else ("slower", "Take away")
    nearest = asked[0] if mean < asked[0] else asked[1]
    frames_off = max(1, round(off))
    yield scene.whole_clip(
        "timing.tempo",
        times=off / allowed,
        measured=mean,
        expected=float(nearest),
        tolerance=allowed,
        unit="frames",
        message=f"A step takes {mean:.1f} frames, {word} than the brief's {asked[0]:g} to {asked[1]:g}.",
        advice=f"{mend} {frames_off} frame{'s' if frames_off > 1 else ''} a step, as drawings rather than as holds.",
        overlay=remade.retimed(scene, lambda pace: pace.frames - mean + nearest),
    )


def exposure(scene: Scene) -> list[Finding]:
    """``timing.exposure``: drawings are not exposed as the brief asks, on ones or on twos.

    Measured: a drawing's frames. Tolerance: none. The clip's first and last drawing, and held ones, may be otherwise.
    """
    asked = asking.exposure(scene.brief)
    if asked is None:
        return []
    found = [
        scene.finding("timing.exposure", [step], **asking.exposed(scene.brief, step, asked))
        for step in scene.reading.steps[1:-1]
        if step.frames != asked and not step.held
    ]
    return scene.merged(found)


def loop(scene: Scene) -> Iterator[Finding]:
    """``timing.loop``: the cycle does not close.

    Measured: by how much more a landmark is off the smooth motion over the seam than anywhere else in the cycle, px; or
    near and far leg that change places there. Tolerance: the larger of 0.04 of the leg and 2 px.
    """
    reading = scene.reading
    steps = reading.steps
    if not scene.brief.loop or len(steps) < 7 or not reading.told:
        return
    if steps[0].frame != 1 or steps[-1].last_frame != scene.track.exposures[-1].last_frame:
        return
    allowed = scene.px(SEAM, SEAM_PX)
    told_apart = scene.asked.sides == "told"
    if told_apart and _all_leap(scene):
        allowed /= scene.unsure
    worst = _excess(scene, FOLLOWED, turned=False) if told_apart else _excess_alike(scene)
    if worst is None or worst[1] <= allowed:
        return
    name, off = worst
    last = steps[-1]
    turned = _excess(scene, FOLLOWED, turned=True) if told_apart else None
    if turned is not None and turned[1] <= allowed:
        said = f"from frame {last.last_frame} to frame 1 near and far leg change places."
        mend = "Let the cycle have an even number of steps, one with each foot, and keep each leg its own tone."
    else:
        said = (
            f"from frame {last.last_frame} to frame 1 the {NAMES[name].lower()} leaps by {off:.0f} px more than "
            "anywhere else."
        )
        mend = "Place the last drawing one step before the first, in the rhythm of those beside them."
    place = last.at(name)
    yield scene.finding(
        "timing.loop",
        [last],
        times=off / allowed,
        measured=off,
        expected=0.0,
        tolerance=allowed,
        unit="px",
        message=f"The cycle does not close: {said}",
        advice=mend,
        overlay=_closed(scene, off) or ((overlay.point(last, *place),) if place else ()),
    )


def _closed(scene: Scene, off: float) -> tuple[overlay.Mark, ...]:
    """The last drawing's figure where its hips are led over the seam; nothing where its hips are not what is off."""
    last = len(scene.reading.steps) - 1
    told = _around(scene, "hip", "hip")
    led = _led(told, last)
    if led is None:
        return ()
    dx, dy = led[0] - told[last][1][0], told[last][1][1] - led[1]
    return mend.whole(scene.reading.steps[last], dx, dy) if math.hypot(dx, dy) > MOSTLY * off else ()


def _excess_alike(scene: Scene) -> tuple[str, float] | None:
    """The same of limbs that are drawn alike: each pair may begin the cycle again as the other side's."""
    found = []
    for names in (LEGS, ARMS):
        ways = [own for turned in (False, True) if (own := _excess(scene, names, turned=turned)) is not None]
        found += [min(ways, key=lambda own: own[1])] if ways else []
    return max(found, key=lambda own: own[1], default=None)


def _excess(scene: Scene, names: Sequence[str], *, turned: bool) -> tuple[str, float] | None:
    """The landmark that is off most over the seam, and by how many px more than anywhere else; None: none shows.

    With its sides ``turned`` where the cycle begins again.
    """
    more = [(name, seam - inside) for name, (seam, inside) in _over_seam(scene, names, turned=turned).items()]
    return max(more, key=lambda own: own[1], default=None)


def _all_leap(scene: Scene) -> bool:
    """Whether most landmarks are farther off over the seam than anywhere else: what single ones are off by is no leap
    of all.
    """
    told = _over_seam(scene, FOLLOWED, turned=False).values()
    leap = sum(seam > LEAPS * inside for seam, inside in told)
    return len(told) >= FEWEST_LEAP and leap >= MOST_LEAP * len(told)


def _over_seam(scene: Scene, names: Sequence[str], *, turned: bool) -> dict[str, tuple[float, float]]:
    """By landmark how far it is off at most over the seam, and anywhere else in the cycle, px."""
    found = {}
    count = len(scene.reading.steps)
    for name in names:
        told = _around(scene, name, swapped(name) if turned else name)
        if len(told) < 7:
            continue
        off = {i: _off(told, i) for i in range(2, 2 * count - 2)}
        seam = [v for i in range(count - ACROSS_SEAM, count + ACROSS_SEAM) if (v := off.get(i)) is not None]
        inside = [v for i in range(ACROSS_SEAM, count - ACROSS_SEAM) if (v := off.get(i)) is not None]
        if seam and inside:
            found[name] = max(seam), max(inside)
    return found


def _around(scene: Scene, name: str, after: str) -> Mapping[int, tuple[float, Place]]:
    """Time and place (along, and above the ground) of a landmark through the cycle and once more, where it shows."""
    reading = scene.reading
    steps = reading.steps
    period = steps[-1].clock + steps[-1].frames - steps[-1].held
    travel = _travel(scene) if reading.across else 0.0
    found: dict[int, tuple[float, Place]] = {}
    for turn, called in ((0, name), (1, after)):
        for step in steps:
            at = step.at(called)
            if at is not None and not any(called == f"knee_{s}" and knee_is_turned(scene, step, s) for s in SIDES):
                clock = step.clock + turn * period
                found[step.index + turn * len(steps)] = clock, (at[0] - travel * step.clock, reading.height(at))
    return found


def _travel(scene: Scene) -> float:
    """How far across the figure goes in a frame, px to the right: over whole strides, where the clip has one."""
    reading = scene.reading
    for start in reading.contacts:
        for end in reversed(reading.contacts):
            if end.side != start.side or end.index <= start.index:
                continue
            travel = travel_between(reading.steps[start.index], reading.steps[end.index])
            if travel is not None:
                return travel / (end.time - start.time)
    return reading.facing * reading.speed


def _off(told: Mapping[int, tuple[float, Place]], index: int) -> float | None:
    """How far a landmark lies from where two drawings on each side lead, px."""
    led = _led(told, index)
    return None if led is None else math.dist(told[index][1], led)


def _led(told: Mapping[int, tuple[float, Place]], index: int) -> Place | None:
    """Where two drawings on each side lead a landmark."""
    around = [index - 2, index - 1, index + 1, index + 2]
    if index not in told or any(i not in told for i in around):
        return None
    clock = told[index][0]
    led = [0.0, 0.0]
    for i in around:
        weight = 1.0
        for j in around:
            if i != j:
                weight *= (clock - told[j][0]) / (told[i][0] - told[j][0])
        led = [led[k] + weight * told[i][1][k] for k in (0, 1)]
    return led[0], led[1]
