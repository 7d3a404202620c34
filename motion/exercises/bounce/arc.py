"""The shape of a hop's path, whatever the time: does it lean, and do its legs curve?

A parabola's x goes with the square root of the depth below its top, to both sides alike; so the fits here are lines
in that root, and a top between two drawings does no harm.
"""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from motion import curves
from motion.exercises.bounce.gravity import fits_gravity, hop_height
from motion.exercises.bounce.hops import Hop, Reading
from motion.exercises.bounce.sliding import has_moved
from motion.ranks import medians

FEWEST = 4
"""A hop's lean is told from so many drawings in the air."""
LEAST_TOLD = 6
"""So many drawings, contacts included, tell a lean."""
SURE_FROM, LEAST_WEIGHT = 0.5, 0.15
"""From this share of the root of a top's height on a drawing tells its place across in full, at the top that little."""
FEW, MOST_OVER = 7, 0.25
"""With so few, the true top may stand so much (a share) above the highest drawing."""
HAND_PX, ROUNDS = 0.5, 6
"""So far off a drawing lies by hand; and so often a fit is weighted anew where some lie farther off than usual."""
SETTLED_PX = 0.02
"""Where the best fit no longer moves any drawing's distance by more, it is done."""
NEAR_ENDS = (0.06, 0.94)
"""Drawings within this part of a leg tell its curve."""

STRAIGHT = 0.35
"""Legs that bulge less than this share of a parabola's are straight."""
HARDLY = 0.55
"""Legs that bulge less than this share of a parabola's hardly curve."""
LEAST_BULGE_D, LEAST_BULGE_PX = 0.12, 4.0
"""Legs whose parabola bulges less than that (in diameters, px) cannot be told from straight ones."""

Side = Literal["rise", "fall"]


class Lean(NamedTuple):
    """How far a hop's top lies to the right of the middle between its ends, and how wide the hop is; px.

    ``upright`` (n,) px are the x of its drawings in the air on the same arc set upright.
    """

    offset: float
    width: float
    upright: NDArray[np.float64]


def lean(reading: Reading, hop: Hop) -> Lean | None:
    """Where a whole hop's top lies; None with too few drawings on either side of it."""
    rise, fall = _beside_top(hop)
    if not hop.whole or len(hop.air) < FEWEST or not rise or not fall:
        return None
    points = reading.points(hop.air)
    upright = _on_upright_parabola(hop, points)
    if upright is not None:
        return upright
    # The contacts help where there are few drawings, though one may lie half an exposure from where it belongs.
    few = len(hop.air) <= FEW
    feet = [
        (foot, side)
        for foot, side, contact in zip(reading.beside(hop), (-1.0, 1.0), (hop.start, hop.end), strict=True)
        if few and foot is not None and not has_moved(reading, contact)
    ]
    if len(hop.air) + len(feet) < LEAST_TOLD:
        return None
    places = np.array([*points, *(foot for foot, _ in feet)])
    slants = 2 if min(len(rise), len(fall)) > 2 else 1
    highest = float(points[:, 1].max())
    tops = highest * (1 + np.linspace(0, MOST_OVER, 9)) if few else np.array([hop_height(reading, hop)])
    beside = [[-1.0] * len(rise) + [of_top] + [1.0] * len(fall) + [s for _, s in feet] for of_top in (-1.0, 1.0)]
    fitted, top = _fit(places, np.array(beside), slants, tops)
    slant = _roots(points[:, 1], top, slants) @ fitted[2:]
    off = float((_roots(np.zeros(1), top, slants) @ fitted[2:])[0])
    width = 2 * abs(float(fitted[1])) * math.sqrt(top)
    return Lean(offset=-off, width=width, upright=points[:, 0] - slant + off)


def _on_upright_parabola(hop: Hop, points: NDArray[np.float64]) -> Lean | None:
    """What a hop's arc comes to where it leans for sure by nothing; None where that is not sure.

    Drawings (n, 2) that go across evenly and rise and fall as under gravity lie on a parabola that stands upright.
    """
    p = hop.parabola
    if p is None or np.abs(points[:, 1] - p.at(hop.clock)).max() > HAND_PX:
        return None
    slope, start = curves.polynomial(hop.clock, points[:, 0], 1).tolist()
    if np.abs(points[:, 0] - start - slope * hop.clock).max() > HAND_PX:
        return None
    return Lean(offset=0.0, width=abs(slope) * p.frames, upright=points[:, 0])


def _roots(heights: NDArray[np.float64], tops: NDArray[np.float64] | float, slants: int) -> NDArray[np.float64]:
    """(n, slants), or (k, n, slants) of ``tops`` (k, 1): the square root of the depth below the top, and its square.

    An arc that is lopsided in time slants with the root, one that is pushed over with its square.
    """
    root = np.sqrt(np.maximum(tops - heights, 0))
    return np.stack([root, root**2][:slants], axis=-1)


def _fit(
    places: NDArray[np.float64], sides: NDArray[np.float64], slants: int, tops: NDArray[np.float64]
) -> tuple[NDArray[np.float64], float]:
    """Of the slanted arcs through (n, 2) places that which fits best: its coefficients, and its top.

    The places lie left (-1) or right of the top as one of (m, n) ``sides`` says; the top is one of (k,) ``tops``.
    """
    top, side = np.repeat(tops, len(sides))[:, None], np.tile(sides, (len(tops), 1))
    roots = _roots(places[:, 1], top, slants)
    columns = np.concatenate([np.ones((*side.shape, 1)), (side * roots[..., 0])[..., None], roots], axis=2)
    # Near the top the root tells little of the place across, for a small error in height moves it far.
    told = np.minimum(np.maximum(roots[..., 0] / (SURE_FROM * np.sqrt(top)), LEAST_WEIGHT), 1.0)
    fitted, best = _robust(columns, places[:, 0], told)
    return fitted, float(top[best, 0])


def _robust(
    columns: NDArray[np.float64], values: NDArray[np.float64], told: NDArray[np.float64]
) -> tuple[NDArray[np.float64], int]:
    """(m,) least squares through the best of k times ``columns`` (n, m), and which that is; no stray drawing pulls it.

    Values (n,) are weighted by how much each tells (k, n). Where one fits to within what the hand leaves, it is
    the best.
    """
    everyone, weights = np.ones(told.shape, dtype=bool), told
    before = np.full(told.shape[1], np.inf)
    for _ in range(ROUNDS):
        fitted = curves.least_squares_of_many(columns * weights[..., None], values * weights)
        off = np.abs(values - (columns @ fitted[..., None])[..., 0])
        best = int(off.sum(axis=1).argmin())
        beyond = off / (2 * np.maximum(HAND_PX, 1.4826 * medians(off, everyone)))[:, None]
        if (weights is told and beyond[best].max() <= 1) or np.abs(off[best] - before).max() < SETTLED_PX:
            break
        before = off[best]
        weights = told / np.sqrt(np.maximum(1.0, beyond))
    return fitted[best], best


def _beside_top(hop: Hop) -> tuple[tuple[int, ...], tuple[int, ...]]:
    place = hop.air.index(hop.top)
    return hop.air[:place], hop.air[place + 1 :]


def straight_legs(reading: Reading, hop: Hop, leniency: float) -> float | None:
    """The bulge of a hop's legs as a share of a parabola's, where all that it has are straight; else None."""
    legs: dict[Side, float] = {}
    for side in ("rise", "fall"):
        share = curve_of_leg(reading, hop, side)
        if share is not None:
            legs[side] = share
    wanted = 2 if hop.whole else 1
    straight = len(legs) == wanted and all(s < STRAIGHT / leniency for s in legs.values())
    return max(legs.values()) if straight else None


def is_flat(reading: Reading, hop: Hop) -> bool:
    """Whether the legs of a hop are on the whole too nearly straight for the slant of its arc to be told.

    An arc that leans has one leg straighter than the other, and that one may be too steep to tell.
    """
    legs = [curve_of_leg(reading, hop, side) for side in ("rise", "fall")]
    known = [share for share in legs if share is not None]
    return bool(known) and sum(known) / len(known) < (HARDLY if len(known) == len(legs) else STRAIGHT)


def curve_of_leg(reading: Reading, hop: Hop, side: Side) -> float | None:
    """How much a leg bulges above its chord from the top to the contact, as a share of what a parabola's does.

    None for a leg without a contact at its end, or with no drawing well between its ends, or too low to tell.
    """
    contact = hop.start if side == "rise" else hop.end
    leg = _beside_top(hop)[0 if side == "rise" else 1]
    foot = reading.beside(hop)[0 if side == "rise" else 1]
    if contact is None or foot is None or not leg:
        return None
    top = reading.steps[hop.top].x, reading.steps[hop.top].height
    reach = foot[0] - top[0]
    if abs(reach) < 1e-6:
        return None
    bulges = top[1] / 4 * abs(reach) / math.hypot(reach, top[1])
    if bulges < max(LEAST_BULGE_D * reading.diameter, LEAST_BULGE_PX):
        return None
    told = wanted = 0.0
    for x, height in ((reading.steps[i].x, reading.steps[i].height) for i in leg):
        part = (x - top[0]) / reach
        if NEAR_ENDS[0] < part < NEAR_ENDS[1]:
            bulge = top[1] * (part - part**2)
            told += bulge * (height - top[1] * (1 - part))
            wanted += bulge**2
    return told / wanted if wanted else None


def raised(reading: Reading, hop: Hop) -> NDArray[np.float64]:
    """(n, 2): a hop's drawings straight above their places, on the parabola through its top and its contacts."""
    points, parts = _parts_of_legs(reading, hop)
    return np.column_stack([points[:, 0], points[:, 1].max() * (1 - parts**2)])


def pushed_out(reading: Reading, hop: Hop) -> NDArray[np.float64]:
    """(n, 2): a hop's drawings at their heights, pushed outwards onto the parabola through its top and its contacts.

    Drawings that fall as gravity has it are set where an even motion across brings them.
    """
    points, parts = _parts_of_legs(reading, hop)
    start, end = reading.beside(hop)
    if fits_gravity(reading, hop) and hop.parabola is not None and start is not None and end is not None:
        share = (hop.clock - hop.parabola.left) / hop.parabola.frames
        return np.column_stack([start[0] + share * (end[0] - start[0]), points[:, 1]])
    top = points[hop.air.index(hop.top)]
    wanted = np.sqrt(np.clip(1 - points[:, 1] / top[1], 0, None))
    out = np.divide(wanted, parts, out=np.ones_like(parts), where=parts > 1e-6)
    return np.column_stack([top[0] + (points[:, 0] - top[0]) * out, points[:, 1]])


def _parts_of_legs(reading: Reading, hop: Hop) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The drawings (n, 2), and how far across each is (n,) from the top (0) to its own contact (1)."""
    points, feet = reading.points(hop.air), reading.beside(hop)
    top = points[hop.air.index(hop.top)]
    parts = np.zeros(len(points))
    for row, index in enumerate(hop.air):
        foot = feet[0] if index < hop.top else feet[1]
        if foot is not None and abs(foot[0] - top[0]) > 1e-6:
            parts[row] = (points[row, 0] - top[0]) / (foot[0] - top[0])
    return points, parts


def unsteadiness(hop: Hop, places: NDArray[np.float64]) -> float:
    """How far (px, summed) a hop's drawings at these places (n, 2) are from going across evenly under gravity."""
    off = 0.0
    for values, degree in ((places[:, 0], 1), (places[:, 1], 2)):
        if len(values) > degree:
            off += float(np.abs(values - curves.at(curves.polynomial(hop.clock, values, degree), hop.clock)).sum())
    return off
