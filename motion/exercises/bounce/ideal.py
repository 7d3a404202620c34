"""The ideal bounce: constant speed across, constant gravity down, a share of the speed kept at each contact."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Flight:
    """One hop or part of one: ``start`` and ``end`` in frames, height 0 at ``lands`` and at ``left``.

    ``left`` is when the ball leaves (or would have left) the ground, ``lands`` when it meets it; heights are of
    the ball's lowest point above the ground, px.
    """

    left: float
    lands: float
    gravity: float

    @property
    def top(self) -> float:
        """Height of the top, px: h = g T² / 8."""
        return self.gravity * (self.lands - self.left) ** 2 / 8

    def height(self, time: float) -> float:
        """Height above the ground at a time in frames, px."""
        return 0.5 * self.gravity * (time - self.left) * (self.lands - time)

    def rise_speed(self, time: float) -> float:
        """Upward speed at a time, px a frame."""
        return 0.5 * self.gravity * (self.left + self.lands - 2 * time)


def hop_frames(height_px: float, gravity: float) -> float:
    """Frames from contact to contact of a hop of that height: T = sqrt(8 h / g)."""
    return math.sqrt(max(0.0, 8 * height_px / gravity))


def dropped(height_px: float, gravity: float, kept: Sequence[float], first_frame: float = 1.0) -> list[Flight]:
    """Flights of a ball let go at rest at ``height_px`` on ``first_frame``; one contact an entry of ``kept``.

    ``kept`` is the share of speed after each contact; heights go with its square. The first flight is a fall
    whose rise lies before the first frame.
    """
    length = hop_frames(height_px, gravity)
    flights = [Flight(left=first_frame - length / 2, lands=first_frame + length / 2, gravity=gravity)]
    for share in kept:
        length *= share
        left = flights[-1].lands
        flights.append(Flight(left=left, lands=left + length, gravity=gravity))
    return flights
