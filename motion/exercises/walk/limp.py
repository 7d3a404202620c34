"""By how many frames steps onto one foot take longer than onto the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from motion.exercises.walk.figure import OTHER, SIDES, Side
from motion.exercises.walk.reading import Reading
from motion.exercises.walk.steps import Pace

SHARE, FRAMES = 0.12, 1.0
ALSO_FINELY = 0.6
"""Feet must also come near to where they land at times that differ by so much of it."""


@dataclass(frozen=True, slots=True)
class Limp:
    """Frames that steps onto each foot take on average, and by how many they may differ before it limps."""

    near: float
    far: float
    allowed: float
    sure: bool

    @property
    def frames(self) -> float:
        """By how many they differ."""
        return abs(self.near - self.far)

    @property
    def mean(self) -> float:
        """How many frames a step takes on average."""
        return (self.near + self.far) / 2

    @property
    def shows(self) -> bool:
        """Whether it limps."""
        return self.sure and self.frames > self.allowed

    @property
    def share(self) -> float:
        """By how much steps onto the near foot take longer, as a share of a step; below 0: shorter."""
        return (self.near - self.far) / self.mean

    @property
    def longer(self) -> Side:
        """The foot onto which steps take longer."""
        return "near" if self.near > self.far else "far"


def limp_of(reading: Reading, paces: Sequence[Pace], leniency: float) -> Limp | None:
    """How even these steps are in time; None without a step onto each foot.

    They may differ by the largest of 1 frame, 12 % of a step, and the longest exposure of a contact drawing.
    """
    lengths = {side: [p.frames for p in paces if p.side == side] for side in SIDES}
    if not all(lengths.values()):
        return None
    near, far = (float(np.mean(lengths[side])) for side in SIDES)
    contacts = [reading.steps[c.index] for c in reading.contacts]
    longest = max((s.frames - s.held for s in contacts), default=1)
    allowed = max(FRAMES, SHARE * (near + far) / 2, float(longest)) * leniency
    return Limp(near, far, allowed, _also_finely(paces, near - far, allowed))


def _also_finely(paces: Sequence[Pace], off: float, allowed: float) -> bool:
    """Whether feet also come near to where they land at times that differ by more than allowed, and about as much.

    A contact may be told a drawing early or late.
    """
    finely = {side: [v for p in paces if p.side == side and (v := p.finely) is not None] for side in SIDES}
    known = {side: float(np.mean(finely[side])) for side in SIDES if finely[side]}
    if not known:
        return True
    # Where the clip begins with a foot that stands already, the other foot's steps tell what is left for its own.
    both = sum(float(np.mean([p.frames for p in paces if p.side == side])) for side in SIDES)
    near, far = (known[side] if side in known else both - known[OTHER[side]] for side in SIDES)
    return (near - far) * off > 0 and abs(near - far) > max(allowed, ALSO_FINELY * abs(off))
