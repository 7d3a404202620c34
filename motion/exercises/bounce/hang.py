"""How long a hop stays about its top, beside how long its own rise and fall call for."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.exercises.bounce.gravity import hop_height
from motion.exercises.bounce.hops import Hop, Reading

ABOUT_TOP = 0.10
"""A ball is about its top within so much of the top's height."""
OF_THE_REST = math.sqrt(ABOUT_TOP) / (1 - math.sqrt(ABOUT_TOP))
"""Under constant gravity the time about the top is so many times that of the rise and fall below it."""

FRAMES, SHARE = 2.0, 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Hang:
    """The time about a top, frames: as drawn, as the rest of the hop calls for, and how much of it is held drawings.

    ``zone`` are indices into the reading's steps of the drawings about the top.
    """

    zone: tuple[int, ...]
    drawn: float
    called_for: float
    held: int

    @property
    def extra(self) -> float:
        return self.drawn - self.called_for

    def allowed(self, leniency: float) -> float:
        """How many frames more than called for are still no hanging."""
        return max(FRAMES, SHARE * self.called_for) * leniency


def measure(reading: Reading, hop: Hop) -> Hang | None:
    """A whole hop's time about its top; None where it cannot be told.

    The height goes with the square of the time from the top, so the times at which the ball comes within a tenth of
    its height are found between drawings on the square root of its depth. In-betweens by halves crowd there rightly:
    of such a hop only the holds count.
    """
    if not hop.whole or len(hop.air) < 3:
        return None
    heights = np.array([reading.steps[i].height for i in hop.air])
    highest = hop_height(reading, hop)
    if highest <= 0:
        return None
    depth = np.sqrt(np.maximum(1 - heights / highest, 0))
    inside = np.flatnonzero(depth <= max(math.sqrt(ABOUT_TOP), float(depth.min())))
    zone = tuple(hop.air[i] for i in range(inside[0], inside[-1] + 1))
    held = sum(hop.held[inside[0] : inside[-1] + 1])
    times, held_at = np.array([0.0, *hop.frames_clock, _ends(reading, hop)]), (0, *hop.held, 0)
    deep = np.concatenate([[1.0], depth, [1.0]])
    comes = _crossing(times, deep, held_at, int(inside[0]))
    goes = _crossing(times, deep, held_at, int(inside[-1]) + 1)
    if reading.by_halves:
        return Hang(zone=zone, drawn=goes - comes, called_for=goes - comes - held, held=held)
    return Hang(zone=zone, drawn=goes - comes, called_for=OF_THE_REST * (comes + times[-1] - goes), held=held)


def _ends(reading: Reading, hop: Hop) -> float:
    """When the ball meets the ground again, frames since it left it, holds included."""
    contact, last = hop.end, reading.steps[hop.air[-1]]
    if contact is None:
        return float(hop.frames_clock[-1] + last.frames)
    lands = reading.steps[contact.steps[0]].frame if contact.steps else contact.time
    return float(hop.frames_clock[-1] + lands - last.frame)


def _crossing(times: NDArray[np.float64], depth: NDArray[np.float64], held: Sequence[int], one: int) -> float:
    """When the ball passes the height about its top between a drawing and the next.

    A held drawing stands still as long as it is held.
    """
    leaves, comes = times[one] + held[one], times[one + 1]
    way = depth[one + 1] - depth[one]
    share = (math.sqrt(ABOUT_TOP) - depth[one]) / way if abs(way) > 1e-9 else 0.5
    return float(leaves + min(1.0, max(0.0, share)) * (comes - leaves))
