"""Walks that go uphill, through the picture, from standing to a stop, long and short; and what shows them."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace
from unittest import TestCase

import cv2
import numpy as np

from bench.apart import walk_measure, walk_pictures, walks
from bench.apart.walk_measure import judged
from motion.analysis import judge
from motion.clip import Clip, Unseen
from motion.exercises.walk.follow import swapped_sides
from motion.exercises.walk.reading import Reading, read
from motion.exercises.walk.soles import sole_height
from motion.exercises.walk.truth import FIGURE
from motion.track import Figure, Ground
from motion.tracking import still
from motion.tracking.background import Background
from motion.tracking.subjects.figure import behind, body, ink


def _reading(walk: walks.Walk, *, turned_from: int | None = None) -> Reading:
    """A walk as read, its sides the other way round from a drawing on; then they are not told apart."""
    track, brief = walk_measure.track_of(walk), walk_measure.brief_of(walk)
    if turned_from is not None:
        figures = [
            swapped_sides(f) if f is not None and n >= turned_from else f for n, f in enumerate(track.figures(FIGURE))
        ]
        track = track.with_marks(FIGURE, tuple(figures))
        brief = replace(brief, asked=replace(brief.asked, sides="same"))  # type: ignore[type-var]
    found = read(track, brief)
    assert found is not None
    return found


class Courses(TestCase):
    def test_good_walks_of_every_course_are_clean(self) -> None:
        for course in walks.COURSES:
            for whole in (False, True):
                for number in range(5):
                    walk = walks.plan(random.Random(f"{course} {whole} {number}"), whole=whole, course=course)
                    with self.subTest(course, whole=whole, number=number):
                        self.assertEqual([f.message for f in judged(walk)], [])

    def test_across_the_picture_hidden_hips_leave_pace_and_seam_to_the_body(self) -> None:
        tried = 0
        for number in range(40):
            walk = walks.plan(random.Random(f"hidden hips {number}"), whole=number % 2 == 0)
            if not (walk.manner.across and walk.manner.loop):
                continue
            tried += 1
            track, brief = walk_measure.track_of(walk), walk_measure.brief_of(walk)
            shown = read(track, brief)
            # They show in two drawings, by which thighs are measured.
            figures = [
                f and (f if n in (3, len(walk.drawings) - 3) else replace(f, hidden=f.hidden | {"hip"}))
                for n, f in enumerate(track.figures(FIGURE))
            ]
            hidden = track.with_marks(FIGURE, tuple(figures))
            found = read(hidden, brief)
            with self.subTest(number):
                assert shown is not None
                assert found is not None
                self.assertAlmostEqual(found.speed / shown.speed, 1.0, delta=0.1)
                clip = Clip(
                    name="hidden", fps=walk.manner.fps, width=walk.manner.width, height=walk.manner.height,
                    footage=Unseen(), picture_frames=tuple(e.frames for e in track.exposures),
                )  # fmt: skip
                self.assertEqual([f.message for f in judge(clip, brief, hidden).findings], [])
        self.assertGreater(tried, 3)

    def test_steps_out_of_rest_and_into_it_are_not_judged(self) -> None:
        for number in range(4):
            walk = walks.plan(random.Random(f"rest {number}"), course="stands")
            with self.subTest(number):
                judged_ones = [p.judged for p in _reading(walk).paces]
                self.assertFalse(judged_ones[0])
                self.assertFalse(judged_ones[-1])
                self.assertTrue(len(judged_ones) < 4 or any(judged_ones))

    def test_a_walk_that_is_under_way_has_all_its_steps_judged(self) -> None:
        for number in range(6):
            walk = walks.plan(random.Random(f"under way {number}"))
            with self.subTest(number):
                self.assertTrue(all(p.judged for p in _reading(walk).paces))

    def test_a_foot_on_a_slope_is_as_high_as_its_lower_end_is_above_it(self) -> None:
        ground = Ground(y_left=100, y_right=200, width=101, confidence=1.0, drawn=True)
        points = {"heel_near": (40.0, 140.0), "toe_near": (60.0, 155.0)}
        flat = Figure(drawing=1, points=points, lows={"near": 155.0})
        self.assertAlmostEqual(sole_height(flat, "near", ground) or 0.0, 0.0)
        round_one = Figure(drawing=1, points=points, lows={"near": 158.0})
        self.assertAlmostEqual(sole_height(round_one, "near", ground) or 0.0, -3.0)


class Alternation(TestCase):
    def test_legs_drawn_alike_that_were_taken_for_each_other_land_in_turn(self) -> None:
        tried = 0
        for number in range(8):
            walk = walks.plan(random.Random(f"alike {number}"))
            passing = [i for i, _ in walk.contacts if 0 < i < len(walk.drawings) - walk.manner.drawings]
            if walk.manner.loop or len(passing) < 2:
                continue
            tried += 1
            told = _reading(walk)
            turned = _reading(walk, turned_from=passing[0] + walk.manner.drawings // 2)
            with self.subTest(number):
                self.assertEqual([c.index for c in turned.contacts], [c.index for c in told.contacts])
                sides = [c.side for c in turned.contacts]
                self.assertTrue(all(a != b for a, b in itertools.pairwise(sides)), sides)
        self.assertGreaterEqual(tried, 3)


class Frame(TestCase):
    def test_of_a_walker_who_reaches_out_of_the_frame_nothing_is_told(self) -> None:
        rng = random.Random("through the picture")
        walk = walks.plan(rng, course="through")
        look = replace(
            walk_pictures.look(rng, grainy=False), limbs="strokes", wide=8.0, far="paler", paper="white", loose=0
        )
        found = walk_measure._analysed(walk, look, "lossless")
        width, hidden, told = walk.manner.width, 0, 0
        for figure in found.track.figures(FIGURE):
            if figure is None or not figure.points:
                continue
            if all(20 < x < width - 20 for x, _ in figure.points.values()):
                told += figure.hidden < figure.points.keys()
            if figure.hidden >= figure.points.keys():
                hidden += 1
                self.assertEqual(figure.firm, frozenset())
        self.assertGreater(told, 20)
        self.assertGreater(hidden, 2)
        self.assertEqual([f.message for f in found.findings], [])


class Outlines(TestCase):
    def test_what_legs_enclose_is_told_by_how_far_below_the_top_it_lies(self) -> None:
        cores = [body.Core(100, 140, 30, 40), body.Core(101, 141, 30, 41), None, body.Core(99, 139, 30, 39)]
        self.assertEqual(body.amiss(cores), {})
        cores += [body.Core(100, 140, 30, 40), body.Core(100, 260, 34, 160)]
        self.assertEqual(list(body.amiss(cores)), [5])
        first, last = body.amiss(cores)[5]
        self.assertTrue(first < 40 < last)

    def test_a_body_has_no_pinholes_where_an_outline_was_closed(self) -> None:
        drawn = np.zeros((120, 120), np.uint8)
        cv2.circle(drawn, (60, 60), 40, 1, 3)
        cv2.line(drawn, (60, 60), (60, 100), 1, 3)
        cv2.line(drawn, (64, 60), (64, 100), 1, 3)
        found = ink.whole(drawn > 0)
        disc = np.zeros_like(drawn)
        cv2.circle(disc, (60, 60), 38, 1, -1)
        self.assertTrue(found[disc > 0].all())
        self.assertFalse(found[:10].any())

    def test_narrow_limbs_are_told_by_lines_and_filled(self) -> None:
        for inside, narrow in ((0, False), (20, True)):
            differs = np.zeros((160, 90), np.uint8)
            # Two limbs ten px wide, drawn by lines; what lies between may be another white than the paper.
            for x in (25, 60):
                cv2.rectangle(differs, (x, 20), (x + 9, 140), inside, -1)
                cv2.rectangle(differs, (x, 20), (x + 9, 140), 200, 2)
            kept = _kept(differs, 16)
            sheet = ink.sheet_of(kept)
            by_all, by_lines = ink.enclosed_shares(sheet, kept, 30.0, 40.0)
            with self.subTest(inside=inside):
                self.assertGreater(max(by_all, by_lines), 0.5)
                filled = ink.filled(sheet, kept, 30.0, narrow=narrow)
                x, y = 25 - filled.left, 20 - filled.top
                self.assertGreater(float(filled.solid[y + 4 : y + 116, x + 1 : x + 9].min()), 0.5)
                self.assertLess(float(filled.solid[y : y + 116, x + 14 : x + 30].max()), 0.5)


def _kept(differs: np.ndarray[tuple[int, int], np.dtype[np.uint8]], threshold: int) -> ink.Inked:
    marked = differs > threshold // 2
    places = np.flatnonzero(marked)
    return ink.Inked(
        0,
        0,
        differs.shape,
        np.packbits(marked),
        differs.reshape(-1)[places],
        np.zeros(len(places), np.uint32),
        threshold,
    )


class Behind(TestCase):
    def test_a_sloping_ground_is_told_all_across(self) -> None:
        drawn = np.zeros((270, 480), np.uint8)
        cv2.line(drawn, (0, 230), (479, 190), 1, 2)
        cv2.circle(drawn, (240, 120), 40, 1, -1)
        found = behind._all_across(drawn > 0)
        self.assertGreater(float(found[cv2.dilate(drawn, np.ones((1, 1))) > 0][-800:].mean()), 0.9)
        self.assertFalse(found[80:160].any())

    def test_on_bare_paper_feet_hide_that_alone_and_a_sloping_ground(self) -> None:
        for slope in (0, 30):
            light = np.full((540, 960, 4), 255, np.uint8)
            light[..., :3] = 240
            cv2.line(light, (0, 450 + slope), (959, 450 - slope), (60, 60, 60, 255), 4)
            changes = np.zeros((270, 480), bool)
            changes[60:232, 200:280] = True
            found = behind.covered(Background(light, 0.0, changes=changes))
            assert found is not None and found.nearly is not None
            with self.subTest(slope=slope):
                self.assertTrue(found.nearly[200, 240])
                self.assertEqual(bool(found.nearly[225, 240]), not slope)

    def test_feet_on_a_slope_are_not_left_behind(self) -> None:
        """The ends of a row lie above a ground and on it: what is halfway between both is no background."""
        samples = []
        for k in range(12):
            picture = np.full((40, 120), 240, np.uint8)
            picture[:, 100:] = 60
            # A foot in a tone between both stays in one place for a third of the clip, then in another.
            picture[10:30, 30 + 20 * (k // 4) : 50 + 20 * (k // 4)] = 150
            samples.append(picture)
        changed = still.widened(still.changes(samples, 10.0))
        nowhere = np.zeros(changed.shape, bool)
        found, _ = still.behind([samples, samples, samples], changed, 1.0, nowhere)
        self.assertEqual(int(np.abs(found[0][15, 30:98].astype(int) - 240).max()), 0)
