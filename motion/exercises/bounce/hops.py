"""What a bounce is read as: its drawings with their heights, the hops between contacts, and the rest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.flight import Parabola
from motion.track import Ground, Shape

LEAST_HOP_D = 0.2
"""A hop lower than this (in diameters) is part of the settling, not judged as a hop."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One exposure of one measured drawing. Of one that the frame's edge cuts, the place is told but not the size.

    ``height`` is how far the centre stands above where it is when the round ball rests on the ground below it;
    ``clearance`` is how far the bottom of the outline is above the ground. Both px, up.
    """

    frame: int
    frames: int
    drawing: int
    x: float
    y: float
    height: float
    clearance: float
    shape: Shape

    @property
    def last_frame(self) -> int:
        return self.frame + self.frames - 1

    @property
    def whole(self) -> bool:
        """Whether all of the ball lies within the frame."""
        return not self.shape.clipped


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hop:
    """The drawings in the air between two contacts, or before the first, or after the last.

    ``air`` are indices into the reading's steps. ``clock`` (n,) gives each drawing's time in frames since the
    ball left the ground, with holds taken out; ``frames_clock`` (n,) the same with holds left in. ``held`` (n,) are
    the frames of each that are a hold, ``around`` as ``flight.around`` has it, ``span`` the time of the next contact
    on ``clock``. For a hop without a first contact both clocks start at its first
    drawing. ``usual`` is the exposure usual in this hop; ``off_parabola`` how far up or down three quarters of its
    drawings lie off its parabola at most, px.
    """

    number: int
    air: tuple[int, ...]
    start: Contact | None
    end: Contact | None
    usual: int
    clock: NDArray[np.float64]
    frames_clock: NDArray[np.float64]
    held: tuple[int, ...]
    around: tuple[tuple[float, float], tuple[float, float]]
    span: float
    top: int
    parabola: Parabola | None
    off_parabola: float

    @property
    def whole(self) -> bool:
        """Whether it runs from contact to contact."""
        return self.start is not None and self.end is not None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """A bounce as read. ``rest`` are the steps that roll or lie still at the end.

    ``by_halves`` tells that the drawings are spaced by halves towards the tops, not by gravity.
    """

    steps: tuple[Step, ...]
    ground: Ground
    diameter: float
    contacts: tuple[Contact, ...]
    hops: tuple[Hop, ...]
    rest: tuple[int, ...]
    in_place: bool
    by_halves: bool

    def points(self, indices: tuple[int, ...]) -> NDArray[np.float64]:
        """(n, 2) px: x, and height of the centre above its resting height, up."""
        return np.array([[self.steps[i].x, self.steps[i].height] for i in indices]).reshape(-1, 2)

    def beside(self, hop: Hop) -> Ends:
        """Where the contacts before and after a hop lie, (2,) px each, None where no drawing shows one."""
        return feet(self.steps, hop.start, hop.end)

    def to_picture(self, x: float, height: float) -> tuple[float, float]:
        """Frame coordinates of a point given by x and the centre's height."""
        return x, self.ground.y_at(x) - self.diameter / 2 - height


Ends = tuple[NDArray[np.float64] | None, NDArray[np.float64] | None]


def feet(steps: Sequence[Step], start: Contact | None, end: Contact | None) -> Ends:
    """Where the contacts before and after a hop lie, (2,) px each; None where no drawing shows one."""
    before, after = (
        np.array([steps[c.steps[k]].x, 0.0]) if c is not None and c.steps else None for c, k in ((start, -1), (end, 0))
    )
    return before, after
