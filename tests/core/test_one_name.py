"""Where two names would do for a fault, the one that says what is seen; and what looks like a fault and is none."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

from motion.exercises.bounce.plan import Plan, Pose, Recipe, bounce
from motion.exercises.bounce.reading import read
from motion.exercises.bounce.truth import track_of
from motion.synth.bounce.faults.plant import in_air, top_of, with_poses
from tests.core.drawn import HARD, HARD_BRIEF, codes, judged

HIGH = replace(HARD, diameter=50.0, drop_px=360.0, fall_frames=10.0, kept=(0.85, 0.85), speed_x=8.0)
IN_PLACE = Recipe(start_x=480.0, speed_x=0.0, diameter=60.0)


def height(plan: Plan, pose: Pose) -> float:
    """How far a drawing stands above where the round ball rests, px."""
    return plan.ground_at(pose.x) - plan.recipe.diameter / 2 - pose.y


def shaped(plan: Plan, at: int, ratio: float, angle: float) -> Plan:
    """The same with as much ball in one drawing, its axes in that ratio."""
    size = plan.recipe.diameter
    long = replace(plan.poses[at], major=size * math.sqrt(ratio), minor=size / math.sqrt(ratio), angle=angle)
    return with_poses(plan, {at: long})


class Backwards(unittest.TestCase):
    """A side whose gaps grow where they should shrink."""

    def turned_round(self, plan: Plan, hop: int, side: str) -> Plan:
        top, air = top_of(plan, hop), in_air(plan, hop)
        run = [i for i in air if (i < top if side == "rise" else i > top)]
        foot = (run[0] - 1) if side == "rise" else (run[-1] + 1)
        high, base = plan.poses[top], plan.poses[foot]
        changed = {}
        for i in run:
            part = abs(i - top) / (len(run) + 1)
            down = part * (2 - part)
            y = high.y + (plan.ground_at(base.x) - plan.recipe.diameter / 2 - high.y) * down
            changed[i] = replace(plan.poses[i], x=high.x + (base.x - high.x) * math.sqrt(down), y=y)
        return with_poses(plan, changed)

    def test_a_rise_that_gains_speed_all_the_way_is_no_even_one(self) -> None:
        found = codes(judged(self.turned_round(bounce(HIGH), 1, "rise"), HARD_BRIEF))
        self.assertIn("spacing.faster_rising", found)
        self.assertNotIn("spacing.even", found)

    def test_a_fall_that_loses_speed_all_the_way_is_no_even_one(self) -> None:
        found = codes(judged(self.turned_round(bounce(HIGH), 1, "fall"), HARD_BRIEF))
        self.assertIn("spacing.slower_falling", found)
        self.assertNotIn("spacing.even", found)


class AtTheTop(unittest.TestCase):
    def test_a_soft_ball_that_lies_flat_there_is_not_round_where_it_is_slowest(self) -> None:
        plan = bounce(IN_PLACE)
        self.assertEqual(codes(judged(shaped(plan, top_of(plan, 1), 1.3, 0.0))), ["stretch.at_top"])

    def test_one_that_lies_flat_on_the_way_up_is_squashed(self) -> None:
        plan = bounce(IN_PLACE)
        on_the_way = next(i for i in in_air(plan, 1) if height(plan, plan.poses[i]) > 0.5 * plan.recipe.diameter)
        self.assertEqual(codes(judged(shaped(plan, on_the_way, 1.4, 0.0))), ["squash.in_air"])

    def test_a_top_that_sits_off_along_the_path_is_one_drawing_off(self) -> None:
        plan = bounce(replace(HARD, drop_px=240.0, fall_frames=4.6, kept=(0.66, 0.66), speed_x=28.0))
        top = top_of(plan, 1)
        moved = replace(plan.poses[top], x=plan.poses[top].x - 14.0)
        self.assertEqual(codes(judged(with_poses(plan, {top: moved}), HARD_BRIEF)), ["spacing.jump"])


class TwoEqualDrawings(unittest.TestCase):
    """In place, the drawings on both sides of a top may be one, shown twice as long."""

    RECIPE = replace(HARD, start_x=480.0, speed_x=0.0, diameter=40.0, fall_frames=8.0, kept=(15 / 16, 13 / 15))

    def as_drawn(self) -> Plan:
        """Each pair of equal neighbours as one drawing with the frames of both."""
        plan = bounce(self.RECIPE)
        merged: list[Pose] = []
        for pose in plan.poses:
            if merged and abs(pose.y - merged[-1].y) < 0.05:
                merged[-1] = replace(merged[-1], frames=merged[-1].frames + pose.frames)
            else:
                merged.append(pose)
        self.assertLess(len(merged), len(plan.poses))
        return replace(plan, poses=tuple(merged))

    def test_they_take_the_time_of_two(self) -> None:
        plan = self.as_drawn()
        found = read(track_of(plan))
        assert found is not None and found.hops[1].parabola is not None
        self.assertAlmostEqual(found.hops[1].parabola.frames, 15.0, delta=0.3)
        self.assertEqual(codes(judged(plan, HARD_BRIEF)), [])


class LowHops(unittest.TestCase):
    def test_a_low_hop_beside_a_high_one_counts_for_the_rhythm(self) -> None:
        plan = bounce(replace(HARD, diameter=60.0, drop_px=300.0, fall_frames=11.0, kept=(0.75, 0.75, 0.42, 0.6)))
        low = top_of(plan, 3)
        self.assertLess(height(plan, plan.poses[low]), 0.5 * plan.recipe.diameter)
        self.assertIn("timing.rhythm", codes(judged(plan, HARD_BRIEF)))


class AtTheClipsEnd(unittest.TestCase):
    def test_a_ball_that_is_cut_off_just_above_the_ground_has_not_landed(self) -> None:
        # In the eighth drawing the fall has 0.05 of the diameter to go, and there the clip ends.
        plan = bounce(replace(HARD, diameter=80.0, fall_frames=7.0 / math.sqrt(1 - 4.0 / HARD.drop_px)))
        contact = in_air(plan, 0)[-1] + 1
        before, here = plan.poses[contact - 1], plan.poses[contact]
        falling = replace(here, x=before.x + HARD.speed_x, y=plan.ground_at(here.x) - 44.0)
        cut = replace(plan, poses=(*plan.poses[:contact], falling))
        self.assertEqual(codes(judged(cut, HARD_BRIEF)), [])
        going_on = replace(cut, poses=(*cut.poses, *plan.poses[contact + 1 :]))
        self.assertIn("contact.gap", codes(judged(going_on, HARD_BRIEF)))


if __name__ == "__main__":
    unittest.main()
