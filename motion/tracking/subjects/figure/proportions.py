"""Limbs of several drawings set together, and the proportions that they show."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from motion.tracking.subjects.figure.hips import place_hip, place_hip_under_trunk
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.together import (
    ankle_of,
    ends_of,
    hip_of,
    lengths_of,
    sole_of,
    thigh_of,
    usual_taper,
    usual_width,
)

REDONE, REDONE_HIP = 0.08, 0.05
"""Where limbs turn out to be of another length, poses are looked for again."""
PROPORTION, LONGER = (0.78, 1.3), (0.72, 1.35)
"""Thighs are so many times as long as shins, and legs as long as what explains the ink best."""


def alike(one: Build, other: Build) -> bool:
    """Whether proportions are so near to each other that poses need not be looked for again."""
    off = max(abs(one.thigh / other.thigh - 1), abs(one.shin / other.shin - 1))
    moved = math.hypot(one.hip[0] - other.hip[0], one.hip[1] - other.hip[1]) / other.leg
    return off < REDONE and moved < REDONE_HIP


def placed(limbs: Sequence[Limbs], build: Build) -> Build:
    """Set limbs and feet of some drawings; gives the proportions that they show.

    Where few thighs show, what they turn about may lie anywhere: no leg is as that would have it, and the hip stays.
    """
    for one in limbs:
        one.look_alone()
    wide = {part: usual_width([a for one in limbs for a in one.across(part)], build) for part in ("thigh", "shin")}
    taper = {part: usual_taper([a for one in limbs for a in one.across(part)]) for part in ("thigh", "shin")}
    # No thigh is thinner than its shin; beside the trunk slivers of it show.
    wide["thigh"] = max(wide["thigh"], wide["shin"])
    for one in limbs:
        one.fit(wide)
        one.fit_edges(build, wide, taper)
    for one in limbs:
        one.place_knees(build)
    told = _about(limbs, replace(build, hip=hip_of(limbs, build), wide=wide["thigh"]))
    if may_be(told, build):
        return told
    told = _about(limbs, replace(build, wide=wide["thigh"]))
    return told if may_be(told, build) else replace(told, thigh=build.thigh, shin=build.shin)


def may_be(told: Build, before: Build) -> bool:
    """Whether a leg may have such proportions that was thought to be otherwise."""
    longer = told.leg / before.leg
    return PROPORTION[0] <= told.thigh / told.shin <= PROPORTION[1] and LONGER[0] <= longer <= LONGER[1]


def _about(limbs: Sequence[Limbs], build: Build) -> Build:
    """Set hips, feet and ankles of a build whose hip and width are known; gives the lengths that they show."""
    build = build if build.tilt is None else replace(build, thigh=thigh_of(limbs, build))
    for one in limbs:
        if build.tilt is None:
            place_hip(one, build)
        else:
            place_hip_under_trunk(one, build)
        one.place_feet(build)
    build = replace(build, foot=sole_of(limbs, build))
    ends = ends_of(limbs, build)
    if ends is not None:
        # By bends they are longer on the ground than in the air; by where their outlines end they are not.
        build = replace(build, foot=sole_of(limbs, build, ends))
        for one in limbs:
            one.set_ends(ends, build)
    # How the ankle lies in the foot is told from those that lie clear of the other leg.
    ankle = ankle_of(limbs, build)
    for one in limbs:
        one.join_feet(build)
        one.keep_whole_feet(build)
        if ends is not None:
            one.extend_feet(ends, build)
            one.set_ends(ends, build)
        one.place_ankles(build, ankle)
    thigh, shin = lengths_of(limbs, build)
    return replace(build, thigh=thigh, shin=shin)
