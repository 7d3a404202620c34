"""The style of a walk: asked for, left free, excused; a limp that is the exercise."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np

from motion.analysis import of_guide, of_plan
from motion.brief import Brief, Stride, WalkBrief, from_json, parse
from motion.errors import BriefError
from motion.exercises.walk.exercise import WALK
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.plan import Plan
from motion.exercises.walk.presets import PRESETS
from motion.synth.plant import planted

USUAL = Stride(start_x=320, ground=310, leg=140, body=90, step=100, rise=8, lift=12, bend=0.04, lean=6)
SIZE = (640, 360)
WHOLE = replace(USUAL, leg=120, body=74, step=90)


def plan(stride: Stride = USUAL, *, exposure: str = "free", **asked: object) -> Plan:
    told = WalkBrief(**asked)  # type: ignore[arg-type]
    return plan_of(Brief(canvas=SIZE, exposure=exposure, asked=told, guide=stride))  # type: ignore[arg-type]


def codes(shown: Plan, *, strictness: str = "standard", **asked: object) -> list[str]:
    """What is found where the brief has no guide, which would excuse what it does itself."""
    told = Brief(canvas=SIZE, strictness=strictness, asked=WalkBrief(**asked))  # type: ignore[arg-type]
    return [f.code for f in of_plan(shown, told).findings]


class Asked(TestCase):
    def test_each_is_held_to_its_range_and_a_little_beyond(self) -> None:
        # Of this walk: 0.057 of the leg, 32.5 degrees, 6 degrees.
        for key, code, within, near, below, above in (
            ("rise_share", "arc.rise", (0.05, 0.06), (0.062, 0.1), (0.1, 0.2), (0.0, 0.03)),
            ("knee_degrees", "form.bend", (28.0, 36.0), (36.0, 50.0), (45.0, 60.0), (0.0, 20.0)),
            ("lean_degrees", "form.lean", (4.0, 8.0), (8.0, 12.0), (14.0, 20.0), (-5.0, 0.0)),
        ):
            for asked, told in ((within, []), (near, []), (below, [code]), (above, [code])):
                with self.subTest(key, asked=asked):
                    self.assertEqual(codes(plan(), **{key: asked}), told)

    def test_a_strict_brief_holds_it_nearer(self) -> None:
        near = {"lean_degrees": (8.5, 12.0)}
        self.assertEqual(codes(plan(), **near), [])
        self.assertEqual(codes(plan(), strictness="strict", **near), ["form.lean"])

    def test_a_trunk_leans_as_well_and_a_round_body_does_not(self) -> None:
        self.assertEqual(codes(plan(WHOLE, figure="whole"), figure="whole", lean_degrees=(4.0, 8.0)), [])
        self.assertEqual(codes(plan(WHOLE, figure="whole"), figure="whole", lean_degrees=(15.0, 20.0)), ["form.lean"])
        shown = plan()
        ball = replace(shown, poses=tuple(replace(p, minor=p.major) for p in shown.poses))
        self.assertEqual(codes(ball, lean_degrees=(15.0, 20.0)), [])

    def test_a_glide_that_is_asked_for_is_none(self) -> None:
        glides = plan(replace(USUAL, rise=0))
        self.assertEqual(codes(glides), ["arc.flat"])
        self.assertEqual(codes(glides, rise_share=(0.0, 0.01)), [])

    def test_arms_must_swing_only_where_that_is_asked(self) -> None:
        still = plan(replace(WHOLE, arms=0), figure="whole")
        self.assertEqual(codes(still, figure="whole"), [])
        self.assertEqual(codes(still, figure="whole", arm_swing="opposite"), ["timing.arms"])
        swings = plan(replace(WHOLE, arms=20), figure="whole")
        self.assertEqual(codes(swings, figure="whole", arm_swing="opposite"), [])


class Excused(TestCase):
    def test_what_is_excused_is_not_found_and_what_is_not_stays(self) -> None:
        for code, one, stride, more in (
            ("arc.flat", "rise", USUAL, {}),
            ("timing.down_up", "rise", USUAL, {}),
            ("spacing.pops", "knees", replace(USUAL, bend=0.004, step=110), {}),
            ("timing.limps", "limp", replace(USUAL, frames=14, steps=5), {}),
            ("spacing.stride", "limp", USUAL, {}),
            ("timing.opposite", "arms", WHOLE, {"figure": "whole"}),
            ("spacing.even", "arms", WHOLE, {"figure": "whole"}),
        ):
            right, dice = plan(stride, **more), map(np.random.default_rng, range(60))
            wrong = next(w for rng in dice if (w := planted("walk", code, right, rng, 2.5)) is not None)
            others = {"rise", "knees", "limp", "arms"} - {one}
            with self.subTest(code):
                self.assertEqual(codes(wrong, **more), [code])
                self.assertEqual(codes(wrong, excused=(one,), **more), [])
                self.assertEqual(codes(wrong, excused=tuple(others), **more), [code])


class Limps(TestCase):
    def test_a_limp_that_is_asked_for_is_clean_in_every_way_of_going(self) -> None:
        for path, exposure, frames, limp in (
            ("in_place", "free", 13, 6),
            ("in_place", "twos", 14, 8),
            ("across", "free", 12, 7),
            ("across", "twos", 16, 4),
        ):
            start = replace(USUAL, frames=frames, limp=limp, start_x=80 if path == "across" else 320)
            shown = plan(start, exposure=exposure, path=path)
            steps = [i for i, p in enumerate(shown.poses) if p.role == "contact"]
            taken = [shown.first_frame(b) - shown.first_frame(a) for a, b in pairwise(steps)]
            with self.subTest(path, exposure=exposure, limp=limp):
                self.assertEqual(taken[0] - taken[1], limp)
                self.assertEqual(codes(shown, path=path, limp_frames=(limp - 1.0, limp + 1.0)), [])
                self.assertEqual(codes(shown, path=path, excused=("limp",)), [])
                # Who goes on at an even speed also makes one step longer: one fault, told once.
                self.assertEqual(codes(shown, path=path), ["timing.limps"])

    def test_too_little_and_too_much_of_it_are_told(self) -> None:
        self.assertEqual(codes(plan(), limp_frames=(4.0, 8.0)), ["timing.limps"])
        strong = plan(replace(USUAL, frames=16, limp=10))
        self.assertEqual(codes(strong, limp_frames=(2.0, 5.0)), ["timing.limps"])

    def test_supports_hold_the_ground_in_uneven_steps(self) -> None:
        shown = plan(replace(USUAL, frames=13, limp=6))
        for one, other in pairwise(shown.poses):
            for side in set(one.support) & set(other.support):
                if one.phase > 0.2 and one.support == (side,) and other.step == one.step:
                    gone = other.landmarks[f"toe_{side}"][0] - one.landmarks[f"toe_{side}"][0]
                    self.assertAlmostEqual(gone, shown.recipe.belt, places=5)

    def test_feet_land_where_they_swing_to_whatever_the_steps_take(self) -> None:
        for frames in range(9, 17):
            for limp in range(2, 9):
                if frames - limp / 2 < 4.5:
                    continue
                shown = plan(replace(USUAL, frames=frames, limp=limp, step=80))
                for one, other in pairwise(shown.poses):
                    for side in ("near", "far"):
                        gone = other.landmarks[f"ankle_{side}"][0] - one.landmarks[f"ankle_{side}"][0]
                        with self.subTest(frames=frames, limp=limp, at=one.step + one.phase):
                            self.assertLess(abs(gone), 0.5 * shown.recipe.gait.step)

    def test_the_start_that_limps_says_so_and_its_guide_is_clean(self) -> None:
        (limping,) = [p for p in PRESETS if p.ideal.limp]
        brief = Brief(canvas=(960, 540), asked=limping.asked, guide=limping.ideal)
        self.assertEqual(of_guide(brief).findings, ())
        shown = plan_of(brief)
        self.assertIn("It limps", " ".join(WALK.guided.sentences(brief, shown)))
        self.assertEqual(WALK.guided.disagreements(brief, shown), {})
        self.assertIn(("Style", "limps: one step takes 4 to 8 frames longer"), WALK.facts(brief))

    def test_a_limp_that_leaves_too_few_drawings_is_refused(self) -> None:
        with self.assertRaises(BriefError) as refused:
            plan(replace(USUAL, frames=8, limp=12))
        self.assertIn("guide.limp", refused.exception.problems)


class Document(TestCase):
    def test_a_style_comes_back_as_it_was(self) -> None:
        told = Brief(
            asked=WalkBrief(
                figure="whole",
                rise_share=(0.02, 0.08),
                knee_degrees=(10.0, 40.0),
                lean_degrees=(-4.0, 4.0),
                arm_swing="opposite",
                excused=("knees", "limp"),
            )
        )
        self.assertEqual(parse(json.dumps(told.to_json())), told)

    def test_what_cannot_be_is_refused_by_name(self) -> None:
        for key, asked in (
            ("walk.excused", {"excused": ["laziness"]}),
            ("walk.excused", {"excused": "limp"}),
            ("walk.excused", {"excused": ["limp"], "limp_frames": [2, 4]}),
            ("walk.excused", {"excused": ["arms"], "arm_swing": "opposite"}),
            ("walk.lean_degrees", {"lean_degrees": [10, 5]}),
            ("walk.arm_swing", {"arm_swing": "wildly"}),
        ):
            with self.subTest(asked), self.assertRaises(BriefError) as refused:
                from_json({"schema": "nettlecap.brief/1", "exercise": "walk", "walk": asked})
            self.assertIn(key, refused.exception.problems)

    def test_a_guide_in_another_style_than_asked_is_told_by_field(self) -> None:
        asked = WalkBrief(
            rise_share=(0.1, 0.2), knee_degrees=(0.0, 10.0), lean_degrees=(20.0, 30.0), limp_frames=(3, 6)
        )
        brief = Brief(canvas=SIZE, asked=asked, guide=USUAL)
        told = WALK.guided.disagreements(brief, plan_of(brief))
        self.assertEqual(
            set(told), {f"walk.{key}" for key in ("rise_share", "knee_degrees", "lean_degrees", "limp_frames")}
        )
