"""What a person placed in some drawings, which tells what to look for in the others."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.peaks import vertex
from motion.tracking.subjects.figure.body import within
from motion.tracking.subjects.figure.drawn import SIDES, Place
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.looking import Looking

GROWN = 0.15
"""A body is known by what is within it and around it, by so much of its own half width."""
FAR = 0.7
"""From one drawing to the next it goes no farther than so much of its length."""
UNLIKE = 0.5
"""What differs by so much from the body that was placed is another thing."""
OFF, OTHER_SIZE = 0.12, 0.15
"""A body was found amiss that lies off by so much of its length, or is so much larger or smaller."""

ROOTS = ("hip", "neck")
"""Landmarks that both sides have in common."""

Floats = NDArray[np.float64]
Places = Mapping[str, Mapping[int, Place]]


@dataclass(frozen=True, slots=True)
class Help:
    """Landmarks that a person placed, by name and then by drawing (from 0), and bodies by drawing; px."""

    landmarks: Places = field(default_factory=dict)
    bodies: Mapping[int, Ellipse] = field(default_factory=dict)

    def at(self, name: str, drawing: int) -> Place | None:
        """Where a landmark was placed in a drawing."""
        return self.landmarks.get(name, {}).get(drawing)

    def lengths(self) -> tuple[float, float, float | None] | None:
        """Thigh, shin and sole, px, as placed: medians; None where no leg was placed whole."""
        thighs, shins = self._apart("hip", "knee"), self._apart("knee", "ankle")
        if not thighs or not shins:
            return None
        soles = self._apart("heel", "toe")
        return float(np.median(thighs)), float(np.median(shins)), float(np.median(soles)) if soles else None

    def between(self, one: str, other: str) -> float | None:
        """How far apart two joints of a limb were placed, px, the median; None where no such limb was."""
        found = self._apart(one, other)
        return float(np.median(found)) if found else None

    def facing(self) -> float | None:
        """1 where feet were placed that point to the right, -1 to the left."""
        ahead = [
            to[0] - heel[0]
            for side in SIDES
            for drawing, heel in self.landmarks.get(f"heel_{side}", {}).items()
            if (to := self.at(f"toe_{side}", drawing)) is not None
        ]
        return float(np.sign(np.median(ahead))) or None if ahead else None

    def hip_below(self, bodies: Mapping[int, Ellipse]) -> Place | None:
        """How far right of the body's centre, and how far below it, the hip was placed."""
        off = [(x - bodies[n].x, y - bodies[n].y) for n, (x, y) in self.landmarks.get("hip", {}).items() if n in bodies]
        if not off:
            return None
        x, y = np.median(np.array(off), axis=0)
        return float(x), float(y)

    def _apart(self, one: str, other: str) -> list[float]:
        found = []
        for side in SIDES:
            first, second = (name if name in ROOTS else f"{name}_{side}" for name in (one, other))
            for drawing, at in self.landmarks.get(first, {}).items():
                to = self.at(second, drawing)
                if to is not None and math.dist(at, to) > 2:
                    found.append(math.dist(at, to))
        return found


def amiss(placed: Ellipse, found: Ellipse | None) -> bool:
    """Whether what was found is not the body that was placed."""
    if found is None or math.hypot(placed.x - found.x, placed.y - found.y) > OFF * placed.major:
        return True
    return max(abs(found.major / placed.major - 1), abs(found.minor / placed.minor - 1)) > OTHER_SIZE


def like_placed(looking: Looking, placed: Mapping[int, Ellipse]) -> dict[int, Ellipse]:
    """The bodies that look like those that were placed, by drawing: followed from each to where the next was placed."""
    found = dict(placed)
    for start, body in placed.items():
        sheet = looking.sheet(start)
        pattern = _pattern(sheet, body)
        for step in (1, -1):
            last, number = body, start + step
            while 0 <= number < len(looking) and number not in placed:
                if number in found and _nearest(placed, number) != start:
                    break
                next_one = None if looking.is_empty(number) else _found_near(looking.sheet(number), last, pattern)
                if next_one is not None:
                    found[number] = last = next_one
                number += step
    return found


def _nearest(placed: Mapping[int, Ellipse], number: int) -> int:
    return min(placed, key=lambda n: abs(n - number))


@dataclass(frozen=True, slots=True, eq=False)
class _Pattern:
    """What a body looks like: (height, width, 4) how much ink covers, and its colours; where that counts."""

    looks: NDArray[np.float32]
    counts: NDArray[np.float32]
    strength: float


def _pattern(sheet: Sheet, body: Ellipse) -> _Pattern:
    grown = GROWN * body.minor / 2
    wide, tall = (math.ceil(half + grown) for half in (body.half_width, body.half_height))
    looks = _looks(sheet, round(body.x) - wide, round(body.y) - tall, 2 * wide + 1, 2 * tall + 1)
    rows, columns = np.ogrid[-tall : tall + 1, -wide : wide + 1]
    counts = np.repeat(within(body, columns, rows, grown).astype(np.float32)[..., None], 4, axis=2)
    return _Pattern(looks, counts, max(1.0, float((looks**2 * counts).sum())))


def _looks(sheet: Sheet, left: int, top: int, wide: int, tall: int) -> NDArray[np.float32]:
    """(tall, wide, 4) cover and covered colours of a part of the frame, 0 to 1."""
    found = np.zeros((tall, wide, 4), np.float32)
    height, width = sheet.cover.shape
    x0, y0 = max(left, sheet.left), max(top, sheet.top)
    x1, y1 = min(left + wide, sheet.left + width), min(top + tall, sheet.top + height)
    if x0 < x1 and y0 < y1:
        there = np.s_[y0 - sheet.top : y1 - sheet.top, x0 - sheet.left : x1 - sheet.left]
        cover = sheet.cover[there]
        into = found[y0 - top : y1 - top, x0 - left : x1 - left]
        into[..., 0] = cover
        into[..., 1:] = sheet.colour[there][..., :3] * (cover / np.float32(255))[..., None]
    return found


def _found_near(sheet: Sheet, last: Ellipse, pattern: _Pattern) -> Ellipse | None:
    """The body as it looks, near where it last was; None where nothing looks like it."""
    tall, wide = pattern.looks.shape[:2]
    far = math.ceil(FAR * last.major)
    left, top = round(last.x) - wide // 2 - far, round(last.y) - tall // 2 - far
    around = _looks(sheet, left, top, wide + 2 * far, tall + 2 * far)
    off = np.asarray(cv2.matchTemplate(around, pattern.looks, cv2.TM_SQDIFF, mask=pattern.counts), np.float64)
    y, x = divmod(int(np.argmin(off)), off.shape[1])
    if off[y, x] > UNLIKE * pattern.strength:
        return None
    dx = vertex(off[y, x - 1 : x + 2]) if 0 < x < off.shape[1] - 1 else 0.0
    dy = vertex(off[y - 1 : y + 2, x]) if 0 < y < off.shape[0] - 1 else 0.0
    return replace(last, x=left + x + wide // 2 + dx, y=top + y + tall // 2 + dy)
