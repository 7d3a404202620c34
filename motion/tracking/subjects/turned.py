"""What hangs and is no round thing, a figure on a swing say, found by its own picture turned about the pivot.

A person places it in a drawing or two. Where its outline there is not what was placed, outlines tell nothing of it in
the others either; but it swings as one piece. What differs around it is laid out by angle and distance from the pivot,
where turning is shifting, and looked for in the same layout of every other drawing.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.track import Shape
from motion.tracking import outline
from motion.tracking.ellipse import Ellipse, axis_angle
from motion.tracking.light import NOWHERE
from motion.tracking.peaks import vertex
from motion.tracking.subjects.blob import Followed, sights

Place = tuple[float, float]
Layout = NDArray[np.float32]
ROUND, NEAR, ALIKE = 0.75, 0.15, 0.25
"""An outline is what was placed where it is so round, and its middle and its size's log are off by no more."""
AROUND = 0.62
"""So much of its size around its middle is looked for."""
FARTHEST_DEGREES, IN_AND_OUT = 160.0, 0.08
"""It is looked for so far to both sides of straight down, and so much nearer and farther: a share of its distance."""
LEAST_LIKE = 0.4
"""What is less like it than this is not it: 1 is the same."""


@dataclass(frozen=True, slots=True)
class _Kind:
    """It as placed in a drawing: its ellipse, where it lies from the pivot (degrees, px), and how it looks there."""

    ellipse: Ellipse
    angle: float
    far: float
    layout: Layout


def is_needed(followed: Followed, placed: Mapping[int, Ellipse]) -> bool:
    """Whether outlines do not show what a person placed, by drawing number."""
    wanted = sorted(n - 1 for n in placed if 1 <= n <= len(followed.seen))
    told = [
        _is_it(outline.near(sight, placed[index + 1]), placed[index + 1])
        for index, sight in sights(followed.pictures, followed.eye, followed.seen, wanted)
    ]
    return bool(told) and not any(told)


def shapes(followed: Followed, placed: Mapping[int, Ellipse], pivot: Place) -> tuple[Shape | None, ...]:
    """Every drawing's shape: as placed by a person, or by what was placed nearest to it."""
    kinds = {n - 1: _kind(followed, n - 1, e, pivot) for n, e in placed.items() if 1 <= n <= len(followed.seen)}
    found: list[Shape | None] = []
    for index, own in enumerate(followed.shapes):
        if index in kinds or followed.seen[index].kept is None or index + 1 in followed.empty:
            found.append(own)
            continue
        nearest = min(kinds, key=lambda k: abs(k - index))
        found.append(_found(followed, index, kinds[nearest], pivot))
    return tuple(found)


def _is_it(found: outline.Candidate | None, placed: Ellipse) -> bool:
    if found is None:
        return False
    size = math.sqrt(placed.major * placed.minor)
    off = math.hypot(found.ellipse.x - placed.x, found.ellipse.y - placed.y)
    return found.roundness >= ROUND and off <= NEAR * size and abs(math.log(found.size / size)) <= ALIKE


def _kind(followed: Followed, index: int, ellipse: Ellipse, pivot: Place) -> _Kind:
    dx, dy = ellipse.x - pivot[0], ellipse.y - pivot[1]
    far, angle = math.hypot(dx, dy), math.degrees(math.atan2(dx, dy))
    reach = AROUND * ellipse.major
    turns = _degrees(reach, far)
    layout = _layout(followed, index, pivot, (angle - turns, angle + turns), (far - reach, far + reach), far)
    return _Kind(ellipse, angle, far, layout)


def _found(followed: Followed, index: int, kind: _Kind, pivot: Place) -> Shape | None:
    reach, more = AROUND * kind.ellipse.major, IN_AND_OUT * kind.far
    turns = (-FARTHEST_DEGREES, FARTHEST_DEGREES)
    layout = _layout(followed, index, pivot, turns, (kind.far - reach - more, kind.far + reach + more), kind.far)
    if not layout.any() or any(a < b for a, b in zip(layout.shape, kind.layout.shape, strict=True)):
        return None
    like = _likeness(layout, kind.layout)
    row, column = divmod(int(like.argmax()), like.shape[1])
    best = float(like[row, column])
    if best < LEAST_LIKE:
        return None
    along = column + (vertex(like[row, column - 1 : column + 2]) if 0 < column < like.shape[1] - 1 else 0.0)
    across = row + (vertex(like[row - 1 : row + 2, column]) if 0 < row < like.shape[0] - 1 else 0.0)
    angle = -FARTHEST_DEGREES + _degrees(along, kind.far) + _degrees(reach, kind.far)
    far = kind.far - more + across
    turn, ellipse = math.radians(angle), kind.ellipse
    x, y = pivot[0] + far * math.sin(turn), pivot[1] + far * math.cos(turn)
    turned = Ellipse(
        x=x, y=y, major=ellipse.major, minor=ellipse.minor, angle=axis_angle(ellipse.angle - (angle - kind.angle))
    )
    height, width = followed.eye.background.light.shape[:2]
    return Shape(
        drawing=index + 1,
        x=x,
        y=y,
        major=turned.major,
        minor=turned.minor,
        angle=turned.angle,
        bottom=turned.bottom,
        clipped=outline.reaches_out(turned, width, height),
        confidence=round(min(0.95, best), 3),
    )


def _likeness(layout: Layout, own: Layout) -> Layout:
    """How like each part of a layout is to another: 1 where it is the same, 0 where nothing of it is there."""
    strength = cv2.matchTemplate(layout**2, np.ones_like(own), cv2.TM_CCORR) + float((own**2).sum())
    return np.asarray(2 * cv2.matchTemplate(layout, own, cv2.TM_CCORR) / np.maximum(strength, 1.0), dtype=np.float32)


def _degrees(px: float, far: float) -> float:
    """How many degrees so many px along the arc are."""
    return math.degrees(px / max(1.0, far))


def _layout(
    followed: Followed, index: int, pivot: Place, turns: tuple[float, float], reaches: tuple[float, float], far: float
) -> Layout:
    """(n, m) by how much a drawing differs: a row a px away from the pivot, a column a px of the arc ``far`` out."""
    kept = followed.seen[index].kept
    angles = np.radians(np.arange(turns[0], turns[1] + 1e-9, _degrees(1.0, far)))
    away = np.arange(reaches[0], reaches[1] + 1e-9)
    if kept is None or kept.box == NOWHERE:
        return np.zeros((len(away), len(angles)), np.float32)
    differs = kept.unpacked(followed.eye.background.shade, kept.box)[0]
    x = pivot[0] + away[:, None] * np.sin(angles)[None, :] - kept.box[0]
    y = pivot[1] + away[:, None] * np.cos(angles)[None, :] - kept.box[1]
    told = cv2.remap(
        differs.astype(np.float32),
        x.astype(np.float32),
        y.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
    )
    return np.asarray(cv2.GaussianBlur(told, (0, 0), 1.0), dtype=np.float32)
