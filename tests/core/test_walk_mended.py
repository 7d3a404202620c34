"""A walk mended as its findings say: the figure as it belongs has no fault left, and is drawn as lines."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np

from motion.analysis import of_plan
from motion.brief import Brief, Stride, WalkBrief
from motion.exercises.walk.exercise import WALK
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.plan import Plan, Pose
from motion.export import mended
from motion.findings import Finding
from motion.report.file import to_json
from motion.synth.plant import planted

USUAL = Stride(start_x=320, ground=310, leg=140, body=90, step=100, rise=8, lift=12, bend=0.04)
WHOLE = replace(USUAL, leg=120, body=74, step=90, arms=26)


def wrong(code: str, stride: Stride = USUAL, *, loop: bool = False, **asked: object) -> tuple[Plan, Brief]:
    """A walk with that fault and no other, and the brief by which it is judged."""
    brief = Brief(canvas=(640, 360), loop=loop, asked=WalkBrief(**asked), guide=stride)  # type: ignore[arg-type]
    for seed in range(60):
        plan = planted("walk", code, plan_of(brief), np.random.default_rng(seed), 2.5)
        if plan is not None and {f.code for f in of_plan(plan, replace(brief, guide=None)).findings} == {code}:
            return plan, replace(brief, guide=None)
    raise AssertionError(f"{code} could not be planted alone")


def after(plan: Plan, findings: tuple[Finding, ...]) -> Plan:
    """The plan with its landmarks and frames as these findings say."""
    poses = {plan.first_frame(i): pose for i, pose in enumerate(plan.poses)}
    for mark in [m for f in findings for m in f.overlay]:
        pose = poses[mark["frame"]]
        if mark["kind"] == "frames":
            poses[mark["frame"]] = replace(pose, frames=pose.frames + mark["change"])
        elif "landmarks" in mark:
            poses[mark["frame"]] = moved(pose, {n: (x, y) for n, (x, y) in mark["landmarks"].items()})
    return replace(plan, poses=tuple(p for p in poses.values() if p.frames > 0))


def moved(pose: Pose, places: dict[str, tuple[float, float]]) -> Pose:
    landmarks = {**pose.landmarks, **places}
    goes_with = "head" if "head" in landmarks else "hip"
    dx, dy = (landmarks[goes_with][k] - pose.landmarks[goes_with][k] for k in (0, 1))
    return replace(pose, x=pose.x + dx, y=pose.y + dy, landmarks=landmarks)


class Mended(TestCase):
    def test_no_fault_is_left_once_each_drawing_is_as_it_belongs(self) -> None:
        for code, stride, asked in (
            ("spacing.jump", USUAL, {}),
            ("spacing.stride", USUAL, {}),
            ("spacing.surges", replace(USUAL, start_x=80), {"path": "across"}),
            ("spacing.pops", replace(USUAL, bend=0.004, step=110), {}),
            ("spacing.even", WHOLE, {"figure": "whole"}),
            ("arc.off_path", USUAL, {}),
            ("arc.flat", USUAL, {}),
            ("arc.flat", WHOLE, {"figure": "whole"}),
            ("volume.length", USUAL, {}),
            ("form.backwards", USUAL, {}),
            ("contact.slides", USUAL, {}),
            ("contact.gap", USUAL, {}),
            ("contact.through", USUAL, {}),
            ("contact.airborne", USUAL, {}),
            ("contact.scuffs", USUAL, {}),
            ("timing.down_up", USUAL, {}),
            ("timing.passing", USUAL, {}),
            ("timing.passing", replace(USUAL, start_x=80), {"path": "across"}),
            ("timing.opposite", WHOLE, {"figure": "whole"}),
            ("timing.hold", USUAL, {}),
            ("timing.loop", USUAL, {"loop": True}),
        ):
            with self.subTest(code, **asked):
                plan, brief = wrong(code, stride, **asked)
                mended_plan = after(plan, of_plan(plan, brief).findings)
                self.assertEqual([f.code for f in of_plan(mended_plan, brief).findings], [])

    def test_legs_that_changed_places_are_changed_back(self) -> None:
        brief = Brief(canvas=(640, 360), asked=WalkBrief(), guide=USUAL)
        plan = plan_of(brief)
        turned = {
            n: plan.poses[13].landmarks[n.replace("near", "*").replace("far", "near").replace("*", "far")]
            for n in plan.poses[13].landmarks
        }
        poses = [*plan.poses[:13], replace(plan.poses[13], landmarks=turned), *plan.poses[14:]]
        findings = of_plan(replace(plan, poses=tuple(poses)), replace(brief, guide=None)).findings
        self.assertEqual([(f.code, f.part) for f in findings], [("spacing.jump", "legs")])
        again = after(replace(plan, poses=tuple(poses)), findings).poses[13].landmarks
        for name, place in plan.poses[13].landmarks.items():
            self.assertLess(math.dist(place, again[name]), 1.0)

    def test_a_limp_is_evened_without_touching_its_contacts(self) -> None:
        plan, brief = wrong("timing.limps", replace(USUAL, frames=14, steps=5))
        (finding,) = of_plan(plan, brief).findings
        marks = {m["frame"]: m["change"] for m in finding.overlay}
        contacts = {plan.first_frame(i) for i, p in enumerate(plan.poses) if p.role == "contact"}
        self.assertFalse(contacts & set(marks))
        self.assertIn("timed like that", finding.advice)
        evened = after(plan, (finding,))
        firsts = [evened.first_frame(i) for i, p in enumerate(evened.poses) if p.role == "contact"]
        steps = {b - a for a, b in pairwise(firsts)}
        self.assertLessEqual(max(steps) - min(steps), 1)
        self.assertNotIn("timing.limps", {f.code for f in of_plan(evened, brief).findings})


class Figure(TestCase):
    def test_the_mended_figure_is_drawn_where_its_landmarks_belong(self) -> None:
        for stride, asked in ((USUAL, {}), (WHOLE, {"figure": "whole"})):
            plan, brief = wrong("arc.flat", stride, **asked)
            told = to_json(of_plan(plan, brief))
            shown = mended.plan(told, told["findings"])
            self.assertEqual(len(shown), len(plan.poses))
            # Nothing of a drawing itself is cut out or drawn over.
            self.assertFalse(any(s.moved for s in shown))
            one = next(s for s in shown if s.landmarks)
            assert WALK.figured is not None
            with self.subTest(**asked):
                lines = WALK.figured(told, one.drawing, one.landmarks)
                hip = list(one.landmarks["hip"])
                self.assertTrue(any(hip in line["points"] for line in lines))
                (ring,) = [line for line in lines if len(line["points"]) > 2]
                own = WALK.figured(told, one.drawing, {})
                (before,) = [line for line in own if len(line["points"]) > 2]
                figure = next(f for f in told["track"]["figures"] if f["drawing"] == one.drawing)
                down = hip[1] - figure["landmarks"]["hip"][1]
                self.assertGreater(abs(down), 0.5)
                self.assertAlmostEqual(ring["points"][0][1] - before["points"][0][1], down, delta=0.05)
                self.assertTrue({"near", "far"} <= {line["kind"] for line in lines})
                self.assertEqual(WALK.figured(told, 999, {}), [])

    def test_what_is_dismissed_is_not_mended(self) -> None:
        plan, brief = wrong("contact.gap")
        told = to_json(of_plan(plan, brief))
        self.assertTrue(any(s.landmarks for s in mended.plan(told, told["findings"])))
        self.assertFalse(any(s.landmarks for s in mended.plan(told, [])))
