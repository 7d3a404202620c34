"""Arms that are drawn over the trunk, told by their outlines there.

Where what limbs are filled with is the trunk's own colour, only lines tell an arm from what it lies over. They enclose
a part as narrow as a limb that begins near the neck; or, of arms so thin that they are all line, they are thicker than
the trunk's own outline.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.figure.drawn import Drawn, Place
from motion.tracking.subjects.figure.ink import Mask, Sheet
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.trunk import Trunk

Colour = NDArray[np.float64]
Numbers = NDArray[np.int32]
SAMPLED = 9
"""From so many drawings it is told whether, and in which colour, the trunk has an outline."""
EDGE, DEEP = (1.2, 2.6), 0.28
"""Its outline is so many px within its edge, what fills it so many of its widths."""
APART = 28.0
"""Levels by which both differ, at least."""
NARROW = (0.25, 1.1)
"""What an arm's lines enclose is so many times as wide as a leg."""
FEWEST, AS_WIDE = 3, 0.25
"""How wide that is, is told from so many arms; all are as wide to this."""
LEAST_AREA = 2.0
"""And so many times as large as a square of that width."""
AT_NECK = 0.3
"""An arm begins so near to where the trunk does, in trunks."""
ALONG_EDGE = 0.3
"""What has so much of it nearer to the trunk's edge than to other lines is what an arm leaves of the trunk."""
THICKER = 1.5
"""Lines so many times as thick as the trunk's outline are arms that are all line."""
MOST_OF_TRUNK = 0.6
"""Where more of the trunk is cut up by lines, they are its own: hatching, a pattern."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Lined:
    """A drawing's ``lines`` and its ``trunk`` from neck to hip; ``within`` how far inside what is drawn pixels lie,
    px; ``neck`` where the trunk begins and ``long`` how long it is, px in the sheet.
    """

    lines: Mask
    solid: Mask
    trunk: Mask
    within: NDArray[np.float32]
    neck: Place
    long: float

    def begins_at_neck(self, numbers: Numbers, count: int) -> Mask:
        """(parts,) whether numbered parts come near to where the trunk begins."""
        rows, columns = np.nonzero(numbers)
        near = np.hypot(columns - self.neck[0], rows - self.neck[1]) <= AT_NECK * self.long
        return np.bincount(numbers[rows[near], columns[near]], minlength=count) > 0


class OverTrunk:
    """Where in each drawing an arm is drawn over the trunk."""

    def __init__(
        self, looking: Looking, found: Sequence[Drawn], seen: Sequence[int], trunk: Trunk, leg_wide: float
    ) -> None:
        self._looking, self._found = looking, found
        self._wide, self._leg_wide = trunk.wide, leg_wide
        self._known: dict[int, tuple[tuple[int, ...], NDArray[np.uint8]] | None] = {}
        some = [seen[round(k)] for k in np.linspace(0, len(seen) - 1, min(SAMPLED, len(seen)))]
        self._colours = self._outlined(some)
        lined = [] if self._colours is None else [self._lined(i, self._colours) for i in some]
        self._edge_px = float(np.median([_edge_px(one) for one in lined])) if lined else 0.0
        self._arm_wide = self._usual_width(lined)

    def of(self, index: int) -> Mask | None:
        """(height, width) where an arm lies over the trunk in a drawing's sheet; None: nowhere, or it does not show."""
        if self._colours is None:
            return None
        if index not in self._known:
            told = self._told(self._lined(index, self._colours))
            # Of two hundred large drawings they are kept eight pixels a byte.
            self._known[index] = None if told is None else (told.shape, np.packbits(told))
        kept = self._known[index]
        if kept is None:
            return None
        shape, packed = kept
        return np.unpackbits(packed, count=shape[0] * shape[1]).reshape(shape).view(np.bool_)

    def _usual_width(self, lined: Sequence[_Lined]) -> float | None:
        """How wide what an arm's lines enclose is, px; None where they enclose nothing."""
        wide: list[float] = []
        for one in lined:
            _, widths, own = self._enclosed(one)
            wide += [w for w in widths[own] if NARROW[0] * self._leg_wide <= w <= NARROW[1] * self._leg_wide]
        return float(np.median(wide)) if len(wide) >= FEWEST else None

    def _told(self, one: _Lined) -> Mask | None:
        arm = self._all_line(one)
        if self._arm_wide is not None:
            numbers, widths, own = self._enclosed(one)
            own = own & (np.abs(widths / self._arm_wide - 1) <= AS_WIDE)
            inside = np.asarray(own[numbers])
            # With the lines around it, and as far as these.
            reach = max(2, round(self._edge_px))
            grown = cv2.dilate(inside.view(np.uint8), _disc(2 * reach + 1)) > 0
            arm |= inside | (grown & one.lines)
        told = arm & one.solid
        if not told.any() or np.count_nonzero(told & one.trunk) > MOST_OF_TRUNK * np.count_nonzero(one.trunk):
            return None
        return np.asarray(told)

    def _enclosed(self, one: _Lined) -> tuple[Numbers, NDArray[np.float64], Mask]:
        """What lines enclose: which part each pixel belongs to, how wide each is, px, and which are arms."""
        inside = (one.solid & ~one.lines).view(np.uint8)
        count, labels, about, _ = cv2.connectedComponentsWithStats(inside, connectivity=4)
        numbers = np.asarray(labels, np.int32)
        depth = np.asarray(cv2.distanceTransform(inside, cv2.DIST_L2, 3), np.float32)
        widths = 2 * _deepest(depth, numbers, count)
        widths[0] = 0.0
        sizes = about[:, cv2.CC_STAT_AREA]
        on_trunk = np.bincount(numbers[one.trunk], minlength=count)
        along = one.trunk & (one.within - depth <= 1.3 * self._edge_px + 1.0)
        at_edge = np.bincount(numbers[along], minlength=count) / np.maximum(1, on_trunk)
        own = (widths > 0) & (sizes >= LEAST_AREA * widths**2) & (on_trunk > 0) & (at_edge < ALONG_EDGE)
        return numbers, widths, np.asarray(own & one.begins_at_neck(numbers, count))

    def _all_line(self, one: _Lined) -> Mask:
        """Lines on the trunk that are thicker than its outline, and begin at the neck."""
        thick = cv2.morphologyEx(
            (one.lines & one.trunk & (one.within > self._edge_px + 1.0)).view(np.uint8),
            cv2.MORPH_OPEN,
            _disc(max(3, round(THICKER * self._edge_px))),
        )
        count, labels, about, _ = cv2.connectedComponentsWithStats(thick, connectivity=8)
        numbers = np.asarray(labels, np.int32)
        large = about[:, cv2.CC_STAT_AREA] >= LEAST_AREA * (THICKER * self._edge_px) ** 2
        large[0] = False
        return np.asarray((large & one.begins_at_neck(numbers, count))[numbers])

    def _lined(self, index: int, colours: tuple[Colour, Colour]) -> _Lined:
        sheet, drawn = self._looking.sheet(index), self._found[index]
        line, fill = colours
        way = (line - fill).astype(np.float32)
        share = (sheet.colour[..., :3].astype(np.float32) - fill.astype(np.float32)) @ way
        solid = np.asarray(sheet.solid > 0.5)
        (x, y), (to_x, to_y) = _upper_end(drawn), drawn.places["hip"]
        return _Lined(
            lines=np.asarray((share > 0.5 * float(way @ way)) & solid),
            solid=solid,
            trunk=self._trunk_in(sheet, drawn),
            within=np.asarray(cv2.distanceTransform(solid.view(np.uint8), cv2.DIST_L2, 3), np.float32),
            neck=(x - sheet.left, y - sheet.top),
            long=float(np.hypot(to_x - x, to_y - y)),
        )

    def _trunk_in(self, sheet: Sheet, drawn: Drawn) -> Mask:
        """Where a drawing's trunk is, from its neck to its hip."""
        image = np.zeros(sheet.cover.shape, np.uint8)
        if drawn.body is None:
            return image > 0
        ends = np.array([_upper_end(drawn), drawn.places["hip"]]) - np.array([sheet.left, sheet.top])
        cv2.polylines(image, [np.rint(ends).astype(np.int32).reshape(-1, 1, 2)], False, 1, max(1, round(self._wide)))
        return np.asarray((image > 0) & (sheet.solid > 0.5))

    def _outlined(self, some: Sequence[int]) -> tuple[Colour, Colour] | None:
        """The colours of the trunk's outline and of what fills it; None where it has no outline."""
        lines, fills = [], []
        for index in some:
            sheet = self._looking.sheet(index)
            trunk = self._trunk_in(sheet, self._found[index])
            within = cv2.distanceTransform((sheet.solid > 0.5).view(np.uint8), cv2.DIST_L2, 3)
            edge = trunk & (within > EDGE[0]) & (within <= EDGE[1])
            deep = trunk & (within > DEEP * self._wide)
            if edge.any() and deep.any():
                lines.append(np.median(sheet.colour[edge][:, :3], axis=0))
                fills.append(np.median(sheet.colour[deep][:, :3], axis=0))
        if not lines:
            return None
        line, fill = np.median(lines, axis=0), np.median(fills, axis=0)
        return (line, fill) if float(np.abs(line - fill).max()) >= APART else None


def _upper_end(drawn: Drawn) -> Place:
    """Where a trunk begins, on the line from its hip through its middle."""
    x, y = drawn.places["hip"]
    return (x, y) if drawn.body is None else (2 * drawn.body.x - x, 2 * drawn.body.y - y)


def _disc(across: int) -> NDArray[np.uint8]:
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (across, across)), np.uint8)


def _deepest(depth: NDArray[np.float32], parts: Numbers, count: int) -> NDArray[np.float64]:
    """(parts,) how far from its edge the middle of each part is, px."""
    found = np.zeros(count, np.float32)
    np.maximum.at(found, parts.reshape(-1), depth.reshape(-1))
    return found.astype(np.float64)


def _edge_px(one: _Lined) -> float:
    """How thick the trunk's outline is, px: how far inside it fill begins, on the whole."""
    fill = (one.solid & ~one.lines & one.trunk).view(np.uint8)
    rim = (fill > 0) & (cv2.erode(fill, np.ones((3, 3), np.uint8)) == 0) & (one.within > 1.0)
    # Arms have an outline of their own deeper inside; the trunk's is what lies nearest to the edge.
    return float(np.percentile(one.within[rim], 25)) if rim.any() else 0.0
