"""Advice that mends: doing what a finding says makes it go, and adds none."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion.exercises.bounce.plan import Plan, Pose, Recipe, bounce
from motion.findings import Finding
from motion.synth.bounce.faults import FAULTS
from tests.core.drawn import HARD, RECIPES, brief_for, codes, judged

# Findings whose geometry says where each drawing belongs, or how long it should show.
SHOWN = (
    "arc.leaning",
    "arc.off_path",
    "arc.straight",
    "contact.gap",
    "contact.slides",
    "contact.sticks",
    "contact.through",
    "shape.unwanted",
    "spacing.hangs",
    "spacing.jump",
    "squash.in_air",
    "squash.missing",
    "stretch.across",
    "stretch.at_top",
    "stretch.missing",
    "timing.hold",
    "volume.changes",
)


def mended(plan: Plan, finding: Finding) -> Plan:
    """The plan with each drawing of a finding put where its overlay shows it, for as long as it says."""
    at = {plan.first_frame(i): i for i in range(len(plan.poses))}
    poses = list(plan.poses)
    for mark in finding.overlay:
        if mark["kind"] == "place" and mark["frame"] in at:
            wanted = {k: mark[k] for k in ("x", "y", "major", "minor", "angle")}
            poses[at[mark["frame"]]] = replace(poses[at[mark["frame"]]], **wanted)
        if mark["kind"] == "frames":
            index = at[mark["frame"]]
            poses[index] = replace(poses[index], frames=poses[index].frames + mark["change"])
    return replace(plan, poses=tuple(p for p in poses if p.frames > 0))


class AdviceThatMends(unittest.TestCase):
    @given(st.sampled_from(SHOWN), st.integers(0, 10_000), st.floats(6.6, 9.8))
    @settings(max_examples=50, deadline=None)
    def test_drawings_put_where_they_belong(self, code: str, seed: int, fall: float) -> None:
        recipe = replace(HARD if code == "shape.unwanted" else Recipe(), fall_frames=fall)
        planted = FAULTS[code](bounce(recipe), np.random.default_rng(seed), 2.5)
        if planted is None:
            return
        told = judged(planted[0], brief_for(code)).findings
        # A long drawing that is turned just level is told as one pressed flat.
        found = [f for f in told if f.code == code or (code, f.code) == ("stretch.across", "squash.in_air")]
        self.assertEqual(len(found), 1)
        self.assertEqual(codes(judged(mended(planted[0], found[0]), brief_for(code))), [])

    def test_a_side_respaced(self) -> None:
        for code in ("spacing.even", "spacing.faster_rising", "spacing.slower_falling"):
            for plan, found in told_of(code, Recipe(fall_frames=8.6)):
                self.assertNotIn(code, codes(judged(mended(plan, found))))

    def test_a_rest_that_is_eased_into(self) -> None:
        for plan, found in told_of("spacing.dead_stop", RECIPES["spacing.dead_stop"]):
            eased = [m for m in found.overlay if m["kind"] == "place"]
            last = plan.poses[-1]
            added = [replace(last, x=m["x"], y=m["y"], frames=1, role="rest") for m in eased]
            held = replace(added[-1], frames=last.frames)
            poses = (*plan.poses[:-1], replace(last, frames=1), *added[:-1], held)
            self.assertEqual(codes(judged(replace(plan, poses=poses))), [])

    def test_a_cycle_that_closes(self) -> None:
        recipe = RECIPES["timing.loop"]
        whole = bounce(recipe)
        for plan, found in told_of("timing.loop", recipe):
            frames = [m["change"] for m in found.overlay if m["kind"] == "frames"]
            again = replace(whole, poses=whole.poses[: len(plan.poses) + frames[0]]) if frames else mended(plan, found)
            self.assertEqual(codes(judged(again, brief_for("timing.loop"))), [])

    def test_hops_at_a_steady_rate(self) -> None:
        for plan, found in told_of("timing.rhythm", RECIPES["timing.rhythm"]):
            at = [plan.first_frame(i) for i, p in enumerate(plan.poses) if p.role == "contact"].index(found.first_frame)
            kept = plan.recipe.kept
            share = kept[at] * float(found.expected or 0) / float(found.measured or 1)
            again = bounce(replace(plan.recipe, kept=(*kept[:at], share, *kept[at + 1 :])))
            self.assertEqual(codes(judged(again)), [])

    def test_a_hop_in_the_frames_that_its_height_calls_for(self) -> None:
        for plan, found in told_of("timing.hop", Recipe()):
            (mark,) = found.overlay
            self.assertEqual(codes(judged(_with_frames(plan, found, mark["change"]))), [])


def told_of(code: str, recipe: Recipe) -> Sequence[tuple[Plan, Finding]]:
    """Plans with that fault, and the one finding that tells each."""
    told = []
    for seed in range(6):
        planted = FAULTS[code](bounce(recipe), np.random.default_rng(seed), 2.5)
        if planted is None:
            continue
        found = judged(planted[0], brief_for(code)).findings
        assert [f.code for f in found] == [code], (code, seed, codes(judged(planted[0], brief_for(code))))
        told.append((planted[0], found[0]))
    assert told, code
    return told


def _with_frames(plan: Plan, found: Finding, change: int) -> Plan:
    """The hop of a finding drawn anew on its own arc, in so many more drawings on ones."""
    own = [i for i, p in enumerate(plan.poses) if found.first_frame <= plan.first_frame(i) <= found.last_frame]
    before, after, count = plan.poses[own[0] - 1], plan.poses[own[-1] + 1], len(own) + change
    height = max(plan.ground_at(p.x) - plan.recipe.diameter / 2 - p.y for p in (plan.poses[i] for i in own))
    drawn: list[Pose] = []
    for k in range(1, count + 1):
        part = k / (count + 1)
        x = before.x + (after.x - before.x) * part
        like = plan.poses[own[min(len(own) - 1, round(part * (len(own) - 1)))]]
        up = 4 * height * part * (1 - part)
        drawn.append(replace(like, x=x, y=plan.ground_at(x) - plan.recipe.diameter / 2 - up))
    return replace(plan, poses=(*plan.poses[: own[0]], *drawn, *plan.poses[own[-1] + 1 :]))


if __name__ == "__main__":
    unittest.main()
