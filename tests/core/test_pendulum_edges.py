"""Each fault of a pendulum just inside its tolerance and just outside, on perfectly measured tracks."""

from __future__ import annotations

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from motion.analysis import of_plan
from motion.brief import Brief, PendulumBrief, Strictness, Swing
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.plan import Plan
from motion.synth.pendulum import faults
from motion.synth.pendulum.faults import FAULTS, moved, swings_of

GUIDE = Brief(
    canvas=(960, 540),
    asked=PendulumBrief(),
    guide=Swing(pivot_x=480, pivot_y=60, length=360, angle=-36, count=6, swing_s=0.7, keeps=1.0),
)
SIZED = (
    "spacing.jump",
    "arc.off_path",
    "arc.lopsided",
    "volume.changes",
    "volume.length",
    "contact.pivot",
    "timing.rhythm",
)
"""What is planted at any number of tolerances."""
COUNTED = {"spacing.off_middle": (0.75, 1.8), "spacing.hangs": (0.6, 1.35), "timing.swing": (0.75, 1.5)}
"""What is planted in whole frames or drawings: so many tolerances are inside, and so many outside."""
SEEDS = range(3)
LENIENT: tuple[tuple[Strictness, list[str]], ...] = (("gentle", []), ("strict", ["volume.changes"]))


def codes(plan: Plan, **asked: object) -> list[str]:
    """What is found in a plan as perfectly measured, with nothing asked but what is given."""
    brief = replace(GUIDE, guide=None, asked=replace(GUIDE.asked, **asked))  # type: ignore[type-var]
    return [f.code for f in of_plan(plan, brief).findings]


def planted(code: str, times: float, seed: int, brief: Brief = GUIDE) -> Plan:
    plan = FAULTS[code](plan_of(brief), np.random.default_rng(seed), times)
    assert plan is not None
    return plan


def evened(share: float) -> Plan:
    """One swing a share of the way from a sine to even steps."""
    plan = plan_of(GUIDE)
    a, b = swings_of(plan)[2]
    start, end = plan.poses[a].hangs_at, plan.poses[b].hangs_at
    sine = [plan.poses[i].hangs_at for i in range(a, b + 1)]
    steps = [start + (end - start) * k / (b - a) for k in range(b - a + 1)]
    return faults._at_angles(plan, a, [(1 - share) * s + share * e for s, e in zip(sine, steps, strict=True)])


def evenness(plan: Plan) -> float:
    """The mean of that swing's first and last gap over that of its middle two."""
    a, b = swings_of(plan)[2]
    gaps = np.abs(np.diff([plan.poses[i].hangs_at for i in range(a, b + 1)]))
    middle = len(gaps) // 2
    inner = gaps[middle - 1 : middle + 1] if len(gaps) % 2 == 0 else gaps[middle : middle + 1]
    return float((gaps[0] + gaps[-1]) / 2 / inner.mean())


def flattened(share: float) -> Plan:
    """One swing a share of the way from its arc to the straight line between its extremes."""
    plan = plan_of(replace(GUIDE, guide=replace(GUIDE.guide, angle=-44)))  # type: ignore[type-var]
    a, b = swings_of(plan)[2]
    out, middle = plan, (plan.poses[a].hangs_at + plan.poses[b].hangs_at) / 2
    half = math.radians(abs(plan.poses[b].hangs_at - plan.poses[a].hangs_at) / 2)
    for i in range(a + 1, b):
        turn = math.radians(plan.poses[i].hangs_at - middle)
        chord = plan.recipe.length * math.cos(half) / math.cos(turn)
        out = moved(out, i, length=share * (chord - plan.recipe.length))
    return out


class Edges(TestCase):
    def test_just_inside_is_nothing(self) -> None:
        for code in SIZED:
            for seed in SEEDS:
                with self.subTest(code, seed=seed):
                    self.assertEqual(codes(planted(code, 0.75, seed)), [])
        for code, (inside, _) in COUNTED.items():
            for seed in SEEDS:
                with self.subTest(code, seed=seed):
                    self.assertEqual(codes(planted(code, inside, seed)), [])

    def test_just_outside_is_that_one_finding(self) -> None:
        for code in SIZED:
            for seed in SEEDS:
                with self.subTest(code, seed=seed):
                    self.assertEqual(codes(planted(code, 1.5, seed)), [code])
        for code, (_, outside) in COUNTED.items():
            for seed in SEEDS:
                with self.subTest(code, seed=seed):
                    self.assertEqual(codes(planted(code, outside, seed)), [code])

    def test_a_swing_is_even_where_its_ends_are_four_fifths_of_its_middle(self) -> None:
        for share in np.arange(0.0, 1.01, 0.1):
            plan = evened(float(share))
            ratio = evenness(plan)
            if abs(ratio - 0.8) > 0.03:
                with self.subTest(ratio=round(ratio, 2)):
                    self.assertEqual(codes(plan), ["spacing.even"] if ratio > 0.8 else [])

    def test_an_arc_is_straight_where_its_sagitta_is_three_fifths_of_the_circles(self) -> None:
        for share, found in ((0.35, []), (0.45, ["arc.straight"])):
            with self.subTest(share):
                self.assertEqual([c for c in codes(flattened(share)) if c.startswith("arc.straight")], found)

    def test_a_swing_rises_past_what_came_before_by_six_parts_of_a_hundred(self) -> None:
        for times, found in ((0.75, False), (1.35, True)):
            with self.subTest(times):
                self.assertEqual("arc.rising_swings" in codes(planted("arc.rising_swings", times, 0)), found)

    def test_one_drawing_of_a_joint_is_off_from_a_fiftieth_of_the_chain_on(self) -> None:
        chain = replace(
            GUIDE,
            asked=PendulumBrief(hangs="chain", links=3),
            guide=replace(GUIDE.guide, angle=-30, wide=18.0),  # type: ignore[type-var]
        )
        for times, found in ((0.75, []), (1.4, ["contact.joint"])):
            plan = planted("contact.joint", times, 3, chain)
            with self.subTest(times):
                self.assertEqual(codes(plan, hangs="chain", links=3), found)

    def test_how_strictly_it_is_marked_moves_the_edge(self) -> None:
        plan = planted("volume.changes", 0.9, 1)
        for strictness, found in LENIENT:
            brief = replace(GUIDE, guide=None, strictness=strictness)
            with self.subTest(strictness):
                self.assertEqual([f.code for f in of_plan(plan, brief).findings], found)

    def test_what_a_brief_asks_has_its_edges_too(self) -> None:
        plan = plan_of(replace(GUIDE, guide=replace(GUIDE.guide, keeps=0.9)))  # type: ignore[type-var]
        for keeps, found in (((0.88, 0.92), []), ((0.93, 0.96), []), ((0.95, 0.98), ["timing.damping"])):
            with self.subTest(keeps=keeps):
                self.assertEqual(codes(plan, keeps=keeps), found)
        count = len(swings_of(plan))
        for swings, wrong in ((count, []), (count + 1, ["timing.swings"]), (count - 1, ["timing.swings"])):
            with self.subTest(swings=swings):
                self.assertEqual(codes(plan, swings=swings), wrong)
