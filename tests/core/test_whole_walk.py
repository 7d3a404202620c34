"""The walk of a whole figure: head, trunk, arms and legs, on walks that share nothing with the project's generator."""

from __future__ import annotations

import json
import math
import random
from collections.abc import Callable
from dataclasses import replace
from unittest import TestCase

import numpy as np

from bench.apart import walk_measure
from bench.apart.walk_faults import OF_WHOLE
from bench.apart.walk_measure import WAYS, judged, spoilt
from motion.analysis import analyse, of_guide, of_plan
from motion.brief import Brief, Stride, WalkBrief
from motion.exercises.walk.exercise import WALK
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.figure import FOREARM, SIDES, UPPER_ARM, UPPER_LANDMARKS, bend_of
from motion.exercises.walk.plan import Plan, Pose, pose
from motion.exercises.walk.truth import FIGURE
from motion.findings import Finding
from motion.report.file import judge_again, to_json, to_text
from motion.synth import draw
from motion.synth.look import LOOKS
from motion.tracking.placing import from_json as placed

WHOLE = Brief(
    canvas=(640, 360),
    asked=WalkBrief(figure="whole", direction="right"),
    guide=Stride(start_x=320, ground=320, leg=120, body=74, step=88, rise=7, lift=10, arms=24),
)
ARM = ("elbow", "hand")


def told_of(plan: Plan) -> tuple[Finding, ...]:
    return of_plan(plan, replace(WHOLE, guide=None)).findings


def _with_arms(plan: Plan, when: Callable[[float], float]) -> Plan:
    """The plan with its arms as they are at another time, in steps."""
    poses = []
    for own in plan.poses:
        there = pose(plan.recipe, when(own.step + own.phase) * plan.recipe.step_frames, own.frames).landmarks
        (x, y), (nx, ny) = own.landmarks["neck"], there["neck"]
        names = [f"{joint}_{side}" for joint in ARM for side in SIDES]
        arms = {n: (there[n][0] + x - nx, there[n][1] + y - ny) for n in names}
        poses.append(replace(own, landmarks={**own.landmarks, **arms}))
    return replace(plan, poses=tuple(poses))


def _stiff(own: Pose) -> dict[str, tuple[float, float]]:
    """Hands as far along the upper arms' own lines."""
    found = {}
    for side in SIDES:
        (nx, ny), (ex, ey) = own.landmarks["neck"], own.landmarks[f"elbow_{side}"]
        share = FOREARM / UPPER_ARM
        found[f"hand_{side}"] = (ex + share * (ex - nx), ey + share * (ey - ny))
    return found


def with_pose(plan: Plan, index: int, pose: Pose) -> Plan:
    return replace(plan, poses=(*plan.poses[:index], pose, *plan.poses[index + 1 :]))


class Ideal(TestCase):
    def test_arms_keep_their_length_swing_against_the_legs_and_bend_forward(self) -> None:
        plan, with_legs = plan_of(WHOLE), 0.0
        for own in plan.poses:
            at = own.landmarks
            for side in SIDES:
                neck, elbow, hand = at["neck"], at[f"elbow_{side}"], at[f"hand_{side}"]
                self.assertAlmostEqual(math.dist(neck, elbow), UPPER_ARM * 120, delta=0.01)
                self.assertAlmostEqual(math.dist(elbow, hand), FOREARM * 120, delta=0.01)
                self.assertLess(bend_of(neck, elbow, hand, 1.0), 0)
                with_legs += (hand[0] - neck[0]) * (at[f"ankle_{side}"][0] - at["hip"][0])
        self.assertLess(with_legs, 0)

    def test_its_own_guide_is_clean_either_way_and_on_twos(self) -> None:
        for direction in ("right", "left"):
            for exposure in ("ones", "twos"):
                asked = WalkBrief(figure="whole", direction=direction)  # type: ignore[arg-type]
                with self.subTest(direction, exposure=exposure):
                    self.assertEqual(of_guide(replace(WHOLE, asked=asked, exposure=exposure)).findings, ())  # type: ignore[arg-type]

    def test_dragging_the_front_hand_swings_the_arms_wider(self) -> None:
        plan = plan_of(WHOLE)
        (hand,) = [h for h in WALK.guided.handles(WHOLE, plan) if h.name == "arms"]
        wider = WALK.guided.drag(WHOLE, plan, "arms", (hand.x + 10, hand.y))
        after = replace(WHOLE, guide=replace(WHOLE.guide, **wider))  # type: ignore[type-var]
        (moved,) = [h for h in WALK.guided.handles(after, plan_of(after)) if h.name == "arms"]
        self.assertAlmostEqual(moved.x, hand.x + 10, delta=0.5)


class Checks(TestCase):
    def test_good_walks_are_clean(self) -> None:
        found = [
            (number, f.code, f.part)
            for number in range(60)
            for f in judged(spoilt(None, random.Random(f"good whole {number}"), whole=True)[0])
        ]
        self.assertLess(len({number for number, *_ in found}), 4, found)

    def test_what_is_wrong_above_the_hips_is_found(self) -> None:
        for way in OF_WHOLE:
            hits = 0
            for number in range(6):
                walk, at = spoilt(way, random.Random(f"whole {way} {number}"), whole=True)
                hits += any(f.code == WAYS[way][0] and walk_measure._there(f, walk, at) for f in judged(walk))
            with self.subTest(way):
                self.assertGreaterEqual(hits, 5)

    def test_a_trunk_counts_from_its_tolerance_on(self) -> None:
        plan = plan_of(WHOLE)
        for share, told in ((0.07, False), (0.09, True)):
            own = plan.poses[20]
            (hx, hy), (nx, ny) = own.landmarks["hip"], own.landmarks["neck"]
            dx, dy = share * (nx - hx), share * (ny - hy)
            up = {n: (x + dx, y + dy) for n, (x, y) in own.landmarks.items() if n in UPPER_LANDMARKS}
            longer = replace(own, x=own.x + dx, y=own.y + dy, landmarks={**own.landmarks, **up})
            parts = {f.part for f in told_of(with_pose(plan, 20, longer)) if f.code == "volume.length"}
            with self.subTest(share):
                self.assertEqual(parts, {"trunk"} if told else set())

    def test_a_forearm_counts_from_its_tolerance_on(self) -> None:
        plan = plan_of(WHOLE)
        for share, told in ((0.10, False), (0.14, True)):
            own = plan.poses[20]
            (ex, ey), (x, y) = own.landmarks["elbow_near"], own.landmarks["hand_near"]
            hand = (x + share * (x - ex), y + share * (y - ey))
            longer = replace(own, landmarks={**own.landmarks, "hand_near": hand})
            parts = {f.part for f in told_of(with_pose(plan, 20, longer)) if f.code == "volume.length"}
            with self.subTest(share):
                self.assertEqual(parts, {"near forearm"} if told else set())

    def test_an_elbow_counts_from_eight_degrees_on(self) -> None:
        plan = plan_of(WHOLE)
        for degrees, told in ((6.0, False), (11.0, True)):
            own = plan.poses[20]
            (nx, ny), (ex, ey) = own.landmarks["neck"], own.landmarks["elbow_near"]
            turn = math.atan2(ex - nx, ey - ny) - math.radians(degrees)
            hand = (ex + FOREARM * 120 * math.sin(turn), ey + FOREARM * 120 * math.cos(turn))
            bent = replace(own, landmarks={**own.landmarks, "hand_near": hand})
            parts = {f.part for f in told_of(with_pose(plan, 20, bent)) if f.code == "form.backwards"}
            with self.subTest(degrees):
                self.assertEqual(parts, {"near elbow"} if told else set())

    def test_arms_late_by_half_a_leg_count_where_it_is_marked_strictly(self) -> None:
        plan = plan_of(WHOLE)
        late = _with_arms(plan, lambda steps: steps + 0.55)
        told = {
            how: "timing.opposite"
            in {f.code for f in of_plan(late, replace(WHOLE, guide=None, strictness=how)).findings}  # type: ignore[arg-type]
            for how in ("gentle", "standard", "strict")
        }
        self.assertEqual(told, {"gentle": False, "standard": False, "strict": True})

    def test_even_arms_count_where_they_swing_by_five_degrees(self) -> None:
        for swing, told in ((4.0, False), (12.0, True)):
            narrow = plan_of(replace(WHOLE, guide=replace(WHOLE.guide, arms=swing)))  # type: ignore[type-var]
            even = _with_arms(narrow, lambda t: t // 1 + math.acos(1 - 2 * (t % 1)) / math.pi)
            # The elbow's own bending would swing the hand as well.
            straight = [replace(p, landmarks={**p.landmarks, **_stiff(p)}) for p in even.poses]
            codes = {f.code for f in told_of(replace(even, poses=tuple(straight)))}
            with self.subTest(swing):
                self.assertEqual("spacing.even" in codes, told)

    def test_arms_that_hang_still_or_are_not_there_are_not_judged(self) -> None:
        for values in ({"arms": 0.0}, {"arms": 3.0}):
            still = replace(WHOLE, guide=replace(WHOLE.guide, **values))  # type: ignore[type-var]
            self.assertEqual(of_guide(still).findings, ())
        plan = plan_of(WHOLE)
        armless = [
            replace(p, landmarks={n: at for n, at in p.landmarks.items() if n.split("_")[0] not in ARM})
            for p in plan.poses
        ]
        self.assertEqual(told_of(replace(plan, poses=tuple(armless))), ())

    def test_the_advice_for_a_head_mends_it(self) -> None:
        plan = plan_of(WHOLE)
        own = plan.poses[20]
        away = replace(own, x=own.x + 9, landmarks={**own.landmarks, "head": (own.x + 9, own.y)})
        (finding,) = told_of(with_pose(plan, 20, away))
        self.assertEqual((finding.code, finding.part, finding.first_frame), ("spacing.jump", "head", 21))
        back = finding.measured if "back" in finding.advice else -(finding.measured or 0)
        mended = replace(away, x=away.x - back, landmarks={**own.landmarks, "head": (away.x - back, own.y)})  # type: ignore[operator]
        self.assertEqual(told_of(with_pose(plan, 20, mended)), ())


class Pictures(TestCase):
    def test_its_landmarks_are_found_in_clips_drawn_apart(self) -> None:
        off: dict[str, list[float]] = {}
        for number in (6, 10, 21, 38):
            told = walk_measure.told_of((None, number, "lossless", True, "plain"))
            self.assertTrue(told.read, number)
            for joint, values in told.off.items():
                off.setdefault(joint, []).extend(values)
        for joint in (*walk_measure.JOINTS, *walk_measure.UPPER):
            with self.subTest(joint):
                self.assertLess(float(np.median(off[joint])), 4.0)
        for joint in ("knee", "head", "hand"):
            with self.subTest(joint):
                self.assertLess(float(np.median(off[joint])), 1.0)

    def test_it_is_kept_through_the_file_and_what_is_placed_is_used(self) -> None:
        plan = plan_of(WHOLE)
        found = analyse(draw.clip("walk", plan, LOOKS["cut-out"]), replace(WHOLE, guide=None))
        told = to_json(found)
        figures = told["track"]["figures"]
        self.assertTrue(all(f["head"] is not None and f["body"] is None for f in figures))
        self.assertTrue(set(UPPER_LANDMARKS) <= set(figures[0]["landmarks"]))
        heads = [
            math.dist(f.points["head"], plan.poses[found.track.pictures[n]].landmarks["head"])
            for n, f in enumerate(found.track.figures(FIGURE))
            if f is not None
        ]
        self.assertLess(float(np.median(heads)), 0.5)
        x, y = figures[3]["landmarks"]["hand_near"]
        placement = placed({"landmarks": {"hand_near": {"4": [x + 25, y]}}})
        again = judge_again(json.loads(to_text(found)), found.brief, placement)
        after = again.track.figures(FIGURE)[3]
        assert after is not None
        self.assertEqual(after.points["hand_near"], (x + 25, y))
        self.assertEqual(after.source, "placed")
