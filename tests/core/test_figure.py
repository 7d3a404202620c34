"""What a figure is told by: joints from how limbs turn, heads, trunks, hips, colours, what was placed."""

from __future__ import annotations

import math
import unittest
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from motion.tracking import lossy
from motion.tracking.differs import Differs
from motion.tracking.ellipse import Ellipse
from motion.tracking.light import Light, difference, where_over
from motion.tracking.subjects.figure import guess, head, tones, trunk
from motion.tracking.subjects.figure.crotch import hip_from_head
from motion.tracking.subjects.figure.drawn import TOLD
from motion.tracking.subjects.figure.hips import place_hip_under_trunk
from motion.tracking.subjects.figure.ink import AROUND, Inked, Sheet, sheet_of
from motion.tracking.subjects.figure.joints import Line, Loose, turning_point
from motion.tracking.subjects.figure.leg import Leg
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.placed import Help, amiss
from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.proportions import may_be
from motion.tracking.subjects.figure.run import Pairs, best_run
from motion.tracking.subjects.figure.settle import Across, Stretch
from motion.tracking.subjects.figure.together import hip_of, thigh_of
from motion.tracking.views import Lit

BUILD = Build(hip=(0.0, 20.0), thigh=70.0, shin=70.0, foot=42.0, wide=8.0, facing=1.0)


def turning(about: tuple[float, float], angles: Sequence[float], grain: float, seed: int) -> list[Line]:
    """Limbs 70 px long that turn about a place, as measured with some grain (px)."""
    rng, lines = np.random.default_rng(seed), []
    for angle in angles:
        way = math.sin(math.radians(angle)), math.cos(math.radians(angle))
        aside = rng.normal(0, grain)
        x, y = (about[0] + 30 * way[0] - aside * way[1], about[1] + 30 * way[1] + aside * way[0])
        end = about[0] + 70 * way[0] + rng.normal(0, grain), about[1] + 70 * way[1] + rng.normal(0, grain)
        lines.append(Line((x, y), way, end))
    return lines


class Joints(unittest.TestCase):
    @given(st.floats(-20, 20), st.floats(-20, 20), st.integers(0, 50))
    def test_the_place_about_which_limbs_turn_is_found(self, x: float, y: float, seed: int) -> None:
        found = turning_point(turning((x, y), np.linspace(-30, 35, 20), 0.3, seed), (0.0, 0.0), Loose.evenly(30.0), 2.0)
        assert found is not None
        self.assertLess(math.dist(found, (x, y)), 1.0)

    def test_some_that_lie_elsewhere_change_little(self) -> None:
        lines = turning((3.0, 4.0), np.linspace(-30, 35, 20), 0.3, 1)
        astray = turning((30.0, -10.0), (-20.0, 5.0, 25.0), 0.3, 2)
        found = turning_point([*lines, *astray], (0.0, 0.0), Loose.evenly(30.0), 2.0)
        assert found is not None
        self.assertLess(math.dist(found, (3.0, 4.0)), 1.0)

    def test_limbs_that_were_measured_badly_tell_nothing(self) -> None:
        self.assertIsNone(
            turning_point(turning((3.0, 4.0), np.linspace(-30, 35, 20), 9.0, 1), (0.0, 0.0), Loose.evenly(30.0), 2.0)
        )

    def test_limbs_that_do_not_turn_tell_nothing(self) -> None:
        self.assertIsNone(turning_point(turning((3.0, 4.0), [10.0] * 20, 0.3, 1), (0.0, 0.0), Loose.evenly(30.0), 2.0))
        self.assertIsNone(
            turning_point(turning((3.0, 4.0), (-20.0, 0.0, 20.0), 0.3, 1), (0.0, 0.0), Loose.evenly(30.0), 2.0)
        )


class Heads(unittest.TestCase):
    def test_a_head_that_is_no_ellipse_lies_alike_in_all_drawings(self) -> None:
        turns = np.linspace(0, 2 * math.pi, 72, endpoint=False)
        square = np.stack([30 * np.cos(turns), 34 * np.sin(turns)], axis=1)
        square = np.clip(square * 1.25, (-28, -32), (28, 32))
        outlines, found = [], list[Ellipse | None]()
        for n in range(9):
            x, y = 100.0 + 4 * n, 80.0 + 3 * (n % 2)
            outlines.append((n, square + np.array([x, y])))
            # An ellipse lies in the box here so, there otherwise.
            found.append(Ellipse(x=x, y=y - (0 if n in (3, 6) else 6), major=76, minor=60, angle=90))
        before = [one.y for one in found if one]
        head.lay_alike(outlines, found)
        for n, one in enumerate(found):
            assert one is not None
            self.assertAlmostEqual(one.y, 74.0 + 3 * (n % 2), delta=0.5)
            self.assertEqual(one.y == before[n], n not in (3, 6))

    def test_a_head_under_a_hat_is_as_much_larger_as_its_outline_is_all_round(self) -> None:
        turns = np.linspace(0, 2 * math.pi, 72, endpoint=False)
        hatted = np.stack([30 * np.cos(turns), 34 * np.sin(turns)], axis=1)
        hatted[45:63] *= 1.4
        outlines, found = [], list[Ellipse | None]()
        for n in range(9):
            x, y, times = 100.0 + 4 * n, 80.0, 1.14 if n == 4 else 1.0
            edge = hatted * times
            if n == 6:
                # An arm lies beside it.
                edge = np.where((np.arange(72) < 14)[:, None], 1.5 * edge, edge)
            outlines.append((n, edge + np.array([x, y])))
            found.append(Ellipse(x=x, y=y, major=72, minor=62, angle=90))
        head.size_alike(outlines, found)
        for n, one in enumerate(found):
            assert one is not None
            self.assertAlmostEqual(one.major, 72 * (1.14 if n == 4 else 1.0), delta=0.5)

    def test_a_head_is_told_from_shoulders_as_wide_as_itself(self) -> None:
        """Where it meets them the figure hardly narrows."""
        for wide in (42, 46, 48):
            cover = np.zeros((400, 160), np.uint8)
            cv2.circle(cover, (80, 40), 24, 1, -1)
            cv2.line(cover, (80, 57), (80, 230), 1, wide)
            cv2.line(cover, (80, 230), (80, 380), 1, 16)
            sheet = Sheet(0, 0, cover.astype(np.float32), cover.astype(np.float32), np.zeros((400, 160, 4), np.uint8))
            found = head.core(sheet)
            with self.subTest(wide):
                assert found is not None
                self.assertLess(math.dist((found.x, found.y), (80, 40)), 3)

    def test_a_head_is_told_from_a_broad_trunk_close_below_it(self) -> None:
        """Whether it sits in the middle of the shoulders or hangs in front of them."""
        for aside in (0, 14):
            sheets = []
            for n in range(6):
                cover = np.zeros((400, 200), np.uint8)
                cv2.ellipse(cover, (100 + n, 40), (15, 18), 0, 0, 360, 1, -1)
                cv2.line(cover, (100 + n - aside, 64), (100 + n - aside, 190), 1, 44)
                cv2.line(cover, (100 + n - aside, 200), (80 + 8 * n, 380), 1, 16)
                sheets.append(
                    Sheet(0, 0, cover.astype(np.float32), cover.astype(np.float32), np.zeros((400, 200, 4), np.uint8))
                )
            found = head.heads(Shown(sheets), {})
            with self.subTest(aside=aside):
                for n, one in enumerate(found):
                    assert one is not None
                    self.assertLess(math.dist((one.x, one.y), (100 + n, 40)), 3)
                    self.assertLess(abs(one.major / 36 - 1), 0.2)


class Shown(Looking):
    """Drawings whose ink is at hand."""

    def __init__(self, sheets: Sequence[Sheet]) -> None:
        super().__init__([], frozenset())
        self._own = sheets

    def __len__(self) -> int:
        return len(self._own)

    def sheet(self, index: int) -> Sheet:
        return self._own[index]


class Crotches(unittest.TestCase):
    def test_thighs_lead_to_the_hip_though_a_knee_bends_close_below(self) -> None:
        hip, tall = (120.0, 200.0), 400
        sheets, heads = [], list[Ellipse | None]()
        for n in range(4):
            cover = np.zeros((tall, 260), np.uint8)
            one, other = (96.0 - n, 262.0), (154.0 + n, 258.0)
            lines = [hip, one, (40.0, 390.0)], [hip, other, (150.0, 390.0)]
            for line in lines:
                cv2.polylines(cover, [np.rint(line).astype(np.int32)], False, 1, 15)
            cv2.line(cover, (120, 60), (120, 200), 1, 44)
            cv2.circle(cover, (120, 30), 22, 1, -1)
            sheet = cover.astype(np.float32)
            sheets.append(Sheet(0, 0, sheet, sheet, np.zeros((tall, 260, 4), np.uint8)))
            heads.append(Ellipse(x=120, y=30, major=44, minor=44, angle=0))
        found = hip_from_head(Shown(sheets), heads, range(4))
        assert found is not None
        self.assertLess(math.dist((found[0] + 120, found[1] + 30), hip), 4)


class Hairs(unittest.TestCase):
    def test_a_grounds_edge_leaves_no_ink_beside_a_foot_and_thin_soles_stay(self) -> None:
        differs = np.zeros((60, 120), np.uint8)
        differs[20:40, 20:26] = differs[40:44, 20:50] = 200
        differs[44, 60:100] = 120
        marked = differs > 10
        kept = Inked(
            0, 0, differs.shape, np.packbits(marked), differs[marked], np.zeros(int(marked.sum()), np.uint32), 14
        )
        cover = sheet_of(kept).cover[AROUND:-AROUND, AROUND:-AROUND]
        self.assertEqual(float(cover[:, 56:].max()), 0.0)
        self.assertEqual(float(cover[41:43, 21:49].min()), 1.0)


class Trunks(unittest.TestCase):
    """Small drawings laid together by their heads: which of their pixels always are ink."""

    def always(self, *boxes: tuple[int, int, int, int]) -> NDArray[np.bool_]:
        found = np.zeros((trunk.ROWS, trunk.COLUMNS), bool)
        for left, top, right, bottom in boxes:
            found[top:bottom, left:right] = True
        return found

    def test_an_arm_that_hardly_swings_beside_it_does_not_end_it(self) -> None:
        plain = self.always((86, 40, 106, 120))
        beside = self.always((86, 40, 106, 120), (104, 78, 128, 86))
        for always in (plain, beside):
            rows = trunk._downwards(always, trunk.ROWS, known=False)
            assert rows is not None
            self.assertEqual((rows[0][0], rows[0][-1]), (40, 119))
            self.assertTrue(np.all(np.abs(rows[1] - 95.5) < 1))

    def test_where_thick_thighs_cross_beside_the_trunk_is_no_hip(self) -> None:
        always = self.always((80, 40, 112, 130))
        self.assertTrue(trunk._under_trunk((97.0, 126.0), always))
        self.assertFalse(trunk._under_trunk((72.0, 150.0), always))

    def test_where_thighs_do_not_tell_the_hip_may_be_where_hips_mostly_are(self) -> None:
        own = trunk.Trunk(neck=(0.0, -50.0), hip=(0.0, 50.0), other_hip=(0.0, 22.0), wide=20.0, tilt=90.0)
        self.assertEqual(guess._hips(None, own, 100.0), [(0.0, 50.0), (0.0, 22.0)])
        self.assertEqual(guess._hips(None, replace(own, other_hip=None), 100.0), [(0.0, 50.0)])
        self.assertEqual(guess._hips((3.0, 40.0), own, 100.0), [(3.0, 40.0)])

    def test_one_drawn_by_its_outline_is_filled_though_legs_are_too_thin_to_be(self) -> None:
        for hollow in (True, False):
            differs = np.zeros((420, 260), np.uint8)
            cv2.circle(differs, (120, 40), 24, 200, -1)
            cv2.line(differs, (120, 80), (120, 190), 200, 36 if hollow else 12)
            if hollow:
                cv2.line(differs, (120, 80), (120, 190), 0, 28)
            for x in (80, 160):
                cv2.line(differs, (120, 205), (x, 400), 200, 9)
            marked = differs > 10
            colours = np.zeros(int(marked.sum()), np.uint32)
            kept = Inked(0, 0, differs.shape, np.packbits(marked), differs[marked], colours, 14)
            looking = Looking([kept] * 3, frozenset())
            guess.fill_hollow(looking, [Ellipse(x=120, y=40, major=48, minor=48, angle=0)] * 3)
            with self.subTest(hollow=hollow):
                self.assertEqual(looking.hollow, hollow)
                self.assertEqual(float(looking.sheet(0).solid[AROUND + 130, AROUND + 120]), 1.0)


class Hips(unittest.TestCase):
    def test_a_longer_trunk_has_its_hip_where_both_legs_lead(self) -> None:
        for off, left_out in ((0.0, 0.0), (0.2, 0.0), (0.5, 0.5)):
            hip = (100.0, 80.0)
            limbs = self.limbs((hip[0], hip[1] + off * BUILD.leg), 27.0, thigh=BUILD.thigh)
            # The trunk's lower end is told where it mostly is.
            limbs.body = replace(limbs.body, y=hip[1] - 34)
            place_hip_under_trunk(limbs, replace(BUILD, hip=(0.0, 34.0)))
            with self.subTest(off):
                told = hip[1] + (off - left_out) * BUILD.leg
                self.assertLess(math.dist(limbs.hip, (hip[0], told)), 0.03 * BUILD.leg)

    def test_one_leg_tells_it_that_comes_from_clearly_another_side(self) -> None:
        """Its thigh's line and length meet on the trunk's line; one that hangs along the trunk proves nothing."""
        for angle, seen, told in ((27.0, 0.8, True), (4.0, 0.8, False), (27.0, 0.3, False)):
            hip = (100.0, 80.0)
            limbs = self.limbs((hip[0], hip[1] + 0.2 * BUILD.leg), angle, thigh=BUILD.thigh)
            limbs.legs[0].thigh = limbs.legs[0].joint = None
            assert limbs.legs[1].thigh is not None
            limbs.legs[1].thigh = replace(limbs.legs[1].thigh, seen=seen)
            limbs.body = replace(limbs.body, y=hip[1] - 34)
            place_hip_under_trunk(limbs, replace(BUILD, hip=(0.0, 34.0)))
            with self.subTest(angle=angle, seen=seen):
                off = math.dist(limbs.hip, (hip[0], hip[1] + 0.2 * BUILD.leg))
                self.assertEqual(off < 0.03 * BUILD.leg, told)
                self.assertEqual(limbs.hip_sure >= TOLD, told)

    def limbs(self, hip: tuple[float, float], angle: float, thigh: float = 46.5) -> Limbs:
        """Two thighs that cross in a hip, as far to either side of straight down, and knees at their ends."""
        cover, nothing = np.zeros((4, 4), np.float32), Across(np.zeros((0, 2)), np.zeros(0), (0.0, 1.0))
        legs = []
        for sign in (-1.0, 1.0):
            way = sign * math.sin(math.radians(angle)), math.cos(math.radians(angle))
            knee = hip[0] + thigh * way[0], hip[1] + thigh * way[1]
            line = Stretch(hip[0] + 20 * way[0], hip[1] + 20 * way[1], *way, seen=0.8, off=0.3, wide=7.0)
            ankle = (knee[0], knee[1] + 45)
            legs.append(Leg(knee, ankle, ankle, cover, nothing, nothing, thigh=line, joint=knee))
        body = Ellipse(x=hip[0], y=hip[1] - 34, major=68, minor=8, angle=90)
        sheet = Sheet(0, 0, cover, cover, np.zeros((4, 4, 4), np.uint8))
        return Limbs(sheet, body, replace(BUILD, hip=(0.0, 24.0)), legs)

    def test_where_thighs_cross_tells_hip_and_length_though_both_were_thought_to_be_otherwise(self) -> None:
        wrong = replace(BUILD, hip=(0.0, 24.0), thigh=57.0)
        some = [self.limbs((100.0 + 3 * n, 80.0), angle) for n, angle in enumerate((25.0, 31.0))]
        self.assertAlmostEqual(thigh_of(some, wrong), 46.5, delta=0.01)
        x, y = hip_of(some, wrong)
        self.assertLess(math.dist((x, y), (0.0, 34.0)), 0.01)

    def test_thighs_that_hardly_cross_tell_nothing(self) -> None:
        wrong = replace(BUILD, hip=(0.0, 24.0), thigh=57.0)
        some = [self.limbs((100.0, 80.0), 6.0) for _ in range(2)]
        self.assertEqual(hip_of(some, wrong), wrong.hip)

    def test_a_leg_that_no_figure_has_is_not_believed(self) -> None:
        self.assertTrue(may_be(replace(BUILD, thigh=62.0), BUILD))
        self.assertFalse(may_be(replace(BUILD, thigh=48.0), BUILD))
        self.assertFalse(may_be(replace(BUILD, thigh=40.0, shin=44.0), BUILD))


class Colours(unittest.TestCase):
    def legs(
        self,
        first: tuple[int, int, int],
        second: tuple[int, int, int],
        crossing: Sequence[tuple[int, int, int]] = (),
        body: tuple[int, int, int] | None = None,
    ) -> tones.Shown:
        """Two legs outlined in two colours, both filled with the same white."""
        filled = [(250, 250, 246)] * 40
        return tones.Shown(
            self.colours([first] * 30 + filled),
            self.colours([second] * 30 + filled),
            self.colours(list(crossing)),
            self.colours([] if body is None else [body] * 60 + filled),
        )

    def colours(self, some: list[tuple[int, int, int]]) -> np.ndarray:
        return np.array([(*colour, 255) for colour in some], np.uint8).reshape(-1, 4)

    def test_what_fills_both_outlines_tells_neither_leg(self) -> None:
        blue, pale = (30, 50, 160), (150, 160, 210)
        told = tones.tones_of([self.legs(blue, pale), self.legs(pale, blue), self.legs(blue, pale)], np.full(3, 230.0))
        assert told is not None
        near, far, fill = told.nearness(self.colours([blue, pale, (250, 250, 246)]))
        self.assertGreater(near, 0.9)
        self.assertLess(far, -0.9)
        self.assertLess(abs(fill), 0.3)
        cover = np.zeros((9, 40), np.float32)
        cover[3:6, 2:38] = 1
        colour = np.full((9, 40, 4), 250, np.uint8)
        colour[:, 2:6, :3], colour[:, 34:38, :3] = blue, pale
        sheet = Sheet(0, 0, cover, cover, colour)
        near_cover, far_cover = told.covers(sheet)
        self.assertEqual(float(near_cover[4, 10]), 1.0)
        self.assertEqual(float(far_cover[4, 30]), 1.0)
        self.assertEqual(float((near_cover * far_cover).max()), 0.0)

    def test_an_edge_that_fades_through_the_other_tone_is_its_own(self) -> None:
        dark, pale = (30, 50, 60), (140, 150, 155)
        told = tones.tones_of([self.legs(dark, pale), self.legs(pale, dark), self.legs(dark, pale)], np.full(3, 250.0))
        assert told is not None
        cover = np.zeros((14, 40), np.float32)
        cover[3:6, 2:20] = cover[8:11, 20:38] = 1
        colour = np.full((14, 40, 4), 250, np.uint8)
        # A dark stroke with one row of the pale tone along its edge, and a pale one.
        colour[3:5, 2:20, :3], colour[5, 2:20, :3], colour[8:11, 20:38, :3] = dark, pale, pale
        near, far = told.covers(Sheet(0, 0, cover, cover, colour))
        self.assertEqual(float(near[3:6, 2:20].min()), 1.0)
        self.assertEqual(float(far[8:11, 20:38].min()), 1.0)

    def test_white_cels_on_transparent_paper_fade_into_their_white(self) -> None:
        """Dark lines turn to white through the pale far side's grey; the paper itself is no colour at all."""
        dark, grey, white = (28, 30, 32), (146, 147, 148), (250, 250, 246)
        shown = [self.legs(dark, grey, [dark] * 30), self.legs(grey, dark, [dark] * 30), self.legs(dark, grey)]
        told = tones.tones_of(shown, np.zeros(3))
        assert told is not None
        cover = np.zeros((16, 60), np.float32)
        cover[2:14, 2:28] = cover[2:14, 32:58] = 1
        colour = np.full((16, 60, 4), 250, np.uint8)
        for left, line in ((2, dark), (32, grey)):
            colour[2:14, left : left + 26, :3] = line
            colour[5:11, left + 3 : left + 23, :3] = white
        # The dark line is grey where it ends.
        colour[5, 5:25, :3] = colour[10, 5:25, :3] = grey
        near, far = told.covers(Sheet(0, 0, cover, cover, colour))
        self.assertEqual(float(near[2:14, 2:28].min()), 1.0)
        self.assertEqual(float(far[2:14, 32:58].min()), 1.0)

    def test_near_is_what_clearly_lies_on_top_else_what_the_body_is_drawn_in(self) -> None:
        red, brown, green = (180, 40, 40), (170, 120, 30), (60, 140, 90)
        one, other, red_mostly = [red] * 30, [brown] * 30, [red] * 20 + [brown] * 10
        for body, crossing, near in (
            (red, other, brown),
            (brown, red_mostly, brown),
            (green, red_mostly, red),
            (None, one, red),
            (red, [], red),
        ):
            shown = [self.legs(*pair, crossing, body) for pair in ((red, brown), (brown, red), (red, brown))]
            told = tones.tones_of(shown, np.full(3, 225.0))
            with self.subTest(body=body, near=near):
                assert told is not None
                self.assertGreater(float(told.nearness(self.colours([near]))[0]), 0.9)

    def test_legs_drawn_alike_have_no_tones(self) -> None:
        self.assertIsNone(tones.tones_of([self.legs((30, 50, 160), (30, 50, 160))] * 5, np.full(3, 230.0)))

    def test_legs_that_show_the_same_colours_in_other_shares_are_told_apart_by_who_says_so(self) -> None:
        """One shows more of the outline of both, the other more of what fills both."""
        line, fill, paper = (20, 110, 60), (250, 250, 246), np.full(3, 230.0)
        some = [self.colours([line] * k + [fill] * (50 - k)) for k in (34, 22)]
        drawings = [tones.Shown(some[0], some[1], self.colours([]), self.colours([])) for _ in range(5)]
        self.assertIsNone(tones.tones_of(drawings, paper, told_apart=False))
        self.assertIsNotNone(tones.tones_of(drawings, paper))
        self.assertIsNotNone(tones.tones_of([self.legs(line, (150, 180, 160))] * 5, paper, told_apart=False))


class ThroughVideo(unittest.TestCase):
    def test_two_colours_that_change_places_are_two_drawings(self) -> None:
        """Red before purple and purple before red stand out of the paper as much, pixel by pixel."""

        def pair(first: tuple[int, int, int], second: tuple[int, int, int]) -> Light:
            picture = np.full((90, 160, 4), 230, np.uint8)
            picture[..., 3] = 255
            picture[20:70, 40:60, :3], picture[20:70, 90:110, :3] = first, second
            return picture

        paper = np.full((90, 160, 4), 230, np.uint8)
        paper[..., 3] = 255
        red, purple = (200, 60, 60), (130, 60, 180)
        other = pair((120, 120, 120), (120, 120, 120))
        for wide in (20, 4):
            counter = lossy.LossyCounter()
            for picture in (pair(red, purple), other, pair(purple, red), other, pair(red, purple)):
                # Legs may be as thin as this.
                shown = picture.copy()
                shown[:, 40 + wide : 60, :3] = shown[:, 90 + wide : 110, :3] = 230
                off = difference(shown, paper)
                told = Differs.of(off, where_over(off, 14))
                counter.see(Lit(shown), told, told.box)
            with self.subTest(wide=wide):
                self.assertEqual(counter.numbers(lambda first, second: None)[0], [1, 2, 3, 2, 1])


class Played(unittest.TestCase):
    def test_a_new_drawing_among_others_that_show_again_is_led_by_those_around_it(self) -> None:
        shown = [*range(8), *range(4), 8, 5, 6, 7]
        chain = Playing([(drawing, 1 + at) for at, drawing in enumerate(shown)]).chain(range(9))
        at = chain.firsts[8]
        self.assertEqual(chain.drawings[at - 2 : at + 3], [2, 3, 8, 5, 6])
        self.assertEqual([chain.drawings[k] for k in chain.firsts.values()], list(chain.firsts))
        self.assertEqual(sorted(chain.firsts), list(range(9)))
        self.assertEqual(set(chain.gaps), {1.0})
        # Those first shown are followed by two that come again; then some are left out.
        longer = Playing([(d, 1 + at) for at, d in enumerate([*range(8), *range(8), 8, *range(1, 8)])]).chain(range(9))
        self.assertEqual(longer.gaps.count(math.inf), 1)
        self.assertEqual(longer.drawings, [*range(8), 0, 1, 6, 7, 8, 1, 2])

    def test_over_a_gap_without_end_nothing_leads(self) -> None:
        """Of two ways on, in each drawing, the one that goes on is taken; where it is not known, the cheaper one."""

        def pairs(*ways: tuple[float, float]) -> Pairs:
            places = np.array([[x, 0.5, x, 1.0, -x, 0.5, -x, 1.0] for x, _ in ways])
            costs = np.array([cost for _, cost in ways])
            return Pairs(np.zeros((len(ways), 2), np.intp), places, costs, np.zeros((1, 2)))

        row = [pairs((0.1 * k, 0.3), (-0.6, 0.0)) if k == 3 else pairs((0.1 * k, 0.0)) for k in range(5)]
        self.assertEqual(best_run(row, [1.0] * 4)[3], 0)
        self.assertEqual(best_run(row, [1.0, 1.0, math.inf, math.inf])[3], 1)


class Placed(unittest.TestCase):
    def test_a_leg_placed_whole_tells_lengths_and_facing(self) -> None:
        marks = {"hip": {3: (100.0, 50.0)}, "knee_near": {3: (100.0, 120.0)}, "ankle_near": {3: (100.0, 185.0)}}
        self.assertEqual(Help(marks).lengths(), (70.0, 65.0, None))
        feet_too = {**marks, "heel_near": {3: (106.0, 200.0)}, "toe_near": {3: (66.0, 200.0)}}
        self.assertEqual(Help(feet_too).lengths(), (70.0, 65.0, 40.0))
        self.assertEqual(Help(feet_too).facing(), -1.0)
        self.assertIsNone(Help({"hip": {3: (100.0, 50.0)}}).lengths())
        self.assertIsNone(Help(marks).facing())
        body = Ellipse(x=98.0, y=20.0, major=60.0, minor=50.0, angle=90.0)
        self.assertEqual(Help(marks).hip_below({3: body}), (2.0, 30.0))

    def test_another_body_was_found_where_it_lies_off_or_is_of_another_size(self) -> None:
        placed = Ellipse(x=98.0, y=20.0, major=60.0, minor=50.0, angle=90.0)
        self.assertFalse(amiss(placed, Ellipse(x=100.0, y=21.0, major=62.0, minor=50.0, angle=88.0)))
        self.assertTrue(amiss(placed, Ellipse(x=110.0, y=21.0, major=62.0, minor=50.0, angle=88.0)))
        self.assertTrue(amiss(placed, Ellipse(x=98.0, y=20.0, major=80.0, minor=50.0, angle=90.0)))
        self.assertTrue(amiss(placed, None))
