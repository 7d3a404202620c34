"""Contact of a walk: the standing foot is on the ground and stays where it is; the swinging one clears it."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.walk.checks import mend, remade
from motion.exercises.walk.checks.words import foot
from motion.exercises.walk.figure import SIDES, Side
from motion.exercises.walk.scene import SLIDES, SLIDES_PX, Scene
from motion.exercises.walk.soles import height_at_most, lies_flat, lowest_height, sole_travel
from motion.exercises.walk.steps import Step
from motion.findings import Finding, span
from motion.ranks import median

GAP, THROUGH, LEAST_PX = 0.025, 0.025, 2.0
ALOFT = 0.12
SCUFFS = 0.02
ROLLS, ROLLS_LASTS = 0.016, 2
"""A foot that rolls down onto its sole, or off it in so many drawings, may be so much of a leg higher than one that
stands: a real one is."""
RISES = 0.5
"""A foot that comes down does not rise again by such a share of a gap's tolerance."""
WOBBLE = 0.008
"""How much of a leg a clean drawing's landmarks may be off."""
LEVEL = 0.5
"""Where feet usually stand a little above the ground a gap counts from there, up to such a share of its tolerance."""
SHOWN_EITHER_SIDE = 2
"""A foot that is hidden as it passes is judged where it shows in so many drawings before, and after."""


def check(scene: Scene) -> list[Finding]:
    """Every contact finding."""
    aloft = list(airborne(scene))
    up = {f for a in aloft for f in range(a.first_frame, a.last_frame + 1)}
    gaps = [f for f in gap(scene) if f.first_frame not in up]
    return [*scene.merged(gaps), *scene.merged(list(through(scene))), *slides(scene), *aloft, *scuffs(scene)]


def gap(scene: Scene) -> Iterator[Finding]:
    """``contact.gap``: the standing foot hangs above the ground.

    Measured: the lowest point of a foot in support above the ground, px. Tolerance: the larger of 0.025 of the leg and
    2 px, counted from where feet usually stand if that is a little higher, and 0.016 of the leg more while it rolls
    down or off; up to 0.12 of the leg. A leg that is too short in the drawing explains it.
    """
    allowed = scene.px(GAP, LEAST_PX)
    allowed += min(LEVEL * allowed, max(0.0, median(np.array(scene.support_heights or [0.0]))))
    least = scene.widened(allowed, scene.support_heights)
    for step, side in itertools.product(scene.reading.steps, SIDES):
        high = lowest(scene, step, side)
        most = allowed if _placed(step, side) else least
        if high is not None and _rolls(scene, step, side, high):
            most += ROLLS * scene.reading.leg * scene.leniency
        if high is None or not most < high <= ALOFT * scene.reading.leg:
            continue
        down = scene.reading.stands_at(step.index, side) or _hangs_over_its_place(scene, step, side, high, allowed)
        if not down or (side, step.index) in scene.sizes.limbs_off:
            continue
        if _leaves(scene, step, side) or _arrives(scene, step, side) or _at_an_end(scene, step, side):
            continue
        if step.index not in scene.judged and _other_stands(scene, step, side):
            # Out of rest, and into it, a foot takes its time to come down.
            continue
        yield scene.finding(
            "contact.gap",
            [step],
            times=high / allowed,
            measured=high,
            expected=0.0,
            tolerance=allowed,
            unit="px",
            part=foot(side),
            message=f"{span(step.frame, step.last_frame)}: the {foot(side)} of drawing {step.drawing} should stand, "
            f"but hangs {high:.0f} px above the ground.",
            advice=f"Lower the {foot(side)} in drawing {step.drawing} by {high:.0f} px, until its sole rests on the "
            "ground.",
            overlay=(*_down(scene, step, side, high), *mend.foot(scene, step, side, 0.0, high)),
        )


def _hangs_over_its_place(scene: Scene, step: Step, side: Side, high: float, allowed: float) -> bool:
    """Whether a foot that lands in the next drawing is over its place already, and higher than in the one before."""
    reading, index = scene.reading, step.index
    if not 0 < index < len(reading.steps) - 1 or not reading.stands_at(index + 1, side):
        return False
    before = reading.sole(reading.steps[index - 1], side)
    travel = sole_travel(step, reading.steps[index + 1], side, reading.facing, reading.belt)
    if before is None or travel is None:
        return False
    return abs(travel) <= scene.px(SLIDES, SLIDES_PX) and high - before > RISES * allowed


def _rolls(scene: Scene, step: Step, side: Side, high: float) -> bool:
    """Whether a foot comes down on its heel here, or goes up from its toe: farther on, or before, it is lower."""
    reading, index = scene.reading, step.index
    heel, toe = step.at(f"heel_{side}"), step.at(f"toe_{side}")
    if heel is None or toe is None or lies_flat(step, side):
        return False
    lands = index == 0 or not reading.stands_at(index - 1, side)
    if lands and toe[1] < heel[1]:
        return index + 1 < len(reading.steps) and _is_lower(reading.sole(reading.steps[index + 1], side), high)
    swings = [k for k in range(index + 1, len(reading.steps)) if not reading.stands_at(k, side)]
    if toe[1] < heel[1] or index == 0 or not swings or swings[0] - index > ROLLS_LASTS:
        return False
    heights = [reading.sole(s, side) for s in reading.steps[index - 1 : swings[0] + 1]]
    room = WOBBLE * reading.leg
    return all(_is_lower(one, other, room) for one, other in itertools.pairwise(heights))


def _is_lower(one: float | None, other: float | None, room: float = 0.0) -> bool:
    return one is not None and other is not None and one < other + room


def _placed(step: Step, side: Side) -> bool:
    """Whether a person placed a foot there: then it is as low as it is."""
    return step.figure is not None and not step.figure.placed.isdisjoint((f"heel_{side}", f"toe_{side}"))


def lowest(scene: Scene, step: Step, side: Side) -> float | None:
    """How high a foot is above the ground, px; of one that is hidden how high the lowest of the drawing's ink is.

    A foot behind the other one is no lower than that; it is told so only where it stands.
    """
    high = scene.reading.sole(step, side)
    if high is not None or step.figure is None:
        return high
    if not scene.reading.stands_at(step.index, side):
        return None
    return lowest_height(step.figure, scene.reading.ground)


def _leaves(scene: Scene, step: Step, side: Side) -> bool:
    """Whether a foot that is off the ground here is on its way up: the next drawing has it swing."""
    following = step.index + 1
    return (
        following < len(scene.reading.steps)
        and not scene.reading.stands_at(following, side)
        and _other_stands(scene, step, side)
    )


def _arrives(scene: Scene, step: Step, side: Side) -> bool:
    """Whether it is on its way down: it swung before, and the next drawing has it lower and farther on."""
    before, following = step.index - 1, step.index + 1
    if before < 0 or scene.reading.stands_at(before, side) or following >= len(scene.reading.steps):
        return False
    travel = sole_travel(step, scene.reading.steps[following], side, scene.reading.facing, scene.reading.belt)
    return travel is not None and travel > scene.px(SLIDES, SLIDES_PX) and _other_stands(scene, step, side)


def _at_an_end(scene: Scene, step: Step, side: Side) -> bool:
    """Whether the clip begins or ends here, and may do so while this foot is on its way."""
    return step.index in (0, len(scene.reading.steps) - 1) and _other_stands(scene, step, side)


def _other_stands(scene: Scene, step: Step, side: Side) -> bool:
    other: Side = "far" if side == "near" else "near"
    high = scene.reading.sole(step, other)
    return scene.reading.stands_at(step.index, other) and (high is None or high <= scene.px(GAP, LEAST_PX))


def _down(scene: Scene, step: Step, side: Side, high: float) -> tuple[overlay.Mark, ...]:
    ends = [p for end in ("heel", "toe") if (p := step.at(f"{end}_{side}")) is not None]
    if not ends:
        return ()
    x, y = max(ends, key=lambda p: p[1])
    return (overlay.gap(step, x, y, x, y + high),)


def through(scene: Scene) -> Iterator[Finding]:
    """``contact.through``: a foot goes into the ground.

    Measured: its lowest point below the ground, px. Tolerance: the larger of 0.025 of the leg and 2 px.
    """
    allowed = scene.px(THROUGH, LEAST_PX)
    least = scene.widened(allowed, scene.support_heights)
    for step, side in itertools.product(scene.reading.steps, SIDES):
        high = lowest(scene, step, side)
        most = allowed if _placed(step, side) else least
        if high is None or -high <= most or (side, step.index) in scene.sizes.limbs_off:
            continue
        yield scene.finding(
            "contact.through",
            [step],
            times=-high / allowed,
            measured=-high,
            expected=0.0,
            tolerance=allowed,
            unit="px",
            part=foot(side),
            message=f"{span(step.frame, step.last_frame)}: the {foot(side)} of drawing {step.drawing} goes "
            f"{-high:.0f} px into the ground.",
            advice=f"Raise the {foot(side)} in drawing {step.drawing} by {-high:.0f} px, until its sole rests on the "
            "ground.",
            overlay=(*_down(scene, step, side, high), *mend.foot(scene, step, side, 0.0, high)),
        )


def slides(scene: Scene) -> list[Finding]:
    """``contact.slides``: the standing foot slides.

    Measured: a support's travel over the ground from one drawing to the next that shows it, px; in place the ground
    goes with the belt. Tolerance: the larger of 0.03 of the leg and 2 px; 1.5 times that in the last drawing before it
    swings.
    """
    steps, allowed = scene.reading.steps, scene.px(SLIDES, SLIDES_PX)
    against = "" if scene.reading.across else ", beside the ground that passes under it"
    found = []
    for (side, index), slide in sorted(scene.slid.items()):
        one, other, far = steps[slide.since], steps[index], abs(slide.travel)
        way, back = ("forward", "back") if slide.travel > 0 else ("back", "forward")
        unseen = "" if slide.since == index - 1 else ", between which it hides"
        found.append(
            scene.finding(
                "contact.slides",
                steps[slide.since + 1 : index + 1],
                times=far / allowed,
                measured=far,
                expected=0.0,
                tolerance=allowed,
                unit="px",
                part=foot(side),
                message=f"{span(one.frame, other.last_frame)}: the {foot(side)} stands, but slides {far:.0f} px {way} "
                f"from drawing {one.drawing} to {other.drawing}{unseen}{against}.",
                advice=f"Keep the {foot(side)} where it was put down: move it {far:.0f} px {back} in drawing "
                f"{other.drawing}.",
                overlay=(*_slid(one, other, side, scene), *remade.stayed(scene, side, index)),
            )
        )
    return scene.merged(found)


def _slid(one: Step, other: Step, side: Side, scene: Scene) -> tuple[overlay.Mark, ...]:
    for end in ("heel", "toe"):
        a, b = one.at(f"{end}_{side}"), other.at(f"{end}_{side}")
        if a is not None and b is not None:
            x = a[0] + scene.reading.belt * (other.clock - one.clock)
            return (overlay.gap(other, x, b[1], b[0], b[1]),)
    return ()


def airborne(scene: Scene) -> Iterator[Finding]:
    """``contact.airborne``: both feet are off the ground: it is no walk there.

    Measured: the lower foot above the ground, px: more than 0.12 of the leg; or, in two drawings running, more than
    the tolerance of ``contact.gap`` while neither foot is still over the ground. Of a foot that hides it is told by the
    lowest of the drawing's ink. Tolerance: that of the gap.
    """
    reading, allowed = scene.reading, scene.px(GAP, LEAST_PX)
    ups: list[tuple[Step, float]] = []
    for step in reading.steps:
        lower = _lower_foot(scene, step)
        if lower is None:
            continue
        none_stands = not any(reading.stands_at(step.index, side) for side in SIDES)
        if lower > ALOFT * reading.leg or (lower > allowed and none_stands):
            ups.append((step, lower))
    for run in _runs(ups):
        own, high = [s for s, _ in run], max(h for _, h in run)
        if len(own) < 2 and high <= ALOFT * reading.leg:
            continue
        yield scene.finding(
            "contact.airborne",
            own,
            times=max(1.1, high / allowed),
            measured=high,
            expected=0.0,
            tolerance=allowed,
            unit="px",
            message=f"{span(own[0].frame, own[-1].last_frame)}: both feet are off the ground, the lower one by up to "
            f"{high:.0f} px. In a walk one foot always stands.",
            advice="Let the foot that leaves stay down until the other one has landed.",
            overlay=remade.lowered(scene, run),
        )


def _lower_foot(scene: Scene, step: Step) -> float | None:
    """How high the lower foot is above the ground, px; where one hides, how high the lowest of the drawing's ink is."""
    told = [h for side in SIDES if (h := scene.reading.sole(step, side)) is not None]
    if len(told) == len(SIDES):
        return min(told)
    lowest_ink = None if step.figure is None else lowest_height(step.figure, scene.reading.ground)
    return min(*told, lowest_ink) if told and lowest_ink is not None else None


def _runs(found: list[tuple[Step, float]]) -> list[list[tuple[Step, float]]]:
    runs: list[list[tuple[Step, float]]] = []
    for one in found:
        if runs and one[0].index == runs[-1][-1][0].index + 1:
            runs[-1].append(one)
        else:
            runs.append([one])
    return runs


def _passing(scene: Scene, side: Side, first: int, last: int) -> list[tuple[Step, float]]:
    """A swinging foot in the middle third of its swing, and how high it is; none where that does not show.

    Where it is hidden there in part, behind the other leg, all of its swing must tell, before and after.
    """
    reading = scene.reading
    start, end = reading.steps[first].clock, reading.steps[last].clock
    third = (end - start) / 3
    swing = [(s, reading.sole(s, side)) for s in reading.steps[first : last + 1]]
    middle = [
        (s, height_at_most(s.figure, side, reading.ground) if h is None else h)
        for s, h in swing
        if start + third <= s.clock <= end - third
    ]
    shown = [(s, h) for s, h in middle if h is not None]
    if len(shown) == len(middle):
        return shown
    told = [(s, h) for s, h in swing[1:-1] if h is not None]
    sides = [sum(s.clock < (start + end) / 2 for s, _ in told), sum(s.clock > (start + end) / 2 for s, _ in told)]
    return told if min(sides) >= SHOWN_EITHER_SIDE else []


def scuffs(scene: Scene) -> Iterator[Finding]:
    """``contact.scuffs``: the foot does not lift as it passes.

    Measured: the highest that its lowest point comes above the ground in the middle third of its swing, px. Tolerance:
    at least 0.02 of the leg. Of a foot that hides in part what shows tells how high it is at most; where it is hidden
    there, it is the highest that it comes in all of its swing.
    """
    reading = scene.reading
    least = SCUFFS * reading.leg / max(scene.leniency, 1e-6)
    for side in SIDES:
        for first, last in reading.swings(side):
            shown = _passing(scene, side, first, last)
            if not shown or max(h for _, h in shown) >= least or shown[0][0].index not in scene.judged:
                continue
            own = [s for s, _ in shown]
            high = max(0.0, *(h for _, h in shown))
            yield scene.finding(
                "contact.scuffs",
                own,
                times=1 + 3 * (least - high) / least,
                measured=high,
                expected=least,
                tolerance=least,
                unit="px",
                part=foot(side),
                message=f"{span(own[0].frame, own[-1].last_frame)}: the {foot(side)} scuffs as it passes; it comes no "
                f"higher than {high:.0f} px.",
                advice=f"Lift the {foot(side)} by {least:.0f} px or more where it passes the standing one.",
                overlay=remade.lifted(scene, side, reading.steps[first : last + 1]),
            )
