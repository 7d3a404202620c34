"""Proportions to begin with: as a person placed them, else those by which legs explain some drawings' ink best."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import ink, poses
from motion.tracking.subjects.figure.drawn import Drawn, Place
from motion.tracking.subjects.figure.ink import Mask, Sheet
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.trunk import Trunk

HOLLOW, SAMPLED_HOLLOW = 0.5, 9
"""Limbs are hollow where outlines mostly enclose so many times their own area below the body."""
THICKEST = 0.22
"""Nothing thicker than so much of the legs' room, ground to hip, is a limb."""
UNDER, THICKEST_WHOLE, BROADEST = 0.58, 0.12, 0.24
"""Of a whole figure's height: from where on down there are only legs, what no limb is thicker than, and no trunk."""
FEWEST_PARTS, THICKER, THICKER_PX = 4, 1.35, 2.0
"""Of so many parts that outlines enclose it is told how thick limbs are; no limb is so many times as thick, and so many
px more.
"""
SAMPLED = 4
LENGTHS = (0.94, 1.04, 1.14, 1.26)
"""How long legs may be, in rooms from hip to ground: bent ones are longer than they are high."""
CLEARLY = 1.5
"""A figure faces the way in which its legs explain so many times less badly what is drawn."""
HIGH, HIP = 1.07, 0.325
"""The first guess: of the room above the ground a straight leg takes all but its foot; the hip lies so much of the
body's height below its middle."""
FOOT = 0.24


def first_guess(
    looking: Looking,
    found: Sequence[Drawn],
    lows: Sequence[float | None],
    facing: float | None,
    helped: Help,
    trunk: Trunk | None = None,
) -> Build | None:
    """Proportions to begin with: as a person placed them, else those by which legs explain some drawings' ink best.

    The body of a whole figure is its ``trunk``, at whose lower end the hip is.
    """
    told = [(i, d.body, low) for i, (d, low) in enumerate(zip(found, lows, strict=True)) if d.body and low is not None]
    if len(told) < 3:
        return None
    seen = [i for i, _, _ in told]
    height = float(np.median([2 * body.half_height for _, body, _ in told]))
    ground = float(np.median([low for _, _, low in told]))
    hips = _hips(helped.hip_below({i: body for i, body, _ in told}), trunk, height)
    middle = float(np.median([body.y for _, body, _ in told]))
    room = ground - middle - (HIP * height if trunk is None else trunk.hip[1])
    if room < 24:
        return None
    some = [seen[round(k)] for k in np.linspace(0, len(seen) - 1, min(SAMPLED, len(seen)))]
    under = None if trunk is None else trunk.hip[1]
    sampled = [seen[round(k)] for k in np.linspace(0, len(seen) - 1, SAMPLED_HOLLOW)]
    if not looking.hollow:
        _fill_legs(looking, found, sampled, room, under)
    wide = _stroke(looking, found, some, room, under)
    known, facing = helped.lengths(), facing or helped.facing()

    def build(times: float, way: float, off: Place) -> Build:
        leg = times * (ground - middle - off[1]) / HIGH
        hip = way * off[0], off[1]
        tilt = None if trunk is None else trunk.tilt
        if known is None:
            return Build(hip=hip, thigh=leg / 2, shin=leg / 2, foot=FOOT * leg, wide=wide, facing=way, tilt=tilt)
        thigh, shin, sole = known
        foot = sole or FOOT * (thigh + shin)
        return Build(hip=hip, thigh=thigh, shin=shin, foot=foot, wide=wide, facing=way, tilt=tilt)

    ways = (1.0, -1.0) if facing is None else (facing,)
    long = LENGTHS if known is None else (1.0,)
    tried = [build(times, way, off) for way in ways for off in hips for times in long]
    shown = [(looking.sheet(i), body) for i in some if (body := found[i].body) is not None]
    return _likeliest(tried, shown)


def _hips(placed: Place | None, trunk: Trunk | None, height: float) -> list[Place]:
    """Where the hip may be from the body's middle, px right and down: where a person placed it, else as it is told."""
    if placed is not None:
        return [placed]
    if trunk is None:
        return [(0.0, HIP * height)]
    return [trunk.hip, *([] if trunk.other_hip is None else [trunk.other_hip])]


def _likeliest(tried: Sequence[Build], shown: Sequence[tuple[Sheet, Ellipse]]) -> Build:
    """The proportions by which legs explain the ink of some drawings best; half of them are left out half way.

    Which way it faces mostly shows at once: then no legs are tried that face the other way.
    """
    # To the legs that are tried it is all one which way they face.
    alike = {own: replace(own, facing=1.0) for own in tried}
    searches = {own: poses.Search(own, poses.COARSE) for own in set(alike.values())}

    def cost(own: Build, seen: Sequence[tuple[Sheet, Ellipse]]) -> float:
        smalls = (poses.Small(sheet, body, own) for sheet, body in seen)
        return sum(float(searches[alike[own]].legs_of(small).pair_costs.min()) for small in smalls)

    first, then = shown[::2], shown[1::2]
    usual = [own for own in tried if own.leg == tried[len(tried) // 2].leg]
    costs = {own: cost(own, first) for own in usual}
    best = min(costs, key=costs.__getitem__)
    if all(costs[own] > CLEARLY * costs[best] for own in usual if own is not best):
        tried = [own for own in tried if own.facing == best.facing]
    costs = {own: costs[own] if own in costs else cost(own, first) for own in tried}
    left = sorted(costs, key=costs.__getitem__)[: (len(costs) + 1) // 2]
    return min(left, key=lambda own: costs[own] + cost(own, then))


def fill_hollow(looking: Looking, heads: Sequence[Ellipse | None]) -> None:
    """Where the limbs of whole figures are drawn by their outlines, what these enclose is ink from now on."""
    shown = [(n, head) for n, head in enumerate(heads) if head is not None]
    shares, parts, trunks, talls = [], [], [], []
    for number, head in (shown[round(k)] for k in np.linspace(0, len(shown) - 1, min(SAMPLED_HOLLOW, len(shown)))):
        sheet = looking.sheet(number)
        rows = np.flatnonzero((sheet.cover > ink.FAINT).any(axis=1))
        talls.append(int(rows[-1] - rows[0]))
        legs = sheet.top + rows[0] + UNDER * talls[-1]
        shares.append(ink.enclosed_shares(sheet, looking.kept(number), THICKEST_WHOLE * talls[-1], legs))
        parts.append(ink.enclosed_parts(sheet, THICKEST_WHOLE * talls[-1], legs))
        trunks.append(ink.enclosed_by_trunk(sheet, head.y + head.half_height, BROADEST * talls[-1]))
    tall = float(np.median(talls or [0]))
    _fill(looking, shares, _as_thick(parts, THICKEST_WHOLE * tall), BROADEST * tall, trunks)


def _fill_legs(looking: Looking, found: Sequence[Drawn], some: Sequence[int], room: float, under: float | None) -> None:
    """The same of legs that hang on a body, or ``under`` it by so many px."""
    shares, parts = [], []
    for index in some:
        body = found[index].body
        if body is not None:
            legs = body.y + (body.half_height + 0.05 * room if under is None else under)
            shares.append(ink.enclosed_shares(looking.sheet(index), looking.kept(index), THICKEST * room, legs))
            parts.append(ink.enclosed_parts(looking.sheet(index), THICKEST * room, legs))
    _fill(looking, shares, _as_thick(parts, THICKEST * room))


def _as_thick(parts: Sequence[NDArray[np.float64]], most: float) -> float:
    """How thick limbs are at most that are drawn by outlines, px: what lies between two legs is thicker, mostly.

    ``parts`` (n, 2) are how large and how thick is what outlines enclose, by drawing.
    """
    told = np.concatenate([*parts, np.zeros((0, 2))])
    if len(told) < FEWEST_PARTS:
        return most
    told = told[np.argsort(told[:, 1])]
    usual = float(told[np.searchsorted(np.cumsum(told[:, 0]), told[:, 0].sum() / 2), 1])
    return min(most, THICKER * usual + THICKER_PX)


def _fill(
    looking: Looking,
    shares: Sequence[tuple[float, float]],
    thick_px: float,
    broad_px: float = 0.0,
    trunks: Sequence[float] = (),
) -> None:
    """Fill outlines that mostly enclose so much that limbs, or ``trunks``, are drawn by them, with nothing between."""
    if not shares:
        return
    by_all, by_lines = (float(np.median(own)) for own in zip(*shares, strict=True))
    # Between the outlines of thin legs nothing may be left.
    if max(by_all, by_lines, *([float(np.median(trunks))] if trunks else [])) > HOLLOW:
        looking.fill_outlines(thick_px, narrow=by_all <= HOLLOW, broad_px=broad_px)


def _stroke(looking: Looking, found: Sequence[Drawn], some: Sequence[int], room: float, under: float | None) -> float:
    """How wide legs are drawn, px."""
    widths = []
    for sheet, outside in _below(looking, found, some, room, under):
        legs = ((sheet.solid > 0.5) & outside).astype(np.uint8)
        outlines, _ = cv2.findContours(legs, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        around = sum(cv2.arcLength(o, closed=True) for o in outlines)
        if around > room:
            # A stroke is as wide as twice its area beside the way all round it.
            widths.append(2 * float(np.count_nonzero(legs)) / around)
    return max(1.5, float(np.median(widths))) if widths else 4.0


def _below(
    looking: Looking, found: Sequence[Drawn], some: Sequence[int], room: float, under: float | None
) -> Iterator[tuple[Sheet, Mask]]:
    """Each drawing of some that shows a body, and where that is not; only ``under`` it by so many px and more."""
    for index in some:
        body = found[index].body
        if body is not None:
            sheet = looking.sheet(index)
            outside = bodies.without_body(sheet, body, 0.05 * room)
            if under is not None:
                outside[: max(0, round(body.y + under - sheet.top))] = False
            yield sheet, outside
