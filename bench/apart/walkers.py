"""The upper half of walks planned apart: a trunk, a head, and arms that swing against the legs.

Arms swing as gait laboratories publish it for people who walk at ease: the upper arm some 20 degrees either way about a
little behind straight down, the elbow most bent where the arm is in front.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

Point = tuple[float, float]
SIDES = ("near", "far")


@dataclass(frozen=True, slots=True, kw_only=True)
class Upper:
    """A walker above the hips. Lengths in legs, angles in degrees; ``late`` is how late the arms swing, in steps.

    ``head`` is (wide, tall); ``high`` how far its middle lies above the neck. Arms go ``swing`` degrees either way
    about ``hang``, the elbow bends by ``bent`` and ``bends`` more in front. ``even`` arms keep one speed.
    """

    trunk: float
    lean: float
    head: tuple[float, float]
    high: float
    arm: float
    fore: float
    hang: float
    swing: float
    bent: float
    bends: float
    late: float
    bows: float
    same: bool = False
    even: bool = False


def upper(rng: random.Random) -> Upper:
    """Any."""
    tall = rng.uniform(0.26, 0.42)
    arm = rng.uniform(0.30, 0.40)
    return Upper(
        trunk=rng.uniform(0.58, 0.80),
        lean=rng.uniform(-2, 8),
        head=(tall * rng.uniform(0.78, 1.0), tall),
        high=0.5 * tall + rng.uniform(0.02, 0.09),
        arm=arm,
        fore=arm * rng.uniform(0.85, 1.0),
        hang=rng.uniform(-6, 4),
        swing=rng.uniform(14, 34),
        bent=rng.uniform(4, 25),
        bends=rng.uniform(5, 28),
        late=rng.uniform(-0.08, 0.10),
        bows=rng.uniform(0.0, 1.5),
    )


def above(own: Upper, hip: Point, time: float, leg: float) -> dict[str, Point]:
    """Neck, head, elbows and hands of one who walks to the right, at a time in steps; the near foot lands at 0."""
    lean = math.radians(own.lean + own.bows * math.cos(2 * math.pi * time))
    neck = hip[0] + own.trunk * leg * math.sin(lean), hip[1] - own.trunk * leg * math.cos(lean)
    found = {
        "neck": neck,
        "head": (neck[0] + own.high * leg * math.sin(lean), neck[1] - own.high * leg * math.cos(lean)),
    }
    for side, turn in (("near", 1.0), ("far", 0.0)):
        turned = turn + (1.0 if own.same else 0.0)
        forward = _forward(time - own.late - turned, even=own.even)
        angle = math.radians(own.hang + own.swing * forward)
        fore = angle + math.radians(own.bent + own.bends * (1 + forward) / 2)
        elbow = neck[0] + own.arm * leg * math.sin(angle), neck[1] + own.arm * leg * math.cos(angle)
        found[f"elbow_{side}"] = elbow
        found[f"hand_{side}"] = elbow[0] + own.fore * leg * math.sin(fore), elbow[1] + own.fore * leg * math.cos(fore)
    return found


def _forward(time: float, *, even: bool) -> float:
    """How far forward an arm is, -1 to 1, so many steps after it was in front."""
    if not even:
        return math.cos(math.pi * time)
    return 4 * abs((time / 2) % 1.0 - 0.5) - 1
