"""What differs from the still background, kept where it does; the background's own lines, told where it is asked."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from motion.track import Shape
from motion.tracking import background, guide_left, still
from motion.tracking.background import Background
from motion.tracking.differs import Differs
from motion.tracking.light import NOWHERE, Box, Light, common, difference, shrunk, within
from motion.tracking.lines import Lines

WIDTH, HEIGHT = 61, 42
BOXES = st.tuples(st.integers(0, 40), st.integers(0, 30), st.integers(1, 21), st.integers(1, 12)).map(
    lambda b: (b[0], b[1], b[0] + b[2], b[1] + b[3])
)
ANYWHERE = st.tuples(st.integers(-9, 60), st.integers(-9, 45), st.integers(1, 30), st.integers(1, 30)).map(
    lambda b: (b[0], b[1], b[0] + b[2], b[1] + b[3])
)


def marked(box: Box) -> np.ndarray:
    """(height, width) grain in a box, and nothing beside it."""
    whole = np.zeros((HEIGHT, WIDTH), np.uint8)
    whole[within(box)] = np.random.default_rng(5).integers(1, 255, whole[within(box)].shape)
    return whole


class KeptWhereItDiffers(unittest.TestCase):
    @given(BOXES)
    def test_the_whole_is_what_it_was_made_of(self, box: Box) -> None:
        found = Differs.of(marked(box), box)
        np.testing.assert_array_equal(found.whole(), marked(box))
        self.assertAlmostEqual(found.share, (box[2] - box[0]) * (box[3] - box[1]) / (WIDTH * HEIGHT))

    @given(BOXES, ANYWHERE)
    def test_what_is_cut_out_is_that_of_the_whole_and_nought_beside_the_picture(self, box: Box, cut: Box) -> None:
        room = 60
        around = np.pad(marked(box), room)
        wanted = around[within((cut[0] + room, cut[1] + room, cut[2] + room, cut[3] + room))]
        np.testing.assert_array_equal(Differs.of(marked(box), box).cut(cut), wanted)

    @given(BOXES, st.sampled_from([2, 4, 8]))
    def test_it_is_shrunk_as_the_whole_is(self, box: Box, by: int) -> None:
        np.testing.assert_array_equal(Differs.of(marked(box), box).shrunk(by), shrunk(marked(box), by))

    def test_nothing_is_nothing_at_any_size(self) -> None:
        nothing = Differs.of(np.zeros((HEIGHT, WIDTH), np.uint8), NOWHERE)
        self.assertEqual(nothing.share, 0)
        self.assertFalse(nothing.whole().any() or nothing.shrunk(4).any())
        self.assertEqual(nothing.shrunk(4).shape, (11, 16))

    def test_boxes_share_what_is_in_both(self) -> None:
        self.assertEqual(common((0, 0, 9, 9), (4, 5, 20, 7)), (4, 5, 9, 7))
        self.assertEqual(common((0, 0, 4, 9), (4, 5, 20, 7)), NOWHERE)


class LinesOfTheBackground(unittest.TestCase):
    def setUp(self) -> None:
        paper = np.full((120, 200, 4), 235, np.uint8)
        paper[..., 3] = 255
        cv2.line(paper, (10, 80), (190, 80), (40, 40, 40, 255), 2)
        cv2.rectangle(paper, (20, 10), (90, 50), (90, 140, 200, 255), cv2.FILLED)
        self.paper = paper

    def test_a_line_stands_out_and_paper_and_painted_scenery_do_not(self) -> None:
        found = Lines.of(self.paper).at(np.array([[100.2, 80.3], [100.0, 100.0], [55.0, 30.0], [250.0, 80.0]]))
        self.assertGreater(int(found[0]), 120)
        self.assertLess(int(found[1:].max()), 6)

    def test_what_is_told_at_points_is_told_of_the_whole(self) -> None:
        lines = Lines.of(self.paper)
        whole = difference(self.paper, lines.whole_without())
        rows, columns = np.mgrid[0:120, 0:200]
        told = lines.at(np.stack([columns, rows], axis=-1).astype(np.float64))
        self.assertLess(int(cv2.absdiff(told, whole).max()), 8)

    def test_any_number_of_points_may_be_asked(self) -> None:
        lines = Lines.of(self.paper)
        self.assertEqual(lines.at(np.zeros((0, 3, 2))).shape, (0, 3))
        many = lines.at(np.full((40_000, 2, 2), (100.0, 80.0)))
        self.assertEqual((many.shape, int(many.min())), ((40_000, 2), int(lines.at(np.array([[100.0, 80.0]]))[0])))

    def test_faint_lines_are_none_where_only_strong_ones_count(self) -> None:
        at = np.array([[100.0, 80.0]])
        self.assertGreater(int(Lines.of(self.paper).over(100).at(at)[0]), 0)
        self.assertEqual(int(Lines.of(self.paper).over(220).at(at)[0]), 0)

    def test_beside_the_frame_its_edge_is_asked_where_that_is_wanted(self) -> None:
        self.paper[:, 198:] = (0, 0, 0, 255)
        beyond = np.array([[203.0, 100.0]])
        self.assertEqual(int(Lines.of(self.paper).at(beyond)[0]), 0)
        self.assertGreater(int(Lines.of(self.paper).at_or_beside(beyond)[0]), 40)


class GuidesLeftOn(unittest.TestCase):
    def shapes(self) -> list[Shape]:
        """Several hundred drawings, back and forth along a level way."""
        places = [20 + abs(i % 80 - 40) * 4 for i in range(700)]
        return [
            Shape(drawing=i, x=x, y=60, major=24, minor=24, angle=0, bottom=72, clipped=False, confidence=1)
            for i, x in enumerate(places, start=1)
        ]

    def test_the_way_of_a_clip_of_any_length_is_followed(self) -> None:
        paper = np.full((120, 200, 4), 235, np.uint8)
        self.assertFalse(guide_left.shows(Background(paper, 0.0), self.shapes(), None))
        cv2.line(paper, (15, 60), (185, 60), (40, 90, 200, 255), 2)
        self.assertTrue(guide_left.shows(Background(paper, 0.0), self.shapes(), None))


class WhatStandsStill(unittest.TestCase):
    def test_a_first_picture_that_is_a_little_off_all_over_is_not_the_background(self) -> None:
        wanted = np.full((40, 60), 120, np.uint8)
        samples = [wanted + np.uint8(9), *[wanted] * 4]
        np.testing.assert_array_equal(still.on_the_whole(samples, 0.0), wanted)
        np.testing.assert_array_equal(samples[0], wanted + np.uint8(9))

    def test_neighbours_in_the_row_tell_what_is_behind_a_ball_that_hardly_ever_leaves(self) -> None:
        sheet = np.tile(np.linspace(60, 200, 120).astype(np.uint8), (50, 1))
        pictures: list[Light] = []
        for x in (60, 60, 60, 60, 60, 60, 60, 100):
            picture = cv2.merge([sheet, sheet, sheet, np.full_like(sheet, 255)])
            cv2.circle(picture, (x, 25), 10, (10, 10, 10, 255), cv2.FILLED)
            pictures.append(np.asarray(picture, dtype=np.uint8))
        found = background.estimate(pictures)
        self.assertLess(int(cv2.absdiff(found.light[..., 0], sheet).max()), 3)


if __name__ == "__main__":
    unittest.main()
