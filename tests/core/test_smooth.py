"""A drawing against its neighbours: curves, misfits, and the fewest drawings that explain what is wrong."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from motion import curves
from motion.exercises.bounce import smooth
from motion.exercises.bounce.smooth import Run

D, ACROSS = 60.0, 18.0
ALLOWED = smooth.tolerances(D, 1.0, 960, in_place=False)


def flight(count: int = 9, gravity: float = 9.0, across: float = ACROSS) -> NDArray[np.float64]:
    """A hop in the air as (count, 2): x, and height, at the frames after it left the ground."""
    times = np.arange(1, count + 1, dtype=np.float64)
    return np.stack([across * times, 0.5 * gravity * times * (count + 1 - times)], axis=1)


def run_of(points: NDArray[np.float64]) -> Run:
    """The points as a run between the contacts that the flight comes from and goes to."""
    count = len(points)
    return Run(
        points=points,
        clocks=(np.arange(1, count + 1, dtype=np.float64),),
        before=np.zeros(2),
        after=np.array([ACROSS * (count + 1), 0.0]),
    )


def along(points: NDArray[np.float64], index: int, px: float) -> NDArray[np.float64]:
    """The points with one moved so far along the chord of its neighbours."""
    moved = points.copy()
    way = points[index + 1] - points[index - 1]
    moved[index] += px * way / np.hypot(*way)
    return moved


def across(points: NDArray[np.float64], index: int, px: float) -> NDArray[np.float64]:
    """The points with one moved so far to the left of the chord of its neighbours."""
    moved = points.copy()
    way = points[index + 1] - points[index - 1]
    moved[index] += px * np.array([-way[1], way[0]]) / np.hypot(*way)
    return moved


class Curves(unittest.TestCase):
    @given(
        st.lists(st.floats(-50, 50), min_size=1, max_size=4),
        st.integers(0, 4),
    )
    def test_points_of_a_polynomial_give_it_back(self, coefficients: list[float], more: int) -> None:
        degree = len(coefficients) - 1
        times = np.linspace(-1, 1, degree + 1 + more)
        found = curves.fit(times, np.polyval(coefficients, times), degree)
        np.testing.assert_allclose(found, coefficients, atol=1e-7)

    def test_weights_leave_a_stray_point_out(self) -> None:
        times = np.linspace(-1, 1, 7)
        values = 3 * times**2 - times
        values[3] += 100
        weights = np.ones(7)
        weights[3] = 0.0
        np.testing.assert_allclose(curves.fit(times, values, 2, weights), [3, -1, 0], atol=1e-9)

    @given(st.integers(0, 3), st.integers(5, 30), st.integers(0, 10_000), st.floats(-100, 100))
    def test_a_weighted_polynomial_is_that_of_the_library(
        self, degree: int, count: int, seed: int, first: float
    ) -> None:
        rng = np.random.default_rng(seed)
        times = first + np.cumsum(rng.uniform(0.5, 2.0, count))
        values, weights = rng.normal(0, 50, count), rng.uniform(0.1, 1.0, count)
        found = curves.at(curves.polynomial(times, values, degree, weights), times)
        wanted = np.polyval(np.polyfit(times - first, values, degree, w=np.sqrt(weights)), times - first)
        np.testing.assert_allclose(found, wanted, atol=1e-5)

    @given(st.integers(1, 3), st.integers(4, 12), st.integers(0, 10_000), st.floats(-100, 100))
    def test_so_is_one_without_weights(self, degree: int, count: int, seed: int, first: float) -> None:
        rng = np.random.default_rng(seed)
        times, values = first + np.cumsum(rng.uniform(0.5, 2.0, count)), rng.normal(0, 50, count)
        found = curves.at(curves.polynomial(times, values, degree), times)
        wanted = np.polyval(np.polyfit(times - first, values, degree), times - first)
        np.testing.assert_allclose(found, wanted, atol=1e-4)

    def test_of_many_solutions_the_smallest_is_taken(self) -> None:
        np.testing.assert_allclose(curves.polynomial(np.array([3.0, 3.0]), np.array([1.0, 2.0]), 1), [0, 1.5])
        columns = np.array([[1.0, 2, 2], [1, 3, 3], [1, 4, 4], [1, 5, 5]])
        np.testing.assert_allclose(curves.least_squares(columns, np.arange(1.0, 5.0)), [-1, 0.5, 0.5], atol=1e-9)

    def test_too_few_points_give_a_lower_degree(self) -> None:
        np.testing.assert_allclose(curves.fit(np.array([0.0, 1.0]), np.array([1.0, 3.0]), 3), [0, 0, 2, 1], atol=1e-9)

    def test_two_values_at_once(self) -> None:
        times = np.linspace(-1, 1, 5)
        both = np.stack([times, times**2], axis=1)
        fitted = curves.fit(times, both, 2)
        np.testing.assert_allclose(curves.at(fitted, np.array([0.5])), [[0.5, 0.25]], atol=1e-9)


class TolerancesOfADrawing(unittest.TestCase):
    def test_they_grow_with_the_ball_the_frame_and_leniency(self) -> None:
        small = smooth.tolerances(20, 1.0, 960, in_place=False)
        self.assertAlmostEqual(small.across, 2.0)
        self.assertAlmostEqual(smooth.tolerances(20, 1.0, 1920, in_place=False).across, 4.0)
        self.assertAlmostEqual(smooth.tolerances(100, 1.6, 960, in_place=False).across, 11.2)
        self.assertAlmostEqual(small.jump_least, 1.0)
        self.assertFalse(smooth.tolerances(20, 1.0, 960, in_place=True).judge_across)


class Misplaced(unittest.TestCase):
    def test_gravity_is_smooth_for_every_drawing(self) -> None:
        for misfit in smooth.misfits(run_of(flight()), frozenset(), ALLOWED):
            assert misfit is not None
            self.assertLess(misfit.ratio, 0.2)

    @given(st.integers(1, 7), st.floats(1.6, 4.0), st.sampled_from([-1, 1]))
    def test_one_drawing_moved_along_is_a_jump_and_the_only_one(self, index: int, times: float, way: int) -> None:
        points = flight()
        gaps = [float(np.hypot(*(points[index] - points[k]))) for k in (index - 1, index + 1)]
        tolerance = max(ALLOWED.jump_share * min(gaps), ALLOWED.jump_least)
        found = smooth.misplaced(run_of(along(points, index, way * times * tolerance)), ALLOWED)
        self.assertEqual(list(found.off), [index])
        self.assertTrue(found.clean)
        self.assertGreater(found.off[index].jump_ratio, 1)
        self.assertEqual(np.sign(found.off[index].along), way)

    @given(st.integers(1, 7), st.floats(1.6, 4.0), st.sampled_from([-1, 1]))
    def test_one_drawing_moved_across_lies_off_the_arc_by_so_much(self, index: int, times: float, way: int) -> None:
        off = way * times * ALLOWED.across
        found = smooth.misplaced(run_of(across(flight(), index, off)), ALLOWED)
        self.assertEqual(list(found.off), [index])
        self.assertAlmostEqual(abs(found.off[index].across), abs(off), delta=0.35 * abs(off))

    def test_a_move_along_the_path_is_no_arc_fault(self) -> None:
        points = flight()
        x = np.interp(3.4, np.arange(1, 10), points[:, 0])
        early = points.copy()
        early[3] = [x, 0.5 * 9 * 3.4 * (10 - 3.4)]
        misfit = smooth.misfits(run_of(early), frozenset(), ALLOWED)[3]
        assert misfit is not None
        self.assertGreater(misfit.jump_ratio, 1)
        self.assertLess(misfit.arc_ratio, 0.3)

    def test_two_drawings_far_apart_are_both_told(self) -> None:
        points = across(along(flight(13), 2, 26.0), 10, 14.0)
        self.assertEqual(list(smooth.misplaced(run_of(points), ALLOWED).off), [2, 10])

    def test_in_place_nothing_is_judged_across(self) -> None:
        points = flight(across=0.0)
        points[4, 0] += 30
        allowed = smooth.tolerances(D, 1.0, 960, in_place=True)
        self.assertEqual(smooth.misplaced(run_of(points), allowed).off, {})

    def test_too_short_a_run_is_not_judged(self) -> None:
        self.assertEqual(smooth.misfits(run_of(flight(3)), frozenset(), ALLOWED), [None] * 3)

    def test_a_part_keeps_its_contacts_only_where_it_still_meets_them(self) -> None:
        run = run_of(flight())
        self.assertIsNotNone(run.part([0, 1, 2]).before)
        self.assertIsNone(run.part([0, 1, 2]).after)
        self.assertIsNone(run.part([3, 4]).before)
