"""Where arms hang, and how long they are: necks below heads that hide them, and thin arms beside a trunk."""

from __future__ import annotations

import math
import unittest
from collections.abc import Sequence
from types import SimpleNamespace
from unittest import mock

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import arms, poses
from motion.tracking.subjects.figure.ink import Inked, Sheet
from motion.tracking.subjects.figure.joints import Line, Loose, turning_point
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.trunk import Trunk, below_round_end, trunks

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


class Pictures(unittest.TestCase):
    """Trunks that end round, as they are drawn under a head."""

    HEAD, LOW, WIDE = Ellipse(x=150, y=60, major=60, minor=60, angle=0), 240, 40

    def neck(self, at: int, armed: bool = False) -> float:
        """How far below the head's middle the neck is told of a trunk that has it so far below, px."""
        kept = []
        for swung in (-60, -36, -12, 12, 36, 60):
            differs = np.zeros((420, 300), np.uint8)
            top = self.HEAD.y + at
            cv2.line(differs, (150, round(top)), (150, self.LOW), 200, self.WIDE)
            for side in (-1, 1):
                cv2.line(differs, (150, self.LOW), (150 + side * swung, 400), 200, 14)
                if armed:
                    cv2.line(differs, (150, round(top)), (150 + side * swung, round(top) + 90), 200, 10)
            cv2.circle(differs, (150, 60), 30, 200, -1)
            marked = differs > 10
            colours = np.zeros(int(marked.sum()), np.uint32)
            kept.append(Inked(0, 0, differs.shape, np.packbits(marked), differs[marked], colours, 14))
        told = trunks(Looking(kept, frozenset()), [self.HEAD] * len(kept))
        assert told is not None
        own, laid = told
        body = laid[0]
        assert body is not None
        return body.y + own.neck[1] - self.HEAD.y

    def test_one_that_shows_is_told_where_it_is(self) -> None:
        for at in (36, 40, 44, 48):
            for armed in (False, True):
                with self.subTest(at=at, armed=armed):
                    self.assertAlmostEqual(self.neck(at, armed), at, delta=4.0)

    def test_one_that_the_head_hides_is_told_just_below_it(self) -> None:
        for at in (20, 26, 30):
            self.assertAlmostEqual(self.neck(at), 32.0, delta=3.0)


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


class Lengths(unittest.TestCase):
    def test_of_arms_that_explain_as_much_the_shortest_are_taken(self) -> None:
        """Longer ones explain what is carried as well; one that explains clearly more is believed."""
        own = Trunk(neck=(0.0, -50.0), hip=(0.0, 50.0), other_hip=None, wide=20.0, tilt=90.0)
        legs = Build(hip=(0.0, 50.0), thigh=60.0, shin=60.0, foot=30.0, wide=8.0, facing=1.0)
        for by_length, long in (
            ({0.86: 0.52, 1.0: 0.505, 1.15: 0.5}, 86.0),
            ({0.86: 0.62, 1.0: 0.505, 1.15: 0.5}, 100.0),
            ({0.86: 0.62, 1.0: 0.605, 1.15: 0.5}, 115.0),
        ):

            def cost(_: object, build: Build, __: object, costs: dict[float, float] = by_length) -> float:
                return costs.get(round(build.leg / 100, 2), 1.0)

            around = SimpleNamespace(trunk=own, legs=legs, seen=[0], helped=Help({}, {}))
            with self.subTest(long), mock.patch.object(arms, "_cost", cost):
                self.assertAlmostEqual(arms._first_guess(around).leg, long)  # type: ignore[arg-type]
