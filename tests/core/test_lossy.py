"""Telling drawings apart where one never looks quite the same twice."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from motion import formats
from motion.shift import STILL
from motion.synth import write
from motion.tracking import lossy, scan
from motion.tracking.differs import Differs
from motion.tracking.ellipse import Ellipse
from motion.tracking.light import Light, difference, where_over
from motion.tracking.outline import Candidate
from motion.tracking.views import Lit


def disc(x: float, grain: float = 0.0, seed: int = 0, level: int = 40) -> Light:
    """A dark disc on paper, with what a codec leaves around it."""
    picture = np.full((90, 160, 4), 230, np.uint8)
    picture[..., 3] = 255
    colour = (level, level, level, 255)
    cv2.circle(picture, (round(x * 16), 45 * 16), 14 * 16, colour, -1, cv2.LINE_AA, 4)
    noise = np.random.default_rng(seed).normal(0, grain, picture.shape[:2])
    picture[..., :3] = np.clip(picture[..., :3] + noise[..., None], 0, 255)
    return picture


def differs(picture: Light) -> np.ndarray:
    return np.abs(picture[..., 0].astype(int) - 230).astype(np.uint8)


def seen(picture: Light) -> Differs:
    off = differs(picture)
    return Differs.of(off, where_over(off, 14))


def unknown(first: int, second: int) -> None:
    """No ball was found."""


class Steps(unittest.TestCase):
    def test_grain_counts_little_and_a_move_much(self) -> None:
        still = lossy.step(disc(60, 4, 1), disc(60, 4, 2))
        for moved in (1.0, 3.0, 30.0):
            self.assertGreater(lossy.step(disc(60, 4, 1), disc(60 + moved, 4, 2)), 3 * still)

    def test_equal_pictures_do_not_differ(self) -> None:
        self.assertEqual(lossy.step(disc(60), disc(60)), 0.0)

    def test_a_rough_look_tells_a_move_and_never_more_than_there_is(self) -> None:
        for moved in (0.0, 0.3, 3.0, 30.0):
            one, other = disc(60, 2, 1), disc(60 + moved, 2, 2)
            rough = lossy.rough_step(one[..., 1], other[..., 1])
            self.assertLessEqual(rough, int(difference(one, other).max()))
            self.assertLessEqual(rough, 1.3 * lossy.step(one, other) + 3)
            self.assertEqual(rough > lossy.MUCH * 190, moved >= 3.0)

    def test_contrast_is_that_of_the_drawing(self) -> None:
        self.assertAlmostEqual(lossy.contrast(differs(disc(60))), 190, delta=4)
        self.assertEqual(lossy.contrast(np.zeros((50, 50), np.uint8)), 0.0)


class Parting(unittest.TestCase):
    @given(
        st.lists(st.floats(0.0, 0.06), min_size=1, max_size=40),
        st.lists(st.floats(0.3, 1.5), min_size=1, max_size=40),
    )
    def test_two_heaps_are_parted_between_them(self, same: list[float], other: list[float]) -> None:
        limit = lossy.parting([*other, *same]).limit
        self.assertTrue(max(same) <= limit < min(other))

    def test_a_clip_on_ones_has_no_repeats(self) -> None:
        self.assertLess(lossy.parting([0.5, 0.9, 1.1, 0.7]).limit, 0.5)

    def test_nothing_to_go_by(self) -> None:
        self.assertTrue(lossy.SURELY_SAME <= lossy.parting([]).limit <= lossy.SURELY_OTHER)


class Counting(unittest.TestCase):
    def count(self, places: list[float], grain: float) -> list[int]:
        counter = lossy.LossyCounter()
        for seed, x in enumerate(places):
            picture = disc(x, grain, seed)
            counter.see(Lit(picture), seen(picture), seen(picture).box)
        return counter.numbers(unknown)[0]

    def test_held_drawings_and_those_that_return_keep_their_numbers(self) -> None:
        self.assertEqual(self.count([40, 40, 60, 60, 60, 90, 60, 60, 40], 3), [1, 1, 2, 2, 2, 3, 2, 2, 1])

    def test_what_is_equal_to_the_background_in_both_is_one_drawing(self) -> None:
        counter = lossy.LossyCounter()
        for picture in (disc(40), disc(500), disc(500)):
            counter.see(Lit(picture), seen(picture), seen(picture).box)
        self.assertEqual(counter.numbers(unknown)[0], [1, 2, 2])

    def test_a_repeat_is_told_at_once_and_a_move_is_not_taken_for_one(self) -> None:
        counter = lossy.LossyCounter()
        told = []
        for seed, x in enumerate((40, 40, 42, 42, 60)):
            picture = disc(x, 2, seed)
            counter.see(Lit(picture), seen(picture), seen(picture).box)
            told.append(counter.repeats)
        self.assertEqual(told, [False, True, False, True, False])

    def placed(self, places: list[float], moved: lossy.Moved, *, coarse: bool = False) -> list[int]:
        counter = lossy.LossyCounter()
        for x in places:
            counter.see(Lit(disc(x)), seen(disc(x)), seen(disc(x)).box, coarse=coarse)
        return counter.numbers(moved)[0]

    def test_between_what_is_sure_the_place_of_the_ball_tells(self) -> None:
        places = [40, 40.5, 40.5, 60, 40]
        self.assertEqual(self.placed(places, lambda i, j: abs(places[i] - places[j])), [1, 2, 2, 3, 1])
        self.assertEqual(self.placed([40, 40.18, 40.18, 60, 40], lambda i, j: 0.0), [1, 1, 1, 2, 1])

    def test_a_ball_that_moved_more_than_repeats_do_is_another_drawing_however_little_differs(self) -> None:
        places = [40, 40.15, 40.65, 60]
        self.assertEqual(self.placed(places, lambda i, j: abs(places[i] - places[j])), [1, 1, 2, 3])

    def test_a_ball_that_seems_to_move_more_than_its_picture_differs_was_measured_badly(self) -> None:
        self.assertEqual(self.placed([40, 40.15, 60, 60.15, 80], lambda i, j: 0.9), [1, 1, 2, 2, 3])

    def test_a_ball_in_its_place_of_which_much_differs_was_drawn_anew_unless_all_is_coarse(self) -> None:
        places = [40, 40.6, 60]
        self.assertEqual(self.placed(places, lambda i, j: 0.0), [1, 2, 3])
        self.assertEqual(self.placed(places, lambda i, j: 0.0, coarse=True), [1, 1, 2])

    def test_slow_drawings_are_not_taken_for_held_ones(self) -> None:
        self.assertEqual(self.count([40, 41, 42.5, 44.5, 47], 2), [1, 2, 3, 4, 5])


def legs(turned: bool, to: int = 0) -> Light:
    """Two thin legs in two colours that stand out of the paper about as much, one ahead and one behind."""
    picture = np.full((300, 400, 4), 255, np.uint8)
    cv2.circle(picture, (200 + to, 40), 20, (30, 60, 160, 255), -1, cv2.LINE_AA)
    for ahead, colour in zip((40, -40), ((30, 60, 160), (40, 140, 150))[:: -1 if turned else 1], strict=True):
        ends = np.array([(200 + to, 60), (200 + to + ahead // 2, 150), (200 + to + ahead, 240)])
        cv2.polylines(picture, [ends.astype(np.int32)], False, (*colour, 255), 2, cv2.LINE_AA)
    return picture


class Hues(unittest.TestCase):
    def test_thin_legs_that_changed_places_are_another_drawing_through_video_and_repeats_are_not(self) -> None:
        drawn = [legs(False), legs(False, 9), legs(False, 20), legs(True), legs(False, 9), legs(True, 30), legs(False)]
        with tempfile.TemporaryDirectory() as name:
            path = write.save([(picture, 1) for picture in drawn], Path(name) / "legs.mp4", "mp4", 24)
            decoded = list(formats.read(path, 24).footage.pictures(range(len(drawn))))
        counter = lossy.LossyCounter()
        for picture in decoded:
            off = difference(picture, np.full_like(picture, 255))
            here = Differs.of(off, where_over(off, 14))
            counter.see(Lit(picture), here, here.box)
        self.assertEqual(counter.numbers(unknown)[0], [1, 2, 3, 4, 2, 5, 1])


class Unlike(unittest.TestCase):
    def ball(self, major: float, minor: float, angle: float, x: float = 50.0) -> scan.Seen:
        found = Candidate(
            ellipse=Ellipse(x=x, y=40.0, major=major, minor=minor, angle=angle),
            clipped=False,
            contrast=150.0,
            roundness=1.0,
        )
        return scan.Seen(picture=0, shift=STILL, candidates=[found], bare=False, marks=300)

    def test_a_ball_of_another_shape_at_the_same_place_was_drawn_anew(self) -> None:
        balls = {0: self.ball(22, 22, 0), 1: self.ball(25, 19, 90), 2: self.ball(22.1, 22, 30)}
        moved = scan._Subjects(balls).moved
        self.assertGreater(moved(0, 1) or 0.0, lossy.FAR_MOVED_PX)
        self.assertLess(moved(0, 2) or 0.0, lossy.MOVED_PX)
