"""The ideal bounce that a feel makes: physics, shapes, contacts, ends, and what cannot be drawn."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace
from typing import get_args
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from motion.brief import BounceBrief, Brief, Feel
from motion.brief.bounce import End, Start
from motion.brief.model import EXPOSURES
from motion.errors import BriefError
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.plan import Plan, Pose, keys_of, shares_of
from motion.exercises.bounce.presets import PRESETS
from motion.exercises.exercise import start_from

FEELS = st.builds(
    Feel,
    diameter=st.floats(30, 110),
    height=st.floats(150, 330),
    distance=st.sampled_from([0.0, 420.0, -420.0]),
    start=st.sampled_from(["dropped", "thrown"]),
    end=st.sampled_from(["settling", "top"]),
    contacts=st.integers(1, 6),
    keeps=st.floats(0.3, 0.9),
    hop_s=st.floats(0.6, 1.4),
    hang=st.just(0),
)


def brief(feel: Feel, **more: object) -> Brief:
    return Brief(guide=feel, canvas=(960, 540), **more)  # type: ignore[arg-type]


def drawable(asked: Brief) -> Plan:
    """The plan of a brief that hypothesis made up; those that cannot be drawn are passed over."""
    try:
        return plan_of(asked)
    except BriefError:
        assume(False)
        raise


def bottom(pose: Pose) -> float:
    turn = math.radians(pose.angle)
    return pose.y + 0.5 * math.hypot(pose.major * math.sin(turn), pose.minor * math.cos(turn))


def hops(plan: Plan) -> int:
    return sum(p.role == "contact" for p in plan.poses)


class Motion(TestCase):
    @given(FEELS, st.sampled_from([12.0, 24.0, 25.0, 30.0]), st.sampled_from(["ones", "twos"]))
    def test_volume_ground_and_distance_are_exact(self, feel: Feel, fps: float, exposure: str) -> None:
        plan = drawable(brief(feel, fps=fps, exposure=exposure))
        for pose in plan.poses:
            self.assertAlmostEqual(pose.major * pose.minor, feel.diameter**2, places=6)
            self.assertLessEqual(bottom(pose), feel.ground_y + 1e-6)
            if pose.role != "air":
                self.assertAlmostEqual(bottom(pose), feel.ground_y, places=6)
        self.assertEqual({p.frames % plan.recipe.exposure for p in plan.poses}, {0})
        if feel.end == "settling":
            self.assertAlmostEqual(plan.poses[-1].x - plan.poses[0].x, feel.distance, places=6)

    @given(FEELS)
    def test_each_hop_keeps_its_share_of_height_and_time(self, feel: Feel) -> None:
        flights = drawable(brief(feel)).flights
        for before, after in itertools.pairwise(flights):
            self.assertAlmostEqual(after.top / before.top, feel.keeps**2, places=6)
            self.assertAlmostEqual((after.lands - after.left) / (before.lands - before.left), feel.keeps, places=6)

    def test_a_contact_between_frames_is_shown_by_the_nearest_drawing(self) -> None:
        plan = plan_of(brief(Feel(height=320, hop_s=0.7)))
        for pose, index in ((p, i) for i, p in enumerate(plan.poses) if p.role == "contact"):
            lands = plan.flights[pose.hop].lands
            self.assertNotAlmostEqual(lands, round(lands), places=2)
            self.assertLessEqual(abs(lands - plan.first_frame(index)), 0.5)

    def test_a_real_size_gives_the_gravity_of_the_earth(self) -> None:
        feel = Feel(diameter=50, height=250, hop_s=None)
        plan = plan_of(brief(feel, asked=BounceBrief(diameter_m=0.2)))
        metres = 250 / 50 * 0.2
        fall_s = plan.recipe.fall_frames / 24
        self.assertAlmostEqual(fall_s, math.sqrt(2 * metres / 9.81), places=6)

    def test_a_soft_ball_stretches_when_fast_squashes_when_hit_and_is_round_on_top(self) -> None:
        plan = plan_of(brief(Feel(stretch=1.3, squash=1.4, contacts=3, end="top")))
        self.assertGreater(max(p.major / p.minor for p in plan.poses if p.role == "air"), 1.25)
        first = next(p for p in plan.poses if p.role == "contact")
        self.assertGreater(first.major / first.minor, 1.35)
        for key in keys_of(plan):
            if plan.poses[key].role == "air":
                self.assertLess(plan.poses[key].major / plan.poses[key].minor, 1.05)

    def test_a_hard_ball_stays_round(self) -> None:
        plan = plan_of(brief(Feel(), asked=BounceBrief(material="hard")))
        self.assertEqual({round(p.major - p.minor, 9) for p in plan.poses}, {0.0})

    def test_it_ends_as_asked(self) -> None:
        rolling = plan_of(brief(Feel(end="rolling", contacts=None, keeps=0.5)))
        self.assertEqual([p.role for p in rolling.poses[-5:]], ["rest"] * 5)
        steps = [b.x - a.x for a, b in zip(rolling.poses[-6:], rolling.poses[-5:], strict=False)]
        self.assertEqual(steps, sorted(steps, reverse=True))
        leaving = plan_of(brief(Feel(end="leaving", contacts=3)))
        self.assertEqual(hops(leaving), 3)
        self.assertGreater(leaving.poses[-1].x + leaving.poses[-1].major / 2, 960)
        leftwards = plan_of(brief(Feel(end="leaving", contacts=3, distance=-1)))
        self.assertLess(leftwards.poses[-1].x, 30)
        top = plan_of(brief(Feel(end="top", contacts=2)))
        self.assertEqual((hops(top), top.poses[-1].role), (2, "air"))
        self.assertGreater(top.poses[-2].y, top.poses[-1].y)

    def test_a_cycle_ends_one_step_before_it_began(self) -> None:
        for exposure in ("ones", "twos"):
            plan = plan_of(brief(Feel(end="cycle", distance=0, hop_s=0.81), loop=True, exposure=exposure))
            again = plan_of(brief(Feel(end="top", contacts=1, keeps=1.0, distance=0, hop_s=plan.frames / 24)))
            self.assertAlmostEqual(again.poses[-1].y, plan.poses[0].y, delta=0.5)
            self.assertAlmostEqual(plan.poses[-1].y, plan.poses[1].y, places=6)

    def test_a_thrown_ball_comes_in_rising(self) -> None:
        plan = plan_of(brief(Feel(start="thrown", height=300)))
        self.assertGreater(plan.poses[0].y, plan.poses[1].y)
        self.assertAlmostEqual(min(p.y for p in plan.poses), 450 - 30 - 300, delta=3)

    def test_hang_holds_the_later_tops_only(self) -> None:
        plain = plan_of(brief(Feel(contacts=3)))
        held = plan_of(brief(Feel(contacts=3, hang=2)))
        longer = [i for i, (a, b) in enumerate(zip(plain.poses, held.poses, strict=True)) if b.frames > a.frames]
        self.assertEqual(len(longer), 2)
        self.assertEqual([(p.x, p.y) for p in plain.poses], [(p.x, p.y) for p in held.poses])


class Shares(TestCase):
    @given(FEELS, st.floats(0.05, 0.95), st.integers(0, 100))
    def test_a_tick_set_by_hand_is_where_it_was_set(self, feel: Feel, part: float, which: int) -> None:
        plan = drawable(brief(feel))
        shares = shares_of(plan)
        free = [i for i in shares if plan.poses[i].role == "air"]
        assume(free)
        index = free[which % len(free)]
        own, low, high = shares[index], shares.get(index - 1, 0.0), shares.get(index + 1, 1.0)
        # Set to the share that it has, nothing moves.
        same = plan_of(brief(replace(feel, ticks=((index + 1, own),))))
        self.assertAlmostEqual(same.poses[index].y, plan.poses[index].y, delta=0.05)
        share = low + part * (high - low)
        moved = plan_of(brief(replace(feel, ticks=((index + 1, share),))))
        self.assertAlmostEqual(shares_of(moved)[index], share, places=9)
        others = [i for i in range(len(plan.poses)) if i != index]
        self.assertEqual([plan.poses[i] for i in others], [moved.poses[i] for i in others])
        if abs(share - own) > 0.02:
            further_up = plan.poses[index - 1].y > plan.poses[index].y
            went_up = moved.poses[index].y < plan.poses[index].y
            self.assertEqual(went_up, further_up == (share > own))


ANY_FEEL = st.builds(
    Feel,
    diameter=st.floats(8, 2000),
    height=st.floats(1, 8192),
    distance=st.floats(-8192, 8192),
    start_x=st.none() | st.floats(-8192, 16384),
    ground_y=st.floats(1, 8192),
    start=st.sampled_from(get_args(Start)),
    end=st.sampled_from(get_args(End)),
    contacts=st.none() | st.integers(1, 30),
    keeps=st.floats(0.1, 1.0),
    hop_s=st.none() | st.floats(0.1, 20),
    hang=st.integers(0, 12),
    ticks=st.dictionaries(st.integers(1, 40), st.floats(0.01, 0.99), max_size=2).map(
        lambda d: tuple(sorted(d.items()))
    ),
)
SIDES = st.integers(16, 8192)


class WhatCannotBeDrawn(TestCase):
    @given(ANY_FEEL, st.tuples(SIDES, SIDES), st.floats(1, 120), st.sampled_from(EXPOSURES), st.booleans())
    def test_whatever_is_asked_is_drawn_or_refused_in_words(
        self, feel: Feel, canvas: tuple[int, int], fps: float, exposure: str, real: bool
    ) -> None:
        bounce = BounceBrief(material="hard", diameter_m=0.07 if real else None)
        asked = Brief(guide=feel, canvas=canvas, fps=fps, exposure=exposure, asked=bounce)  # type: ignore[arg-type]
        try:
            plan = plan_of(asked)
        except BriefError as error:
            self.assertTrue(
                all(key.startswith("guide.") and said.endswith(".") for key, said in error.problems.items())
            )
            return
        self.assertTrue(all(math.isfinite(v) for p in plan.poses for v in (p.x, p.y, p.major, p.minor, p.angle)))
        self.assertTrue(all(p.frames >= 1 for p in plan.poses))

    def test_each_says_why_beside_its_field(self) -> None:
        soft = BounceBrief(material="soft")
        for field, feel, more in (
            ("guide.height", Feel(height=500), {}),
            ("guide.height", Feel(height=40, hop_s=0.1), {"exposure": "twos"}),
            ("guide.ground_y", Feel(ground_y=700), {}),
            ("guide.hop_s", Feel(hop_s=None), {}),
            ("guide.keeps", Feel(end="settling", keeps=0.99, contacts=None), {}),
            ("guide.distance", Feel(end="rolling", distance=0), {}),
            ("guide.distance", Feel(distance=2000), {}),
            ("guide.distance", Feel(distance=900, start_x=500, end="settling"), {}),
            ("guide.start_x", Feel(start_x=-50), {}),
            ("guide.end", Feel(end="top"), {"loop": True}),
            ("guide.stretch", Feel(stretch=1.3, squash=1.1), {"asked": BounceBrief(material="firm")}),
            ("guide.squash", Feel(stretch=1.2, squash=1.1), {"asked": soft}),
            ("guide.contacts", Feel(hop_s=15, contacts=30, keeps=0.9), {}),
            ("guide.keeps", Feel(diameter=90, height=200, keeps=0.2), {}),
            ("guide.ticks", Feel(ticks=((4, 0.9),)), {}),
            ("guide.hang", Feel(hang=2, contacts=1, end="settling"), {}),
        ):
            with self.subTest(field, feel=feel), self.assertRaises(BriefError) as caught:
                plan_of(brief(feel, **more))
            self.assertIn(field, caught.exception.problems)

    def test_presets_fit_frames_of_any_size(self) -> None:
        for preset in PRESETS:
            for canvas in ((480, 270), (960, 540), (1280, 720), (1920, 1080), (800, 800)):
                with self.subTest(preset.key, canvas=canvas):
                    plan = plan_of(start_from(preset, Brief(canvas=canvas)))
                    self.assertTrue(all(-1 <= p.y <= canvas[1] for p in plan.poses))
