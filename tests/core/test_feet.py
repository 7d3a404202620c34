"""Feet and shins: soles that bend up, that a ground cuts or that span two feet; shins that go on too far."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import feet
from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.limbs import Leg, Limbs
from motion.tracking.subjects.figure.settle import Across, Stretch
from tests.core.test_figure import BUILD

FAR_AWAY = np.array([[-500.0, -500.0]])


class Shins(unittest.TestCase):
    def test_one_that_goes_on_farther_than_ankles_are_is_longer_though_its_foot_hides(self) -> None:
        """The other leg, in another tone, lies over the foot."""
        knee, build = (100.0, 90.0), replace(BUILD, thigh=70.0, shin=70.0, wide=10.0)
        for long, aslant in ((86.0, 0.3), (70.0, 0.3), (60.0, -0.2)):
            way = np.array([math.sin(aslant), math.cos(aslant)])
            end = np.array(knee) + long * way
            cover = np.zeros((260, 220), np.float32)
            for one, other in (((80.0, 22.0), knee), (knee, tuple(end))):
                cv2.line(cover, *(tuple(np.rint(p).astype(int).tolist()) for p in (one, other)), 1, 10)
            nothing = Across(np.zeros((0, 2)), np.zeros(0), (0.0, 1.0))
            shin = Stretch(*knee, *(float(v) for v in way), 1.0, 0.3, 10.0)
            legs = [
                Leg(knee, tuple(end), tuple(end), own, nothing, nothing, shin=shin, joint=knee)
                for own in (cover, np.zeros_like(cover))
            ]
            sheet = Sheet(0, 0, cover, cover, np.zeros((260, 220, 4), np.uint8))
            limbs = Limbs(sheet, Ellipse(x=80, y=20, major=20, minor=20, angle=0), build, legs)
            limbs.place_ankles(build, (-10.0, 6.0))
            with self.subTest(long=long):
                self.assertEqual(legs[0].longer, long > build.shin)
                if legs[0].foot_joint is not None:
                    self.assertAlmostEqual(math.dist(knee, legs[0].foot_joint), long, delta=6.0)
                self.assertIsNone(legs[1].foot_joint)


class Soles(unittest.TestCase):
    def test_heel_and_toe_are_where_the_sole_bends_up_round_or_not(self) -> None:
        ankle, knee = (60.0, 100.0), (66.0, 34.0)
        for corner in (False, True):
            for turn in (-15.0, 0.0, 20.0):
                cover = np.zeros((1500, 1400), np.uint8)
                ahead = np.array([math.cos(math.radians(turn)), math.sin(math.radians(turn))])
                down = np.array([-ahead[1], ahead[0]])
                heel = np.array(ankle) - 9 * ahead + 12 * down
                toe = heel + 42 * ahead
                ends = [(p - 5 * down + 0.5) * 10 - 0.5 for p in (heel, toe)]
                if corner:
                    box = [heel, toe, toe - 10 * down, heel - 10 * down]
                    cv2.fillPoly(cover, [np.rint((np.array(box) + 0.5) * 10 - 0.5).astype(np.int32)], 255)
                else:
                    cv2.line(cover, *(tuple(np.rint(p).astype(int).tolist()) for p in ends), 255, 100)
                shin = [tuple(np.rint((np.array(p) + 0.5) * 10 - 0.5).astype(int).tolist()) for p in (knee, ankle)]
                cv2.line(cover, *shin, 255, 80)
                small = (cv2.resize(cover, (140, 150), interpolation=cv2.INTER_AREA) / np.float32(255)).astype(
                    np.float32
                )
                found = feet.foot_of(small, (0.0, 0.0), knee, ankle, FAR_AWAY, BUILD)
                with self.subTest(corner=corner, turn=turn):
                    assert found is not None
                    self.assertLess(math.dist(found.heel, heel), 1.3)
                    self.assertLess(math.dist(found.toe, toe), 1.3)
                    back = found.placed(*found.seen_from(ankle, knee), knee)
                    self.assertLess(math.dist(back, ankle), 1e-6)

    def foot(self, line: list[Place], *, ground: float = 400.0, beside: list[Place] | None = None) -> feet.Foot | None:
        """A round foot along a line below a shin, cut off at a ground; another one's beside it."""
        cover = np.zeros((400 * 4, 140 * 4), np.uint8)
        for points in (line, [(66.0, 34.0), (60.0, 100.0)], beside or []):
            fixed = [tuple(round((v + 0.5) * 4 - 0.5) for v in p) for p in points]
            for one, other in itertools.pairwise(fixed):
                cv2.line(cover, one, other, 255, 40)
        cover[round((ground + 0.5) * 4) :] = 0
        small = cv2.resize(cover, (140, 400), interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(255)
        return feet.foot_of(small, (0.0, 0.0), (66.0, 34.0), (60.0, 100.0), FAR_AWAY, replace(BUILD, foot=42.0))

    def test_a_ground_over_its_lower_edge_breaks_no_sole(self) -> None:
        """The heel goes a px into it."""
        heel, toe = (51.0, 107.0), (92.5, 100.0)
        for under in (0.7, 1.4):
            found = self.foot([heel, toe], ground=heel[1] + 5 - under)
            with self.subTest(under=under):
                assert found is not None
                self.assertAlmostEqual(found.length, 42.0, delta=3.5)
                self.assertLess(math.dist(found.toe, (93.3, 105.0)), 2.5)

    def test_what_spans_two_feet_is_no_sole(self) -> None:
        """The other foot stands lower, just before this one's toe, and a line from one to the other is as long."""
        own = [(50.6, 92.4), (91.5, 83.0)]
        alone, both = self.foot(own), self.foot(own, beside=[(101.9, 97.5), (137.4, 97.5)])
        assert alone is not None and both is not None
        self.assertLess(math.dist(alone.heel, both.heel) + math.dist(alone.toe, both.toe), 1.0)
