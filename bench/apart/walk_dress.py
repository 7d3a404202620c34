"""What walkers wear, and limbs that grow thinner towards their ends: drawn with a pen on a picture made larger."""

from __future__ import annotations

import math
from typing import Protocol

from bench.apart.pictures import Colour
from bench.apart.walks import Point, Posed

THIGH, KNEE, ANKLE = 1.25, 0.85, 0.55
"""How wide a tapered leg is at hip, knee and ankle, in widths of the same leg that is not."""
UPPER, ELBOW, WRIST = 1.0, 0.8, 0.6
HEM, FLARE = 0.5, 0.6
"""A coat reaches so much of the way down the thighs, and so many of its widths beside them."""


class Pen(Protocol):
    """What fills areas."""

    def area(self, points: list[Point], colour: Colour) -> None: ...


def tapered(pen: Pen, one: Point, other: Point, wide: tuple[float, float], colour: Colour) -> None:
    """A limb with round ends, so wide at either."""
    turn, parts = math.atan2(other[1] - one[1], other[0] - one[0]), 16
    points = []
    for (x, y), width, start in ((one, wide[0], math.pi / 2), (other, wide[1], -math.pi / 2)):
        angles = (turn + start + math.pi * k / parts for k in range(parts + 1))
        points += [(x + width / 2 * math.cos(a), y + width / 2 * math.sin(a)) for a in angles]
    if min(wide) > 0.5:
        pen.area(points, colour)


def coat(pen: Pen, posed: Posed, wide: float, layers: list[tuple[float, Colour]]) -> None:
    """From the neck over the trunk to a hem that goes along with the thighs."""
    neck, hip = posed.points["neck"], posed.points["hip"]
    thighs = [posed.points[f"knee_{side}"] for side in ("near", "far")]
    hems = sorted((hip[0] + HEM * (x - hip[0]), hip[1] + HEM * (y - hip[1])) for x, y in thighs)
    for inset, colour in layers:
        half, reach = wide / 2 - inset, FLARE * wide - inset
        pen.area(
            [
                (neck[0] - half, neck[1] - 0.1 * wide + inset),
                (neck[0] + half, neck[1] - 0.1 * wide + inset),
                (hip[0] + half, hip[1]),
                (hems[1][0] + reach, hems[1][1] - inset),
                (hems[0][0] - reach, hems[0][1] - inset),
                (hip[0] - half, hip[1]),
            ],
            colour,
        )
