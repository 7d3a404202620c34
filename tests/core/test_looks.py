"""The ball in every look, and what students forget when they export: found, told, and kept out of the measures."""

from __future__ import annotations

import unittest

import numpy as np

from motion.analysis import Analysis, analyse
from motion.brief import BounceBrief, Brief
from motion.clip import Clip
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.synth.bounce import draw
from motion.synth.bounce.slips import SLIPS, Slip
from motion.synth.draw import of_pictures
from motion.synth.look import LOOKS

PLAN = bounce(
    Recipe(width=480, height=270, diameter=40, ground_y=225, drop_px=150, kept=(0.8, 0.78), speed_x=13.0, start_x=60)
)
PLACES = {"steady": 0.3, "drawn by hand": 1.5}


def clip_of(plan: Plan, look: str, slip: Slip | None = None, seed: int = 11) -> Clip:
    drawn = list(draw.frames(plan, LOOKS[look], seed, slip))
    return of_pictures(drawn, 24)


def found_in(look: str, slip: Slip | None = None) -> Analysis:
    return analyse(clip_of(PLAN, look, slip), Brief(asked=BounceBrief(material="soft")))


def off(found: Analysis, plan: Plan = PLAN) -> np.ndarray:
    """How far each drawing's centre is from the truth, px; nan where none was found."""
    errors = []
    for i, pose in enumerate(plan.poses):
        frame = plan.first_frame(i)
        exposure = next(e for e in found.track.exposures if e.first_frame <= frame <= e.last_frame)
        shape = found.track.shape_of(exposure.drawing)
        errors.append(np.hypot(shape.x - pose.x, shape.y - pose.y) if shape else np.nan)
    return np.array(errors)


def slip_of(code: str, **values: object) -> Slip:
    return Slip(code=code, first_frame=1, last_frame=PLAN.frames, **values)  # type: ignore[arg-type]


class EveryLook(unittest.TestCase):
    def test_the_ball_is_found_on_every_drawing_and_clean_work_stays_clean(self) -> None:
        for name, look in LOOKS.items():
            with self.subTest(name):
                found = found_in(name)
                within = PLACES["drawn by hand" if look.jitter else "steady"]
                self.assertLess(float(np.median(off(found))), within / 2)
                self.assertLess(float(np.percentile(off(found), 95)), within)
                self.assertEqual([f.code for f in found.findings], [])
                expected = ["preflight.drift"] if look.drift else []
                self.assertEqual([n.code for n in found.preflight], expected)

    def test_drift_is_told_in_px_and_shapes_lie_where_frame_1_has_them(self) -> None:
        found = found_in("photographed")
        note = found.preflight[0]
        self.assertRegex(note.message, r"up to \d+\.\d px off")
        self.assertEqual(len(found.track.shifts), len(found.track.shapes))
        self.assertEqual(found.track.shift_of(1).x, 0.0)


class Ghosts(unittest.TestCase):
    def test_neighbours_that_show_through_are_told_and_left_out(self) -> None:
        cases = {"clean": ((1, 0), 0), "outline": ((0, 2), 2), "cel": ((2, 1), 1), "scan": ((1, 1), 1)}
        for look, (neighbours, tint) in cases.items():
            with self.subTest(look):
                slip = slip_of("preflight.ghosts", neighbours=neighbours, opacity=0.3, tint=tint)
                found = found_in(look, slip)
                self.assertIn("preflight.ghosts", [n.code for n in found.preflight])
                self.assertLess(float(np.nanpercentile(off(found), 95)), 1.5)

    def test_they_are_told_on_their_own_frames(self) -> None:
        slip = Slip(code="preflight.ghosts", first_frame=9, last_frame=15, opacity=0.4)
        notes = [n for n in found_in("clean", slip).preflight if n.code == "preflight.ghosts"]
        self.assertEqual(len(notes), 1)
        self.assertLessEqual(abs(notes[0].first_frame - 9), 1)
        self.assertLessEqual(abs(notes[0].last_frame - 15), 1)


class Guides(unittest.TestCase):
    def test_a_path_or_shapes_behind_the_ball_are_told_and_do_no_harm(self) -> None:
        for look, shapes in {"clean": True, "outline": False, "pencil": True, "photographed": False}.items():
            with self.subTest(look, shapes=shapes):
                found = found_in(look, slip_of("preflight.guide", opacity=0.35, shapes=shapes))
                self.assertIn("preflight.guide", [n.code for n in found.preflight])
                self.assertLess(float(np.percentile(off(found), 95)), 1.5)
                self.assertEqual([f.code for f in found.findings], [])


class Missing(unittest.TestCase):
    def test_a_missing_background_is_told_on_its_frames_and_the_ball_still_found(self) -> None:
        for look in ("clean", "harbour", "cut-out", "cel"):
            with self.subTest(look):
                found = found_in(look, Slip(code="preflight.background_drops", first_frame=10, last_frame=12))
                notes = [(n.code, n.first_frame, n.last_frame) for n in found.preflight]
                self.assertEqual(notes, [("preflight.background_drops", 10, 12)])
                self.assertLess(float(np.percentile(off(found), 95)), 0.5)

    def test_empty_frames_are_told_and_explain_what_is_missing(self) -> None:
        for look in ("clean", "scan", "photographed, filled"):
            with self.subTest(look):
                found = found_in(look, Slip(code="preflight.blank", first_frame=9, last_frame=10))
                self.assertIn(
                    ("preflight.blank", 9, 10), [(n.code, n.first_frame, n.last_frame) for n in found.preflight]
                )
                self.assertEqual([f.code for f in found.findings], [])

    def test_empty_frames_after_the_action_are_a_tail(self) -> None:
        frames = PLAN.frames
        slip = Slip(code="preflight.tail", first_frame=frames + 1, last_frame=frames + 5, tail=5)
        notes = [(n.code, n.first_frame, n.last_frame) for n in found_in("clean", slip).preflight]
        self.assertEqual(notes, [("preflight.tail", frames + 1, frames + 5)])

    def test_a_ball_that_leaves_leaves_no_blanks(self) -> None:
        plan = bounce(Recipe(width=640, height=360, diameter=44, ground_y=300, drop_px=200, speed_x=22.0, end="leaves"))
        found = analyse(clip_of(plan, "clean"), Brief())
        self.assertNotIn("preflight.blank", [n.code for n in found.preflight])


class Slips(unittest.TestCase):
    def test_each_says_where_it_is(self) -> None:
        rng = np.random.default_rng(3)
        for code, pick in SLIPS.items():
            slip = pick(PLAN, rng)
            self.assertEqual(slip.code, code)
            self.assertLessEqual(slip.first_frame, slip.last_frame)


if __name__ == "__main__":
    unittest.main()
