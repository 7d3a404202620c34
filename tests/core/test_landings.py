"""Where the ball lands before it rests, and how high a hop stood whose end the clip no longer shows."""

from __future__ import annotations

import unittest
from dataclasses import replace

from motion.analysis import of_plan
from motion.exercises.bounce.keeping import kept_at_contacts
from motion.exercises.bounce.plan import Plan, bounce
from motion.exercises.bounce.reading import read
from motion.synth.faults.plant import in_air
from tests.core.drawn import HARD, HARD_BRIEF, codes, judged

RESTING = replace(HARD, end="rest", start_x=480.0, speed_x=0.0)
REDRAWN, AT_ONCE = replace(RESTING, rest=5), replace(RESTING, rest=1, last_hold=6)


def landing(plan: Plan) -> int:
    """The index of the contact after which the ball rests."""
    return max(i for i, p in enumerate(plan.poses) if p.role == "contact")


def moved(plan: Plan, heights: dict[int, float]) -> Plan:
    """The same with some drawings so many px above the ground."""
    radius = plan.recipe.diameter / 2
    poses = [
        replace(p, y=plan.ground_at(p.x) - radius - heights[i]) if i in heights else p for i, p in enumerate(plan.poses)
    ]
    return replace(plan, poses=tuple(poses))


def held(plan: Plan) -> Plan:
    """The same with its rest in one drawing, held."""
    after = landing(plan) + 1
    rest = replace(plan.poses[after], frames=len(plan.poses) - after)
    return replace(plan, poses=(*plan.poses[:after], rest))


class Landing(unittest.TestCase):
    def found(self, plan: Plan) -> list[tuple[str, int]]:
        return [(f.code, f.first_frame) for f in judged(plan, HARD_BRIEF).findings]

    def test_one_that_hangs_is_told_whether_the_rest_is_held_or_redrawn(self) -> None:
        for name, plan in (("redrawn", bounce(REDRAWN)), ("held", held(bounce(REDRAWN))), ("landing", bounce(AT_ONCE))):
            at = landing(plan)
            with self.subTest(name):
                self.assertEqual(self.found(plan), [])
                hanging = moved(plan, {at: 0.1 * plan.recipe.diameter})
                self.assertEqual(self.found(hanging), [("contact.gap", plan.first_frame(at))])

    def test_one_put_down_where_its_fall_does_not_lead_is_the_landing(self) -> None:
        plan = bounce(REDRAWN)
        at = landing(plan)
        # A drawing more of the fall, which leads to well above the ground, and a landing that does not touch.
        put_down = moved(plan, {at - 2: 70.0, at - 1: 50.0, at: 0.1 * plan.recipe.diameter})
        self.assertIn(("contact.gap", plan.first_frame(at)), self.found(put_down))

    def test_an_even_fall_into_a_rest_is_even_and_lands_on_the_ground(self) -> None:
        for diameter, kept in ((80.0, (0.8, 0.78, 0.8)), (86.0, (0.78, 0.78)), (92.0, (0.7, 0.7))):
            plan = bounce(replace(REDRAWN, diameter=diameter, kept=kept))
            at = landing(plan)
            top = max((i for i in in_air(plan, plan.poses[at - 1].hop) if i < at), key=lambda i: -plan.poses[i].y)
            height = plan.ground_at(plan.poses[top].x) - diameter / 2 - plan.poses[top].y
            even = moved(plan, {i: height * (at - i) / (at - top) for i in range(top, at)})
            with self.subTest(drawings=at - top):
                self.assertEqual([code for code, _ in self.found(even)], ["spacing.even"])


class Tops(unittest.TestCase):
    def test_a_top_just_beyond_the_last_drawing_is_told_by_the_clips_gravity(self) -> None:
        plan = bounce(replace(HARD, diameter=36.0, drop_px=370.0, fall_frames=6.8, kept=(0.84, 0.84, 0.5)))
        last = in_air(plan, plan.poses[-1].hop)
        self.assertEqual(len(last), 2)
        found = read(of_plan(plan, HARD_BRIEF).track)
        assert found is not None
        self.assertEqual([round(k.share, 2) for k in kept_at_contacts(found)], [0.84, 0.84, 0.5])
        self.assertEqual(codes(judged(plan, HARD_BRIEF)), ["timing.rhythm"])

    def test_a_rise_that_the_clip_cuts_off_tells_no_top(self) -> None:
        plan = bounce(replace(HARD, diameter=36.0, drop_px=370.0, fall_frames=9.4, kept=(0.84, 0.84, 0.84)))
        cut = replace(plan, poses=plan.poses[: in_air(plan, plan.poses[-1].hop)[1] + 1])
        found = read(of_plan(cut, HARD_BRIEF).track)
        assert found is not None
        self.assertEqual(len(kept_at_contacts(found)), 2)


if __name__ == "__main__":
    unittest.main()
