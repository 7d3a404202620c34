"""What differs between two pictures, against the plain rule; the quick ways round must not show."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion import ranks
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
        light = to_light(seen)
        self.assertTrue((np.abs(light[y, x, :3] - seen[y, x, :3] * (alpha / 255)) <= 1).all())
        self.assertEqual(int(light[y, x, 3]), alpha)

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

    def test_the_order_of_the_array_is_left_as_it_was(self) -> None:
        array = np.array([3.0, 1.0, 2.0])
        self.assertEqual((ranks.median(array), array.tolist()), (2.0, [3.0, 1.0, 2.0]))
