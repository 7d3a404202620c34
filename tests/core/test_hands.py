"""Arms set on the strokes that show: how wide and how long they are, where hands end, and what is no arm's own end."""

from __future__ import annotations

import math
import unittest
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import guess, hands, ink, settle
from motion.tracking.subjects.figure.drawn import TOLD, Drawn
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.leg import Leg
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.settle import Across

Place = tuple[float, float]
NECK, TALL, WIDE = (150.0, 60.0), 260, 300
FINE = 4
"""Arms are drawn so many times finer than they are looked at."""


def place(start: Place, degrees: float, far: float) -> Place:
    """So far from a place, so many degrees forward of straight down."""
    turn = math.radians(degrees)
    return start[0] + far * math.sin(turn), start[1] + far * math.cos(turn)


def arm(upper: float, fore: float, swung: float, bent: float) -> tuple[Place, Place]:
    """Elbow and hand of an arm that swings so many degrees forward, and is bent by so many."""
    elbow = place(NECK, swung, upper)
    return elbow, place(elbow, swung + bent, fore)


def drawn(arms: Sequence[tuple[Place, Place]], wide: float, *, carried: bool = False) -> Sheet:
    """Two arms as strokes with round ends; something in the first hand."""
    fine = np.zeros((TALL * FINE, WIDE * FINE), np.uint8)

    def fixed(at: Place) -> tuple[int, int]:
        return round((at[0] + 0.5) * FINE - 0.5), round((at[1] + 0.5) * FINE - 0.5)

    for elbow, hand in arms:
        for one, other in ((NECK, elbow), (elbow, hand)):
            cv2.line(fine, fixed(one), fixed(other), 255, round(wide * FINE))
    if carried:
        x, y = arms[0][1]
        cv2.rectangle(fine, fixed((x - 12, y)), fixed((x + 12, y + 26)), 255, -1)
    cover = cv2.resize(fine, (WIDE, TALL), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    return Sheet(0, 0, cover, cover, np.zeros((TALL, WIDE, 4), np.uint8))


def tapered(arms: Sequence[tuple[Place, Place]], wide: tuple[float, float, float]) -> Sheet:
    """Two arms so wide at the neck, at their elbows and at their hands."""
    fine = np.zeros((TALL * FINE, WIDE * FINE), np.uint8)
    for elbow, hand in arms:
        for (one, other), (from_, to) in zip(
            ((NECK, elbow), (elbow, hand)), ((wide[0], wide[1]), (wide[1], wide[2])), strict=True
        ):
            start, end = ((np.array(at) + 0.5) * FINE - 0.5 for at in (one, other))
            way = (end - start) / np.hypot(*(end - start))
            side = FINE / 2 * np.array([way[1], -way[0]])
            corners = [start + from_ * side, end + to * side, end - to * side, start - from_ * side]
            cv2.fillPoly(fine, [np.rint(corners).astype(np.int32)], 255)
            for at, own in ((start, from_), (end, to)):
                cv2.circle(fine, tuple(np.rint(at).astype(int).tolist()), round(own * FINE / 2), 255, -1)
    cover = cv2.resize(fine, (WIDE, TALL), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    return Sheet(0, 0, cover, cover, np.zeros((TALL, WIDE, 4), np.uint8))


def posed(sheet: Sheet, arms: Sequence[tuple[Place, Place]], build: Build, off: float) -> Limbs:
    """As a pose has the arms that are drawn: as long as they are thought to be, turned by some degrees."""
    places = []
    for elbow, hand in arms:
        upper = math.degrees(math.atan2(elbow[0] - NECK[0], elbow[1] - NECK[1])) + off
        fore = math.degrees(math.atan2(hand[0] - elbow[0], hand[1] - elbow[1])) - off
        knee = place((0.0, 0.0), upper, build.thigh)
        end = place(knee, fore, build.shin)
        places.append([knee, end, end])
    body = Ellipse(x=NECK[0], y=NECK[1] - 40, major=4, minor=4, angle=90)
    return Limbs.of(sheet, body, build, np.array(places), (sheet.solid, sheet.solid))


def build_of(upper: float, fore: float, wide: float) -> Build:
    return Build(hip=(0.0, 40.0), thigh=upper, shin=fore, foot=0.0, wide=wide, facing=1.0)


def swinging(count: int, upper: float, fore: float, bent: float) -> list[list[tuple[Place, Place]]]:
    """So many drawings of two arms that swing against each other."""
    ways = [38 * math.cos(math.pi * k / (count - 1)) for k in range(count)]
    return [[arm(upper, fore, way, bent), arm(upper, fore, -way, bent)] for way in ways]


def packed(differs: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], NDArray[np.uint8], NDArray[np.uint32]]:
    """Ink as it is kept: which pixels are marked, their levels and colours."""
    marked = differs > 0
    return np.packbits(marked), differs[marked], np.zeros(int(np.count_nonzero(marked)), np.uint32)


class Arms(unittest.TestCase):
    def set_on(
        self, drawings: Sequence[Sequence[tuple[Place, Place]]], wide: float, thought: Build, *, carried: bool = False
    ) -> tuple[Build, list[Limbs]]:
        limbs = [posed(drawn(arms, wide, carried=carried), arms, thought, 3.0) for arms in drawings]
        return hands.set_on(limbs, thought, thought.hip), limbs

    def off(self, drawings: Sequence[Sequence[tuple[Place, Place]]], limbs: Sequence[Limbs]) -> list[float]:
        """How far hands that are told lie off, px."""
        return [
            math.dist(leg.foot_joint, hand)
            for one, arms in zip(limbs, drawings, strict=True)
            for leg, (_, hand) in zip(one.legs, arms, strict=True)
            if leg.foot_joint is not None
        ]

    def test_hands_are_where_strokes_end_thin_or_thick(self) -> None:
        for wide in (3.0, 7.0, 14.0):
            drawings = swinging(9, 60, 54, 30)
            build, limbs = self.set_on(drawings, wide, build_of(60, 54, wide))
            off = self.off(drawings, limbs)
            with self.subTest(wide=wide):
                self.assertGreater(len(off), 10)
                self.assertLess(float(np.median(off)), 0.6)
                self.assertAlmostEqual(build.wide, wide, delta=0.8)
                self.assertAlmostEqual(build.thigh / 60, 1.0, delta=0.06)
                self.assertAlmostEqual(build.shin / 54, 1.0, delta=0.06)

    def test_arms_that_are_longer_than_was_thought_show_it(self) -> None:
        """Bent or straight; as far as both together go."""
        for bent in (4, 30):
            drawings = swinging(9, 66, 62, bent)
            build, _ = self.set_on(drawings, 4.0, build_of(57, 57, 4.0))
            with self.subTest(bent=bent):
                self.assertAlmostEqual(build.leg / 128, 1.0, delta=0.04)

    def test_what_is_carried_is_no_hand(self) -> None:
        drawings = swinging(9, 60, 54, 30)
        _, limbs = self.set_on(drawings, 7.0, build_of(60, 54, 7.0), carried=True)
        told = [one.legs[0].foot_joint for one in limbs]
        far = [math.dist(at, arms[0][1]) for at, arms in zip(told, drawings, strict=True) if at is not None]
        self.assertLess(max(far, default=0.0), 4.0)
        self.assertGreater(len(self.off(drawings, limbs)), 4)

    def test_a_hand_beside_other_ink_may_go_on_in_it(self) -> None:
        """What is not an arm's is taken off; where that begins is no end of a forearm."""
        arms = [arm(60, 54, 10, 30), arm(60, 54, -35, 30)]
        build = build_of(60, 54, 7.0)
        for trunk in (False, True):
            sheet = drawn(arms, 7.0)
            (x, y), wide = arms[0][1], sheet.cover.copy()
            solid = wide.copy()
            wide[round(y) - 14 :, round(x) - 20 : round(x) + 20] = 0
            if trunk:
                solid[round(y) - 14 :, round(x) - 20 : round(x) + 20] = 1
            shown = Sheet(0, 0, wide, solid if trunk else wide, sheet.colour)
            limbs = posed(shown, arms, build, 2.0)
            limbs.legs[0].cover = wide
            hand = hands._hand(self.fitted(limbs, build), limbs.origin, build, 7.0, limbs.solids[0])
            with self.subTest(trunk=trunk):
                self.assertEqual(hand is None, trunk)

    def test_an_arm_drawn_over_the_trunk_is_set_on_its_lines_there(self) -> None:
        """Its hand ends on the trunk, which is ink itself, and is told, if not so exactly as one that ends on paper."""
        arms = [arm(60, 54, 6, 24), arm(60, 54, -35, 30)]
        build, body = build_of(60, 54, 7.0), Ellipse(x=NECK[0], y=NECK[1] + 70, major=170, minor=90, angle=90)
        sheet = drawn(arms, 7.0)
        near, far = drawn(arms[:1], 7.0).cover, drawn(arms[1:], 7.0).cover
        trunk = ~bodies.without_body(sheet, body, 0.0)
        shown = Sheet(0, 0, sheet.cover, np.maximum(sheet.cover, trunk.astype(np.float32)), sheet.colour)
        places = posed(sheet, arms, build, 2.0).legs
        pose = np.array([[np.subtract(at, NECK) for at in (leg.knee, leg.ankle, leg.toe)] for leg in places])
        for over in (None, near > 0.5):
            limbs = Limbs.of(shown, body, replace(build, hip=(0.0, -70.0)), pose, (near, far), over)
            leg = self.fitted(limbs, build)
            with self.subTest(over=over is not None):
                if over is None:
                    self.assertIsNone(leg.joint)
                    continue
                hand = hands._hand(leg, limbs.origin, build, 7.0, limbs.solids[0])
                assert leg.joint is not None and hand is not None
                self.assertLess(math.dist(leg.joint, arms[0][0]), 1.5)
                self.assertLess(math.dist(hand, arms[0][1]), 1.5)
                self.assertTrue(hands._on_trunk(limbs, hand, build))
                self.assertFalse(hands._on_trunk(limbs, (NECK[0] + 60, NECK[1] + 70), build))

    def test_an_arm_told_over_the_trunk_is_believed_if_it_is_as_long_as_mostly(self) -> None:
        arms = [arm(60, 54, 20, 30), arm(60, 54, -35, 30)]
        for fore, over, told in ((54.0, 0, True), (48.0, 0, False), (48.0, None, True)):
            limbs = posed(drawn(arms, 7.0), arms, build_of(60, 54, 7.0), 1.0)
            self.fitted(limbs, build_of(60, 54, 7.0))
            limbs.over = over
            limbs.legs[0].foot_joint = place(arms[0][0], 50, fore)
            into = Drawn(body=None)
            hands.finish(limbs, build_of(60, 54, 7.0), into)
            with self.subTest(fore=fore, over=over):
                self.assertEqual(into.sure["hand_near"] >= TOLD, told)

    def test_arms_that_taper_show_all_along(self) -> None:
        """Half as wide at the wrist as at the shoulder; how wide each part mostly is fits only its middle."""
        drawings = swinging(9, 66, 60, 30)
        limbs = [posed(tapered(arms, (14.0, 10.0, 6.0)), arms, build_of(66, 60, 10.0), 3.0) for arms in drawings]
        told = hands.set_on(limbs, build_of(66, 60, 10.0), build_of(66, 60, 10.0).hip)
        self.assertAlmostEqual(told.thigh, 66.0, delta=1.5)
        self.assertAlmostEqual(told.shin, 60.0, delta=1.5)
        clear = [leg for one in limbs for leg in (one.legs if abs(one.legs[0].knee[0] - NECK[0]) > 25 else [])]
        self.assertGreater(len(clear), 6)
        for leg in clear:
            assert leg.thigh is not None and leg.shin is not None
            self.assertGreater(min(leg.thigh.seen, leg.shin.seen), 0.7)
        self.assertLess(float(np.median(self.off(drawings, limbs))), 0.7)

    def test_what_does_not_taper_is_left_as_it_is(self) -> None:
        """What is wider towards the elbow has the trunk over its beginning."""
        shares = np.linspace(0.1, 1.0, 14)
        for widths, taper in ((np.full(14, 9.0), 0.0), (4 + 6 * shares, None), (12 - 5 * shares, -0.53)):
            seen = Across(np.zeros((14, 2)), widths, (0.0, 1.0), shares)
            assert seen.taper is not None
            if taper is not None:
                self.assertAlmostEqual(seen.taper, taper, delta=0.03)
            else:
                self.assertGreater(seen.taper, 0.5)
        self.assertIsNone(Across(np.zeros((5, 2)), np.full(5, 9.0), (0.0, 1.0), shares[:5]).taper)
        np.testing.assert_allclose(seen.straightened(seen.taper).widths, 9.4, atol=0.2)

    def test_where_an_arm_parts_from_the_trunk_does_not_lean_its_line(self) -> None:
        """Strokes that begin together merge at first, and their ink grows wider by and by."""
        for turned in (16.0, 20.0):
            elbow, end = place(NECK, turned, 76.0), (NECK[0], NECK[1] + 150)
            sheet = drawn([(elbow, elbow), (end, end)], 14.0)
            (seen,) = settle.look_across(sheet.cover, (0.0, 0.0), [(NECK, elbow, 0.94)], 12.0).across()
            loosely, closely = (settle.stretch(seen, 14.0, closely=how) for how in (False, True))
            with self.subTest(turned=turned):
                assert loosely is not None and closely is not None
                self.assertGreater(abs(loosely.beside(NECK)), 1.0)
                self.assertLess(abs(closely.beside(NECK)), 0.3)
                self.assertEqual(loosely.seen, closely.seen)

    def test_upper_arms_half_within_the_trunk_are_laid_by_the_edge_that_shows(self) -> None:
        """The trunk is of their own tone: only the last of them shows beside it, and that in part."""
        build, body = build_of(57, 57, 9.0), Ellipse(x=NECK[0], y=NECK[1] + 60, major=160, minor=56, angle=90)
        build = replace(build, hip=(0.0, -60.0))
        drawings, limbs = swinging(11, 62, 52, 28), list[Limbs]()
        for arms in drawings:
            sheet = drawn(arms, 9.0)
            outside = bodies.without_body(sheet, body, 0.0)
            solid = np.maximum(sheet.cover, np.asarray(~outside, dtype=np.float32))
            shown = Sheet(0, 0, sheet.cover, solid, sheet.colour)
            beside = np.where(outside, sheet.cover, np.float32(0))
            pose = posed(sheet, arms, build_of(57, 57, 9.0), 2.0).legs
            places = np.array([[np.subtract(at, NECK) for at in (leg.knee, leg.ankle, leg.toe)] for leg in pose])
            limbs.append(Limbs.of(shown, body, build, places, (beside, beside)))
        told = hands.set_on(limbs, build, build.hip)
        self.assertAlmostEqual(told.thigh, 62.0, delta=2.0)
        self.assertAlmostEqual(told.shin, 52.0, delta=1.2)

    def fitted(self, limbs: Limbs, build: Build) -> Leg:
        limbs.fit({"thigh": build.wide, "shin": build.wide})
        limbs.place_knees(build)
        return limbs.legs[0]

    def test_slivers_beside_the_trunk_tell_no_width(self) -> None:
        """Most of what shows of upper arms is as wide as it happens."""
        chance = np.random.default_rng(3)
        shown = [np.concatenate([chance.uniform(1, 8, 9), np.full(5, 11.0 + 0.1 * k)]) for k in range(6)]
        across = [Across(np.zeros((14, 2)), widths, (0, 1)) for widths in shown]
        self.assertAlmostEqual(hands._commonest_width(across, build_of(60, 54, 5.0)), 11.2, delta=0.5)
        self.assertEqual(hands._commonest_width(across[:0], build_of(60, 54, 5.0)), 5.0)


class Outlines(unittest.TestCase):
    def test_narrow_arms_are_filled_as_broad_legs_are(self) -> None:
        """A sleeve as narrow as a gap that is closed in any outline."""
        for inside in (4, 6, 14):
            marked = np.zeros((200, 120), np.uint8)
            cv2.line(marked, (30, 20), (80, 120), 1, inside + 6)
            cv2.line(marked, (30, 20), (80, 120), 0, inside)
            filled = ink.enclosed(marked > 0, 24.0) | (marked > 0)
            whole = np.zeros_like(marked)
            cv2.line(whole, (30, 20), (80, 120), 1, inside + 6)
            with self.subTest(inside=inside):
                self.assertGreater(float(np.mean(filled[whole > 0])), 0.97)
                self.assertLess(int(np.count_nonzero(filled & (whole == 0))), 12)

    def test_a_limb_that_tapers_is_filled_to_its_narrow_end(self) -> None:
        """Closing gaps leaves no slits where its lines come near to each other, nor pits where they fade inwards."""
        for aslant in (40, 90):
            start, end = np.array([40.0, 20.0]), np.array([40.0 + aslant, 150.0])
            way = (end - start) / np.hypot(*(end - start))
            side = np.array([way[1], -way[0]])
            corners = np.rint(4 * np.array([start - 11 * side, start + 11 * side, end + 3 * side, end - 3 * side]))
            fine = np.zeros((800, 640), np.uint8)
            whole = cv2.fillPoly(fine.copy(), [corners.astype(np.int32)], 255)
            lines = cv2.polylines(fine.copy(), [corners.astype(np.int32)], True, 255, 10)
            cover, inside = (cv2.resize(one, (160, 200), interpolation=cv2.INTER_AREA) for one in (lines, whole))
            kept = ink.Inked(0, 0, cover.shape, *packed(cover // 2), threshold=32)
            sheet = ink.filled(ink.sheet_of(kept), kept, 30.0, narrow=False)
            with self.subTest(aslant=aslant):
                self.assertTrue(
                    (sheet.solid[ink.AROUND : -ink.AROUND, ink.AROUND : -ink.AROUND][inside == 255] > 0.5).all()
                )

    def test_what_lies_between_two_legs_is_thicker_than_they_are(self) -> None:
        """They cross at the hip and at the ankles: their outlines enclose the paper between them."""
        marked = np.zeros((420, 260), np.uint8)
        lines = [[(120, 40), (120 + aslant, 220), (120, 400)] for aslant in (-60, 70)]
        for thick, ink_there in ((30, 200), (22, 0)):
            for line in lines:
                cv2.polylines(marked, [np.array(line, np.int32)], False, ink_there, thick)
        sheet = ink.sheet_of(ink.Inked(0, 0, marked.shape, *packed(marked), threshold=32))
        parts = ink.enclosed_parts(sheet, 150.0, 20.0)
        legs, between = parts[parts[:, 1] < 40], float(parts[:, 1].max())
        self.assertGreater(between, 80.0)
        most = guess._as_thick([parts, legs, legs, legs], 150.0)
        self.assertTrue(float(legs[:, 1].max()) < most < between)
        self.assertEqual(guess._as_thick([], 150.0), 150.0)

    def test_what_is_wider_than_a_limb_stays_paper(self) -> None:
        marked = np.zeros((200, 200), np.uint8)
        cv2.circle(marked, (100, 100), 40, 1, 3)
        self.assertFalse(ink.enclosed(marked > 0, 24.0).any())
