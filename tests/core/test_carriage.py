"""The guide of what is carried: how its base goes and drives it, what a drag does, and that its checks find nothing."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from motion.analysis import of_guide
from motion.brief import Brief, PendulumBrief, Swing, from_json
from motion.errors import BriefError
from motion.exercises.pendulum import handles
from motion.exercises.pendulum.carriage import Carriage, driven, easing
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.plan import keys_of, shares_of, stops_at
from motion.exercises.pendulum.presets import PRESETS
from motion.exercises.pendulum.truth import LINE, track_of
from motion.exercises.pendulum.words import sentences
from motion.guide import chart, sheet
from motion.guide.guide import guide_of

USUAL = Swing(pivot_x=300, length=270, wide=16, count=3, keeps=0.85, swing_s=0.8, carry=360, carry_s=1.0)


def asked(hangs: str = "bob", *, exposure: str = "free", **feel: object) -> Brief:
    """A brief for something that is carried, with its guide."""
    return Brief(
        canvas=(960, 540),
        exposure=exposure,  # type: ignore[arg-type]
        asked=PendulumBrief(hangs=hangs, pivot="moved"),  # type: ignore[arg-type]
        guide=replace(USUAL, **feel),  # type: ignore[arg-type]
    )


class Base(unittest.TestCase):
    @given(eases=st.floats(0.05, 0.5), px=st.sampled_from((-300.0, 420.0)), share=st.floats(0.02, 0.98))
    @settings(max_examples=60, deadline=None)
    def test_its_way_its_push_and_its_times_agree(self, eases: float, px: float, share: float) -> None:
        base = Carriage(px=px, frames=24.0, eases=eases)
        time, fine = 24.0 * share, 0.01
        push = (base.at(time + fine) - 2 * base.at(time) + base.at(time - fine)) / fine**2
        # Where it begins or ends to gather speed its acceleration has a corner.
        self.assertAlmostEqual(push, base.push(time), delta=0.02 * abs(px) / (24 * eases) ** 2 * 24)
        self.assertAlmostEqual(base.when(base.at(time)), time, places=4)
        self.assertAlmostEqual(base.at(24.0 - time), px - base.at(time), places=6)
        self.assertAlmostEqual(easing(base.up_to_speed), eases, places=9)

    def test_it_drives_the_swing_as_solved_by_another_method(self) -> None:
        base = Carriage(px=360.0, frames=26.0, eases=0.4)
        found = driven(base, 280.0, 19.0, 0.9, 3)
        omega, damping = math.pi / 19.0, -2 * math.log(0.9) / math.pi

        def fall(time: float, state: list[float]) -> list[float]:
            angle, speed = state
            pull = -(omega**2) * math.sin(angle) - damping * omega * speed
            return [speed, pull - base.push(time) / 280.0 * math.cos(angle)]

        times = np.linspace(0.5, 60.0, 40)
        other = solve_ivp(fall, (0, 61), [0.0, 0.0], t_eval=times, max_step=0.1, rtol=1e-8).y[0]
        own = [found.angle(t) for t in times]
        self.assertLess(float(np.abs(np.degrees(np.array(own) - other)).max()), 0.05)


class Guide(unittest.TestCase):
    def test_the_checks_find_nothing_in_it(self) -> None:
        ends = (("extreme", 0.9), ("settling", 0.7))
        for hangs, (end, keeps), exposure in itertools.product(("bob", "chain", "tail"), ends, ("free", "twos")):
            with self.subTest(hangs=hangs, end=end, exposure=exposure):
                brief = asked(hangs, end=end, keeps=keeps, exposure=exposure)
                self.assertEqual([f.message for f in of_guide(brief).findings], [])

    def test_it_hangs_still_is_carried_and_swings_as_often_as_asked(self) -> None:
        plan = plan_of(asked(count=3))
        free = stops_at(plan)
        self.assertGreater(plan.poses[0].frames, 4)
        self.assertEqual((plan.poses[0].hangs_at, plan.poses[0].top), (0.0, (300.0, 60.0)))
        self.assertEqual({p.top for p in plan.poses[free:]}, {(660.0, 60.0)})
        lags = [p.hangs_at for p in plan.poses[1 : free // 2]]
        self.assertLess(max(lags), 0)
        scene = of_guide(asked(count=3)).scene
        assert scene is not None
        self.assertEqual(len(scene.reading.judged), 3)

    def test_its_real_length_alone_sets_the_pace_of_small_swings(self) -> None:
        brief = asked(swing_s=None)
        brief = replace(brief, asked=replace(brief.asked, length_m=0.6))  # type: ignore[arg-type]
        self.assertAlmostEqual(plan_of(brief).recipe.swing_frames, 24 * math.pi * math.sqrt(0.6 / 9.81), places=2)
        self.assertEqual([f.message for f in of_guide(brief).findings], [])

    def test_every_line_keeps_its_length_and_begins_at_its_base(self) -> None:
        plan = plan_of(asked("chain"))
        for line, pose in zip(track_of(plan).lines(LINE), plan.poses, strict=True):
            assert line is not None
            parts = np.hypot(*np.diff(np.array(line.points), axis=0).T)
            self.assertLess(float(np.abs(parts - 90).max()), 1e-6)
            self.assertEqual(line.points[0], pose.top)

    def test_a_drawing_set_by_hand_lies_at_its_share_of_the_bases_way_or_of_its_swing(self) -> None:
        plain = plan_of(asked())
        carried, swung = 6, keys_of(plain)[2] + 4
        for index in (carried, swung):
            share = shares_of(plain)[index] + 0.03
            moved = plan_of(asked(ticks=((index + 1, share),)))
            with self.subTest(index=index):
                self.assertAlmostEqual(shares_of(moved)[index], share, places=3)
                others = [k for k in range(len(plain.poses)) if k != index]
                self.assertEqual([moved.poses[k] for k in others], [plain.poses[k] for k in others])

    def test_what_is_dragged_follows_the_pointer(self) -> None:
        brief = asked()
        plan = plan_of(brief)
        there = {h.name: (h.x, h.y) for h in handles.handles(brief, plan)}
        self.assertEqual(set(there), {"pivot", "carry", "eases", "length", "size"})
        for name, by in (("carry", 40.0), ("eases", 25.0), ("length", 0.0)):
            x, y = there[name][0] + by, there[name][1] + (20.0 if name == "length" else 0.0)
            changed = asked(**handles.drag(brief, plan, name, (x, y)))
            after = {h.name: (h.x, h.y) for h in handles.handles(changed, plan_of(changed))}
            with self.subTest(name):
                self.assertAlmostEqual(after[name][0], x, delta=1.5)
                self.assertAlmostEqual(after[name][1], y, delta=1.5)

    def test_what_cannot_be_drawn_is_refused_beside_its_field(self) -> None:
        for brief, key in (
            (asked(carry=20.0), "guide.carry"),
            (asked(carry=900.0), "guide.carry"),
            (asked(end="cycle"), "guide.end"),
            (asked(eases=0.05), "guide.eases"),
            (asked(carry_s=1.6, swing_s=0.55), "guide.carry_s"),
            (asked(carry_s=0.6, carry=640.0, length=120.0, eases=0.3), "guide.carry_s"),
        ):
            with self.subTest(key, carry_s=brief.guide.carry_s):  # type: ignore[union-attr]
                with self.assertRaises(BriefError) as raised:
                    plan_of(brief)
                self.assertEqual(list(raised.exception.problems), [key])

    def test_it_is_told_in_words_and_drawn_out(self) -> None:
        brief = asked()
        said = " ".join(sentences(brief, plan_of(brief)))
        self.assertIn("carries it 360 px to the right in 24 frames", said)
        self.assertIn("3 swings of its own", said)
        told = guide_of(brief)
        self.assertEqual(told.moves[0].name, "carried")
        self.assertGreater(len(list(sheet.draw(told).iter())), 40)
        self.assertGreater(len(list(chart.draw(told).iter())), 20)

    def test_the_file_holds_it_and_presets_start_it(self) -> None:
        brief = asked(eases=0.4, carry=-200.0, pivot_x=600)
        self.assertEqual(from_json(brief.to_json()), brief)
        carried = [p for p in PRESETS if getattr(p.asked, "pivot", "") == "moved"]
        self.assertGreaterEqual(len(carried), 2)
        for preset in carried:
            own = Brief(canvas=(960, 540), asked=preset.asked, guide=preset.ideal)
            self.assertEqual([f.message for f in of_guide(own).findings], [])


if __name__ == "__main__":
    unittest.main()
