"""Where arms hang, and how long they are: necks below heads that hide them, and thin arms beside a trunk."""

from __future__ import annotations

import math
import unittest
from collections.abc import Sequence

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import poses
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.joints import Line, Loose, turning_point
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.trunk import below_round_end

ROWS, COLUMNS = 260, 240
NECK = (120.0, 50.0)


def rounded(half: float, below: float, rows: int) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """How wide a trunk is that ends round, from some px above where it is as wide as it is."""
    above = np.clip(below - (np.arange(rows) + 0.5), 0, half)
    return np.asarray(2 * np.sqrt(half**2 - above**2))


class RoundEnds(unittest.TestCase):
    @given(st.floats(12, 30), st.floats(0.25, 0.95), st.integers(0, 20))
    def test_what_shows_of_a_round_end_tells_where_it_began(self, half: float, share: float, seed: int) -> None:
        grain = np.random.default_rng(seed).uniform(-0.4, 0.4, round(2 * half))
        shown = rounded(half, share * half, round(2 * half)) + grain
        self.assertAlmostEqual(below_round_end(shown), share * half, delta=0.15 * half)

    def test_where_the_head_hides_it_none_shows(self) -> None:
        self.assertLess(below_round_end(np.full(40, 40.0)), 1.0)

    def test_arms_that_widen_the_lower_rows_are_no_round_end(self) -> None:
        shown = np.full(40, 40.0)
        shown[24:] += np.arange(16)
        self.assertLess(below_round_end(shown), 2.5)

    def test_of_few_rows_nothing_is_told(self) -> None:
        self.assertEqual(below_round_end(np.array([3.0, 5.0, 6.0])), 0.0)


class AlongTheTrunk(unittest.TestCase):
    def turned_about(self, at: tuple[float, float], loose: Loose) -> tuple[float, float]:
        lines = []
        for degrees in np.linspace(-35, 35, 12):
            way = math.sin(math.radians(degrees)), math.cos(math.radians(degrees))
            lines.append(Line((at[0] + 30 * way[0], at[1] + 30 * way[1]), way, None))
        found = turning_point(lines, (0.0, 0.0), loose, 30.0)
        assert found is not None
        return found

    def test_a_joint_moves_more_readily_along_an_axis_than_across_it(self) -> None:
        held = Loose(along=1000.0, across=0.01, axis=(0.0, 1.0))
        x, y = self.turned_about((4.0, 9.0), held)
        self.assertLess(abs(x), 0.5)
        self.assertGreater(y, 6.0)
        x, y = self.turned_about((4.0, 9.0), Loose.evenly(1000.0))
        self.assertLess(math.dist((x, y), (4.0, 9.0)), 0.1)

    def test_the_axis_may_lie_any_way(self) -> None:
        slanted = Loose(along=1000.0, across=0.01, axis=(2.0, 2.0))
        x, y = self.turned_about((6.0, 8.0), slanted)
        self.assertLess(abs(x - y), 0.5)
        self.assertGreater(x, 4.0)


def sheet(lines: Sequence[Sequence[tuple[float, float]]], wide: int) -> Sheet:
    """Strokes so wide."""
    cover = np.zeros((ROWS, COLUMNS), np.uint8)
    for line in lines:
        cv2.polylines(cover, [np.rint(np.array(line)).astype(np.int32)], False, 255, wide, cv2.LINE_AA)
    solid = cover.astype(np.float32) / 255
    return Sheet(0, 0, solid, solid, np.zeros((ROWS, COLUMNS, 4), np.uint8))


class ThinArms(unittest.TestCase):
    """Two thin arms beside a trunk, in which others might lie unseen."""

    def hands(self, wide: int, long: float) -> list[float]:
        """How far before the trunk the hands of the likeliest pair lie, px, of strokes so wide.

        Arms are thought to be so many times as long as they are.
        """
        arms = [[NECK, (98.0, 90.0), (88.0, 132.0)], [NECK, (144.0, 89.0), (178.0, 116.0)]]
        trunk = [NECK, (120.0, 140.0)]
        build = Build(hip=(0.0, -45.0), thigh=46.0 * long, shin=44.0 * long, foot=0.0, wide=2.0, facing=1.0)
        body = Ellipse(x=120.0, y=95.0, major=90.0, minor=4.0, angle=90.0)
        small = poses.Small(sheet([*arms, trunk], wide), body, build)
        small.covered = small.drawn([trunk], 3.0) > 0
        small.ink &= ~small.covered
        small.dim(small.covered, 0.7)
        small.count_thin(build.wide)
        found = poses.Search(build, poses.ARMS).legs_of(small)
        pair = np.unravel_index(int(found.pair_costs.argmin()), found.pair_costs.shape)
        return sorted(float(found.ankles[k, 0]) for k in pair)

    def test_both_are_found_and_none_is_hidden_in_the_trunk(self) -> None:
        for wide in (1, 2):
            for long in (0.72, 1.0, 1.1):
                with self.subTest(wide=wide, long=long):
                    behind, before = self.hands(wide, long)
                    self.assertLess(behind, -20.0)
                    self.assertGreater(before, 30.0)
