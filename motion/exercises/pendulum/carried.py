"""The ideal of what is carried, as one way: driven until its base stands, and from then on swinging by itself."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from motion.brief import Swing
from motion.errors import BriefError
from motion.exercises.pendulum.carriage import driven
from motion.exercises.pendulum.carry import DRIVES
from motion.exercises.pendulum.ideal import MOST_SWINGS, Motion
from motion.exercises.pendulum.plan import Recipe

STANDS_S = 0.25
"""How long it hangs still before it is carried."""
LEAST_CARRIED = 0.05
"""A base that goes less far than such a share of the frame's width is not seen to go."""
LEAST_EASING = 3
"""A base gathers speed over so many drawings, or it jerks."""
LEAST_DEGREES, MOST_DEGREES = 8.0, 85.0
"""Below the first it only settles; above the other it would swing over its pivot."""


@dataclass(frozen=True, slots=True)
class Way:
    """Its motion by frames, and the times of its own extremes, from the one at ``angle`` (degrees from rest) on."""

    motion: Motion
    extremes: tuple[float, ...]
    angle: float

    @property
    def last(self) -> float:
        """When it is at the last of them."""
        return self.extremes[-1]


def way_of(recipe: Recipe, keeps: float, swings: Callable[[float], int]) -> Way:
    """How it goes, with as many swings of its own as ``swings`` says for its first extreme; raises BriefError."""
    carriage = recipe.carriage
    assert carriage is not None  # noqa: S101 (asked of what is carried alone)
    free = carriage.frames + DRIVES * recipe.swing_frames
    found = driven(carriage, recipe.length, recipe.swing_frames, keeps, 3)
    own = [time for time in found.extremes if time >= free]
    angle = math.degrees(found.angle(own[0])) if own else 0.0
    if abs(angle) < LEAST_DEGREES:
        raise BriefError(
            {
                "guide.carry_s": f"Where its base stops it would hang nearly still ({abs(angle):.0f}°). Carry it in "
                "less time or more, or farther."
            }
        )
    if max(abs(math.degrees(a)) for a in found.angles) > MOST_DEGREES:
        raise BriefError({"guide.carry_s": "Carried so fast it would swing over its pivot. Give it more time."})
    wanted = swings(angle)
    # Solved to one swing more, so that the drawing nearest the last extreme has something behind it.
    motion = driven(carriage, recipe.length, recipe.swing_frames, keeps, min(MOST_SWINGS, wanted + 4))
    extremes = [time for time in motion.extremes if time >= free]
    return Way(motion, tuple(extremes[: wanted + 1]), angle)


def stands(fps: float, exposure: int) -> int:
    """For how many frames more than a drawing is exposed it hangs still before it is carried."""
    return max(1, round(STANDS_S * fps / exposure)) * exposure


def refused(swing: Swing, width: int, drawing_s: float) -> dict[str, str]:
    """What is wrong with how it is carried, by field; ``drawing_s`` is how long a drawing shows."""
    problems = dict[str, str]()
    if abs(swing.carry) < LEAST_CARRIED * width:
        problems["guide.carry"] = f"So short a way cannot be seen; at least {LEAST_CARRIED * width:.0f} px."
    if not 0 <= swing.pivot_x + swing.carry <= width - 1:
        problems["guide.carry"] = f"It must stop in the frame, which is {width} px wide."
    if swing.end == "cycle":
        problems["guide.end"] = "What is carried does not come back to where it began: let it end otherwise."
    if swing.eases * swing.carry_s < LEAST_EASING * drawing_s:
        problems["guide.eases"] = (
            f"So suddenly it jerks: let its base gather speed over {LEAST_EASING} drawings or more."
        )
    return problems
