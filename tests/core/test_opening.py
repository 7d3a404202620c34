"""Bodies without their limbs and weights without their lines: what opening by a disc leaves of a shape."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from motion.tracking.subjects.opening import around, opened, part_at

Mask = NDArray[np.bool_]


def drawn(radius: int, line: int, at: tuple[int, int] = (120, 90)) -> Mask:
    """A disc with a line through it, from edge to edge of the picture."""
    found = np.zeros((180, 240), np.uint8)
    cv2.circle(found, at, radius, 1, -1)
    cv2.line(found, (0, at[1]), (239, at[1]), 1, line)
    return found > 0


def depth_of(marked: Mask) -> NDArray[np.float32]:
    return np.asarray(cv2.distanceTransform(marked.view(np.uint8), cv2.DIST_L2, 5), dtype=np.float32)


class Opening(unittest.TestCase):
    @given(st.integers(18, 60), st.integers(1, 9), st.integers(70, 170))
    @settings(max_examples=40, deadline=None)
    def test_the_disc_stays_and_the_line_goes(self, radius: int, line: int, x: int) -> None:
        marked = drawn(radius, line, (x, 90))
        left, (rows, columns) = opened(marked, depth_of(marked), 0.62 * radius)
        inside = marked[rows, columns]
        self.assertFalse(np.any(left & ~inside), "nothing is added")
        ys, xs = np.nonzero(left)
        far = np.hypot(xs + columns.start - x, ys + rows.start - 90)
        self.assertLessEqual(float(far.max()), radius + 0.5 * line + 2)
        self.assertAlmostEqual(float(left.sum()) / (math.pi * radius**2), 1.0, delta=0.12)

    def test_nothing_is_left_of_what_is_thinner(self) -> None:
        marked = drawn(20, 5)
        left, _ = opened(marked, depth_of(marked), 25.0)
        self.assertEqual(left.size, 0)
        self.assertIsNone(part_at(left, (0, 0)))

    def test_of_two_parts_the_one_that_holds_a_place(self) -> None:
        marked = drawn(20, 3) | np.roll(drawn(20, 3), 70, axis=1)
        left, (rows, columns) = opened(marked, depth_of(marked), 12.0)
        part = part_at(left, (90 - rows.start, 120 - columns.start))
        assert part is not None
        self.assertLess(abs(2 * int(part.sum()) - int(left.sum())), 0.02 * left.sum())
        self.assertIsNone(part_at(left, (90 - rows.start, 155 - columns.start)))
        self.assertIsNone(part_at(left, (-1, 4)))

    def test_its_soft_edge_is_the_pixel_beside_it(self) -> None:
        part = drawn(20, 1)
        grown = around(part)
        self.assertTrue(np.all(grown[part]))
        self.assertGreater(int(grown.sum()), int(part.sum()))
        self.assertLess(float(depth_of(~part)[grown].max()), 1.5)
