"""The body: the thickest part of the figure, high up, as an ellipse in every drawing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse, of_moments
from motion.tracking.subjects import opening
from motion.tracking.subjects.figure.ink import Mask, Sheet

UPPER = 0.68
"""The body's thickest place lies in this upper share of the figure."""
OPENED = 0.62
"""Limbs are taken off by what is so much thinner than the body."""
LONGEST = 3.2
"""No body reaches farther from its thickest place than so many times that place's distance from its edge."""
STRAYS = 0.75
"""The thickest place lies as far below the figure's top as it usually does, but for so many times its radius."""
STEPS = 12
RAYS, BESIDE_EDGE = 37, (0.93, 1.07)
"""A body's edge is looked at along so many rays, so many times as far from its middle."""
LIKE = (0.6, 1.6)
"""A body's thickness lies between so many times the clip's usual one."""


@dataclass(frozen=True, slots=True)
class Core:
    """Where the figure is thickest: x, y px in the frame, how far that is from its edge, and how far below its top."""

    x: float
    y: float
    radius: float
    below: float = 0.0


def core(sheet: Sheet, below: tuple[float, float] | None = None) -> Core | None:
    """The thickest place of a drawing's figure in its upper part, what outlines enclose filled; None where none is.

    It may be looked for between so many px ``below`` the figure's top.
    """
    rows = np.flatnonzero(sheet.inked.any(axis=1))
    if len(rows) < 8:
        return None
    depth = cv2.distanceTransform(sheet.whole.view(np.uint8), cv2.DIST_L2, 5)
    top = int(rows[0])
    first, last = (0.0, UPPER * (rows[-1] - top)) if below is None else below
    depth[: top + max(0, round(first))] = 0
    upper = depth[: top + int(last) + 1]
    at = int(upper.argmax())
    y, x = divmod(at, upper.shape[1])
    return Core(x + sheet.left, y + sheet.top, float(upper[y, x]), float(y - top)) if upper[y, x] > 2 else None


def amiss(found: Sequence[Core | None]) -> dict[int, tuple[float, float]]:
    """Drawings whose thickest place lies elsewhere than usual, and between how many px below the top it should.

    Legs whose feet touch enclose what is between them, and that may be thicker than the body.
    """
    told = [c for c in found if c is not None]
    if len(told) < 4:
        return {}
    usual, loose = float(np.median([c.below for c in told])), STRAYS * float(np.median([c.radius for c in told]))
    return {
        n: (usual - loose, usual + loose) for n, c in enumerate(found) if c is not None and abs(c.below - usual) > loose
    }


def usual_radius(cores: Sequence[Core | None]) -> float | None:
    """How thick the body usually is; None where no drawing shows one."""
    found = [c.radius for c in cores if c is not None]
    return float(np.median(found)) if found else None


def ellipse_of(sheet: Sheet, at: Core, radius: float) -> tuple[Ellipse, float] | None:
    """The body's ellipse to the outside of its outline, and how well it is one, 0 to 1; None where it is none."""
    if not LIKE[0] * radius <= at.radius <= LIKE[1] * radius:
        return None
    x, y, reach = at.x - sheet.left, at.y - sheet.top, LONGEST * radius
    left, top = max(0, int(x - reach)), max(0, int(y - reach))
    around = np.s_[top : int(y + reach) + 1, left : int(x + reach) + 1]
    return _fitted(_solid(sheet, around), at, radius, (sheet.left + left, sheet.top + top))


def _solid(sheet: Sheet, window: tuple[slice, slice] = np.s_[:, :]) -> NDArray[np.float32]:
    return np.maximum(sheet.cover[window], sheet.whole[window].view(np.uint8))


def of_size(sheet: Sheet, at: Core, like: Ellipse) -> Ellipse:
    """Where a body of a known size lies, from its thickest place on: the middle of the ink within it, step by step.

    So legs that hang on it do not draw it to them.
    """
    solid = _solid(sheet)
    x, y = at.x, at.y
    for _ in range(STEPS):
        inside = ~without_body(sheet, replace(like, x=x, y=y), 0.0)
        weights = np.where(inside, solid, np.float32(0))
        moments = cv2.moments(weights)
        if moments["m00"] <= 0:
            break
        x, y = moments["m10"] / moments["m00"] + sheet.left, moments["m01"] / moments["m00"] + sheet.top
    return replace(like, x=x, y=y)


def upper_edge(sheet: Sheet, body: Ellipse) -> Mask:
    """(2, rays) whether there is ink a little within and a little outside of a body's upper half, ray by ray."""
    turns = np.linspace(0, math.pi, RAYS)
    solid, turn = _solid(sheet), math.radians(body.angle)
    # Seen from its middle an ellipse is as far in a direction as this.
    far = (
        body.major
        * body.minor
        / 4
        / np.hypot(body.minor / 2 * np.cos(turns - turn), body.major / 2 * np.sin(turns - turn))
    )
    ways = np.stack([np.cos(turns), -np.sin(turns)], axis=1)
    points = np.array([body.x - sheet.left, body.y - sheet.top]) + np.multiply.outer(BESIDE_EDGE, far)[..., None] * ways
    columns = np.clip(np.rint(points[..., 0]), 0, solid.shape[1] - 1).astype(np.intp)
    rows = np.clip(np.rint(points[..., 1]), 0, solid.shape[0] - 1).astype(np.intp)
    return np.asarray(solid[rows, columns] > 0.5)


def _fitted(
    solid: NDArray[np.float32], at: Core, radius: float, corner: tuple[int, int]
) -> tuple[Ellipse, float] | None:
    """The ellipse to a part of a drawing that begins at a ``corner``."""
    left, top = corner
    marked = solid > 0.5
    depth = np.asarray(cv2.distanceTransform(marked.view(np.uint8), cv2.DIST_L2, 5), dtype=np.float32)
    opened, window = opening.opened(marked, depth, OPENED * radius)
    left, top = left + window[1].start, top + window[0].start
    own = opening.part_at(opened, (round(at.y) - top, round(at.x) - left))
    if own is None:
        return None
    # What opening leaves is the body to the pixel; its soft edge is told from the cover just around it.
    solid = solid[window]
    weights = np.where(own, solid, np.where(opening.around(own), np.minimum(solid, 1), 0))
    moments = cv2.moments(np.asarray(weights, dtype=np.float32))
    if moments["m00"] <= 0:
        return None
    ellipse = of_moments(moments, left, top)
    inside = _inside(own.shape, (left, top), ellipse, 0.0)
    both, either = np.count_nonzero(inside & own), np.count_nonzero(inside | own)
    return ellipse, float(both) / max(1, int(either))


def without_body(sheet: Sheet, body: Ellipse, grown: float) -> Mask:
    """Where a drawing's ink is not the body's, that being grown by some px."""
    return ~_inside(sheet.cover.shape, (sheet.left, sheet.top), body, grown)


def _inside(shape: tuple[int, ...], corner: tuple[int, int], body: Ellipse, grown: float) -> Mask:
    """(height, width) where a part of the frame of such a ``shape`` that begins at a ``corner`` lies in the body."""
    height, width = shape
    inside = np.zeros((height, width), bool)
    # No more than what is around it is worked out.
    x, y = body.x - corner[0], body.y - corner[1]
    left, right = max(0, int(x - body.half_width - grown)), min(width, int(x + body.half_width + grown) + 2)
    top, bottom = max(0, int(y - body.half_height - grown)), min(height, int(y + body.half_height + grown) + 2)
    if left < right and top < bottom:
        rows, columns = np.ogrid[top:bottom, left:right]
        inside[top:bottom, left:right] = within(body, columns - x, rows - y, grown)
    return inside


def within(body: Ellipse, dx: NDArray[np.float64], dy: NDArray[np.float64], grown: float) -> Mask:
    """Which places, so many px right of the body's centre and below it, lie within it, that being grown by some px."""
    turn = math.radians(body.angle)
    along, aside = 1 / (body.major / 2 + grown), 1 / (body.minor / 2 + grown)
    # In parts of both half axes: each is a sum of what the row and what the column gives.
    u = dx * (math.cos(turn) * along) - dy * (math.sin(turn) * along)
    v = dx * (math.sin(turn) * aside) + dy * (math.cos(turn) * aside)
    u *= u
    v *= v
    u += v
    return np.asarray(u <= 1.0)
