"""How a bounce is timed: what makes a move slow, how long contacts last, how it bounces and how heavy it reads."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from motion.exercises.bounce import moves
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.marks import SHARES, rule
from motion.report.file import to_json
from motion.synth.bounce.faults import FAULTS
from tests.core.drawn import SOFT, judged


def told(plan: Plan) -> list[moves.Move]:
    scene = judged(plan).scene
    assert scene is not None
    return list(moves.moves(scene.reading, scene.gravity))


class SlowMoves(unittest.TestCase):
    def test_none_in_clean_work(self) -> None:
        found = told(bounce(Recipe()))
        self.assertEqual([m.kind for m in found], ["fall", "rise", "fall", "rise", "fall", "rise"])
        self.assertEqual({m.slow for m in found}, {None})

    def test_a_held_drawing_makes_its_move_slow_by_a_hold(self) -> None:
        plan = bounce(Recipe())
        at = next(i for i, p in enumerate(plan.poses) if p.hop == 1 and p.role == "air") + 2
        poses = (*plan.poses[:at], replace(plan.poses[at], frames=5), *plan.poses[at + 1 :])
        slow = [m for m in told(replace(plan, poses=poses)) if m.slow]
        self.assertEqual([(m.hop, m.kind, m.slow, m.held) for m in slow], [(2, "rise", "hold", 4)])

    def test_more_drawings_make_a_hop_slow_by_its_spacing(self) -> None:
        planted = FAULTS["timing.hop"](bounce(Recipe()), np.random.default_rng(3), 2.5)
        assert planted is not None
        self.assertEqual({m.slow for m in told(planted[0]) if m.slow}, {"spacing"})


class Feel(unittest.TestCase):
    def bounciness(self, kept: float) -> tuple[float, str]:
        scene = judged(bounce(Recipe(kept=(kept,) * 3, drop_px=360.0, diameter=24.0))).scene
        assert scene is not None
        found = moves.bounciness(scene.reading)
        assert found is not None
        return found

    def test_the_speed_kept_in_words(self) -> None:
        for kept, word in ((0.5, "sandbag"), (0.65, "leather"), (0.8, "rubber"), (0.95, "very lively")):
            with self.subTest(kept):
                share, words = self.bounciness(kept)
                self.assertAlmostEqual(share, kept, delta=0.03)
                self.assertIn(word, words)

    def test_the_size_at_which_a_real_ball_falls_so(self) -> None:
        recipe = Recipe()
        scene = judged(bounce(recipe)).scene
        assert scene is not None
        size = moves.real_size(scene.reading, scene.gravity, recipe.fps)
        self.assertAlmostEqual(size or 0, 9.81 * recipe.diameter / (recipe.gravity * recipe.fps**2), delta=0.005)

    def test_contacts_in_frames_and_in_seconds(self) -> None:
        plan = bounce(Recipe(fps=12.0))
        contacts = [i for i, p in enumerate(plan.poses) if p.role == "contact"]
        held = {contacts[0]: replace(plan.poses[contacts[0]], frames=3)}
        poses = tuple(held.get(i, p) for i, p in enumerate(plan.poses))
        timing = to_json(judged(replace(plan, poses=poses), replace(SOFT, fps=12.0)))["motion"]["timing"]
        self.assertEqual([c["frames"] for c in timing["contacts"]], [3, 1, 1])
        self.assertEqual(timing["contacts"][0]["seconds"], 0.25)


class Rule(unittest.TestCase):
    def test_it_is_a_sentence_with_the_points_of_its_principle(self) -> None:
        said = rule("Arcs", 20)
        self.assertTrue(said.startswith("Arcs: 20 points"))
        for share in SHARES.values():
            self.assertIn(f"{20 * share:g} for each", said)


if __name__ == "__main__":
    unittest.main()
