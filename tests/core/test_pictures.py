"""The steps from pictures to outlines, each by itself: light, background, exposures, outlines, following."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.clip import Picture
from motion.exercises.bounce.plan import Pose, Recipe, bounce
from motion.synth.bounce import draw
from motion.synth.look import LOOKS, Look, random_look
from motion.tracking import background, follow, outline, scan
from motion.tracking.differs import Differs
from motion.tracking.edges import Sight
from motion.tracking.ellipse import Ellipse
from motion.tracking.exposures import DrawingCounter, expose
from motion.tracking.light import Light, difference, to_light
from motion.tracking.lines import Lines
from motion.tracking.outline import Candidate
from motion.tracking.views import Lit

WIDTH, HEIGHT = 320, 200
ALL = (0, 0, WIDTH, HEIGHT)


def paper(level: int = 240) -> Picture:
    picture = np.full((HEIGHT, WIDTH, 4), 255, np.uint8)
    picture[..., :3] = level
    return picture


def with_disc(x: int, y: int, radius: int = 18, shade: int = 40, on: Picture | None = None) -> Picture:
    picture = (paper() if on is None else on).copy()
    cv2.circle(picture, (x, y), radius, (shade, shade, shade, 255), cv2.FILLED, cv2.LINE_AA)
    return picture


def grained(picture: Picture, seed: int, amount: float = 4.0) -> Picture:
    noise = np.random.default_rng(seed).normal(0, amount, picture.shape[:2])[..., None]
    coloured = np.clip(picture[..., :3] + noise, 0, 255).astype(np.uint8)
    return np.concatenate([coloured, picture[..., 3:]], axis=2)


class LightOfPictures(unittest.TestCase):
    def test_white_ink_shows_on_transparency(self) -> None:
        clear = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
        clear[..., :3] = 255
        inked = clear.copy()
        inked[50, 60, 3] = 255
        off = difference(to_light(clear), to_light(inked))
        self.assertEqual((int(off[50, 60]), int(off.sum())), (255, 255))

    def test_what_lies_under_full_transparency_does_not_count(self) -> None:
        one, other = np.zeros((HEIGHT, WIDTH, 4), np.uint8), np.zeros((HEIGHT, WIDTH, 4), np.uint8)
        other[..., 0] = 200
        self.assertEqual(int(difference(to_light(one), to_light(other)).max()), 0)


class Backgrounds(unittest.TestCase):
    def estimate(self, pictures: list[Picture]) -> Light:
        return background.estimate([to_light(p) for p in pictures]).light

    def test_a_moving_disc_leaves_the_paper_behind(self) -> None:
        found = self.estimate([with_disc(40 + 24 * i, 100) for i in range(9)])
        self.assertLessEqual(int(difference(found, paper()).max()), 2)

    def test_a_ball_that_lies_still_for_most_of_the_clip_is_no_scenery(self) -> None:
        found = self.estimate([*(with_disc(40 + 40 * i, 60) for i in range(3)), *[with_disc(220, 150)] * 9])
        self.assertLessEqual(int(difference(found, paper())[130:170, 200:240].max()), 12)

    def test_what_never_moves_stays_in_the_background(self) -> None:
        scenery = paper()
        scenery[160:, :, :3] = (120, 100, 80)
        found = self.estimate([with_disc(40 + 24 * i, 100, on=scenery) for i in range(9)])
        self.assertLessEqual(int(difference(found, scenery).max()), 2)

    def test_grain_is_told_as_noise(self) -> None:
        clean = background.estimate([to_light(with_disc(40 + 24 * i, 100)) for i in range(6)])
        noisy = background.estimate([to_light(grained(with_disc(40 + 24 * i, 100), i)) for i in range(6)])
        self.assertEqual(clean.noise, 0.0)
        self.assertGreater(noisy.noise, 3.0)
        self.assertGreater(noisy.threshold, clean.threshold - 1)

    def test_what_moves_is_no_noise_however_large_it_is(self) -> None:
        pictures = [np.full((120, 200, 4), 240, np.uint8) for _ in range(6)]
        for k, picture in enumerate(pictures):
            picture[20:100, 8 * k : 8 * k + 110, :3] = 60
        grainy = [grained(p, k) for k, p in enumerate(pictures)]
        alone = [grained(np.full((120, 200, 4), 240, np.uint8), k) for k in range(6)]
        self.assertEqual(background.estimate([to_light(p) for p in pictures]).noise, 0.0)
        noise, expected = (background.estimate([to_light(p) for p in some]).noise for some in (grainy, alone))
        self.assertLess(abs(noise - expected), 0.5 * expected)


class Counting(unittest.TestCase):
    def numbers(self, pictures: list[Picture]) -> list[int]:
        still = background.estimate([to_light(p) for p in pictures])
        counter = DrawingCounter(still.noise)
        return [counter.number(to_light(p), still.differs(Lit.of(p))) for p in pictures]

    def test_equal_pictures_are_one_drawing_and_a_returning_one_keeps_its_number(self) -> None:
        a, b, c = (with_disc(x, 100) for x in (60, 120, 180))
        self.assertEqual(self.numbers([a, a, b, c, b, a]), [1, 1, 2, 3, 2, 1])

    def test_through_grain_too(self) -> None:
        places = [60, 60, 120, 180, 180, 120, 240, 60]
        pictures = [grained(with_disc(x, 100), seed) for seed, x in enumerate(places)]
        self.assertEqual(self.numbers(pictures), [1, 1, 2, 3, 3, 2, 4, 1])

    def test_a_small_move_is_a_new_drawing_through_grain(self) -> None:
        pictures = [grained(with_disc(x, 100), x) for x in (60, 63, 66, 69, 200)]
        self.assertEqual(self.numbers(pictures), [1, 2, 3, 4, 5])

    def test_exposures_are_runs_counted_from_one(self) -> None:
        told = [(e.drawing, e.first_frame, e.frames) for e in expose([1, 1, 2, 1], [1, 2, 1, 3])]
        self.assertEqual(told, [(1, 1, 3), (2, 4, 1), (1, 5, 3)])


class Outlines(unittest.TestCase):
    def measured(self, look: Look, pose: Pose) -> Candidate:
        """The ball of one pose, found over its backdrop."""
        plan = bounce(Recipe(width=WIDTH, height=HEIGHT, diameter=40, ground_y=180, drop_px=60))
        rng = np.random.default_rng(4)
        still = to_light(draw._to_picture(draw.backdrop(plan, look, rng)))
        one = next(iter(draw.frames(type(plan)(recipe=plan.recipe, poses=(pose,), flights=()), look, 4)))[0]
        found = outline.candidates(
            Sight(
                differs=Differs.of(difference(to_light(one), still), ALL),
                threshold=14,
                still=Lines.of(still).over(scan.FAINTEST_LINE),
            )
        )
        self.assertTrue(found)
        return found[0]

    def test_every_steady_look_is_measured_to_a_part_of_a_pixel(self) -> None:
        for name in ("clean", "outline", "cut-out", "cel", "cel outline", "night", "shadow"):
            for angle in (0.0, 35.0, -80.0):
                pose = Pose(x=150.3, y=90.6, major=46.0, minor=36.0, angle=angle, frames=1, role="air", hop=0)
                with self.subTest(name, angle=angle):
                    e = self.measured(LOOKS[name], pose).ellipse
                    self.assertLess(np.hypot(e.x - pose.x, e.y - pose.y), 0.25)
                    self.assertAlmostEqual(e.major, pose.major, delta=1.0)
                    self.assertAlmostEqual(e.minor, pose.minor, delta=1.0)
                    self.assertLess(abs(e.angle - angle), 3.0)

    def test_a_contact_on_the_line_is_not_pulled_by_it(self) -> None:
        pose = Pose(x=150.0, y=180 - 17.0, major=44.0, minor=34.0, angle=0.0, frames=1, role="contact", hop=0)
        for name in ("clean", "outline", "cut-out", "cel"):
            with self.subTest(name):
                e = self.measured(LOOKS[name], pose).ellipse
                self.assertLess(abs(e.bottom - 180), 1.0)

    def test_a_ball_cut_by_the_edge_says_so(self) -> None:
        pose = Pose(x=310.0, y=90.0, major=40.0, minor=40.0, angle=0.0, frames=1, role="air", hop=0)
        self.assertTrue(self.measured(LOOKS["clean"], pose).clipped)

    def test_nothing_there_is_nothing_found(self) -> None:
        empty: NDArray[np.uint8] = np.zeros((HEIGHT, WIDTH), np.uint8)
        bare = Lines.of(np.zeros((HEIGHT, WIDTH, 4), np.uint8))
        self.assertEqual(outline.candidates(Sight(differs=Differs.of(empty, ALL), threshold=14, still=bare)), [])

    def test_looks_drawn_at_random_can_be_seen(self) -> None:
        for seed in range(12):
            look = random_look(np.random.default_rng(seed))
            self.assertTrue(look.fill is not None or look.outline is not None)


class Following(unittest.TestCase):
    def candidate(self, x: float, size: float, contrast: float = 200.0, roundness: float = 1.0) -> Candidate:
        return Candidate(
            ellipse=Ellipse(x=x, y=100.0, major=size, minor=size, angle=0.0),
            clipped=False,
            contrast=contrast,
            roundness=roundness,
        )

    def test_the_ball_is_the_thing_seen_most_often(self) -> None:
        drawings = [[self.candidate(40 + 20 * i, 30), self.candidate(200, 60 + 9 * i, 60, 0.4)] for i in range(8)]
        chosen = follow.choose(drawings, follow.usual(drawings))
        self.assertEqual([c.ellipse.x for c in chosen if c], [40 + 20 * i for i in range(8)])

    def test_a_drawing_without_it_gives_none_and_not_something_else(self) -> None:
        drawings = [[self.candidate(40 + 20 * i, 30)] for i in range(8)]
        drawings[4] = [self.candidate(300, 110, 30, 0.3)]
        self.assertIsNone(follow.choose(drawings, follow.usual(drawings))[4])

    def test_no_candidates_at_all(self) -> None:
        self.assertIsNone(follow.usual([[], []]))
