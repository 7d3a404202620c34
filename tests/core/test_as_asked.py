"""What the brief asks of the timing: each just as asked and just not."""

from __future__ import annotations

import unittest
from dataclasses import replace

from motion.brief import BounceBrief, Brief
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.findings import Finding
from tests.core.drawn import judged

PLAN = bounce(Recipe())
CONTACTS = sum(p.role == "contact" for p in PLAN.poses)


def told(plan: Plan, brief: Brief, code: str) -> list[Finding]:
    return [f for f in judged(plan, brief).findings if f.code == code]


def asking(**bounce_values: object) -> Brief:
    return Brief(asked=BounceBrief(**bounce_values))  # type: ignore[arg-type]


class Length(unittest.TestCase):
    def test_inside_and_outside(self) -> None:
        frames = PLAN.frames
        for asked, count in (((frames, frames), 0), ((1, frames + 9), 0), ((1, frames - 1), 1), ((frames + 1, 99), 1)):
            with self.subTest(asked):
                self.assertEqual(len(told(PLAN, Brief(frames=asked), "timing.length")), count)

    def test_it_says_how_many_frames_to_take_away(self) -> None:
        (found,) = told(PLAN, Brief(frames=(1, PLAN.frames - 5)), "timing.length")
        self.assertIn("Take away 5 frames", found.advice)
        self.assertEqual((found.first_frame, found.last_frame), (1, PLAN.frames))


class Hops(unittest.TestCase):
    def test_as_many_as_asked_and_others(self) -> None:
        self.assertEqual(told(PLAN, asking(hops=CONTACTS), "timing.hops"), [])
        (found,) = told(PLAN, asking(hops=CONTACTS + 2), "timing.hops")
        self.assertEqual((found.measured, found.expected), (CONTACTS, CONTACTS + 2))
        self.assertIn("Add 2 hops", found.advice)


class Exposure(unittest.TestCase):
    def test_ones_on_a_brief_that_asks_for_ones(self) -> None:
        self.assertEqual(told(PLAN, Brief(exposure="ones"), "timing.exposure"), [])

    def test_ones_where_twos_are_asked_are_runs_between_the_contacts(self) -> None:
        found = told(PLAN, Brief(exposure="twos"), "timing.exposure")
        self.assertTrue(found)
        self.assertLess(len(found), 12)

    def test_one_drawing_held_is_told_once(self) -> None:
        at = next(i for i, p in enumerate(PLAN.poses) if p.hop == 1 and p.role == "air") + 1
        poses = (*PLAN.poses[:at], replace(PLAN.poses[at], frames=4), *PLAN.poses[at + 1 :])
        found = judged(replace(PLAN, poses=poses), Brief(exposure="ones")).findings
        self.assertEqual([f.code for f in found], ["timing.hold"])

    def test_tops_may_be_held(self) -> None:
        self.assertEqual(told(bounce(Recipe(top_hold=1)), Brief(exposure="ones"), "timing.exposure"), [])


class Bounciness(unittest.TestCase):
    def test_inside_and_outside_the_range_of_the_material(self) -> None:
        plan = bounce(Recipe(kept=(0.8, 0.8, 0.8)))
        for asked, count in (((0.75, 0.85), 0), ((0.83, 0.9), 0), ((0.86, 0.9), 1), ((0.6, 0.74), 1)):
            with self.subTest(asked):
                self.assertEqual(len(told(plan, asking(restitution=asked), "timing.bounciness")), count)

    def test_it_says_which_way(self) -> None:
        plan = bounce(Recipe(kept=(0.8, 0.8, 0.8)))
        (found,) = told(plan, asking(restitution=(0.9, 0.95)), "timing.bounciness")
        self.assertIn("less than the brief's material", found.message)
        self.assertAlmostEqual(float(found.measured or 0), 0.8, delta=0.03)


class Weight(unittest.TestCase):
    def size_for(self, factor: float) -> float:
        """The real diameter at which the plan falls with so many times the real gravity."""
        recipe = PLAN.recipe
        return factor * 9.81 * recipe.diameter / recipe.fps**2 / PLAN.gravity

    def test_inside_and_outside_a_factor(self) -> None:
        for factor, count in ((1.0, 0), (1.25, 0), (0.8, 0), (1.5, 1), (0.65, 1)):
            with self.subTest(factor):
                found = told(PLAN, asking(diameter_m=self.size_for(factor)), "timing.weight")
                self.assertEqual(len(found), count)

    def test_it_says_floaty_or_heavy(self) -> None:
        (heavy,) = told(PLAN, asking(diameter_m=self.size_for(2.0)), "timing.weight")
        (floaty,) = told(PLAN, asking(diameter_m=self.size_for(0.5)), "timing.weight")
        self.assertIn("heavy", heavy.message)
        self.assertIn("floaty", floaty.message)


if __name__ == "__main__":
    unittest.main()
