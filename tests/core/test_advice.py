"""Advice that mends: putting the drawing where its finding says makes the finding go, and adds none."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.findings import Finding
from motion.synth.faults import FAULTS
from tests.core.drawn import codes, judged

MOVED = ("arc.off_path", "contact.gap", "contact.through", "spacing.jump", "squash.in_air", "volume.changes")


def mended(plan: Plan, finding: Finding) -> Plan:
    """The plan with each drawing of a finding put where its overlay shows it."""
    poses = list(plan.poses)
    for mark in finding.overlay:
        if mark["kind"] == "place":
            at = next(i for i in range(len(poses)) if plan.first_frame(i) == mark["frame"])
            wanted = {k: mark[k] for k in ("x", "y", "major", "minor", "angle")}
            poses[at] = replace(poses[at], **wanted)
        if mark["kind"] == "frames":
            at = next(i for i in range(len(poses)) if plan.first_frame(i) == mark["frame"])
            poses[at] = replace(poses[at], frames=poses[at].frames + mark["change"])
    return replace(plan, poses=tuple(poses))


class AdviceThatMends(unittest.TestCase):
    @given(st.sampled_from(MOVED), st.integers(0, 10_000), st.floats(6.6, 9.8))
    @settings(max_examples=40, deadline=None)
    def test_one_drawing_put_right(self, code: str, seed: int, fall: float) -> None:
        planted = FAULTS[code](bounce(Recipe(fall_frames=fall)), np.random.default_rng(seed), 2.5)
        if planted is None:
            return
        found = [f for f in judged(planted[0]).findings if f.code == code]
        self.assertEqual(len(found), 1)
        self.assertEqual(codes(judged(mended(planted[0], found[0]))), [])

    def test_a_held_drawing_let_go(self) -> None:
        for seed in range(6):
            planted = FAULTS["timing.hold"](bounce(Recipe()), np.random.default_rng(seed), 2.5)
            assert planted is not None
            found = judged(planted[0]).findings
            self.assertEqual([f.code for f in found], ["timing.hold"])
            self.assertEqual(codes(judged(mended(planted[0], found[0]))), [])

    def test_even_spacing_respaced(self) -> None:
        for code in ("spacing.even", "spacing.faster_rising"):
            for seed in range(4):
                planted = FAULTS[code](bounce(Recipe(fall_frames=8.6)), np.random.default_rng(seed), 2.5)
                assert planted is not None
                found = judged(planted[0]).findings
                with self.subTest(code, seed=seed):
                    self.assertEqual([f.code for f in found], [code])
                    self.assertNotIn(code, codes(judged(mended(planted[0], found[0]))))
