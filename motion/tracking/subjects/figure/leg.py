"""One leg, or arm: how it lies as its lines tell, how sure its joints are, and where its foot is."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.feet import Foot
from motion.tracking.subjects.figure.ink import Cover
from motion.tracking.subjects.figure.poses import Build, Floats
from motion.tracking.subjects.figure.settle import Across, Edge, Looked, Stretch

SOLE = (0.84, 1.18)
"""Heel and toe show where the sole is about as long as it usually is; a shorter one is hidden in part."""
WHOLE_SOLE, NEARLY_WHOLE = 0.07, 0.12
"""A foot shows whole whose sole is as long as soles mostly are, to such a share: by it is told how ankles lie in feet;
and to such a share a foot may differ by which its own ankle is told."""
CLEARLY_BENT, THICKER, MOST_BENT, WHOLE_THIGH, WHOLE_SHIN = 20.0, 4.0, 0.85, 0.42, 0.55
"""A knee is firm that is bent by so many degrees, or with a sine of so many times a thick limb's width beside the leg
(no more than the next), of a leg whose thigh (the body hides some) and whose shin show by themselves to such shares."""
TOLD_TWICE = 0.2
"""Feet whose ends lie no farther apart than so much of their length are one."""
ALONG_FOOT, WITHIN_FOOT = np.linspace(-0.3, 1.1, 15), np.linspace(0.0, 1.0, 5)
"""Where along a foot it is looked whether the other leg is near, and whether its ink is this foot's: shares of the way
from its ankle to its toe."""


@dataclass(slots=True)
class Leg:
    """One leg on its way from a pose to its landmarks."""

    knee: Place
    ankle: Place
    toe: Place
    cover: Cover
    thigh_across: Across
    shin_across: Across
    thigh: Stretch | None = None
    shin: Stretch | None = None
    foot: Foot | None = None
    foot_alone: bool = True
    foot_beside: bool = False
    joint: Place | None = None
    foot_joint: Place | None = None
    longer: bool = False
    seen: Looked | None = None
    edged: bool = False
    thigh_edge: Edge | None = None
    by_edge: bool = False

    def shares_shown(self) -> tuple[float, float]:
        """Which share of its thigh and of its shin shows as wide as it is; none of a leg that is told by one edge."""
        across = (self.thigh_across, self.shin_across) if self.seen is None else self.seen.across()
        thigh, shin = (
            0.0 if line is None or self.edged else max(line.seen, own.share_as_wide(line.wide))
            for line, own in zip((self.thigh, self.shin), across, strict=True)
        )
        return thigh, shin


def away(one: Place, other: Place) -> Place:
    return other[0] - one[0], other[1] - one[1]


def surety(seen: float, *, crossed: bool) -> float:
    """How sure a joint is of limbs of which such a share shows by itself; ``crossed`` where two lines cross in it."""
    if seen <= 0:
        return 0.3
    return round(min(0.98, 0.45 + 0.45 * min(1.0, 1.6 * seen) + (0.1 if crossed else 0.0)), 3)


def firm_joints(side: str, leg: Leg, seen: Sequence[float], build: Build) -> set[str]:
    """The joints of a leg that show whole: thigh and shin both show by themselves, and so does all of the foot.

    Or its shin goes on farther than ankles are.
    """
    found = set()
    least = max(math.sin(math.radians(CLEARLY_BENT)), min(MOST_BENT, THICKER * build.wide / build.leg))
    crosses = leg.thigh is not None and leg.shin is not None and _crosses(leg.thigh, leg.shin) > least
    if leg.joint is not None and crosses and seen[0] >= WHOLE_THIGH and seen[1] >= WHOLE_SHIN:
        found.add(f"knee_{side}")
        whole_foot = leg.foot is not None and abs(leg.foot.length / build.foot - 1) <= NEARLY_WHOLE
        if leg.foot_joint is not None and (whole_foot or leg.longer):
            found.add(f"ankle_{side}")
    return found


def near(one: Place, other: Place, px: float) -> bool:
    """Whether two places are no farther apart than so many px."""
    return math.hypot(one[0] - other[0], one[1] - other[1]) <= px


def ankle_by_shin(leg: Leg, build: Build) -> Place:
    """Where the ankle should be: along the shin, as far from the knee as that is long; else where the pose has it."""
    if leg.shin is None:
        return leg.ankle
    if leg.joint is None:
        return leg.shin.nearest(leg.ankle)
    return leg.joint[0] + build.shin * leg.shin.dx, leg.joint[1] + build.shin * leg.shin.dy


def is_told_twice(one: Foot, other: Foot) -> bool:
    """Whether two feet are one that is told twice."""
    return max(math.dist(one.heel, other.heel), math.dist(one.toe, other.toe)) <= TOLD_TWICE * other.length


def is_clear_of(leg: Leg, other: Leg, build: Build) -> bool:
    """Whether a leg's foot lies clear of the other leg, and of its foot."""
    return _far_from(sole_posed(leg, ALONG_FOOT), other) > build.wide + 0.02 * build.leg


def sole_posed(leg: Leg, shares: Floats) -> Floats:
    """(n, 2) places along a foot as the pose has it, at such shares of the way from its ankle to its toe."""
    return np.asarray(np.array(leg.ankle) + shares[:, None] * (np.array(leg.toe) - np.array(leg.ankle)))


def _far_from(places: Floats, leg: Leg) -> float:
    """How near the nearest of some places (n, 2) lies to a leg's middle below its knee, px."""
    parts = np.linspace(0, 1, 12)[:, None]
    joints = [np.array(p) for p in (leg.knee, leg.ankle, leg.toe)]
    over = np.concatenate([a + parts * (b - a) for a, b in itertools.pairwise(joints)])
    return float(np.hypot(places[:, None, 0] - over[None, :, 0], places[:, None, 1] - over[None, :, 1]).min())


def is_one_stroke(one: Stretch, other: Stretch) -> bool:
    """Whether two lines are one stroke's."""
    turned = abs(one.dx * other.dy - one.dy * other.dx)
    return turned < 0.12 and abs(one.beside((other.x, other.y))) < 0.5 * one.wide + 1


def off_pose(line: Stretch, leg: Leg, part: str) -> float:
    ends = (leg.knee,) if part == "thigh" else (leg.knee, leg.ankle)
    return max(abs(line.beside(p)) for p in ends)


def _crosses(thigh: Stretch, shin: Stretch) -> float:
    """The sine of the bend of a knee: by how much of what the two lines are off the knee is."""
    turned = math.radians(bend(thigh, shin))
    return math.sin(min(turned, math.pi / 2))


def bend(thigh: Stretch, shin: Stretch) -> float:
    """By how many degrees a limb bends between both its parts."""
    turn = thigh.dx * shin.dy - thigh.dy * shin.dx
    return math.degrees(math.atan2(abs(turn), thigh.dx * shin.dx + thigh.dy * shin.dy))


def joints_of(leg: Leg, hip: Place, build: Build) -> tuple[Place, Place]:
    """Knee and ankle: where lines cross; else as far along one as limbs are long; else as the pose has them."""
    ankle = leg.foot_joint or (leg.shin.nearest(leg.ankle) if leg.shin else leg.ankle)
    knee = leg.joint or _knee_along(leg, hip, ankle, build)
    if leg.foot_joint is None and leg.shin is not None:
        # The foot does not tell: the shin is as long as it usually is.
        ankle = knee[0] + build.shin * leg.shin.dx, knee[1] + build.shin * leg.shin.dy
    return knee, ankle


def _knee_along(leg: Leg, hip: Place, ankle: Place, build: Build) -> Place:
    """The knee of a leg whose thigh and shin do not cross: it is straight, or one of both does not show."""
    if leg.thigh and leg.shin:
        share = build.thigh / build.leg
        straight = hip[0] + share * (ankle[0] - hip[0]), hip[1] + share * (ankle[1] - hip[1])
        return leg.shin.nearest(leg.thigh.nearest(straight))
    if leg.thigh:
        x, y = leg.thigh.nearest(hip)
        return x + build.thigh * leg.thigh.dx, y + build.thigh * leg.thigh.dy
    if leg.shin and leg.foot_joint:
        return leg.foot_joint[0] - build.shin * leg.shin.dx, leg.foot_joint[1] - build.shin * leg.shin.dy
    return leg.shin.nearest(leg.knee) if leg.shin else leg.knee


def shows_all_along(foot: Foot, build: Build) -> bool:
    """Whether a sole is about as long as soles are; where two feet touch it must be just that."""
    if foot.touches:
        return abs(foot.length / build.foot - 1) <= WHOLE_SOLE
    return SOLE[0] * build.foot <= foot.length <= SOLE[1] * build.foot


def heel_and_toe(leg: Leg, knee: Place, ankle: Place, build: Build) -> tuple[Place, Place, float]:
    """Heel and toe, and how sure they are; below the ankle as usual where the foot does not show by itself."""
    foot = leg.foot
    if foot is not None and leg.foot_alone and shows_all_along(foot, build):
        return foot.heel, foot.toe, 0.92
    # Where it does not show by itself it lies as the pose has it, its sole a little below its middle.
    away = leg.toe[0] - leg.ankle[0], leg.toe[1] - leg.ankle[1]
    length = max(1e-6, math.hypot(*away))
    ways = build.foot * away[0] / length, build.foot * away[1] / length
    heel = ankle[0] - 0.2 * ways[0], ankle[1] + 0.5 * build.wide
    return heel, (heel[0] + ways[0], heel[1] + ways[1]), 0.3
