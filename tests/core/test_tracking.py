"""From pictures to numbers, on drawn clips with known truth."""

from __future__ import annotations

import math
import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from bench import accuracy
from motion import formats
from motion.analysis import analyse, analyse_file
from motion.exercises.bounce.plan import Recipe, bounce
from motion.report.file import to_json, to_text, track_csv
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.bounce.cases import clip_of, random_case
from motion.synth.look import LOOKS
from motion.tracking import conics, ellipse
from motion.tracking.ellipse import Ellipse
from tests.core.drawn import SOFT

SMALL = Recipe(width=480, height=270, diameter=34, ground_y=225, drop_px=150, start_x=50, speed_x=9, kept=(0.8, 0.8))


class AnyLook(unittest.TestCase):
    def test_clean_work_is_measured_well_and_raises_nothing(self) -> None:
        for seed in range(31, 36):
            case = random_case(seed)
            with self.subTest(seed, look=case.look.name):
                result = analyse(clip_of(case), case.brief)
                centre, axes, lost = accuracy._errors(case, result)
                self.assertEqual([f.code for f in result.findings], [])
                self.assertLess(float(np.median(centre)), 0.5 + case.look.jitter * case.plan.recipe.diameter)
                self.assertLess(float(np.median(axes)), 0.03)
                self.assertEqual(lost, 0)


class FilesAndForms(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def test_zip_folder_and_gif_of_one_clip_read_alike(self) -> None:
        plan = bounce(SMALL)
        results = []
        for form in ("zip", "folder", "gif"):
            path = write.save(draw.frames(plan, LOOKS["clean"]), self.folder / f"take.{form}", form, 24)  # type: ignore[arg-type]
            results.append(to_json(analyse_file(path, SOFT)))
        for result in results[1:]:
            self.assertEqual(result["clip"]["exposures"], results[0]["clip"]["exposures"])
            for one, other in zip(result["track"]["shapes"], results[0]["track"]["shapes"], strict=True):
                self.assertLess(math.hypot(one["x"] - other["x"], one["y"] - other["y"]), 0.3)

    def test_the_same_input_gives_the_same_bytes(self) -> None:
        path = write.save(draw.frames(bounce(SMALL), LOOKS["scan"], 3), self.folder / "take.zip", "zip", 24)
        first, second = (analyse_file(path, SOFT) for _ in range(2))
        self.assertEqual(to_text(first), to_text(second))
        self.assertEqual(track_csv(first), track_csv(second))

    def test_a_still_clip_is_said_to_have_no_subject(self) -> None:
        picture = next(iter(draw.frames(bounce(SMALL), LOOKS["clean"])))[0]
        path = write.save([(picture, 12)], self.folder / "still.zip", "zip", 24)
        result = analyse_file(path, SOFT)
        self.assertEqual([n.code for n in result.preflight], ["preflight.no_subject"])
        self.assertEqual(result.findings, ())


class Exposures(unittest.TestCase):
    def test_a_drawing_that_returns_keeps_its_number(self) -> None:
        drawn = [p for p, _ in draw.frames(bounce(SMALL), LOOKS["clean"])]
        with tempfile.TemporaryDirectory() as folder:
            order = [drawn[0], drawn[0], drawn[3], drawn[5], drawn[3]]
            path = write.save([(p, 1) for p in order], Path(folder) / "c.zip", "zip", 24)
            clip = formats.read(path, 24)
            exposures = analyse(clip, SOFT).track.exposures
        self.assertEqual(
            [(e.drawing, e.first_frame, e.frames) for e in exposures], [(1, 1, 2), (2, 3, 1), (3, 4, 1), (2, 5, 1)]
        )


class Ellipses(unittest.TestCase):
    @given(st.floats(20, 200), st.floats(1.02, 2.2), st.floats(-89, 90), st.floats(-50, 900), st.floats(-50, 500))
    @settings(max_examples=80)
    def test_a_fit_gives_back_what_was_drawn(
        self, minor: float, ratio: float, angle: float, x: float, y: float
    ) -> None:
        truth = Ellipse(x=x, y=y, major=minor * ratio, minor=minor, angle=angle)
        found = conics.fit(truth.points(np.linspace(0, 2 * np.pi, 60, endpoint=False)))
        assert found is not None
        self.assertAlmostEqual(found.x, x, delta=1e-3)
        self.assertAlmostEqual(found.y, y, delta=1e-3)
        self.assertAlmostEqual(found.major, truth.major, delta=1e-3 * truth.major)
        self.assertLess(abs(ellipse.axis_angle(found.angle - angle)), 0.5)

    @given(st.floats(-1000, 1000))
    def test_an_axis_angle_lies_in_its_range(self, degrees: float) -> None:
        folded = ellipse.axis_angle(degrees)
        self.assertTrue(-90 < folded <= 90)
        self.assertAlmostEqual(math.sin(2 * math.radians(folded)), math.sin(2 * math.radians(degrees)), places=6)

    def test_whiskers_do_not_pull_a_robust_fit(self) -> None:
        truth = Ellipse(x=50, y=60, major=40, minor=30, angle=20)
        points = truth.points(np.linspace(0, 2 * np.pi, 90, endpoint=False))
        points[:8] += [25.0, 3.0]
        (fitted,) = conics.fit_robust(points[None], np.ones((1, 90), dtype=bool)).ellipses
        assert fitted is not None
        self.assertLess(math.hypot(fitted.x - 50, fitted.y - 60), 0.3)
