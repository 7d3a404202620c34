"""What one drawing shows of the figure: how much of each pixel it covers, where it is solid, and its colours."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from motion.tracking.edges import Sight
from motion.tracking.light import words
from motion.tracking.views import View

Cover = NDArray[np.float32]
Mask = NDArray[np.bool_]
AROUND = 9
"""How dark ink is, is told from so many px around."""
INKED = 0.35
"""A pixel is ink of which so much is covered."""
SPECK = 0.004
"""Of the figure's ink: what is smaller, and lies apart, is a speck."""
CLOSES_AT = 1.3
"""Outlines are closed by what stands out by so many times the least that counts."""
FEET, SOLE_PX = 0.07, 4
"""Feet lie in so much of the figure's height above the ground, to which they come as near as so many px."""
HAIR_PX = 8
"""Ink a px high and so many long is a hair."""
HAIR_CLEAR = 7
"""Around the figure so many px across a codec leaves such, too, at its edges."""
FEW_SPECKS = 40
"""More of them are wiped out all at once."""
LINED = 0.5
"""A line is what differs by so much of what differs most close to it: within pale limbs paper may look like ink."""
FAINT = 0.25
"""What covers so much of a pixel may be part of an outline."""
NARROW = 0.45
"""Limbs are narrow whose inside is no wider than so much of what the thickest may be."""
UPPER = 0.46
"""What is enclosed in so much of a whole figure's height from the top is its trunk or its head."""
GAP_PX, ASLANT = 5, 1.5
"""Outlines that are open by so much are closed; of what lies aslant so many times as much goes with that."""


@dataclass(frozen=True, slots=True, eq=False)
class Inked:
    """A drawing's ink packed small, within a box: which pixels differ from what stands still, how much, their colours.

    ``marked`` are bits, row by row; ``levels`` (n,) and ``colours`` (n,), their four bytes as one number, those of the
    marked pixels in that order.
    """

    left: int
    top: int
    shape: tuple[int, int]
    marked: NDArray[np.uint8]
    levels: NDArray[np.uint8]
    colours: NDArray[np.uint32]
    threshold: int

    def unpacked(self) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        """(height, width) by how many levels it differs, (height, width, 4) its colours where it does."""
        height, width = self.shape
        places = np.flatnonzero(np.unpackbits(self.marked, count=height * width))
        differs, colours = np.zeros(height * width, np.uint8), np.zeros(height * width, np.uint32)
        differs[places] = self.levels
        colours[places] = self.colours
        return differs.reshape(height, width), colours.view(np.uint8).reshape(height, width, 4)


def inked(view: View, sight: Sight) -> Inked:
    """What is kept of a drawing that is looked at."""
    left, top, right, bottom = sight.differs.box
    if right - left < 2 or bottom - top < 2:
        nothing = np.zeros(0, np.uint8)
        return Inked(left, top, (0, 0), nothing, nothing, np.zeros(0, np.uint32), sight.threshold)
    window = _without_far_specks(sight.differs.part, sight.threshold)
    part = sight.differs.part[window]
    left, top = left + window[1].start, top + window[0].start
    marked = part > sight.threshold // 2
    places = np.flatnonzero(marked)
    box = (left, top, left + part.shape[1], top + part.shape[0])
    colours = np.ascontiguousarray(words(view.part(box))).reshape(-1).take(places)
    levels = np.ascontiguousarray(part).reshape(-1).take(places)
    return Inked(left, top, part.shape, np.packbits(marked), levels, colours, sight.threshold)


def _without_far_specks(differs: NDArray[np.uint8], threshold: int) -> tuple[slice, slice]:
    """The rows and columns in which all lies that is no speck, told at half size, where neighbours stand together."""
    height, width = differs.shape
    half = cv2.resize(
        cv2.dilate(differs, np.ones((2, 2), np.uint8), anchor=(0, 0)),
        None,
        fx=0.5,
        fy=0.5,
        interpolation=cv2.INTER_NEAREST,
    )
    count, _, about, _ = cv2.connectedComponentsWithStats((half > INKED * 2 * threshold).view(np.uint8), connectivity=8)
    sizes = about[1:, cv2.CC_STAT_AREA]
    own = about[1:][sizes >= 0.5 * SPECK * sizes.sum()]
    if count < 2 or not len(own):
        return np.s_[0:height, 0:width]
    left, top = own[:, cv2.CC_STAT_LEFT].min(), own[:, cv2.CC_STAT_TOP].min()
    right = (own[:, cv2.CC_STAT_LEFT] + own[:, cv2.CC_STAT_WIDTH]).max()
    bottom = (own[:, cv2.CC_STAT_TOP] + own[:, cv2.CC_STAT_HEIGHT]).max()
    rows = slice(max(0, 2 * int(top) - AROUND), min(height, 2 * int(bottom) + AROUND))
    return rows, slice(max(0, 2 * int(left) - AROUND), min(width, 2 * int(right) + AROUND))


@dataclass(frozen=True, eq=False)
class Sheet:
    """One drawing's figure within a box that begins at ``left``, ``top`` px.

    ``cover`` (height, width) is how much of a pixel its ink covers, 0 to 1; ``solid`` the same with what outlines
    enclose, ``colour`` (height, width, 4) its colours.
    """

    left: int
    top: int
    cover: Cover
    solid: Cover
    colour: NDArray[np.uint8]

    @property
    def bytes(self) -> int:
        """What it takes in memory."""
        return self.cover.nbytes + self.solid.nbytes + self.colour.nbytes + 2 * self.cover.size

    @property
    def empty(self) -> bool:
        return self.cover.size == 0 or not bool(self.inked.any())

    @cached_property
    def inked(self) -> Mask:
        """(height, width) which pixels its ink covers by half and more."""
        return self.cover > 0.5

    @cached_property
    def whole(self) -> Mask:
        """(height, width) these and everything that they enclose."""
        return whole(self.inked)


def sheet_of(kept: Inked) -> Sheet:
    """A drawing's ink to work with, with some room around it."""
    differs, colour = kept.unpacked()
    if differs.size == 0:
        nothing = np.zeros((0, 0), np.float32)
        return Sheet(kept.left, kept.top, nothing, nothing, colour)
    padded = cv2.copyMakeBorder(differs, AROUND, AROUND, AROUND, AROUND, cv2.BORDER_CONSTANT)
    colours = cv2.copyMakeBorder(colour, AROUND, AROUND, AROUND, AROUND, cv2.BORDER_CONSTANT)
    cover = _cover(np.asarray(padded, dtype=np.uint8), kept.threshold)
    return Sheet(kept.left - AROUND, kept.top - AROUND, cover, cover, np.asarray(colours))


def filled(sheet: Sheet, kept: Inked, thick_px: float, *, narrow: bool, broad_px: float = 0.0) -> Sheet:
    """A drawing's sheet with what outlines enclose, where that is no thicker than so many px; trunks may be ``broad``.

    Of ``narrow`` limbs, whose paper stands out by itself between their outlines, that too.
    """
    if not sheet.cover.size:
        return sheet
    differs, lines = _lines_of(kept)
    # A pale line beside a dark one counts as well: whatever stands out closes an outline.
    inside = enclosed(differs > CLOSES_AT * kept.threshold, thick_px, broad_px)
    if narrow:
        inside |= enclosed(lines, NARROW * thick_px) | _gaps(lines)
    inside |= _inner_edges(inside, sheet.cover > FAINT)
    return replace(sheet, solid=np.maximum(sheet.cover, inside.astype(np.float32)))


def _inner_edges(inside: Mask, marked: Mask) -> Mask:
    """Where outlines fade towards what they enclose, which is no edge."""
    within = cv2.erode((inside | marked).view(np.uint8), np.ones((3, 3), np.uint8))
    beside = cv2.dilate(inside.view(np.uint8), np.ones((3, 3), np.uint8))
    return (np.asarray(beside) > 0) & (np.asarray(within) > 0)


def enclosed_shares(sheet: Sheet, kept: Inked, thick_px: float, below: float) -> tuple[float, float]:
    """How much a drawing's outlines enclose beside their own area, ``below`` some y of the frame.

    By all that stands out, and by lines that do so as much as what is close to them, with what is as narrow as a gap.
    """
    here = np.s_[max(0, round(below - sheet.top)) :]
    lines, shares = _lines_of(kept)[1], []
    for marked in (sheet.cover > FAINT, lines):
        inside = enclosed(marked, thick_px)
        inside = (inside | _gaps(lines)) if marked is lines else inside
        own = int(np.count_nonzero(marked[here]))
        shares.append(float(np.count_nonzero((inside & ~marked)[here])) / max(1, own))
    return shares[0], shares[1]


def enclosed_parts(sheet: Sheet, thick_px: float, below: float) -> NDArray[np.float64]:
    """(n, 2) how large and how thick, px, each part is that outlines enclose ``below`` some y of the frame."""
    marked = sheet.cover > FAINT
    inside = (enclosed(marked, thick_px) & ~marked)[max(0, round(below - sheet.top)) :].view(np.uint8)
    if not inside.any():
        return np.zeros((0, 2))
    count, parts, about, _ = cv2.connectedComponentsWithStats(inside, connectivity=4)
    thick = 2 * np.asarray(ndimage.maximum(cv2.distanceTransform(inside, cv2.DIST_L2, 3), parts, np.arange(1, count)))
    return np.stack([about[1:, cv2.CC_STAT_AREA].astype(np.float64), thick], axis=1)[thick > GAP_PX]


def enclosed_by_trunk(sheet: Sheet, neck: float, broad_px: float) -> float:
    """The same of what lies between some y of the frame and where the upper part of a whole figure ends."""
    marked = sheet.cover > FAINT
    rows = np.flatnonzero(marked.any(axis=1))
    here = np.s_[max(0, round(neck - sheet.top)) : round(rows[0] + UPPER * (rows[-1] - rows[0]))]
    own = int(np.count_nonzero(marked[here]))
    return float(np.count_nonzero((enclosed(marked, broad_px) & ~marked)[here])) / max(1, own)


def _gaps(marked: Mask) -> Mask:
    """What lies between ink in a place as narrow as a gap."""
    closed = cv2.morphologyEx(marked.view(np.uint8), cv2.MORPH_CLOSE, np.ones((GAP_PX, GAP_PX), np.uint8))
    return (np.asarray(closed) > 0) & ~marked


def _lines_of(kept: Inked) -> tuple[NDArray[np.uint8], Mask]:
    """By how many levels a drawing differs, with some room around it, and where that is as much as close to it."""
    differs = np.asarray(cv2.copyMakeBorder(kept.unpacked()[0], *(AROUND,) * 4, cv2.BORDER_CONSTANT), np.uint8)
    darkest = cv2.dilate(differs, np.ones((AROUND, AROUND), np.uint8)).astype(np.float32)
    return differs, np.asarray(differs > LINED * np.maximum(darkest, 2.0 * kept.threshold))


def _cover(differs: NDArray[np.uint8], threshold: int) -> Cover:
    """Beside the paper ink fades over a pixel or two, by which its edge is told; within the figure it is all ink."""
    marked = differs > threshold
    darkest = np.maximum(cv2.dilate(differs, np.ones((AROUND, AROUND), np.uint8)), min(255, 2 * threshold))
    cover = np.asarray(cv2.divide(differs, darkest.astype(np.uint8), dtype=cv2.CV_32F), dtype=np.float32)
    # Between a dark outline and a pale fill ink passes through the paper's own tone: that is no edge.
    closed = cv2.morphologyEx(marked.view(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    within_it = cv2.erode(closed, np.ones((5, 5), np.uint8))
    np.minimum(cover, 1, out=cover)
    np.maximum(cover, np.asarray(within_it), out=cover)
    return _without_specks(_without_hairs(cover))


def _without_hairs(cover: Cover) -> Cover:
    """The same without level hairs clear of the figure, which a ground's edge leaves that lies a little off what stands
    still; no pen does.
    """
    marked = cover > INKED
    tall = cv2.morphologyEx(marked.view(np.uint8), cv2.MORPH_OPEN, np.ones((2, 1), np.uint8)) > 0
    flat = (marked & ~tall).view(np.uint8)
    hairs = np.asarray(cv2.morphologyEx(flat, cv2.MORPH_OPEN, np.ones((1, HAIR_PX), np.uint8)), np.uint8)
    if hairs.any():
        figure = cv2.dilate(tall.view(np.uint8), np.ones((HAIR_CLEAR, HAIR_CLEAR), np.uint8)) > 0
        cover[(cv2.dilate(hairs, np.ones((3, 3), np.uint8)) > 0) & ~figure] = 0
    return cover


def _without_specks(cover: Cover) -> Cover:
    count, parts, about, _ = cv2.connectedComponentsWithStats((cover > INKED).view(np.uint8), connectivity=8)
    if count <= 2:
        return cover
    sizes = about[1:, cv2.CC_STAT_AREA]
    small = sizes < max(6.0, SPECK * sizes.sum())
    specks = (1 + np.flatnonzero(small)).tolist()
    if len(specks) > FEW_SPECKS:
        return np.asarray(cover * np.concatenate([[1.0], ~small]).astype(np.float32)[np.asarray(parts)])
    # A few are each wiped out within their own box, of which most are tiny.
    for number in specks:
        left, top, wide, tall, _ = about[number].tolist()
        box = np.s_[top : top + tall, left : left + wide]
        cover[box][parts[box] == number] = 0
    return cover


def enclosed(marked: Mask, thick_px: float, broad_px: float = 0.0) -> Mask:
    """What outlines enclose and is no thicker; gaps in them are closed first, but for what is as narrow as these.

    In the upper half of a figure that has a trunk it may be as thick as that is ``broad``.
    """
    rows = np.flatnonzero(marked.any(axis=1))
    if not len(rows):
        return np.zeros_like(marked)
    upper = rows[0] + UPPER * (rows[-1] - rows[0])
    kernel = np.ones((GAP_PX, GAP_PX), np.uint8)
    closed = cv2.morphologyEx(_soled(marked), cv2.MORPH_CLOSE, kernel)
    within = _thin_holes(np.asarray(closed, np.uint8), thick_px, max(broad_px, thick_px), upper)
    # Closing gaps made the lines wider by half of that, inwards too. What that filled of a limb that becomes narrow is
    # a slit between its lines and what is found.
    found = np.asarray(cv2.dilate(within, kernel)) > 0
    slits = _thin_holes((marked | found).astype(np.uint8), ASLANT * GAP_PX, ASLANT * GAP_PX, upper)
    return found | (slits > 0)


def _thin_holes(lines: NDArray[np.uint8], thick_px: float, broad_px: float, upper: float) -> NDArray[np.uint8]:
    """1 in what lines enclose and is no thicker; parts above the row ``upper`` may be as thick as ``broad_px``."""
    filled = lines.copy()
    cv2.floodFill(filled, None, (0, 0), 1)
    holes = np.asarray(filled == 0).astype(np.uint8)
    if not holes.any():
        return np.asarray(holes, np.uint8)
    count, parts, _, middles = cv2.connectedComponentsWithStats(holes, connectivity=4)
    most = np.where(middles[:, 1] < upper, broad_px, thick_px).astype(np.float32)
    thin = np.ones(count, np.uint8)
    thin[parts[cv2.distanceTransform(holes, cv2.DIST_L2, 3) > most[parts] / 2]] = 0
    thin[0] = 0
    return np.asarray(thin[parts], np.uint8)


def _soled(marked: Mask) -> NDArray[np.uint8]:
    """Ink with a sole to each foot at the ground: a drawn line hides those that lie on it."""
    found = marked.astype(np.uint8)
    rows = np.flatnonzero(marked.any(axis=1))
    if not len(rows):
        return found
    last = int(rows[-1])
    band = found[last - max(3, round(FEET * (last - rows[0]))) : last + 1]
    count, _, about, _ = cv2.connectedComponentsWithStats(band, connectivity=8)
    low = band[-1 - SOLE_PX :]
    for left, _, wide, _, _ in about[1:count]:
        # As far as it reaches down to the ground: a foot that is tilted does so at one end.
        down = left + np.flatnonzero(low[:, left : left + wide].any(axis=0))
        if len(down):
            found[last, down[0] : down[-1] + 1] = 1
    return found


def whole(marked: Mask) -> Mask:
    """Ink with everything that it encloses."""
    # Around it all is paper, even where ink reaches the edge.
    around = cv2.copyMakeBorder(marked.view(np.uint8), GAP_PX, GAP_PX, GAP_PX, GAP_PX, cv2.BORDER_CONSTANT)
    filled = cv2.morphologyEx(around, cv2.MORPH_CLOSE, np.ones((GAP_PX, GAP_PX), np.uint8))
    cv2.floodFill(filled, None, (0, 0), 1)
    # Gaps that were closed for that are no ink; those within the figure are.
    inside = np.asarray((filled == 0) | (around > 0)).astype(np.uint8)
    cv2.floodFill(inside, None, (0, 0), 2)
    return np.asarray(inside[GAP_PX:-GAP_PX, GAP_PX:-GAP_PX] != 2)
