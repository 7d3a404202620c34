"""What limbs of several drawings tell together: where hips and ankles lie, and how long limbs are."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.feet import Foot
from motion.tracking.subjects.figure.joints import Line, Loose, turning_point
from motion.tracking.subjects.figure.leg import CLEARLY_BENT, WHOLE_SOLE, bend, near
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.settle import Across, Stretch

LEAST_TAPER, MOST_TAPER = 0.08, 0.6
"""Limbs taper that become thinner or wider by such a share of themselves, and by no more than the latter."""
ANKLE_MOST, ANKLE_USUAL, ANKLE_LOOSE = 0.2, 0.07, 0.05
"""How high the ankle is above the sole, at most, usually, and by how much it may differ; shares of the leg."""
FEWEST, FEWEST_ENDS, ALOFT = 3, 5, 0.02
"""Lengths are told from so many limbs that show, and from so many feet how far they reach past heel and toe; a foot is
off the ground that is so much of the leg higher than the other one."""
NO_JOINT = 0.025
"""Limbs that mostly pass a place by more than so much of the leg do not turn about it."""
THIGHS_CROSS, HIP_ASTRAY = 0.4, 0.3
"""Thighs cross clearly with such a sine, in the hip where that is so near to where it should be, in legs."""
HIP_LOOSE, NECK_LOOSE = 0.15, (0.08, 0.03)
"""The hip may lie so much of the leg from where it is looked for at first; the neck so much of an arm along the trunk,
whose upper end arms and chin hide, and beside it."""
SQUARE = 0.3
"""Where the ankle may be is looked for first in feet on which the shin stands about square (sine)."""


def usual_width(found: Sequence[Across], build: Build) -> float:
    widths = np.concatenate([a.widths for a in found]) if found else np.zeros(0)
    widths = widths[widths < 0.3 * build.leg]
    return float(np.percentile(widths, 40)) if len(widths) else build.wide


def usual_taper(found: Sequence[Across]) -> float:
    """By which share of itself limbs mostly grow wider from start to end, below 0 thinner."""
    told = [t for across in found if (t := across.taper) is not None]
    usual = float(np.median(told)) if len(told) >= FEWEST else 0.0
    return max(-MOST_TAPER, min(MOST_TAPER, usual)) if abs(usual) >= LEAST_TAPER else 0.0


def _crossings(limbs: Sequence[Limbs], build: Build) -> list[tuple[Limbs, Place]]:
    """Drawings whose thighs clearly cross each other, near where the hip should be, and where they do, px."""
    found = []
    for one in limbs:
        thighs = [leg.thigh for leg in one.legs if leg.thigh is not None]
        if len(thighs) < len(one.legs) or abs(_turn(*thighs)) < THIGHS_CROSS:
            continue
        at = thighs[0].crossing(thighs[1])
        if at is not None and near(at, build.hip_of(one.body), HIP_ASTRAY * build.leg):
            found.append((one, at))
    return found


def _turn(one: Stretch, other: Stretch) -> float:
    return one.dx * other.dy - one.dy * other.dx


def thigh_of(limbs: Sequence[Limbs], build: Build) -> float:
    """How long thighs mostly are, to knees that are bent: from where they cross, else from where the hip should be."""
    apart = [math.dist(at, leg.joint) for one, at in _crossings(limbs, build) for leg in one.legs if leg.joint]
    if len(apart) >= FEWEST:
        return float(np.median(apart))
    found = [math.dist(build.hip_of(one.body), leg.joint) for one in limbs for leg in one.legs if leg.joint is not None]
    return float(np.median(found)) if len(found) >= FEWEST else build.thigh


def hip_of(limbs: Sequence[Limbs], build: Build) -> Place:
    """The hip from the body's centre, forward and down: where the thighs turn about."""
    told = _turned_about(limbs, build, build.hip, Loose.evenly(HIP_LOOSE * build.leg))
    if told is not None:
        return told
    apart = [build.on_body(one.body, at) for one, at in _crossings(limbs, build)]
    return (float(np.median([x for x, _ in apart])), float(np.median([y for _, y in apart]))) if apart else build.hip


def neck_of(limbs: Sequence[Limbs], build: Build, guess: Place) -> Place:
    """The neck from the trunk's centre, forward and down: where the upper arms turn about, near the trunk's end."""
    along, across = (share * build.leg for share in NECK_LOOSE)
    return _turned_about(limbs, build, guess, Loose(along, across, axis=guess)) or guess


def _turned_about(limbs: Sequence[Limbs], build: Build, guess: Place, loose: Loose) -> Place | None:
    """The place from the body's centre about which upper limbs turn; None where they tell none."""
    lines = []
    for one in limbs:
        for leg in one.legs:
            if leg.thigh is None:
                continue
            lines.append(
                Line(
                    build.on_body(one.body, (leg.thigh.x, leg.thigh.y)),
                    build.way_on_body(one.body, (leg.thigh.dx, leg.thigh.dy)),
                    None if leg.joint is None else build.on_body(one.body, leg.joint),
                )
            )
    return turning_point(lines, guess, loose, NO_JOINT * build.leg)


def ankle_of(limbs: Sequence[Limbs], build: Build) -> Place:
    """The ankle along the sole from its middle, and above it: where the shins turn about."""
    lines, crossing = [], []
    for one in limbs:
        for leg in one.legs:
            if leg.shin is None or leg.foot is None or not leg.foot_alone:
                continue
            if abs(leg.foot.length / build.foot - 1) > WHOLE_SOLE:
                continue
            start, ahead = (leg.shin.x, leg.shin.y), (leg.shin.x + leg.shin.dx, leg.shin.y + leg.shin.dy)
            point, to = leg.foot.seen_from(start, leg.knee), leg.foot.seen_from(ahead, leg.knee)
            way = to[0] - point[0], to[1] - point[1]
            knee = None if leg.joint is None else leg.foot.seen_from(leg.joint, leg.knee)
            lines.append(Line(point, way, knee))
            if abs(way[1]) > SQUARE:
                crossing.append(point[0] - way[0] * (point[1] - 0.5 * build.wide) / way[1])
    high = ANKLE_USUAL * build.leg
    guess = (float(np.median(crossing)) if crossing else -0.25 * build.foot, high)
    found = turning_point(lines, guess, Loose.evenly(ANKLE_LOOSE * build.leg), NO_JOINT * build.leg) or guess
    return found[0], min(ANKLE_MOST * build.leg, max(0.0, found[1]))


def measured(limbs: Sequence[Limbs]) -> tuple[float | None, float | None]:
    """Thigh and shin: the medians of what shows by itself; None where too few do."""
    thighs, shins = [], []
    for one in limbs:
        for leg in one.legs:
            if leg.joint is not None and leg.thigh and leg.shin and bend(leg.thigh, leg.shin) > CLEARLY_BENT:
                thighs.append(math.dist(one.hip, leg.joint))
                if leg.foot_joint is not None:
                    shins.append(math.dist(leg.joint, leg.foot_joint))
    thigh, shin = (float(np.median(some)) if len(some) >= FEWEST else None for some in (thighs, shins))
    return thigh, shin


def lengths_of(limbs: Sequence[Limbs], build: Build) -> tuple[float, float]:
    """Thigh and shin as they show; what does not show keeps its proportion to what does."""
    thigh, shin = measured(limbs)
    return (
        thigh or build.thigh * (shin / build.shin if shin else 1.0),
        shin or build.shin * (thigh / build.thigh if thigh else 1.0),
    )


def sole_of(limbs: Sequence[Limbs], build: Build, beyond: tuple[float, float] | None = None) -> float:
    """How long the foot is, from heel to toe: the median of what shows; told as ``beyond`` has their ends, if given."""
    soles = [(foot if beyond is None else foot.ended(beyond)).length for foot in _feet(limbs)]
    return float(np.median(soles)) if len(soles) >= FEWEST else build.foot


def ends_of(limbs: Sequence[Limbs], build: Build) -> tuple[float, float] | None:
    """How far outlines of feet reach past heel and toe, px: the medians of whole ones; None where few show.

    Of feet off the ground, which covers some of a round end that stands on it, if enough of them show.
    """
    for some in (_feet(limbs, ALOFT * build.leg), _feet(limbs)):
        told = np.array([f.beyond for f in some if abs(f.length / build.foot - 1) <= WHOLE_SOLE]).reshape(-1, 2)
        if len(told) >= FEWEST_ENDS:
            return float(np.median(told[:, 0])), float(np.median(told[:, 1]))
    return None


def _feet(limbs: Sequence[Limbs], higher_px: float | None = None) -> list[Foot]:
    """Feet that show by themselves; with ``higher_px`` those that reach so much less low than the other one."""
    return [
        leg.foot
        for one in limbs
        for leg, other in zip(one.legs, one.legs[::-1], strict=True)
        if leg.foot is not None
        and leg.foot_alone
        and (higher_px is None or (other.foot is not None and leg.foot.low + higher_px < other.foot.low))
    ]
