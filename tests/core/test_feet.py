"""Feet and shins: soles that bend up, that a ground cuts or that span two feet; shins that go on too far."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import feet, settle
from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.ink import Cover, Sheet
from motion.tracking.subjects.figure.leg import Leg
from motion.tracking.subjects.figure.limbs import Limbs
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

    def standing(self, cut: float = 0.0, turn: float = 0.0) -> tuple[feet.Foot, Place, Place]:
        """A round foot of which a ground hides so many px, with where its heel and its toe are."""
        ahead = np.array([math.cos(math.radians(turn)), math.sin(math.radians(turn))])
        middle = np.array([72.0, 102.0])
        heel, toe = middle - 21 * ahead, middle + 21 * ahead
        down = 5 * np.array([-ahead[1], ahead[0]])
        low = max(heel[1] + down[1], toe[1] + down[1])
        found = self.foot([tuple(heel), tuple(toe)], ground=low - cut if cut else 400.0)
        assert found is not None
        return found, tuple(heel + down), tuple(toe + down)

    def test_a_foot_that_a_ground_cuts_is_as_long_as_in_the_air(self) -> None:
        """By where they bend up its ends lie farther apart, or nearer to each other; its outline reaches as far."""
        aloft, heel, toe = self.standing()
        self.assertLess(math.dist(aloft.heel, heel) + math.dist(aloft.toe, toe), 1.6)
        for cut, turn in ((1.2, 0.0), (2.0, 12.0), (2.0, -12.0)):
            cut_off, heel, toe = self.standing(cut, turn)
            told = cut_off.ended(aloft.beyond)
            with self.subTest(cut=cut, turn=turn):
                self.assertGreater(abs(cut_off.length - aloft.length), 2.0)
                self.assertAlmostEqual(told.length, aloft.length, delta=1.2)
                self.assertLess(max(math.dist(told.heel, heel), math.dist(told.toe, toe)), 2.2)

    def test_lines_left_of_a_ground_are_no_part_of_a_foot(self) -> None:
        marked = np.zeros((40, 120), bool)
        marked[10:22, 30:80] = marked[23:25, 10:110] = True
        left = feet._without_slivers(marked)
        self.assertTrue(left[10:22, 30:80].all())
        self.assertFalse(left[23:25, 10:28].any() or left[23:25, 82:110].any())
        thin = np.zeros((40, 120), bool)
        thin[20:22, 30:80] = True
        self.assertTrue((feet._without_slivers(thin) == thin).all())


class Parted(unittest.TestCase):
    """The other leg, in another tone, stands before a foot, which shows on both sides of it."""

    def drawn(self, *lines: tuple[tuple[int, int], tuple[int, int], int]) -> np.ndarray:
        """Strokes with soft edges and round ends, each from a place to another and so thick, px."""
        large = np.zeros((260 * 8, 220 * 8), np.uint8)
        for one, other, thick in lines:
            ends = [tuple(round((v + 0.5) * 8 - 0.5) for v in p) for p in (one, other)]
            cv2.line(large, ends[0], ends[1], 255, thick * 8)
        return cv2.resize(large, (220, 260), interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(255)

    def limbs(self, *, shows: tuple[bool, bool] = (True, True), at_others: bool = False, before: int = 84) -> Limbs:
        heel, toe, ankle = (60.0, 180.0), (102.0, 180.0), (70.0, 168.0)
        own = self.drawn(((60, 175), (102, 175), 10), ((120, 100), (70, 168), 8))
        other = self.drawn(((before, 40), (before, 200), 14))
        own *= 1 - other
        own[:, :76] *= shows[0]
        own[:, 92:] *= shows[1]
        solid = np.maximum(own, other)
        nothing = Across(np.zeros((0, 2)), np.zeros(0), (0.0, 1.0))
        legs = [
            Leg((120.0, 100.0), ankle, (100.0, 172.0), own, nothing, nothing),
            Leg((before, 120.0), (before, 190.0), (before + 26.0, 196.0), other, nothing, nothing),
        ]
        if at_others:
            legs[1].foot = feet.Foot(heel, toe, 180.0)
        sheet = Sheet(0, 0, solid, solid, np.zeros((260, 220, 4), np.uint8))
        return Limbs(sheet, Ellipse(x=80, y=20, major=20, minor=20, angle=0), replace(BUILD, foot=42.0), legs)

    def test_both_parts_are_one_foot_that_tells_its_ankle(self) -> None:
        build = replace(BUILD, foot=42.0)
        for shows, at_others in (((True, True), False), ((True, False), False), ((True, True), True)):
            limbs = self.limbs(shows=shows, at_others=at_others)
            leg = limbs.legs[0]
            leg.foot_alone = False
            limbs.join_feet(build)
            limbs.keep_whole_feet(build)
            limbs.place_ankles(build, (-10.0, 12.0))
            with self.subTest(shows=shows, at_others=at_others):
                self.assertEqual(leg.foot is not None, all(shows) and not at_others)
                if leg.foot is not None:
                    self.assertLess(max(math.dist(leg.foot.heel, (60, 180)), math.dist(leg.foot.toe, (102, 180))), 1.5)
                    self.assertFalse(leg.foot_beside)
                    assert leg.foot_joint is not None
                    self.assertLess(math.dist(leg.foot_joint, (71, 168)), 2.0)

    def test_a_foot_whose_heel_hides_tells_its_ankle_from_its_toe(self) -> None:
        """As long as feet are, if the rest of it lies behind the other leg."""
        build = replace(BUILD, foot=42.0)
        for before, shows, told in ((62, True, True), (180, False, False)):
            limbs = self.limbs(shows=(shows, True), before=before)
            leg = limbs.legs[0]
            limbs.place_feet(build)
            limbs.join_feet(build)
            limbs.keep_whole_feet(build)
            leg.foot_alone = False
            limbs.extend_feet((4.6, 4.6), build)
            with self.subTest(before=before):
                self.assertEqual(leg.foot is not None and leg.foot.length > 41.0, told)
                if told:
                    assert leg.foot is not None
                    self.assertLess(max(math.dist(leg.foot.heel, (60, 180)), math.dist(leg.foot.toe, (102, 180))), 1.5)
                    self.assertTrue(leg.foot_alone and leg.foot_beside)


class Edges(unittest.TestCase):
    """The other leg, in another tone, lies over one edge of a limb; of what shows the middle is another."""

    def drawn(self, half: tuple[float, float], ends: tuple[Place, Place] = ((60.0, 60.0), (100.0, 200.0))) -> Cover:
        """A limb from an end to the other that becomes as thin as the second half width."""
        way = np.array(ends[1]) - np.array(ends[0])
        side = np.array([way[1], -way[0]]) / np.hypot(*way)
        corners = [
            ends[0] - half[0] * side,
            ends[0] + half[0] * side,
            ends[1] + half[1] * side,
            ends[1] - half[1] * side,
        ]
        large = np.zeros((260 * 4, 220 * 4), np.uint8)
        cv2.fillPoly(large, [np.rint((np.array(corners) + 0.5) * 4 - 0.5).astype(np.int32)], 255)
        small = cv2.resize(large, (220, 260), interpolation=cv2.INTER_AREA)
        return np.asarray(small / np.float32(255), dtype=np.float32)

    def test_a_shin_half_behind_the_other_leg_lies_half_its_width_within_its_edge(self) -> None:
        knee, ankle = (60.0, 60.0), (100.0, 200.0)
        own_way = (np.array(ankle) - np.array(knee)) / math.dist(knee, ankle)
        for half in ((9.0, 9.0), (11.0, 7.0)):
            whole = self.drawn(half)
            other = self.drawn((9.0, 9.0), ((48.0, 60.0), (84.0, 200.0)))
            cover = whole * (1 - other)
            solid = np.maximum(whole, other)
            build = replace(BUILD, shin=math.dist(knee, ankle), wide=18.0)
            seen = settle.look_across(cover, (0.0, 0.0), [(knee, knee, 0.9), (knee, ankle, 0.86)], 26.0)
            nothing = Across(np.zeros((0, 2)), np.zeros(0), (0.0, 1.0))
            legs = [
                Leg(knee, ankle, ankle, own, nothing, nothing, seen=looked)
                for own, looked in ((cover, seen), (other, None))
            ]
            limbs = Limbs(
                Sheet(0, 0, solid, solid, np.zeros((260, 220, 4), np.uint8)),
                Ellipse(x=60, y=20, major=20, minor=20, angle=0),
                build,
                legs,
            )
            limbs.look_alone()
            wide = {"thigh": 18.0, "shin": 18.0}
            limbs.fit(wide)
            with self.subTest(half=half):
                self.assertIsNone(legs[0].shin)
                taper = 2 * (half[1] - half[0]) / (half[0] + half[1])
                limbs.fit_edges(build, wide, {"thigh": 0.0, "shin": 0.84 * taper})
                shin = legs[0].shin
                assert shin is not None
                self.assertLess(max(abs(shin.beside(knee)), abs(shin.beside(ankle))), 1.6)
                self.assertGreater(shin.dx * own_way[0] + shin.dy * own_way[1], 0.999)
                self.assertEqual(legs[0].shares_shown(), (0.0, 0.0))
            legs[0].shin = None
            limbs.fit_edges(build, {"thigh": 5.0, "shin": 5.0}, {"thigh": 0.0, "shin": 0.0})
            self.assertIsNone(legs[0].shin)
