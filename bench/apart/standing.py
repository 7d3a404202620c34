"""One who stands, walks some steps and stops: the trade's four drawings of a step, over footprints laid first."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from scipy.interpolate import PchipInterpolator

if TYPE_CHECKING:
    from bench.apart.walks import Manner

Point = tuple[float, float]
LEFT, LANDS = 1.12, 2.0
"""A foot leaves the ground so many steps after it landed, and lands again so many after that."""
AHEAD = 0.05
"""Of the leg: how far before the middle of both heels the hips are."""
PHASES, HEIGHTS = (0.0, 0.2, 0.5, 0.75), (0.55, 0.0, 0.75, 1.0)
"""Contact, down, passing and up, and how much of its rise the hips have there."""


class Standing:
    """Ankles and hips by time in steps: the near foot stands from before 0, the far one takes the first step."""

    def __init__(self, own: Manner) -> None:
        self.own, self.last = own, own.steps
        # Feet together, a half step, whole ones, and the other foot drawn up.
        marks = [0.0, 0.0, *(0.5 + k for k in range(self.last - 1))]
        marks.append(marks[-1])
        self.marks = [m * own.step * own.leg for m in marks]
        times = [-1.0, *range(self.last + 1), self.last + 1.0]
        middles = [0.0, *((a + b) / 2 for a, b in zip(self.marks[:-1], self.marks[1:], strict=True)), self.marks[-1]]
        self.along = PchipInterpolator(times, middles)
        reach = own.leg * (1 - own.bent)
        walks = own.high * own.leg + math.sqrt(reach**2 - (own.step * own.leg / 2) ** 2)
        self.low, self.stood = -0.985 * walks, -(own.high + 0.985) * own.leg
        knots = [(-1.0, self.stood), (0.0, self.stood)]
        for k in range(1, self.last):
            knots += [(k + p, self.low - own.rise * own.leg * h) for p, h in zip(PHASES, HEIGHTS, strict=True)]
        knots += [(float(self.last), self.stood), (self.last + 1.0, self.stood)]
        self.up = PchipInterpolator(*zip(*knots, strict=True))
        lift = own.lift * own.leg
        spans = [LEFT, 1.3, 1.55, 1.78, LANDS]
        self.lift = PchipInterpolator(spans, [0.0, 0.75 * lift, lift, 0.6 * lift, 0.0])
        self.go = PchipInterpolator(spans, [0.0, 0.2, 0.55, 0.85, 1.0])

    def hip(self, time: float) -> Point:
        time = min(max(time, -1.0), self.last + 1.0)
        return float(self.along(time)) + AHEAD * self.own.leg, float(self.up(time))

    def foot(self, time: float, late: float) -> tuple[Point, float, Point]:
        """Where a side's sole begins at its heel, how far its toes are up, and whether it turns on heel or toe: the
        place about which it turns.

        ``late`` is 0 for the side that stands first, 1 for the other, whose marks are the odd ones.
        """
        foot = self.own.foot * self.own.leg
        landed = round(late) + 2 * math.floor((time - late) / 2)
        mark = self._mark(landed)
        since, nxt = time - landed, self._mark(landed + 2)
        leaves = nxt > mark
        if since <= LEFT or not leaves:
            heel_up = 18.0 * max(0.0, 1 - since / 0.25) if self._strikes(landed) else 0.0
            toe_down = 30.0 * max(0.0, (since - 0.75) / (LEFT - 0.75)) if leaves else 0.0
            return (mark, 0.0), math.radians(heel_up - min(toe_down, 30.0)), (0.0 if heel_up else foot, 0.0)
        share = float(self.go(since))
        ends = 18.0 if self._strikes(landed + 2) else 0.0
        pitch = -30.0 + (ends + 30.0) * (share**0.8)
        return (mark + share * (nxt - mark), -float(self.lift(since))), math.radians(pitch), (foot * (1 - share), 0.0)

    def _mark(self, number: int) -> float:
        """Where a footprint lies; -1 is where the other foot stands first."""
        return self.marks[min(max(number + 1, 0), len(self.marks) - 1)] if number <= self.last else self.marks[-1]

    def _strikes(self, number: int) -> bool:
        return 0 < number < self.last

    def ankle(self, time: float, late: float) -> tuple[Point, float]:
        """The ankle, and how far the toes are up."""
        own = self.own
        (x, y), pitch, about = self.foot(time, late)
        c, s = math.cos(pitch), math.sin(pitch)
        # The ankle from the heel's end of the sole, turned about the place that stays.
        along, high = own.back * own.leg - about[0], own.high * own.leg
        return (x + about[0] + c * along - s * high, y - s * along - c * high), pitch
