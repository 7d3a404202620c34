"""Each fault just inside and just outside its tolerance, on perfectly measured tracks."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import replace

from motion.brief import BounceBrief, Brief, Material
from motion.exercises.bounce.plan import Recipe, bounce
from motion.findings import Finding, severity
from motion.synth.bounce.faults import FAULTS, Planted
from tests.core.drawn import brief_for, codes, judged, with_fault

# Faults that are there or not; the size of all others goes with the times of the tolerance.
WHOLE = ("contact.missed", "timing.hold")
# A path that hardly curves, and tops that hardly shorten, are other faults of their own.
BESIDE = {"arc.rising_tops": {"timing.rhythm"}}
# Sized in whole frames, so not by a fifth more or less.
COUNTED = ("contact.sticks", "spacing.hangs", "timing.hop")
SIZED = tuple(sorted(set(FAULTS) - set(WHOLE)))


class JustInsideAndOutside(unittest.TestCase):
    def test_inside_raises_nothing(self) -> None:
        for code in SIZED:
            with self.subTest(code):
                plan, _ = with_fault(code, 0.75)
                self.assertLessEqual(set(codes(judged(plan, brief_for(code)))), BESIDE.get(code, set()))

    def test_outside_is_found_once_and_alone_under_its_own_code_where_it_is(self) -> None:
        for code in SIZED:
            with self.subTest(code):
                plan, planted = with_fault(code, 1.35)
                self.assert_found(judged(plan, brief_for(code)).findings, code, planted)

    def test_a_whole_fault_is_found_once_and_alone(self) -> None:
        for code in sorted(FAULTS):
            with self.subTest(code):
                plan, planted = with_fault(code, 2.5)
                self.assert_found(judged(plan, brief_for(code)).findings, code, planted)

    def assert_found(self, found: Sequence[Finding], code: str, planted: Planted) -> None:
        self.assertEqual([f.code for f in found], [code])
        self.assertLessEqual(found[0].first_frame, planted.last_frame + 1)
        self.assertGreaterEqual(found[0].last_frame, planted.first_frame - 1)


class Severity(unittest.TestCase):
    def test_it_says_how_far_past_its_own_tolerance_a_finding_is(self) -> None:
        for code in (*SIZED, "contact.missed", "timing.hold"):
            plan, _ = with_fault(code, 2.5)
            for found in judged(plan, brief_for(code)).findings:
                assert found.measured is not None and found.expected is not None and found.tolerance
                times = abs(found.measured - found.expected) / found.tolerance
                with self.subTest(found.code, times=round(times, 2)):
                    self.assertEqual(found.severity, severity(times))


class Strictness(unittest.TestCase):
    def test_it_scales_every_tolerance(self) -> None:
        for code in sorted(set(SIZED) - set(COUNTED)):
            plan, _ = with_fault(code, 1.3)
            with self.subTest(code, strictness="gentle"):
                found = codes(judged(plan, replace(brief_for(code), strictness="gentle")))
                self.assertLessEqual(set(found), BESIDE.get(code, set()))
            plan, _ = with_fault(code, 0.8)
            with self.subTest(code, strictness="strict"):
                self.assertIn(code, codes(judged(plan, replace(brief_for(code), strictness="strict"))))


class CleanWork(unittest.TestCase):
    def test_physics_in_many_shapes(self) -> None:
        recipes = {
            "as it comes": Recipe(),
            "on twos": Recipe(exposure=2, fall_frames=12.6, speed_x=9.0),
            "in place": Recipe(speed_x=0.0, start_x=480.0),
            "rolls to rest": Recipe(end="rest", rest=6),
            "held at the tops": Recipe(top_hold=1),
            "on a slope": Recipe(slope=0.03),
            "hard": Recipe(stretch=1.0, squash=1.0),
            "one hop": Recipe(kept=(0.8,)),
            "long": Recipe(kept=(0.86,) * 7, speed_x=9.0),
        }
        for name, recipe in recipes.items():
            material: Material = "hard" if name == "hard" else "soft"
            with self.subTest(name):
                brief = Brief(asked=BounceBrief(material=material))
                self.assertEqual(codes(judged(bounce(recipe), brief)), [])

    def test_in_betweens_by_halves(self) -> None:
        for fall in (6.5, 7.3, 8.1, 9.4):
            with self.subTest(fall_frames=fall):
                self.assertEqual(codes(judged(bounce(Recipe(halves=True, fall_frames=fall)))), [])

    def test_what_never_leaves_the_ground_raises_no_heap_of_findings(self) -> None:
        plan = bounce(Recipe())
        rolling = tuple(replace(p, y=plan.ground_at(p.x) - 30, major=60, minor=60) for p in plan.poses)
        result = judged(replace(plan, poses=rolling))
        self.assertEqual((codes(result), [n.code for n in result.preflight]), ([], ["preflight.no_bounce"]))

    def test_what_never_meets_the_ground_is_said_to_be_so(self) -> None:
        plan = bounce(Recipe())
        floating = tuple(replace(p, y=150 + 40 * (i % 3), role="air") for i, p in enumerate(plan.poses))
        result = judged(replace(plan, poses=floating))
        self.assertEqual((codes(result), [n.code for n in result.preflight]), ([], ["preflight.no_bounce"]))
        self.assertIn("in the air", result.preflight[0].message)


class OneFaultOneFinding(unittest.TestCase):
    def test_neighbouring_frames_are_one_finding(self) -> None:
        plan = bounce(Recipe())
        at = next(i for i, p in enumerate(plan.poses) if p.hop == 1 and p.role == "air") + 2
        grown = {i: replace(plan.poses[i], major=plan.poses[i].major * 1.2, minor=plan.poses[i].minor * 1.2)
                 for i in (at, at + 1)}  # fmt: skip
        poses = tuple(grown.get(i, p) for i, p in enumerate(plan.poses))
        found = judged(replace(plan, poses=poses)).findings
        self.assertEqual([f.code for f in found], ["volume.changes"])
        self.assertEqual((found[0].first_frame, found[0].last_frame), (plan.first_frame(at), plan.first_frame(at + 1)))

    def test_two_faults_on_one_drawing_are_two_findings(self) -> None:
        plan, planted = with_fault("contact.gap", 2.5)
        at = next(i for i in range(len(plan.poses)) if plan.first_frame(i) == planted.first_frame)
        pose = plan.poses[at]
        bottom = pose.y + pose.minor / 2
        big = replace(pose, major=pose.major * 1.2, minor=pose.minor * 1.2, y=bottom - pose.minor * 0.6)
        poses = (*plan.poses[:at], big, *plan.poses[at + 1 :])
        self.assertEqual(sorted(codes(judged(replace(plan, poses=poses)))), ["contact.gap", "volume.changes"])

    def test_findings_stand_in_order(self) -> None:
        plan, _ = with_fault("volume.changes", 2.5)
        found = judged(plan, Brief(asked=BounceBrief(material="hard"), strictness="strict")).findings
        self.assertEqual([f.first_frame for f in found], sorted(f.first_frame for f in found))
