"""What differs between two pictures, against the plain rule; the quick ways round must not show."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion import ranks
from motion.tracking import light
from motion.tracking.light import difference, largest_channel, to_light

SEEDS = st.integers(0, 10_000)


def picture(seed: int, height: int = 24, width: int = 31) -> np.ndarray:
    return np.random.default_rng(seed).integers(0, 256, (height, width, 4), dtype=np.uint8)


def plain(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    return np.abs(one.astype(int) - other.astype(int)).max(axis=2)


class Differences(unittest.TestCase):
    @given(SEEDS, st.integers(0, 23), st.integers(0, 30), st.integers(1, 24), st.integers(1, 31), st.integers(0, 3))
    def test_a_part_that_differs_is_found_whole_wherever_it_lies(
        self, seed: int, top: int, left: int, height: int, width: int, channel: int
    ) -> None:
        one = picture(seed)
        other = one.copy()
        other[top : top + height, left : left + width, channel] ^= 37
        np.testing.assert_array_equal(difference(one, other), plain(one, other))

    @given(SEEDS)
    def test_grain_everywhere_is_no_exception(self, seed: int) -> None:
        one = picture(seed)
        other = np.clip(one.astype(int) + np.random.default_rng(seed).integers(-3, 4, one.shape), 0, 255)
        np.testing.assert_array_equal(difference(one, other.astype(np.uint8)), plain(one, other))

    def test_nothing_differs_from_itself(self) -> None:
        self.assertEqual(int(difference(picture(1), picture(1)).max()), 0)

    def test_parts_of_pictures_and_turned_ones_are_read_as_they_lie(self) -> None:
        one, other = picture(1)[3:20, 5:25], picture(2)[3:20, 5:25]
        np.testing.assert_array_equal(difference(one, other), plain(one, other))
        turned = np.rot90(picture(3))
        np.testing.assert_array_equal(largest_channel(turned), turned.max(axis=2))


class Places(unittest.TestCase):
    @given(SEEDS, st.integers(0, 20), st.integers(0, 28), st.integers(1, 10), st.integers(1, 10))
    def test_the_box_of_what_is_unequal_holds_it_and_nothing_besides(
        self, seed: int, top: int, left: int, height: int, width: int
    ) -> None:
        one = picture(seed)
        other = one.copy()
        other[top : top + height, left : left + width] ^= 1
        box = (left, top, min(31, left + width), min(24, top + height))
        self.assertEqual(light.where_unequal(one, other), box)
        self.assertEqual(light.where_unequal(one, one), light.NOWHERE)

    @given(SEEDS, st.sampled_from([1, 2, 4, 8]), st.integers(9, 41), st.integers(9, 41))
    def test_shrinking_by_halves_gives_the_means_of_squares(self, seed: int, by: int, height: int, width: int) -> None:
        values = picture(seed, height, width)[..., 0]
        whole = np.zeros((-(-height // by) * by, -(-width // by) * by))
        whole[:height, :width] = values
        means = whole.reshape(whole.shape[0] // by, by, whole.shape[1] // by, by).mean(axis=(1, 3))
        np.testing.assert_allclose(light.shrunk(values, by), means, atol=2)

    def test_specks_are_no_drawing_and_a_thin_line_is_one(self) -> None:
        off = np.zeros((64, 96), np.uint8)
        off[5, 9:12] = off[40:42, 70] = 200
        self.assertEqual(light.where_drawn(off, 14), light.NOWHERE)
        off[8:56, 33:35] = 200
        self.assertEqual(light.where_marked(light.over(off, 14), light.SPECK_PX, 0), (32, 8, 40, 56))

    def test_two_boxes_together(self) -> None:
        self.assertEqual(light.around((2, 3, 5, 9), (4, 1, 8, 4)), (2, 1, 8, 9))
        self.assertEqual(light.around(light.NOWHERE, (4, 1, 8, 4)), (4, 1, 8, 4))


class Lights(unittest.TestCase):
    @given(SEEDS)
    def test_an_opaque_picture_is_its_own_light(self, seed: int) -> None:
        opaque = picture(seed)
        opaque[..., 3] = 255
        self.assertIs(to_light(opaque), opaque)

    @given(SEEDS, st.integers(0, 23), st.integers(0, 30), st.integers(0, 254))
    def test_one_pixel_that_is_not_wholly_there_tells(self, seed: int, y: int, x: int, alpha: int) -> None:
        seen = picture(seed)
        seen[..., 3] = 255
        seen[y, x, 3] = alpha
        lit = to_light(seen)
        self.assertTrue((np.abs(lit[y, x, :3] - seen[y, x, :3] * (alpha / 255)) <= 1).all())
        self.assertEqual(int(lit[y, x, 3]), alpha)

    def test_ink_of_any_colour_on_nothing_shows(self) -> None:
        empty = np.zeros((4, 4, 4), np.uint8)
        inked = empty.copy()
        inked[2, 2] = (255, 255, 255, 255)
        colourless = empty.copy()
        colourless[2, 2] = (90, 10, 200, 0)
        self.assertEqual(int(difference(to_light(inked), to_light(empty)).max()), 255)
        self.assertEqual(int(difference(to_light(colourless), to_light(empty)).max()), 0)


class Ranks(unittest.TestCase):
    @given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=40), st.floats(0, 100))
    @settings(max_examples=200)
    def test_they_are_what_the_library_gives(self, values: list[float], share: float) -> None:
        array = np.array(values)
        self.assertAlmostEqual(ranks.median(array), float(np.median(array)), places=6)
        self.assertAlmostEqual(ranks.percentile(array, share), float(np.percentile(array, share)), places=4)

    @given(SEEDS, st.floats(0.01, 1.0))
    def test_a_level_is_passed_by_no_more_than_the_rest(self, seed: int, share: float) -> None:
        values = picture(seed)[..., 0]
        level = ranks.level_over(values, share)
        self.assertGreaterEqual(float(np.mean(values <= level)), share - 1e-9)
        self.assertLess(float(np.mean(values <= level - 1)), share)

    def test_the_order_of_the_array_is_left_as_it_was(self) -> None:
        array = np.array([3.0, 1.0, 2.0])
        self.assertEqual((ranks.median(array), array.tolist()), (2.0, [3.0, 1.0, 2.0]))
