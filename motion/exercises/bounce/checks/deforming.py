"""Where a ball of the brief's material must change its shape, and where it must not."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

from motion.checks import overlay
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.hops import Hop, Step
from motion.exercises.bounce.keeping import has_top
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety
from motion.tracking.ellipse import axis_angle

FAST_D = 0.5
"""A ball is fast from so many diameters a drawing."""
STRETCH, SQUASH = 0.12, 0.08
"""How much a soft ball must at least stretch beside a fast contact, and flatten on it: off a ratio of 1."""
ACROSS_DEGREES, ACROSS_STRETCH, ACROSS_MOVE_D = 18.0, 0.15, 0.3
AT_TOP, BESIDE_TOP = 0.12, 0.18
UNWANTED = {"hard": 0.08, "firm": 0.25}
UNWANTED_PX = 1.6
"""How far a ball that should keep its shape may be off round, and so many px in any case."""
LEVEL_DEGREES = 6.0
"""A ball that is pressed flat lies as level as this, or as near to the ground's own slope."""
AS_HIGH = 0.02
HIGH_D, SLOW_D = 1.0, 0.25
"""Lower hops are quick all through, unless the steps beside their tops are no longer than so many diameters."""
LEAST_DUE, FULL_DUE_D = 0.5, 0.2
"""Reached at 0.5 D a drawing a contact is due that share of its squash, and all of it at so many diameters more."""
GOOD_STRETCH, GOOD_SQUASH = 1.25, 0.8
COMPLETE = 1.5
"""How grave a shape that is lacking altogether is, beyond the tolerance, in tolerances."""


def check(scene: Scene, flattened: Sequence[int]) -> list[Finding]:
    """Every finding about shape; drawings that are ``flattened`` in the air (indices of steps) are told already."""
    if scene.asked.material in UNWANTED:
        return unwanted(scene, flattened)
    found = [f for c in scene.reading.contacts if (f := stretch_missing(scene, c)) is not None]
    found += [f for c in scene.reading.contacts if (f := squash_missing(scene, c)) is not None]
    tops = slow_tops(scene)
    found += [stretch_at_top(scene, i, allowed) for i, allowed in tops.items() if _is_long(scene, i, allowed)]
    return [*found, *stretch_across(scene, {*tops, *flattened})]


def slow_tops(scene: Scene) -> dict[int, float]:
    """Indices of the drawings at which a soft ball is slowest, and by how much it may be off round, any way, there."""
    if scene.asked.material in UNWANTED:
        return {}
    slow = [h for h in scene.reading.hops if has_top(scene.reading, h) and (_is_high(scene, h) or _is_slow(scene, h))]
    return {i: allowed for hop in slow for i, allowed in _round_to(scene, _at_top(scene, hop)).items()}


def _round_to(scene: Scene, tops: Sequence[int]) -> dict[int, float]:
    """By how much the drawings at a hop's top may be off round: more beside the highest, or where two are long."""
    usual, between = AT_TOP * scene.leniency, BESIDE_TOP * scene.leniency
    both = len(tops) > 1 and all(_is_long(scene, i, usual) for i in tops)
    highest = max(tops, key=lambda i: scene.reading.steps[i].height)
    return {i: usual if i == highest and not both else between for i in tops}


def unwanted(scene: Scene, flattened: Sequence[int]) -> list[Finding]:
    """``shape.unwanted``: a ball of a hard or firm material deforms.

    Measured: long axis over short axis. Tolerance: 1.08 (hard), 1.25 (firm), and 1.6 px.
    """
    material = scene.asked.material
    allowed = UNWANTED[material] * scene.leniency
    told = [
        _of_step(
            scene,
            step,
            code="shape.unwanted",
            measured=step.shape.stretch,
            allowed=allowed,
            times=(step.shape.stretch - 1) / allowed,
            message=f"the ball is {100 * (step.shape.stretch - 1):.0f} % longer than wide. A {material} ball keeps its "
            "shape.",
            advice="Draw it round, as everywhere else.",
        )
        for index, step in enumerate(scene.reading.steps)
        if index not in flattened and _is_long(scene, index, allowed) and _is_seen(scene, step)
    ]
    return scene.merged(told)


def stretch_missing(scene: Scene, contact: Contact) -> Finding | None:
    """``stretch.missing``: a soft ball stays round at its fastest.

    Measured: the greatest ratio of the axes among the drawings in the air next to a contact, where these move faster
    than 0.5 D a drawing. Tolerance: 1.12.
    """
    least, tops = FAST_D * scene.reading.diameter, {i for h in scene.reading.hops for i in _at_top(scene, h)}
    beside = [i for i in (contact.before, contact.after) if _speed(scene, i, contact) > least and i not in tops]
    if not beside or contact.missed:
        return None
    steps = [scene.reading.steps[i] for i in beside]
    if not all(s.whole for s in steps):
        return None
    stretch, needed = max(s.shape.stretch for s in steps) - 1, STRETCH / scene.leniency
    if stretch >= needed:
        return None
    times = 1 + COMPLETE * (needed - stretch) / needed
    first, last = steps[0].frame, steps[-1].last_frame
    return Finding(
        code="stretch.missing",
        principle="squash_stretch",
        first_frame=first,
        last_frame=last,
        measured=1 + stretch,
        expected=GOOD_STRETCH,
        tolerance=needed,
        unit="ratio",
        severity=severity(times),
        confidence=surety(scene.surety(steps), times),
        message=f"{span(first, last)}: the ball is fast beside this contact and stays round. A soft ball stretches "
        "along its path there.",
        advice="Stretch the drawings before and after the contact along the path, by a fifth or so, and make them "
        "thinner by as much.",
        overlay=tuple(_stretched(scene, i) for i in beside),
    )


def squash_missing(scene: Scene, contact: Contact) -> Finding | None:
    """``squash.missing``: a soft ball meets the ground round.

    Measured: the least height over width among the drawings of a contact reached faster than 0.5 D a drawing.
    Tolerance: 0.92, nearer to 1 where the contact is reached at little more than 0.5 D.
    """
    fast = _reach(scene, contact) / scene.reading.diameter - FAST_D
    if contact.missed or fast <= 0:
        return None
    steps = [scene.reading.steps[i] for i in contact.steps]
    if not all(s.whole for s in steps):
        return None
    flattest = min(steps, key=lambda s: s.shape.height / s.shape.width)
    flatness = 1 - flattest.shape.height / flattest.shape.width
    needed = SQUASH / scene.leniency * min(1.0, LEAST_DUE + fast / FULL_DUE_D)
    if flatness >= needed:
        return None
    times = 1 + COMPLETE * min(2.0, (needed - flatness) / needed)
    size = math.sqrt(flattest.shape.area)
    wide = size / math.sqrt(GOOD_SQUASH)
    lower = flattest.y + flattest.shape.height / 2 - wide * GOOD_SQUASH / 2
    return Finding(
        code="squash.missing",
        principle="squash_stretch",
        first_frame=steps[0].frame,
        last_frame=steps[-1].last_frame,
        measured=1 - flatness,
        expected=GOOD_SQUASH,
        tolerance=needed,
        unit="height/width",
        severity=severity(times),
        confidence=surety(scene.surety(steps), times),
        message=f"{span(steps[0].frame, steps[-1].last_frame)}: the ball meets the ground at speed and stays round. "
        "A soft ball is pressed flat there.",
        advice="Squash this drawing against the ground line, and make it wider by as much.",
        overlay=(overlay.ellipse(flattest.frame, flattest.x, lower, wide, wide * GOOD_SQUASH),),
    )


def stretch_at_top(scene: Scene, index: int, allowed: float) -> Finding:
    """``stretch.at_top``: the ball is not round where it is slowest.

    Measured: long axis over short axis of the top drawing. Tolerance: 1.12; 1.18 where the top lies between two
    that are both long.
    """
    step = scene.reading.steps[index]
    stretch = step.shape.stretch - 1
    return _of_step(
        scene,
        step,
        code="stretch.at_top",
        measured=1 + stretch,
        allowed=allowed,
        times=stretch / allowed,
        message=f"the ball is {100 * stretch:.0f} % longer than wide at the top, where it is slowest.",
        advice="Draw it round at the top; keep the stretch for where it is fast.",
    )


def stretch_across(scene: Scene, told: set[int]) -> list[Finding]:
    """``stretch.across``: the stretch does not point along the path.

    Measured: degrees between the long axis and the nearest of the ways to, from and past the drawing, where it is
    stretched by more than 1.15 and moves more than 0.3 D a drawing. Tolerance: 18°.
    """
    allowed = ACROSS_DEGREES * scene.leniency
    found = []
    for hop in scene.reading.hops:
        for index in hop.air if _is_high(scene, hop) else ():
            step = scene.reading.steps[index]
            long = step.whole and step.shape.stretch - 1 > ACROSS_STRETCH * scene.leniency
            if index in told or not long:
                continue
            ways = _ways(scene, index)
            if not ways:
                continue
            way = min(ways, key=lambda w: abs(axis_angle(step.shape.angle - w)))
            off = abs(axis_angle(step.shape.angle - way))
            if off <= allowed:
                continue
            finding = _of_step(
                scene,
                step,
                code="stretch.across",
                measured=off,
                allowed=allowed,
                times=off / allowed,
                message=f"the ball is stretched {off:.0f}° off its path. Stretch shows speed, so it points where "
                "the ball goes.",
                advice="Turn the drawing until its long axis lies along the arc.",
                unit="degrees",
                expected=0.0,
                turned=way,
            )
            found.append(finding)
    return scene.merged(found)


def _ways(scene: Scene, index: int) -> list[float]:
    """The directions of the path at a drawing in degrees, where it is fast there.

    In mid-air that is the one from the drawing before to the next; beside a contact, where the way there and the way
    on differ, it may be any of both and the one between; where the clip begins or ends, the way to or from its only
    neighbour, or on along the curve of the nearest three.
    """
    steps = scene.reading.steps
    hop = next((h for h in scene.reading.hops if index in h.air), None)
    around = [steps[i] for i in (index - 1, index, index + 1) if 0 <= i < len(steps)]
    past = (around[0], around[-1])
    mid_air = hop is not None and hop.air[0] < index < hop.air[-1]
    pairs = [past] if mid_air else [*itertools.pairwise(around), past]
    ways = [axis_angle(math.degrees(math.atan2(a.y - b.y, b.x - a.x))) for a, b in pairs if _is_far(scene, a, b)]
    if ways and mid_air and around[0].frames != around[1].frames:
        ways.append(_tangent(around, around[1]))
    if ways and len(around) == 2 and hop is not None:
        nearest = [steps[i] for i in (hop.air[:3] if index == hop.air[0] else hop.air[-3:])]
        return [*ways, _tangent(nearest, steps[index])] if len(nearest) == 3 else []
    return ways


def _is_far(scene: Scene, one: Step, other: Step) -> bool:
    """Whether the ball moves fast from one drawing to another, by its way for every drawing passed."""
    gaps = sum(one.frame < s.frame <= other.frame for s in scene.reading.steps)
    return math.hypot(other.x - one.x, other.y - one.y) > gaps * ACROSS_MOVE_D * scene.reading.diameter


def _tangent(three: Sequence[Step], here: Step) -> float:
    """The way of the curve in time through three drawings at one of them, degrees."""
    (t, u, v), at = (s.frame for s in three), here.frame
    weights = (
        (2 * at - u - v) / ((t - u) * (t - v)),
        (2 * at - t - v) / ((u - t) * (u - v)),
        (2 * at - t - u) / ((v - t) * (v - u)),
    )
    right, down = (
        sum(w * p for w, p in zip(weights, places, strict=True))
        for places in zip(*((s.x, s.y) for s in three), strict=True)
    )
    return axis_angle(math.degrees(math.atan2(-down, right)))


def _speed(scene: Scene, index: int, contact: Contact) -> float:
    """Px a drawing at which the ball moves in the drawing beside a contact, by its gap in the air; 0 where unknown."""
    steps = scene.reading.steps
    hop = next((h for h in scene.reading.hops if index in h.air), None)
    if hop is None:
        return 0.0
    place = hop.air.index(index)
    other = place - 1 if index == contact.before else place + 1
    if not 0 <= other < len(hop.air):
        return 0.0
    one, two = steps[index], steps[hop.air[other]]
    return math.hypot(one.x - two.x, one.y - two.y)


def _reach(scene: Scene, contact: Contact) -> float:
    """Px a drawing at which a contact is reached: by the step to it, or less where the fall before gathers less.

    The true contact may lie half an exposure before the drawing that shows it, whose step then is the longer for it.
    """
    steps = scene.reading.steps
    hop = next((h for h in scene.reading.hops if contact.before in h.air), None)
    if hop is None or contact.missed:
        return 0.0
    landing = steps[contact.steps[0]]
    fall = [steps[i] for i in hop.air[hop.air.index(hop.top) :][-3:]]
    across, down = abs(landing.x - fall[-1].x), fall[-1].height - landing.height
    drops = [a.height - b.height for a, b in itertools.pairwise(fall)]
    if not drops:
        return 0.0
    gathers = max(0.0, drops[-1] - drops[0]) if len(drops) > 1 else drops[-1] / 2
    lands_at = math.sqrt((drops[-1] + gathers / 2) ** 2 + 2 * gathers * max(0.0, down))
    return math.hypot(min(across, abs(fall[-1].x - fall[-2].x)), min(down, lands_at))


def leans(scene: Scene, index: int) -> bool:
    """Whether a long drawing of a fast soft ball lies neither along its path nor level: turned, not pressed flat."""
    step, ways = scene.reading.steps[index], _ways(scene, index)
    level = (0.0, scene.track.ground.angle if scene.track.ground else 0.0)
    return (
        scene.asked.material == "soft"
        and all(abs(axis_angle(step.shape.angle - angle)) > LEVEL_DEGREES for angle in level)
        and step.shape.stretch - 1 > ACROSS_STRETCH * scene.leniency
        and bool(ways)
    )


def natural(scene: Scene, index: int) -> dict[str, Any]:
    """The shape that a drawing in the air should have: long along its path where a soft ball is fast, else round."""
    step, ways = scene.reading.steps[index], _ways(scene, index)
    beside = {i for c in scene.reading.contacts for i in (c.before, c.after)}
    if scene.asked.material == "soft" and index in beside and ways:
        return _stretched(scene, index)
    size = math.sqrt(step.shape.area)
    return overlay.ellipse(step.frame, step.x, step.y, size, size)


def _at_top(scene: Scene, hop: Hop) -> list[int]:
    """A hop's top drawing, and those beside it that stand as high: the true top may lie between two."""
    steps = scene.reading.steps
    highest = steps[hop.top].height
    return [i for i in hop.air if abs(i - hop.top) <= 1 and steps[i].height >= (1 - AS_HIGH) * highest]


def _is_high(scene: Scene, hop: Hop) -> bool:
    """Whether a hop is high enough for its ball to be slow at the top; low ones are quick all through."""
    return scene.reading.steps[hop.top].height >= HIGH_D * scene.reading.diameter


def _is_slow(scene: Scene, hop: Hop) -> bool:
    """Whether a hop's drawings lie close together on both sides of its top."""
    place = hop.air.index(hop.top)
    around = [scene.reading.steps[i] for i in hop.air[max(0, place - 1) : place + 2]]
    gaps = [math.hypot(b.x - a.x, b.y - a.y) for a, b in itertools.pairwise(around)]
    return len(gaps) == 2 and max(gaps) <= SLOW_D * scene.reading.diameter


def _is_long(scene: Scene, index: int, allowed: float) -> bool:
    step = scene.reading.steps[index]
    return step.whole and step.shape.stretch - 1 > allowed


def _is_seen(scene: Scene, step: Step) -> bool:
    """Whether a ball is so much longer than wide, px, that in a small one too it is no pen's width."""
    return step.shape.major - step.shape.minor > scene.px(0.0, UNWANTED_PX)


def _stretched(scene: Scene, index: int) -> dict[str, Any]:
    step = scene.reading.steps[index]
    size = math.sqrt(step.shape.area)
    ratio, ways = math.sqrt(GOOD_STRETCH), _ways(scene, index)
    return overlay.ellipse(step.frame, step.x, step.y, size * ratio, size / ratio, ways[-1] if ways else 0.0)


def _of_step(
    scene: Scene,
    step: Step,
    *,
    code: str,
    measured: float,
    allowed: float,
    times: float,
    message: str,
    advice: str,
    unit: str = "ratio",
    expected: float = 1.0,
    turned: float | None = None,
) -> Finding:
    """A finding about one drawing's shape, with the shape that it should have."""
    size = math.sqrt(step.shape.area)
    ratio = 1.0 if turned is None else math.sqrt(step.shape.stretch)
    return Finding(
        code=code,
        principle="squash_stretch",
        first_frame=step.frame,
        last_frame=step.last_frame,
        measured=measured,
        expected=expected,
        tolerance=allowed,
        unit=unit,
        severity=severity(times),
        confidence=surety(scene.surety([step]), times),
        message=f"{span(step.frame, step.last_frame)}: {message}",
        advice=advice,
        overlay=(overlay.ellipse(step.frame, step.x, step.y, size * ratio, size / ratio, turned or 0.0),),
    )
