"""What is drawn over a clip: strokes are read with care, and their shapes cover what was drawn."""

from __future__ import annotations

import itertools
import math
import unittest

import numpy as np

from motion import ink, strokes
from motion.errors import BadStroke
from motion.export import overlay
from motion.guide import stills
from motion.strokes import Over, Stroke

WIDTH, HEIGHT = 480, 270


def inked(stroke: Stroke) -> np.ndarray:
    """(height, width): how much ink lies on each pixel, from 0 to 1."""
    root = ink.svg(WIDTH, HEIGHT, "", of_pixels=True)
    overlay.draw_strokes(root, [strokes.path(stroke, WIDTH)])
    return pixels(stills.png(root))


def pixels(png: bytes) -> np.ndarray:
    import io

    from PIL import Image

    with Image.open(io.BytesIO(png)) as image:
        return np.asarray(image.convert("RGBA"))[..., 3] / 255.0


class Reading(unittest.TestCase):
    def test_what_a_page_sends_becomes_a_stroke(self) -> None:
        pen = strokes.read("pen", [[1, 2, 0.4], [1.2, 2.1, 0.9], [9, 9, 2.0], [30, 9]], WIDTH, HEIGHT)
        # A point beside the one before says nothing; pressure stays within its bounds, and is told where it is not.
        self.assertEqual(pen.points, ((1.0, 2.0, 0.4), (9.0, 9.0, 1.0), (30.0, 9.0, 0.5)))
        self.assertEqual(strokes.read("pen", [[5, 5]], WIDTH, HEIGHT).points, ((5.0, 5.0, 0.5),))

    def test_what_is_none_is_refused_in_words(self) -> None:
        far = [[0, 0], [WIDTH * 3, 0]]
        for tool, points in (
            ("brush", [[1, 1]]),
            ("pen", []),
            ("pen", "points"),
            ("pen", [[1]]),
            ("pen", [[1, "2"]]),
            ("pen", [[1, float("nan")]]),
            ("pen", [[1, float("inf")]]),
            ("pen", [[1, 10**400]]),
            ("pen", [[1, 1]] * (strokes.MOST_POINTS + 1)),
            ("line", [[1, 1]]),
            ("arc", [[1, 1], [2, 2]]),
            ("arrow", far),
        ):
            with self.subTest(tool=tool, points=str(points)[:20]), self.assertRaises(BadStroke) as told:
                strokes.read(tool, points, WIDTH, HEIGHT)
            self.assertTrue(str(told.exception).endswith("."))


class Shapes(unittest.TestCase):
    def test_ink_lies_along_a_stroke_and_nowhere_else(self) -> None:
        steps = np.linspace(0, 2 * math.pi, 80)
        wave = [[60 + 40 * t, 135 + 50 * math.sin(t), 0.5] for t in steps.tolist()]
        for tool, points in (("pen", wave), ("line", [[40, 40], [400, 200]]), ("arrow", [[400, 60], [100, 220]])):
            with self.subTest(tool):
                ink_there = inked(strokes.read(tool, points, WIDTH, HEIGHT))
                for (x, y, *_), (x2, y2, *_) in itertools.pairwise(points):
                    middle = (round((y + y2) / 2), round((x + x2) / 2))
                    self.assertGreater(ink_there[middle], 0.5, middle)
                rows, columns = np.nonzero(ink_there > 0.5)
                line = np.array([p[:2] for p in points])
                off = [distance(line, (x, y)) for x, y in zip(columns, rows, strict=True)]
                barbs = strokes.HEAD * 2.0 if tool == "arrow" else 0.0
                self.assertLess(max(off), 3.0 + barbs)

    def test_a_sharp_corner_keeps_its_width(self) -> None:
        there = inked(strokes.read("pen", [[40, 200], [120, 60], [200, 200]], WIDTH, HEIGHT))
        # Smoothing rounds the tip off a little, and leaves no hole beside it.
        self.assertGreater(there[60:100, 110:131].max(axis=0)[8:13].min(), 0.5)

    def test_harder_pressure_draws_wider(self) -> None:
        def width(pressure: float) -> int:
            line = [[40, 100, pressure], [400, 100, pressure]]
            return int((inked(strokes.read("pen", line, 1920, 1080))[:, 200] > 0.5).sum())

        self.assertLess(width(0.1), width(0.9))

    def test_a_dot_is_a_dot(self) -> None:
        self.assertGreater(inked(strokes.read("pen", [[100, 100]], WIDTH, HEIGHT))[100, 100], 0.5)

    def test_an_arc_goes_through_its_three_points_on_one_circle(self) -> None:
        for turn in (0.5, 2.0, 4.5, -0.5, -2.0, -4.5):
            middle, radius = np.array([240.0, 135.0]), 80.0
            at = [
                [*(middle + radius * np.array([math.cos(a), math.sin(a)])), 0.5]
                for a in (0.3, 0.3 + 0.4 * turn, 0.3 + turn)
            ]
            points = strokes.arc_through(np.array(at))
            with self.subTest(turn):
                away = np.hypot(*(points[:, :2] - middle).T)
                np.testing.assert_allclose(away, radius, atol=1e-6)
                np.testing.assert_allclose(points[[0, -1], :2], np.array(at)[[0, 2], :2], atol=1e-6)
                self.assertLess(np.hypot(*(points[:, :2] - at[1][:2]).T).min(), radius * strokes.ARC_STEP)
        straight = np.array([[0, 0, 0.5], [10, 0, 0.5], [20, 0, 0.5]], float)
        np.testing.assert_array_equal(strokes.arc_through(straight), straight)

    def test_a_stroke_over_frames_says_which(self) -> None:
        over = Over(strokes.read("line", [[1, 1], [9, 9]], WIDTH, HEIGHT), 3, 5)
        self.assertEqual((over.first_frame, over.last_frame, over.stroke.tool), (3, 5, "line"))


def distance(line: np.ndarray, point: tuple[float, float]) -> float:
    """How far a point lies from a line of points."""
    a, b = line[:-1], line[1:]
    along = b - a
    share = np.clip(((point - a) * along).sum(axis=1) / np.maximum((along**2).sum(axis=1), 1e-9), 0, 1)
    return float(np.hypot(*(a + share[:, None] * along - point).T).min())
