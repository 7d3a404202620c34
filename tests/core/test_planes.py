"""A video's pictures as its codec holds them, against the same turned into colours by the decoder's library."""

from __future__ import annotations

import unittest

import av
import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from motion.clip import Planes
from motion.formats import video
from motion.tracking import background as bg
from motion.tracking import planes as pl
from motion.tracking.light import NOWHERE, Light, difference, within
from motion.tracking.views import Lit, Planar

WIDTH, HEIGHT = 160, 90
FORMATS = tuple(video.PLANAR)


def scenery(seed: int = 3) -> np.ndarray:
    """Soft colours all over, as no line or edge would leave them alike through thinned colour."""
    few = np.random.default_rng(seed).integers(20, 236, (5, 8, 3), dtype=np.uint8)
    return np.asarray(cv2.resize(few, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC))


def ball(x: float, y: float, colour: tuple[int, int, int] = (200, 40, 30), on: np.ndarray | None = None) -> np.ndarray:
    picture = (scenery() if on is None else on).copy()
    cv2.circle(picture, (round(x * 16), round(y * 16)), 12 * 16, colour, cv2.FILLED, cv2.LINE_AA, 4)
    return picture


def frame(picture: np.ndarray, kind: str = "yuv420p") -> av.VideoFrame:
    return av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(format=kind)


def planes(picture: np.ndarray, kind: str = "yuv420p") -> Planes:
    return video._planes(frame(picture, kind))


def colours(picture: np.ndarray, kind: str = "yuv420p") -> Light:
    return video._picture(frame(picture, kind))


class Colours(unittest.TestCase):
    def test_they_are_those_that_the_library_gives(self) -> None:
        for kind in FORMATS:
            with self.subTest(kind):
                off = difference(pl.coloured(planes(scenery(), kind)), colours(scenery(), kind))
                self.assertLess(float(off.mean()), 6.0)
                self.assertLess(float(np.percentile(off, 99)), 20.0)

    @given(st.integers(0, 150), st.integers(0, 80), st.integers(1, 60), st.integers(1, 60))
    def test_a_part_is_that_part_of_the_whole(self, left: int, top: int, width: int, height: int) -> None:
        seen = Planar(planes(scenery()))
        box = (left, top, min(WIDTH, left + width), min(HEIGHT, top + height))
        np.testing.assert_array_equal(seen.part(box), Lit(seen.light()).part(box))

    def test_every_eighth_pixel_is_that_of_the_whole(self) -> None:
        for kind in FORMATS:
            seen = Planar(planes(scenery(), kind))
            self.assertLess(float(difference(seen.fewer(8), seen.light()[::8, ::8]).mean()), 4.0)

    def test_pictures_of_other_sizes_and_depths_are_not_taken_as_planes(self) -> None:
        self.assertTrue(video._is_planar(frame(scenery())))
        self.assertFalse(video._is_planar(frame(scenery()[:-1])))
        self.assertFalse(video._is_planar(frame(scenery(), "yuv420p10le")))
        self.assertFalse(video._is_planar(frame(scenery(), "yuva420p")))


class Differing(unittest.TestCase):
    @given(st.integers(-4, WIDTH + 4), st.integers(-4, HEIGHT + 4), st.sampled_from([(250, 250, 20), (20, 90, 250)]))
    def test_all_that_counts_lies_within_the_box(self, x: int, y: int, colour: tuple[int, int, int]) -> None:
        one, other = scenery(), ball(x, y, colour)
        box = pl.where(planes(other), planes(one), 30)
        off = difference(pl.coloured(planes(other)), pl.coloured(planes(one)))
        rows, columns = np.nonzero(off > 30)
        if len(rows):
            left, top, right, bottom = box
            self.assertTrue(left <= columns.min() and columns.max() < right)
            self.assertTrue(top <= rows.min() and rows.max() < bottom)

    def test_a_ball_that_is_as_bright_as_the_paper_is_seen_by_its_colour(self) -> None:
        grey = np.full((HEIGHT, WIDTH, 3), 110, np.uint8)
        off = pl.where(planes(ball(60, 40, (220, 80, 10), grey)), planes(grey), 14)
        self.assertNotEqual(off, NOWHERE)
        self.assertLess(off[0], 50)
        self.assertGreater(off[2], 70)

    def test_equal_pictures_differ_nowhere(self) -> None:
        self.assertEqual(pl.where(planes(scenery()), planes(scenery()), 14), NOWHERE)


class Still(unittest.TestCase):
    def test_what_is_behind_a_moving_ball_is_found_as_in_colours(self) -> None:
        shown = [ball(20 + 11 * i, 25 + 4 * i) for i in range(11)]
        for kind in ("yuv420p", "yuvj420p"):
            found = bg.estimate_planes([planes(p, kind) for p in shown])
            with self.subTest(kind):
                off = difference(found.light, colours(scenery(), kind))
                self.assertLess(float(np.percentile(off, 99.5)), 12.0)

    def test_a_ball_that_rests_for_most_of_the_clip_is_no_scenery(self) -> None:
        paper = np.full((HEIGHT, WIDTH, 3), 235, np.uint8)
        shown = [ball(20 + 30 * i, 40, on=paper) for i in range(3)] + [ball(120, 60, on=paper)] * 9
        found = bg.estimate_planes([planes(p) for p in shown])
        self.assertLess(int(difference(found.light, pl.coloured(planes(paper))).max()), 14)

    def test_a_picture_differs_from_it_as_its_colours_do(self) -> None:
        shown = [ball(20 + 11 * i, 25 + 4 * i) for i in range(11)]
        still = bg.estimate_planes([planes(p) for p in shown])
        view = Planar(planes(shown[4]))
        quick, plain = still.differs(view), difference(view.light(), still.light)
        np.testing.assert_array_equal(quick.part, plain[within(quick.box)])
        beside = plain.copy()
        beside[within(quick.box)] = 0
        self.assertLess(int((beside > still.threshold).sum()), 20)


if __name__ == "__main__":
    unittest.main()
