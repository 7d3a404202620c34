"""A strand that has slipped off its hook, or off what carries it: told on its drawing, kept in the findings file."""

from __future__ import annotations

import random
import unittest
from dataclasses import replace

import numpy as np

from bench.apart import strand_measure, strands
from bench.apart.strands import Strand
from motion.analysis import Analysis, analyse
from motion.brief import Brief, PendulumBrief, Swing
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.plan import Plan
from motion.exercises.pendulum.track_file import track_read
from motion.exercises.pendulum.truth import LINE
from motion.report.file import read_back, to_json
from motion.synth import draw
from motion.synth.look import LOOKS

LOOK = strands.Look(
    links="capsules", wide=10.0, thin=10.0, outline=0.0, hook=True, paper=(246, 241, 228), ink=(30, 60, 160),
    fill=(90, 160, 90),
)  # fmt: skip
AT = 12


def hung(hangs: str, off: tuple[float, float] = (0.0, 0.0)) -> Strand:
    """A short clip of one that drags, with the upper end of one drawing moved by so many px."""
    planned = strands.plan(random.Random(5), hangs, drag=2.0, weight=False)
    points = planned.points[:22].copy()
    back = len(points[AT]) // 3 if hangs == "tail" else 1
    shares = np.maximum(0.0, 1 - np.arange(len(points[AT])) / back)
    points[AT] += shares[:, None] * np.array(off)
    return replace(planned, points=points, frames=planned.frames[:22])


def carried(off: float) -> tuple[Plan, Brief]:
    """A crate under a trolley, the line of one drawing drawn beside its hook by so many px."""
    guide = Swing(pivot_x=190, pivot_y=46, length=190, size=56, carry=250, carry_s=1.0, count=2, swing_s=0.8)
    brief = Brief(canvas=(640, 360), asked=PendulumBrief(pivot="moved"), guide=guide)
    plan = plan_of(brief)
    poses = list(plan.poses)
    at = poses[35]
    poses[35] = replace(at, top=(at.top[0] + off, at.top[1]))
    return replace(plan, poses=tuple(poses)), brief


def analysed(plan: Plan, brief: Brief) -> Analysis:
    return analyse(draw.clip("pendulum", plan, LOOKS["clean"], 1), replace(brief, guide=None))


class Slips(unittest.TestCase):
    def test_a_chain_and_a_tail_whose_upper_end_lies_beside_the_pivot(self) -> None:
        for hangs in ("chain", "tail"):
            clean = strand_measure.analysed(hung(hangs), LOOK, None, drags=True)
            self.assertNotIn("contact.pivot", [f.code for f in clean.findings])
            moved = hung(hangs, (18.0, 4.0))
            found = strand_measure.analysed(moved, LOOK, None, drags=True)
            with self.subTest(hangs):
                codes = {f.code for f in found.findings}
                self.assertIn("contact.pivot", codes)
                # A slipped pivot is no wrong length.
                self.assertNotIn("volume.length", codes)
                (slip,) = [f for f in found.findings if f.code == "contact.pivot"]
                self.assertEqual(slip.first_frame, 1 + sum(moved.frames[:AT]))
                line = found.track.lines(LINE)[AT]
                assert line is not None
                self.assertLess(float(np.hypot(*(np.array(line.points[0]) - moved.points[AT, 0]))), 4.0)

    def test_one_that_slips_up_over_its_hook_is_told_by_how_far(self) -> None:
        """Where it hangs it covers what all drawings cover: only beyond that it shows."""
        for hangs in ("chain", "tail"):
            found = strand_measure.analysed(hung(hangs, (0.0, -19.0)), LOOK, None, drags=True)
            slips = [f.measured for f in found.findings if f.code == "contact.pivot"]
            with self.subTest(hangs):
                self.assertEqual(len(slips), 1)
                self.assertLess(abs(slips[0] - 19.0), 4.0)

    def test_the_checks_tell_it_just_outside_its_tolerance_and_not_within(self) -> None:
        reach = float(np.median(np.hypot(*(hung("chain").points[:, -1] - hung("chain").points[:, 0]).T)))
        for times, told in ((0.9, False), (1.1, True)):
            codes = [f.code for f in strand_measure.judged(hung("chain", (0.02 * reach * times, 0.0)))]
            with self.subTest(times=times):
                self.assertEqual("contact.pivot" in codes, told)

    def test_one_off_what_carries_it_is_told_against_that_and_read_back(self) -> None:
        plan, brief = carried(16.0)
        found = analysed(plan, brief)
        self.assertEqual([(f.code, f.first_frame) for f in found.findings], [("contact.pivot", plan.first_frame(35))])
        self.assertIn("what carries it", found.findings[0].message)
        told = to_json(found)
        again = track_read(read_back(told)[1], told["track"])
        line, own = again.lines(LINE)[35], found.track.lines(LINE)[35]
        assert line is not None and own is not None and line.hook is not None and own.hook is not None
        self.assertLess(float(np.abs(np.array(line.hook) - own.hook).max()), 0.01)
        self.assertEqual([f.code for f in analysed(*carried(0.0)).findings], [])


if __name__ == "__main__":
    unittest.main()
