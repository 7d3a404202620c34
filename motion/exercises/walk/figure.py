"""The jointed figures: their landmarks, their proportions, and the two-link leg between hip and ankle."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal

Place = tuple[float, float]
Side = Literal["near", "far"]
SIDES: tuple[Side, Side] = ("near", "far")
JOINTS = ("knee", "ankle", "heel", "toe")
"""The landmarks of a leg, from the hip down."""
LEG_LANDMARKS = tuple(f"{joint}_{side}" for side in SIDES for joint in JOINTS)
LANDMARKS = ("hip", *LEG_LANDMARKS)
"""What of a body on legs is told of each drawing."""
ARM_JOINTS = ("elbow", "hand")
"""The landmarks of an arm, from the neck down."""
UPPER_LANDMARKS = ("neck", "head", *(f"{joint}_{side}" for side in SIDES for joint in ARM_JOINTS))
"""What is told of a whole figure besides."""
NAMES: Mapping[str, str] = {
    "hip": "Hip",
    "neck": "Neck",
    "head": "Head",
    **{f"{joint}_{side}": f"{joint.capitalize()}, {side}" for side in SIDES for joint in ARM_JOINTS},
    **{f"{joint}_{side}": f"{joint.capitalize()}, {side}" for side in SIDES for joint in JOINTS},
}
OTHER: Mapping[Side, Side] = {"near": "far", "far": "near"}

THIGH = 0.5
"""The thigh's share of the leg."""
FOOT, HEEL_BACK, ANKLE_HIGH = 0.30, 0.07, 0.085
"""Shares of the leg: from heel to toe, the heel behind the ankle, and the ankle above the sole."""
BODY_WIDE, HIP_UP = 0.78, 0.14
"""Shares of the body's height: how wide it is, and how high above its lowest point the hip lies."""
HEAD, HEAD_WIDE, HEAD_UP = 0.34, 0.86, 0.06
"""Of a whole figure, shares of the leg: its head's height, and how far above the neck that begins; how wide the head is
for its height."""
UPPER_ARM, FOREARM = 0.36, 0.34
"""Shares of the leg: from neck to elbow, and from elbow to hand."""


def landmarks_of(figure: str) -> tuple[str, ...]:
    """What is told of each drawing of a figure, ``legs`` or ``whole``."""
    return (*LANDMARKS, *UPPER_LANDMARKS) if figure == "whole" else LANDMARKS


def swapped(name: str) -> str:
    """A landmark's name on the other side."""
    joint, _, side = name.partition("_")
    return f"{joint}_{OTHER[side]}" if side in OTHER else name  # type: ignore[index]


def knee_of(hip: Place, ankle: Place, thigh: float, shin: float, facing: float) -> Place:
    """Where the knee of a two-link leg lies (px, y down), bent towards ``facing`` (1 right, -1 left).

    By the law of cosines; an ankle out of reach gives a straight leg of the right direction.
    """
    dx, dy = ankle[0] - hip[0], ankle[1] - hip[1]
    far = min(max(math.hypot(dx, dy), 1e-6), thigh + shin - 1e-6)
    along = (thigh * thigh - shin * shin + far * far) / (2 * far)
    aside = math.sqrt(max(0.0, thigh * thigh - along * along))
    scale = 1 / max(1e-6, math.hypot(dx, dy))
    ux, uy = dx * scale, dy * scale
    # Across the leg towards where it faces: below the hip that is the leg's direction turned by a quarter.
    return hip[0] + along * ux + facing * aside * uy, hip[1] + along * uy - facing * aside * ux


def bend_of(hip: Place, knee: Place, ankle: Place, facing: float) -> float:
    """By how many degrees a knee is bent: 0 straight, above 0 the way knees go, below 0 backwards."""
    thigh = math.atan2(knee[1] - hip[1], facing * (knee[0] - hip[0]))
    shin = math.atan2(ankle[1] - knee[1], facing * (ankle[0] - knee[0]))
    return math.degrees((shin - thigh + math.pi) % (2 * math.pi) - math.pi)


def swing_of(start: Place, end: Place, facing: float) -> float:
    """How far forward a limb points, degrees from straight down."""
    return math.degrees(math.atan2(facing * (end[0] - start[0]), end[1] - start[1]))
