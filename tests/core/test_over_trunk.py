"""An arm over a trunk of its own colour is told by its outline; hatching, and what hides behind, is none."""

from __future__ import annotations

import math
import unittest
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.arms import Around
from motion.tracking.subjects.figure.drawn import Drawn
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.over_trunk import OverTrunk
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.trunk import Trunk

Place = tuple[float, float]
Picture = NDArray[np.uint8]
NECK, HIP, WIDE, ARM, EDGE = (100.0, 50.0), (100.0, 150.0), 44, 16, 4
LINE, FILL = (30, 30, 30), (90, 160, 90)


class Shown(Looking):
    """Drawings whose ink is at hand."""

    def __init__(self, sheets: Sequence[Sheet]) -> None:
        super().__init__([], frozenset())
        self._own = sheets

    def sheet(self, index: int) -> Sheet:
        return self._own[index]


def limb(picture: Picture, points: Sequence[Place], wide: int, edge: int) -> None:
    """A capsule, outlined and filled; all line where that is as thick as half of it."""
    line = [np.rint(points).astype(np.int32).reshape(-1, 1, 2)]
    cv2.polylines(picture, line, False, LINE, wide)
    if 0 < 2 * edge < wide:
        cv2.polylines(picture, line, False, FILL, wide - 2 * edge)


def arm_at(swung: float) -> list[Place]:
    """From the neck to the hand of an arm that swings so many degrees forward."""
    turn, bent = math.radians(swung), math.radians(swung + 25)
    elbow = NECK[0] + 48 * math.sin(turn), NECK[1] + 4 + 48 * math.cos(turn)
    return [(NECK[0], NECK[1] + 4), elbow, (elbow[0] + 46 * math.sin(bent), elbow[1] + 46 * math.cos(bent))]


def sheet(
    swung: float | None, *, behind: bool = False, edge: int = EDGE, hatched: bool = False, all_line: int = 0
) -> Sheet:
    """A trunk with an arm over it, or behind; none at all. ``all_line`` px wide it has nothing within its lines."""
    picture = np.full((220, 220, 3), 255, np.uint8)
    if swung is not None and behind:
        limb(picture, arm_at(swung), ARM, edge)
    limb(picture, [NECK, HIP], WIDE, edge)
    if hatched:
        for y in range(40, 160, 9):
            cv2.line(picture, (80, y), (120, y + 14), LINE, 1)
    if swung is not None and not behind:
        limb(picture, arm_at(swung), all_line or ARM, all_line or edge)
    cover = (picture.min(axis=2) < 200).astype(np.float32)
    colour = np.dstack([picture, np.full(picture.shape[:2], 255, np.uint8)])
    return Sheet(0, 0, cover, cover, colour)


def told(sheets: Sequence[Sheet]) -> OverTrunk:
    body = Ellipse(x=100, y=100, major=100, minor=WIDE, angle=90)
    drawn = [Drawn(body=body, places={"hip": HIP}) for _ in sheets]
    own = Trunk(neck=(0.0, -50.0), hip=(0.0, 50.0), other_hip=None, wide=float(WIDE), tilt=90.0)
    return OverTrunk(Shown(sheets), drawn, range(len(sheets)), own, 20.0)


class Over(unittest.TestCase):
    SWINGS = (-40.0, -32.0, 34.0, 42.0, -8.0, 0.0)

    def test_an_arm_is_told_where_it_lies_over_the_trunk(self) -> None:
        over = told([sheet(s) for s in self.SWINGS])
        for index, swung in enumerate(self.SWINGS):
            found = over.of(index)
            drawn = np.zeros((220, 220, 3), np.uint8)
            limb(drawn, arm_at(swung), ARM, 0)
            cv2.polylines(drawn, [np.rint(arm_at(swung)).astype(np.int32).reshape(-1, 1, 2)], False, (9, 9, 9), ARM)
            whole = drawn.max(axis=2) > 0
            with self.subTest(swung=swung):
                assert found is not None
                self.assertGreater(float(np.mean(found[whole])), 0.85)
                self.assertLess(float(np.mean(found[~whole])), 0.02)

    def test_an_arm_so_thin_that_it_is_all_line_is_told_too(self) -> None:
        over = told([sheet(s, all_line=11) for s in self.SWINGS])
        for index, swung in enumerate(self.SWINGS):
            found, drawn = over.of(index), np.zeros((220, 220, 3), np.uint8)
            cv2.polylines(drawn, [np.rint(arm_at(swung)).astype(np.int32).reshape(-1, 1, 2)], False, (9, 9, 9), 11)
            trunk = np.zeros((220, 220), np.uint8)
            cv2.line(trunk, (100, 60), (100, 140), 1, WIDE - 4 * EDGE)
            on_trunk = trunk > 0
            with self.subTest(swung=swung):
                assert found is not None
                self.assertGreater(float(np.mean(found[(drawn.max(axis=2) > 0) & on_trunk])), 0.8)
                self.assertLess(float(np.mean(found[(drawn.max(axis=2) == 0) & on_trunk])), 0.03)

    def test_lines_as_thin_as_the_outline_are_no_arm(self) -> None:
        thin = [sheet(s, all_line=EDGE) for s in self.SWINGS]
        self.assertTrue(all(told(thin).of(n) is None for n in range(len(thin))))

    def test_of_alike_arms_it_is_the_one_that_goes_against_its_leg(self) -> None:
        sheets = [sheet(s) for s in self.SWINGS]
        body = Ellipse(x=100, y=100, major=100, minor=WIDE, angle=90)
        trunk = Trunk(neck=(0.0, -50.0), hip=(0.0, 50.0), other_hip=None, wide=float(WIDE), tilt=90.0)
        legs = Build(hip=(0.0, 50.0), thigh=50.0, shin=50.0, foot=20.0, wide=20.0, facing=1.0, tilt=90.0)
        for against, sided, side in ((True, False, 0), (False, False, 1), (False, True, 0)):
            found = []
            for swung in self.SWINGS:
                ahead = math.copysign(30, swung) * (-1 if against else 1)
                ankles = {"ankle_near": (100 + ahead, 250.0), "ankle_far": (100 - ahead, 250.0)}
                found.append(Drawn(body=body, places={"hip": HIP, **ankles}))
            around = Around(
                looking=Shown(sheets),
                found=found,
                seen=range(len(sheets)),
                playing=Playing([(n, n) for n in range(len(sheets))]),
                legs=legs,
                trunk=trunk,
                sided=(lambda n: (sheets[n].cover, sheets[n].cover)) if sided else None,
                helped=Help({}, {}),
            )
            with self.subTest(against=against, sided=sided):
                self.assertEqual(around.over_side, side)

    def test_what_is_filled_without_lines_and_what_lies_behind_shows_none(self) -> None:
        flat = [sheet(s, edge=0) for s in self.SWINGS]
        self.assertTrue(all(told(flat).of(n) is None for n in range(len(flat))))
        behind = [sheet(s, behind=True) for s in self.SWINGS]
        trunk = np.zeros((220, 220), np.uint8)
        cv2.line(trunk, (100, 60), (100, 140), 1, WIDE // 2)
        for n in range(len(behind)):
            found = told(behind).of(n)
            self.assertTrue(found is None or not found[trunk > 0].any())

    def test_a_hatched_trunk_is_no_arm(self) -> None:
        hatched = [sheet(s, hatched=True, behind=True) for s in self.SWINGS]
        for n in range(len(hatched)):
            found = told(hatched).of(n)
            self.assertTrue(found is None or np.count_nonzero(found[60:140, 90:110]) < 200)
