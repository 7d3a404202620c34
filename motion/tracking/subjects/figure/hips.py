"""Where the hip of one drawing lies: under its body or trunk, where its thighs lead."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.leg import WHOLE_THIGH, near
from motion.tracking.subjects.figure.limbs import HIP_SURE, Limbs
from motion.tracking.subjects.figure.meeting import meeting
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.settle import Stretch

ASTRAY, FIRM = 0.03, 0.012
"""Thighs that pass the hip by so much of the leg do not tell where it is, which the body tells to so much of it."""
HIP_UNSURE, AGREE = 0.4, 3
BESIDE_HIP, LENGTH_OFF = 0.016, 0.03
"""How sure a hip is to which fewer than so many of its trunk, both thighs' lines and both their lengths lead, to such
shares of the leg."""
FARTHEST_OFF, FARTHEST_BY_LEGS = 0.12, 0.3
"""A hip lies no farther from the lower end of its trunk; where so many lead to it as make one sure, no farther than
this."""
CLEARLY_ACROSS = 0.3
"""A thigh comes from clearly another side than the trunk that turns from it by so much (sine)."""


def place_hip(limbs: Limbs, build: Build) -> None:
    """Under the body, drawn a little to where the thighs lie; thighs that lead elsewhere tell nothing."""
    guess = build.hip_of(limbs.body)
    thighs = [leg.thigh for leg in limbs.legs if leg.thigh and abs(leg.thigh.beside(guess)) < ASTRAY * build.leg]
    at = _drawn_to(guess, thighs, FIRM * build.leg)
    limbs.hip = at if near(at, guess, ASTRAY * build.leg) else guess


def place_hip_under_trunk(limbs: Limbs, build: Build) -> None:
    """On the trunk's middle line, where the thighs' cross it, as far from the knees as thighs are long."""
    guess = build.hip_of(limbs.body)
    thighs = [(leg.thigh.x, leg.thigh.y, leg.thigh.dx, leg.thigh.dy) for leg in limbs.legs if leg.thigh]
    knees = [leg.joint for leg in limbs.legs if leg.joint is not None]
    turn = math.radians(limbs.body.angle)
    axis = (math.cos(turn), -math.sin(turn))
    at = meeting(guess, axis, thighs, knees, build)
    # One drawn with a longer trunk, or a shorter one, has its hip where both its legs lead.
    farthest = FARTHEST_BY_LEGS if _legs_lead_to(limbs, at, knees, build) >= AGREE else FARTHEST_OFF
    limbs.hip = at if near(at, guess, farthest * build.leg) else guess
    agree = int(near(limbs.hip, guess, LENGTH_OFF * build.leg)) + _legs_lead_to(limbs, limbs.hip, knees, build)
    limbs.hip_sure = HIP_SURE if agree >= AGREE else HIP_UNSURE
    if agree < AGREE:
        _place_by_one_leg(limbs, guess, axis, build)


def _place_by_one_leg(limbs: Limbs, guess: Place, axis: Place, build: Build) -> None:
    """A hip that both legs do not tell is a thigh's length up one that comes from clearly another side than the
    trunk, if that lies on the trunk's middle line.
    """
    for leg in limbs.legs:
        thigh = leg.thigh
        if thigh is None or leg.joint is None or thigh.seen < WHOLE_THIGH:
            continue
        x, y = thigh.nearest(leg.joint)
        at = x - build.thigh * thigh.dx, y - build.thigh * thigh.dy
        beside = (at[0] - guess[0]) * axis[1] - (at[1] - guess[1]) * axis[0]
        across = abs(thigh.dx * axis[1] - thigh.dy * axis[0]) >= CLEARLY_ACROSS
        if across and abs(beside) <= _beside_hip(build) and near(at, guess, FARTHEST_BY_LEGS * build.leg):
            limbs.hip, limbs.hip_sure = at, HIP_SURE


def _legs_lead_to(limbs: Limbs, hip: Place, knees: Sequence[Place], build: Build) -> int:
    """How many of the thighs' lines and of their lengths lead to a hip."""
    lines = [abs(leg.thigh.beside(hip)) <= _beside_hip(build) for leg in limbs.legs if leg.thigh]
    lengths = [abs(math.dist(hip, knee) - build.thigh) <= LENGTH_OFF * build.leg for knee in knees]
    return sum(lines) + sum(lengths)


def _beside_hip(build: Build) -> float:
    """How far a line may pass a hip that it leads to, px."""
    return max(2.0, BESIDE_HIP * build.leg)


def _drawn_to(guess: Place, thighs: Sequence[Stretch], firm_px: float) -> Place:
    """A hip as near to its guess, which holds to so many px, as the middle lines of the thighs allow, least squares."""
    firm = (1.0 / max(1.0, firm_px)) ** 2
    matrix, right = firm * np.eye(2), firm * np.array(guess)
    for line in thighs:
        normal = np.array([-line.dy, line.dx])
        matrix += np.outer(normal, normal)
        right += normal * (normal @ np.array([line.x, line.y]))
    x, y = np.linalg.solve(matrix, right)
    return float(x), float(y)
