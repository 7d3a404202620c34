"""The ball's shape on its way: long along a fast path, flat on the ground, round where it is slow; one volume.

How much is told by how far the ball moves from one drawing to the next, in its own diameters, since that step is
what shows. Volume is the product of the two axes, which always stays the round ball's.
"""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

import numpy as np

Role = Literal["air", "contact", "rest"]

SLOW_D, FAST_D = 0.25, 0.5
"""Steps a drawing, in diameters, up to which a ball stays round and from which it is stretched in full."""
ROUND_UNTIL, LONG_FROM = 0.15, 0.5
"""Part of the way from a top to the ground (in time) up to which it is round, and from which it may be long."""


class Axes(NamedTuple):
    """Full axes in px, and the angle of the longer one in degrees, counter-clockwise, in (-90, 90]."""

    major: float
    minor: float
    angle: float


def axes(diameter: float, ratio: float, angle: float = 0.0) -> Axes:
    """A ball of this diameter with axes in that ratio (at least 1): the same area, turned to the angle."""
    long = diameter * math.sqrt(max(1.0, ratio))
    turned = (angle + 90.0) % 180.0 - 90.0
    return Axes(long, diameter**2 / long, 90.0 if turned == -90.0 else turned)


def stretched(diameter: float, most: float, step: tuple[float, float], phase: float, clearance: float) -> Axes:
    """The ball in the air: stretched along its path where it is fast and away from the top.

    ``most`` is the greatest ratio of the axes; ``step`` (across, up) px from drawing to drawing; ``phase`` 0 at the
    top to 1 at the ground; ``clearance`` px of the round ball's underside above the ground, into which a long ball
    must not reach.
    """
    speed = math.hypot(*step) / diameter
    share = float(np.interp(speed, (SLOW_D, FAST_D), (0, 1)) * np.interp(phase, (ROUND_UNTIL, LONG_FROM), (0, 1)))
    ratio, angle = 1 + (most - 1) * share, math.degrees(math.atan2(step[1], step[0])) if speed > 0 else 0.0
    while ratio > 1.01 and half_height(axes(diameter, ratio, angle)) > diameter / 2 + max(0.0, clearance):
        ratio = 1 + (ratio - 1) * 0.8
    return axes(diameter, ratio, angle)


def squashed(diameter: float, most: float, impact: float, fastest: float) -> Axes:
    """The ball on the ground: flatter the faster it lands.

    ``impact`` and ``fastest`` are steps down a drawing, px: at this contact, and at the clip's hardest.
    """
    hard = max(fastest / diameter, 1.5 * FAST_D)
    share = float(np.interp(impact / diameter, (0.5 * SLOW_D, FAST_D, hard), (0, 0.6, 1)))
    return axes(diameter, 1 + (most - 1) * share)


def half_height(ball: Axes) -> float:
    """Half the height of the turned ellipse, px."""
    turn = math.radians(ball.angle)
    return 0.5 * math.hypot(ball.major * math.sin(turn), ball.minor * math.cos(turn))
