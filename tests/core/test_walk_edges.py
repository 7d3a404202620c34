"""Each fault of a walk just inside its tolerance and just outside, on perfectly measured tracks."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from unittest import TestCase

import numpy as np

from motion.analysis import of_plan
from motion.brief import Brief, Stride, WalkBrief
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.plan import Plan
from motion.synth.walk.faults import FAULTS, MORE

LEG = 200.0
GUIDE = Brief(
    canvas=(960, 540),
    asked=WalkBrief(direction="right"),
    guide=Stride(start_x=480, ground=470, leg=LEG, body=120, step=140, rise=12, lift=18),
)
SIZED = (
    "spacing.jump",
    "spacing.stride",
    "arc.off_path",
    "volume.changes",
    "volume.length",
    "contact.slides",
    "contact.gap",
    "contact.through",
    "timing.hold",
)
"""What is planted at any number of tolerances in a body on legs that walks in place."""
BESIDE = {"volume.length": {"arc.off_path"}}
"""A shin that is three quarters of its tolerance longer may put its foot beside its arc."""
SEEDS = range(4)


def guided(**changed: Any) -> Brief:
    """The guide with some of its feel changed."""
    return replace(GUIDE, guide=replace(GUIDE.guide, **changed))  # type: ignore[type-var]


def codes(plan: Plan, brief: Brief = GUIDE, **asked: Any) -> set[str]:
    """What is found in a plan as perfectly measured, with nothing asked but what is given."""
    wanted = replace(brief, guide=None, asked=replace(brief.asked, **asked))  # type: ignore[type-var]
    return {f.code for f in of_plan(plan, wanted).findings}


def planted(name: str, times: float, brief: Brief) -> list[Plan]:
    """Some plans with a fault so many times its tolerance."""
    plant = FAULTS[name] if name in FAULTS else MORE[name][1]
    tried = (plant(plan_of(brief), np.random.default_rng(seed), times) for seed in SEEDS)
    found = [plan for plan in tried if plan is not None]
    assert found, name
    return found


class Edges(TestCase):
    def test_just_inside_is_nothing(self) -> None:
        for code in SIZED:
            for number, plan in enumerate(planted(code, 0.75, GUIDE)):
                with self.subTest(code, number=number):
                    self.assertLessEqual(codes(plan), BESIDE.get(code, set()))

    def test_just_outside_is_that_one_fault(self) -> None:
        for code in SIZED:
            for number, plan in enumerate(planted(code, 1.4, GUIDE)):
                with self.subTest(code, number=number):
                    self.assertEqual(codes(plan), {code})

    def test_a_whole_figure_and_its_head_out_of_their_place(self) -> None:
        whole = replace(guided(leg=170.0, body=100.0, step=130.0), asked=WalkBrief(direction="right", figure="whole"))
        for name, brief in (("figure jump", GUIDE), ("head jump", whole)):
            for times, found in ((0.75, set[str]()), (1.4, {"spacing.jump"})):
                for plan in planted(name, times, brief):
                    with self.subTest(name, times=times):
                        self.assertEqual(codes(plan, brief), found)

    def test_across_hips_that_rush_and_stall(self) -> None:
        across = replace(guided(start_x=70.0), asked=WalkBrief(direction="right", path="across"))
        for times, found in ((0.75, set[str]()), (1.4, {"spacing.surges"})):
            for plan in planted("spacing.surges", times, across):
                with self.subTest(times=times):
                    self.assertEqual(codes(plan, across), found)

    def test_a_cycle_that_closes_to_so_much(self) -> None:
        cycle = replace(GUIDE, loop=True)
        for times, found in ((0.75, set[str]()), (1.4, {"timing.loop"})):
            for plan in planted("timing.loop", times, cycle):
                with self.subTest(times=times):
                    self.assertEqual(codes(plan, cycle), found)

    def test_a_body_glides_that_rises_by_less_than_fifteen_thousandths_of_the_leg(self) -> None:
        for share, found in ((0.010, {"arc.flat"}), (0.020, set[str]())):
            with self.subTest(share):
                brief = guided(rise=share * LEG)
                self.assertEqual(codes(plan_of(brief), brief), found)

    def test_a_foot_that_passes_along_the_ground_scuffs_and_one_that_lifts_does_not(self) -> None:
        for share, found in ((0.02, set[str]()), (0.0, {"contact.scuffs"})):
            with self.subTest(share):
                brief = guided(lift=share * LEG)
                self.assertEqual(codes(plan_of(brief), brief), found)

    def test_steps_as_quick_as_asked_to_half_a_frame(self) -> None:
        plan = plan_of(GUIDE)
        usual = float(GUIDE.guide.frames)  # type: ignore[union-attr]
        for off, found in ((0.4, set[str]()), (0.6, {"timing.tempo"})):
            for wanted in ((usual + off, usual + off + 2), (usual - off - 2, usual - off)):
                with self.subTest(wanted):
                    self.assertEqual(codes(plan, step_frames=wanted), found)

    def test_what_is_asked_of_the_style_has_edges_as_well(self) -> None:
        plan = plan_of(GUIDE)
        for field, inside, outside in (
            ("rise_share", (0.05, 0.07), (0.10, 0.12)),
            ("lean_degrees", (-2.0, 2.0), (8.0, 12.0)),
        ):
            with self.subTest(field):
                self.assertEqual(codes(plan, **{field: inside}), set())
                self.assertEqual(len(codes(plan, **{field: outside})), 1)
