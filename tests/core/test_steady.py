"""Photographed paper: drift and flicker are found and taken out; what stands still by itself is left alone."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion.clip import Picture
from motion.shift import STILL, Shift
from motion.tracking import steady
from motion.tracking.light import difference
from motion.tracking.registration import Register, straightened
from motion.tracking.views import Lit

WIDTH, HEIGHT = 400, 260


def paper(grain: float = 0.0, seed: int = 0, *, marks: bool = True, line: bool = True, gain: float = 1.0) -> Picture:
    """A sheet with a ground line and two peg holes."""
    rng = np.random.default_rng(seed)
    sheet = np.full((HEIGHT, WIDTH, 3), 230, np.float32)
    if line:
        sheet[200:203] = 70
    if marks:
        sheet[8:22, 120:150] = sheet[8:22, 250:264] = 60
    sheet = cv2.GaussianBlur(sheet, (0, 0), 0.7) * gain + rng.normal(0, grain, (HEIGHT, WIDTH, 1))
    picture = np.full((HEIGHT, WIDTH, 4), 255, np.uint8)
    picture[..., :3] = np.clip(np.round(sheet), 0, 255)
    return picture


def laid(picture: Picture, shift: Shift) -> Picture:
    """The picture as a camera sees it when the paper lies off by so much."""
    matrix = shift.matrix(WIDTH, HEIGHT)
    return np.asarray(
        cv2.warpAffine(picture, matrix, (WIDTH, HEIGHT), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE),
        dtype=np.uint8,
    )


def with_ball(picture: Picture, x: int, y: int) -> Picture:
    out = picture.copy()
    cv2.circle(out, (x, y), 18, (90, 60, 50, 255), cv2.FILLED, cv2.LINE_AA)
    return out


def with_walker(picture: Picture, number: int) -> Picture:
    """Somebody who walks in place: a body that rises and falls, legs that swing."""
    out = picture.copy()
    swing, rise = math.sin(number * 0.9), round(3 * math.cos(number * 1.8))
    hip = (200, 120 + rise)
    cv2.ellipse(out, (200, 85 + rise), (26, 38), 0, 0, 360, (90, 60, 50, 255), cv2.FILLED, cv2.LINE_AA)
    for way in (1, -1):
        foot = (round(200 + way * 45 * swing), 194)
        cv2.line(out, hip, foot, (90, 60, 50, 255), 12, cv2.LINE_AA)
    return out


def looked_at(pictures: list[Picture]) -> steady.Steady:
    return steady.look([Lit(p) for p in pictures])


class Registering(unittest.TestCase):
    def test_a_bare_line_tells_nothing_of_a_move_along_it_whatever_stands_in_front(self) -> None:
        pictures = [with_ball(paper(4.0, i, marks=False), 60 + 9 * i, 182 - 7 * i) for i in range(8)]
        register = Register(pictures[0], pictures[1:7])
        self.assertGreater(np.count_nonzero(register._slopes[:, 1]), 500)
        self.assertEqual(np.count_nonzero(register._slopes[:, 0]), 0)
        for picture in pictures:
            self.assertEqual(register.shift_of(picture).x, 0.0)

    @settings(max_examples=30)
    @given(st.floats(-5, 5), st.floats(-5, 5), st.floats(-0.3, 0.3), st.integers(0, 3))
    def test_any_small_displacement_is_found(self, x: float, y: float, turn: float, seed: int) -> None:
        register = Register(with_ball(paper(), 60, 120), [with_ball(paper(), 90 + 40 * i, 120) for i in range(5)])
        shift = Shift(x=x, y=y, turn=turn)
        found = register.shift_of(laid(with_ball(paper(2.0, seed), 200, 90), shift))
        self.assertLess(abs(found.x - x), 0.2)
        self.assertLess(abs(found.y - y), 0.2)
        self.assertLess(abs(found.turn - turn), 0.04)

    def test_straightening_lays_a_picture_as_the_first_one_lies(self) -> None:
        shift = Shift(x=2.3, y=-1.6, turn=0.2)
        back = straightened(laid(paper(), shift), shift)
        inner = difference(back, paper())[12:-12, 12:-12]
        self.assertLess(float(np.percentile(inner, 99)), 40)
        self.assertLess(float(inner.mean()), 1.0)

    def test_a_level_line_alone_tells_nothing_about_a_move_along_it(self) -> None:
        sheets = [paper(3.0, i, marks=False) for i in range(6)]
        register = Register(sheets[0], sheets[1:])
        found = register.shift_of(laid(paper(3.0, 9, marks=False), Shift(y=2.0)))
        self.assertLess(abs(found.x), 0.3)
        self.assertLess(abs(found.y - 2.0), 0.12)

    def test_a_ball_on_blank_paper_is_not_taken_for_the_paper(self) -> None:
        blank = paper(marks=False, line=False)
        register = Register(with_ball(blank, 80, 80), [with_ball(blank, 80 + i, 80 + i) for i in range(1, 6)])
        self.assertFalse(register.has_edges)
        self.assertEqual(register.shift_of(with_ball(blank, 84, 84)), STILL)

    def test_another_background_is_not_laid_over_the_first(self) -> None:
        register = Register(paper(), [paper()] * 4)
        self.assertEqual(register.shift_of(paper(marks=False, line=False)), STILL)

    def test_somebody_who_walks_in_place_is_not_taken_for_the_paper(self) -> None:
        rng = np.random.default_rng(4)
        lie = [STILL, *(Shift(x=x, y=y) for x, y in rng.normal(0, 1.5, (11, 2)))]
        pictures = [laid(with_walker(paper(), n), shift) for n, shift in enumerate(lie)]
        register = Register(pictures[0], pictures[1:7], stays=True)
        for picture, shift in zip(pictures, lie, strict=True):
            found = register.shift_of(picture)
            self.assertLess(math.hypot(found.x - shift.x, found.y - shift.y), 0.3)

    def test_somebody_who_walks_in_place_on_blank_paper_tells_no_drift(self) -> None:
        blank = paper(marks=False, line=False)
        register = Register(with_walker(blank, 0), [with_walker(blank, n) for n in range(1, 7)], stays=True)
        self.assertFalse(register.has_edges)


class Looking(unittest.TestCase):
    def test_digital_work_is_left_alone(self) -> None:
        self.assertEqual(looked_at([with_ball(paper(), 60 + 30 * i, 100) for i in range(8)]), steady.NOTHING)

    def test_grain_alone_is_neither_drift_nor_flicker(self) -> None:
        found = looked_at([with_ball(paper(4.0, i), 60 + 30 * i, 100) for i in range(8)])
        self.assertFalse(found.changes)

    def test_wavering_light_is_evened_out(self) -> None:
        gains = (1.0, 0.96, 1.03, 0.98, 1.02)
        pictures = [with_ball(paper(gain=g), 60 + 40 * i, 100) for i, g in enumerate(gains)]
        found = looked_at(pictures)
        self.assertTrue(found.changes)
        self.assertIsNone(found.register)
        for picture in pictures[1:]:
            level = found.steady(Lit(picture))[0].light()[240, 40, :3].astype(int)
            self.assertLessEqual(int(np.abs(level - pictures[0][240, 40, :3]).max()), 1)

    def test_light_that_changes_its_colour_is_evened_out_colour_by_colour(self) -> None:
        pictures = [with_ball(paper(), 60 + 40 * i, 100) for i in range(5)]
        for i, picture in enumerate(pictures[1:]):
            picture[..., :3] = np.clip(np.round(picture[..., :3] * (0.96, 1.0, 0.9 + 0.02 * i)), 0, 255)
        found = looked_at(pictures)
        for picture in pictures[1:]:
            light = found.steady(Lit(picture))[0].light()
            self.assertLessEqual(int(np.abs(light[240, 40, :3].astype(int) - pictures[0][240, 40, :3]).max()), 1)
            self.assertEqual(int(light[..., 3].min()), 255)

    def test_one_odd_picture_does_not_make_a_drifting_clip(self) -> None:
        pictures = [with_ball(paper(), 60 + 30 * i, 100) for i in range(8)]
        pictures[4] = with_ball(paper(line=False), 180, 100)
        self.assertFalse(looked_at(pictures).changes)

    def test_transparent_pictures_cannot_drift(self) -> None:
        pictures = [with_ball(paper(), 60 + 30 * i, 100) for i in range(8)]
        for picture in pictures:
            picture[..., 3] = 0
        self.assertEqual(looked_at(pictures), steady.NOTHING)


if __name__ == "__main__":
    unittest.main()
