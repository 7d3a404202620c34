"""Outlines measured a batch at a time come out as they do alone."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion import ranks
from motion.tracking import conics, edges, outline
from motion.tracking.differs import Differs
from motion.tracking.edges import Sight, Start
from motion.tracking.ellipse import Ellipse
from motion.tracking.lines import Lines
from motion.tracking.outline import Candidate

WIDTH, HEIGHT = 320, 200
ALL = (0, 0, WIDTH, HEIGHT)
BARE = Lines.of(np.zeros((HEIGHT, WIDTH, 4), np.uint8))
TURNS = np.linspace(0, 2 * np.pi, 90, endpoint=False)


def shown(*shapes: Ellipse, level: int = 180, hollow: int = 0, line: bool = False) -> Sight:
    """Ellipses before a bare background, filled or as outlines; a line may run across all."""
    differs = np.zeros((HEIGHT, WIDTH), np.uint8)
    for e in shapes:
        centre, axes = (round(e.x * 16), round(e.y * 16)), (round(e.major * 8), round(e.minor * 8))
        cv2.ellipse(differs, centre, axes, -e.angle, 0, 360, level, hollow or -1, cv2.LINE_AA, 4)
    if line:
        cv2.line(differs, (0, 60), (WIDTH, 150), level, 1)
    return Sight(differs=Differs.of(differs, ALL), threshold=14, still=BARE)


def both(one: Sight, other: Sight) -> Sight:
    """What two show in one picture."""
    return replace(one, differs=replace(one.differs, part=np.maximum(one.differs.part, other.differs.part)))


def ellipse(x: float, y: float, major: float, minor: float, angle: float = 0.0) -> Ellipse:
    return Ellipse(x=x, y=y, major=major, minor=minor, angle=angle)


SIGHTS = (
    shown(ellipse(100.3, 80.6, 46, 36, 35)),
    shown(ellipse(200.5, 90.2, 9, 8)),
    shown(ellipse(160.0, 100.0, 180, 170, -20)),
    shown(ellipse(316.0, 60.0, 40, 40)),
    shown(ellipse(80.0, 120.0, 44, 40, 80), level=60, hollow=2),
    shown(ellipse(150.0, 105.0, 50, 48), line=True),
    shown(ellipse(60.0, 60.0, 40, 40), ellipse(200.0, 140.0, 70, 50, 10)),
    shown(),
)


class Together(unittest.TestCase):
    def assert_alike(self, one: Sequence[Candidate], other: Sequence[Candidate]) -> None:
        self.assertEqual(len(one), len(other))
        for a, b in zip(one, other, strict=True):
            self.assertLess(np.hypot(a.ellipse.x - b.ellipse.x, a.ellipse.y - b.ellipse.y), 0.1)
            self.assertAlmostEqual(a.ellipse.major, b.ellipse.major, delta=0.2)
            self.assertAlmostEqual(a.ellipse.minor, b.ellipse.minor, delta=0.2)
            self.assertAlmostEqual(a.roundness, b.roundness, delta=0.05)
            self.assertEqual(a.clipped, b.clipped)

    def test_drawings_come_out_as_each_does_alone(self) -> None:
        for sight, together in zip(SIGHTS, outline.candidates_of(SIGHTS), strict=True):
            self.assert_alike(outline.candidates(sight), together)

    def test_what_was_drawn_is_found_in_each(self) -> None:
        found = outline.candidates_of(SIGHTS)
        for number, (x, y, major) in {0: (100.3, 80.6, 46), 1: (200.5, 90.2, 9), 2: (160, 100, 180)}.items():
            e = found[number][0].ellipse
            self.assertLess(np.hypot(e.x - x, e.y - y), 0.3)
            # The library draws up to half a pixel more all round.
            self.assertAlmostEqual(e.major, major + 0.5, delta=1.0)
        self.assertTrue(found[3][0].clipped)
        self.assertEqual([round(c.ellipse.x) for c in found[6]], [200, 60])
        self.assertEqual(found[7], [])

    def test_more_outlines_than_are_looked_at_together(self) -> None:
        starts = [
            Start(sight=SIGHTS[0], shape=ellipse(100 + i % 3, 80, 44 + i % 5, 36, 30), rough=i % 2 == 0, clipped=False)
            for i in range(edges.TOGETHER + 7)
        ]
        found = edges.find(starts)
        self.assertEqual(len(found), len(starts))
        for edge in found:
            self.assertLess(np.hypot(edge.shape.x - 100.3, edge.shape.y - 80.6), 0.3)
            self.assertGreater(edge.agreed, outline.ROUND_ENOUGH)

    def test_a_pale_outline_around_a_strong_fill_is_measured_whole_at_any_stretch(self) -> None:
        wanted = [ellipse(160, 100, 70 + 4 * k, 70 - 2 * k, 25 * k - 60) for k in range(6)]
        sights = []
        for outer in wanted:
            sight = shown(outer, level=85)
            inner = shown(ellipse(outer.x, outer.y, outer.major - 6, outer.minor - 6, outer.angle), level=212)
            sights.append(both(sight, inner))
        for outer, found in zip(wanted, outline.candidates_of(sights), strict=True):
            self.assertAlmostEqual(found[0].ellipse.major, outer.major + 0.5, delta=1.2)
            self.assertAlmostEqual(found[0].ellipse.minor, outer.minor + 0.5, delta=1.2)

    def test_a_codecs_ring_around_a_ball_is_none_of_it(self) -> None:
        for angle in (0, 40):
            ball = ellipse(160, 100, 90, 80, angle)
            ring = shown(ellipse(160, 100, 98, 88, angle), level=30)
            sight = replace(both(ring, shown(ball)), palest=0.22)
            (found,) = outline.candidates(sight)
            self.assertAlmostEqual(found.ellipse.major, 90.5, delta=1.0)
            self.assertAlmostEqual(found.ellipse.minor, 80.5, delta=1.0)

    def test_a_shadow_that_the_ball_stands_on_is_none_of_it(self) -> None:
        ball = shown(ellipse(160, 90, 78, 78))
        shadow = shown(ellipse(160, 137, 80, 9), level=70)
        (found,) = outline.candidates(both(ball, shadow))
        self.assertLess(np.hypot(found.ellipse.x - 160, found.ellipse.y - 90), 0.3)
        self.assertAlmostEqual(found.ellipse.minor, 78.5, delta=1.0)

    def test_where_there_is_no_edge_the_start_stays(self) -> None:
        start = Start(sight=SIGHTS[0], shape=ellipse(240, 150, 40, 40), rough=True, clipped=False)
        (edge,) = edges.find([start])
        self.assertEqual((edge.shape, edge.agreed), (start.shape, 0.0))

    def test_something_pale_beside_the_outline_is_told(self) -> None:
        inner, outer = ellipse(100, 90, 50, 50), ellipse(100, 90, 70, 70)
        sight = shown(outer, level=25)
        sight.differs.part[shown(inner).differs.part > 90] = 180
        bare, haloed = edges.find(
            [Start(sight=s, shape=inner, rough=False, clipped=False) for s in (shown(inner), sight)]
        )
        self.assertEqual(bare.pale_beyond, 0.0)
        self.assertEqual(haloed.pale_beyond, 1.0)


class Fits(unittest.TestCase):
    @given(st.lists(st.tuples(st.floats(20, 200), st.floats(1.0, 2.0), st.floats(-89, 90)), min_size=1, max_size=6))
    @settings(max_examples=30, deadline=None)
    def test_each_outline_gives_back_its_own_ellipse(self, wanted: list[tuple[float, float, float]]) -> None:
        truths = [
            ellipse(50 * i, 20 * i, minor * ratio, minor, angle) for i, (minor, ratio, angle) in enumerate(wanted)
        ]
        points = np.stack([t.points(TURNS) for t in truths])
        there = np.ones(points.shape[:2], dtype=bool)
        # What is not there does not count, however far off.
        points[:, 5:25] += 400.0
        there[:, 5:25] = False
        found = conics.fit_robust(points, there)
        for truth, fitted in zip(truths, found.ellipses, strict=True):
            assert fitted is not None
            self.assertLess(np.hypot(fitted.x - truth.x, fitted.y - truth.y), 0.01)
            self.assertAlmostEqual(fitted.major, truth.major, delta=0.02)
        self.assertLess(np.abs(found.off[there]).max(), 0.01)

    def test_an_outline_of_which_a_third_belongs_to_another_thing_gives_back_its_own_ellipse(self) -> None:
        for start in range(0, 90, 7):
            points = ellipse(60, 60, 40, 36, 20).points(TURNS)
            beside = (np.arange(30) + start) % 90
            points[beside] += 0.3 * (points[beside] - 60.0)
            (found,) = conics.fit_robust(points[None], np.ones((1, 90), dtype=bool)).ellipses
            assert found is not None
            with self.subTest(start):
                self.assertLess(np.hypot(found.x - 60, found.y - 60), 0.2)
                self.assertAlmostEqual(found.major, 40, delta=0.4)

    def test_one_outline_without_an_ellipse_does_not_spoil_the_others(self) -> None:
        good = ellipse(60, 60, 40, 30, 20).points(TURNS)
        level = np.stack([np.linspace(0, 90, 90), np.full(90, 7.0)], axis=1)
        there = np.ones((4, 90), dtype=bool)
        there[2, 5:] = False
        found = conics.fit_robust(np.stack([good, level, good, good]), there).ellipses
        self.assertIsNone(found[1])
        self.assertIsNone(found[2])
        for fitted in (found[0], found[3]):
            assert fitted is not None
            self.assertAlmostEqual(fitted.major, 40, delta=0.01)

    def test_too_few_points_are_no_ellipse(self) -> None:
        self.assertIsNone(conics.fit(np.zeros((5, 2))))

    @given(st.lists(st.lists(st.floats(-99, 99), min_size=4, max_size=4), min_size=1, max_size=5), st.integers(1, 4))
    def test_middle_values_are_of_what_is_there(self, rows: list[list[float]], count: int) -> None:
        values = np.array(rows)
        there = np.arange(4) < np.full((len(rows), 1), count)
        found = ranks.medians(values, there)
        np.testing.assert_allclose(found, np.median(values[:, :count], axis=1))
        self.assertEqual(ranks.medians(values, np.zeros_like(there)).tolist(), [0.0] * len(rows))


class AtTheEdge(unittest.TestCase):
    def test_a_ball_just_inside_is_whole_and_one_that_goes_out_is_cut_and_told_where_it_is(self) -> None:
        for x, cut in ((32.5, False), (31.8, False), (27.0, True), (16.0, True)):
            ball = Ellipse(x=x, y=100.0, major=60.0, minor=60.0, angle=0.0)
            found = outline.candidates(shown(ball))
            with self.subTest(x):
                self.assertEqual(found[0].clipped, cut)
                self.assertAlmostEqual(found[0].ellipse.x, x, delta=0.3)


if __name__ == "__main__":
    unittest.main()
