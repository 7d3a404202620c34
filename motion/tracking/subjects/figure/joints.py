"""Joints told from how the parts turn about them.

A thigh turns about the hip, which goes with the body; a shin about the ankle, which goes with the foot. So the joint is
the one place, in the body or in the foot, through which the middle lines of all drawings run, as far from every knee as
the limb is long. It shows nowhere in a single drawing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.ranks import median

Floats = NDArray[np.float64]
Place = tuple[float, float]
ROUNDS = 12
SCALE_PX = 0.8
"""Lines run through a joint to so many px; those that lie far off count little."""
FEWEST, LEAST_TURN = 6, 0.003
"""So many lines tell, where their directions differ enough (the smaller share of their spread)."""


@dataclass(frozen=True, slots=True)
class Line:
    """A limb's middle line in the frame of the part that it turns against: a point, its direction, its far end."""

    point: Place
    way: Place
    end: Place | None


@dataclass(frozen=True, slots=True)
class Loose:
    """How far from where it is guessed a joint may lie, px: ``along`` an ``axis`` (a direction), and ``across`` it."""

    along: float
    across: float
    axis: Place = (1.0, 0.0)

    @classmethod
    def evenly(cls, px: float) -> Loose:
        """As far in every direction."""
        return cls(px, px)

    def firmness(self) -> Floats:
        """(2, 2) what a step from the guess costs."""
        way = np.array(self.axis) / max(1e-9, float(np.hypot(*self.axis)))
        on_axis = np.outer(way, way)
        return np.asarray(on_axis / self.along**2 + (np.eye(2) - on_axis) / self.across**2)


def turning_point(lines: Sequence[Line], guess: Place, loose: Loose, astray: float) -> Place | None:
    """The place about which limbs turn, px; None where too few tell, or where they hardly turn.

    None either where they mostly pass it, or are longer or shorter, by more than ``astray`` px.

    It is looked for around a ``guess``, from which it is kept as ``loose`` says. Robust least squares by Gauss and
    Newton: distances from the lines, and how much those from the far ends differ from the limb's length.
    """
    if len(lines) < FEWEST:
        return None
    points = np.array([line.point for line in lines])
    ways = np.array([line.way for line in lines])
    normals = np.stack([-ways[:, 1], ways[:, 0]], axis=1)
    spread = np.linalg.eigvalsh(normals.T @ normals / len(lines))
    if spread[0] < LEAST_TURN:
        return None
    offsets = np.sum(normals * points, axis=1)
    ends = np.array([line.end for line in lines if line.end is not None]).reshape(-1, 2)
    at, firm = np.array(guess), loose.firmness()
    for _ in range(ROUNDS):
        beside = normals @ at - offsets
        matrix, right = _normal_equations(normals, beside)
        if len(ends) >= FEWEST:
            away = at - ends
            far = np.maximum(1e-6, np.hypot(away[:, 0], away[:, 1]))
            # The limb is as long as it mostly is: its length is found along with the place.
            off = far - median(far)
            rows = away / far[:, None]
            rows = rows - np.average(rows, axis=0, weights=_weights(off))
            more, beyond = _normal_equations(rows, off)
            matrix, right = matrix + more, right + beyond
        matrix += firm
        right += firm @ (at - np.array(guess))
        step = np.linalg.solve(matrix, right)
        at = at - step
        if float(np.abs(step).max()) < 0.01:
            break
    far = np.hypot(*(at - ends).T) if len(ends) >= FEWEST else np.zeros(1)
    off = max(median(np.abs(normals @ at - offsets)), median(np.abs(far - median(far))))
    if off > astray:
        return None
    return float(at[0]), float(at[1])


def _weights(off: Floats) -> Floats:
    scale = max(SCALE_PX, 1.5 * median(np.abs(off)))
    return np.asarray(1 / (1 + (off / scale) ** 2) ** 2)


def _normal_equations(rows: Floats, off: Floats) -> tuple[Floats, Floats]:
    scale = max(SCALE_PX, 1.5 * median(np.abs(off)))
    weights = _weights(off) / scale**2
    return rows.T @ (weights[:, None] * rows), rows.T @ (weights * off)
