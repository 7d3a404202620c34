"""Where the ball lands before it rests, and how high a hop stood whose end the clip no longer shows."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from motion.analysis import of_plan
from motion.exercises.bounce.keeping import kept_at_contacts
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.exercises.bounce.reading import read
from motion.synth.bounce.faults.plant import in_air
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


class NobodysContact(unittest.TestCase):
    """A contact between two drawings of a hard ball, of which one lies near the ground on its own flight."""

    diameter = 60.0

    def undrawn(self, lift_d: float = 0.0) -> tuple[Plan, int]:
        """A plan of which one contact is not drawn; the drawing nearest to it is lifted so far off its flight."""
        for fall in np.linspace(7.0, 9.0, 81):
            plan = bounce(replace(HARD, diameter=self.diameter, drop_px=330.0, fall_frames=float(fall), speed_x=9.0))
            for at in (i for i, p in enumerate(plan.poses[:-3]) if p.role == "contact" and i > 3):
                frame = 1.0 + at * plan.recipe.exposure
                flight = next(f for f in plan.flights if f.left <= frame <= f.lands)
                height = flight.height(frame)
                if 0.18 < height / self.diameter < 0.28:
                    x = plan.recipe.start_x + plan.recipe.speed_x * (frame - 1)
                    flown = replace(plan.poses[at], x=x, role="air", major=self.diameter, minor=self.diameter)
                    poses = (*plan.poses[:at], flown, *plan.poses[at + 1 :])
                    return moved(replace(plan, poses=poses), {at: height - lift_d * self.diameter}), at
        raise AssertionError("no flight comes so near to the ground")

    def test_a_drawing_on_its_flight_was_put_there_by_nobody(self) -> None:
        plan, _ = self.undrawn()
        self.assertIn("contact.missed", codes(judged(plan, HARD_BRIEF)))
        self.assertNotIn("contact.gap", codes(judged(plan, HARD_BRIEF)))

    def test_one_that_was_put_off_its_flight_hangs(self) -> None:
        plan, at = self.undrawn(lift_d=0.1)
        self.assertIn(
            ("contact.gap", plan.first_frame(at)), [(f.code, f.first_frame) for f in judged(plan, HARD_BRIEF).findings]
        )

    def test_the_last_drawing_of_a_low_hop_before_a_rest_is_in_the_air(self) -> None:
        for heights in ([0.14, 0.28, 0.14], [0.3, 0.15]):
            plan = bounce(AT_ONCE)
            at = landing(plan)
            landed = plan.poses[at]
            size = plan.recipe.diameter
            hop = [
                replace(landed, y=landed.y - size * h, role="air", frames=2 if h > 0.2 and len(heights) > 2 else 1)
                for h in heights
            ]
            low = replace(plan, poses=(*plan.poses[: at + 1], *hop, replace(landed, frames=6)))
            with self.subTest(heights):
                self.assertNotIn("contact.gap", codes(judged(low, HARD_BRIEF)))


class AtTheEdge(unittest.TestCase):
    """A ball that the frame's edge cuts at a contact still tells where it is, but not of what size."""

    def cut(self) -> tuple[Plan, int]:
        """A plan that comes in at the left edge, and the index of its first contact, there."""
        whole = bounce(replace(HARD, diameter=60.0, speed_x=14.0, start_x=100.0))
        at = next(i for i, p in enumerate(whole.poses) if p.role == "contact")
        left = whole.poses[at].x - 20.0
        moved_left = replace(whole, poses=tuple(replace(p, x=p.x - left) for p in whole.poses[at - 1 :]))
        return moved_left, 1

    def test_a_contact_there_keeps_its_neighbours(self) -> None:
        plan, at = self.cut()
        track = of_plan(plan, HARD_BRIEF).track
        self.assertTrue(track.shapes[at].clipped)  # type: ignore[union-attr]
        found = read(track)
        assert found is not None
        self.assertEqual(found.contacts[0].steps, (at,))
        self.assertEqual(len(found.contacts), sum(p.role == "contact" for p in plan.poses))
        self.assertEqual(codes(judged(plan, HARD_BRIEF)), [])

    def test_its_size_and_shape_are_not_judged(self) -> None:
        plan, at = self.cut()
        pose = plan.poses[at]
        odd = replace(pose, major=pose.major * 1.3, minor=pose.minor)
        spoilt = replace(plan, poses=(*plan.poses[:at], odd, *plan.poses[at + 1 :]))
        self.assertEqual(codes(judged(spoilt, HARD_BRIEF)), [])
        inside = replace(spoilt, poses=tuple(replace(p, x=p.x + 100) for p in spoilt.poses))
        self.assertIn("volume.changes", codes(judged(inside, HARD_BRIEF)))


class Tops(unittest.TestCase):
    def test_a_long_drawing_at_the_top_of_three_is_told(self) -> None:
        plan = bounce(replace(Recipe(), diameter=36.0, drop_px=370.0, fall_frames=6.0, kept=(10 / 12, 0.6)))
        last = max(i for i, p in enumerate(plan.poses) if p.role == "contact")
        three = plan.poses[last + 1 : last + 4]
        self.assertGreater(three[1].y - three[2].y, 0.25 * 36)
        wide = replace(three[2], major=three[2].major * 1.15, minor=three[2].minor / 1.15, angle=0.0)
        clip = replace(plan, poses=(*plan.poses[: last + 3], wide))
        self.assertIn("stretch.at_top", codes(judged(clip)))

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
