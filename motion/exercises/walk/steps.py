"""What a walk is read into: its drawings, the times that a foot stands, contacts, and steps."""

from __future__ import annotations

from dataclasses import dataclass, replace

from motion.exercises.walk.figure import Place, Side
from motion.track import Figure, Ground, Shape


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """A drawing in playing order. ``clock`` is when it shows, in frames from the first, holds taken out."""

    index: int
    drawing: int
    frame: int
    frames: int
    clock: float
    figure: Figure | None
    body: Shape | None
    held: int = 0

    @property
    def last_frame(self) -> int:
        return self.frame + self.frames - 1

    @property
    def confidence(self) -> float:
        return self.figure.confidence if self.figure else 0.3

    def at(self, name: str) -> Place | None:
        """A landmark that shows."""
        return self.figure.at(name) if self.figure else None


def travel_between(one: Step, other: Step) -> float | None:
    """How far right a figure goes from one drawing to another, px: its hips, else its body or head as a whole."""
    hips = one.at("hip"), other.at("hip")
    if hips[0] is not None and hips[1] is not None:
        return hips[1][0] - hips[0][0]
    return other.body.x - one.body.x if one.body is not None and other.body is not None else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """How a figure goes as a whole: ``facing`` 1 to the right, ``belt`` and ``speed`` px a frame, its ``leg`` px."""

    facing: float
    belt: float
    speed: float
    leg: float
    ground: Ground
    cycle: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """One time that a foot stands: drawings ``first`` to ``last`` (indices), and where it lies flat over the ground.

    ``lands`` and ``leaves`` tell whether the clip shows that; ``place`` is px forward, the ground's own.
    """

    side: Side
    first: int
    last: int
    lands: bool
    leaves: bool
    place: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Contact:
    """A foot lands: on which drawing (index), at what time.

    ``nears`` is when it came near to where it lands, between drawings; None where that does not show.
    """

    side: Side
    index: int
    time: float
    nears: float | None = None

    def after(self, frames: float) -> Contact:
        """The same one, so much later."""
        return replace(self, time=self.time + frames, nears=None if self.nears is None else self.nears + frames)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pace:
    """One step, from a foot's contact to the other's: ``side`` lands at its end. ``judged``: no start and no stop."""

    number: int
    side: Side
    start: Contact
    end: Contact
    length: float | None
    judged: bool = True

    @property
    def frames(self) -> float:
        return self.end.time - self.start.time

    @property
    def finely(self) -> float | None:
        """Its frames from when both feet came near to where they land; None where that does not show."""
        if self.start.nears is None or self.end.nears is None:
            return None
        return self.end.nears - self.start.nears
