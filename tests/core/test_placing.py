"""What a person placed is used, kept, marked, and can be undone; it helps to find the rest."""

from __future__ import annotations

import json
import unittest

import numpy as np

from motion.analysis import analyse
from motion.brief import BounceBrief, Brief
from motion.errors import NotAClip
from motion.exercises.bounce.plan import Recipe, bounce
from motion.report import file as findings_file
from motion.report.file import judge_again, to_json
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from motion.tracking import placing
from motion.tracking.ellipse import Ellipse
from motion.tracking.placing import Placement
from tests.core.drawn import codes, judged, with_fault
from tests.core.test_looks import PLAN, clip_of, off

SOFT = Brief(asked=BounceBrief(material="soft"))
JUMP, PLANTED = with_fault("spacing.jump", 4.0)


def true_place(index: int) -> Ellipse:
    pose = PLAN.poses[index]
    return Ellipse(x=pose.x, y=pose.y, major=pose.major, minor=pose.minor, angle=pose.angle)


class JudgedAgain(unittest.TestCase):
    def setUp(self) -> None:
        self.told = json.loads(json.dumps(to_json(judged(JUMP))))
        frames = [JUMP.first_frame(i) for i in range(len(JUMP.poses))]
        self.index = frames.index(PLANTED.first_frame)

    def test_nothing_placed_changes_nothing(self) -> None:
        again = to_json(judge_again(self.told, SOFT, placing.NOTHING))
        self.assertEqual([f["code"] for f in again["findings"]], [f["code"] for f in self.told["findings"]])
        self.assertEqual(again["track"], self.told["track"])

    def test_a_ball_put_in_its_place_takes_its_finding_away_and_is_marked(self) -> None:
        self.assertIn("spacing.jump", [f["code"] for f in self.told["findings"]])
        pose = bounce(Recipe()).poses[self.index]
        mended = Ellipse(x=pose.x, y=pose.y, major=pose.major, minor=pose.minor, angle=pose.angle)
        again = judge_again(self.told, SOFT, Placement(shapes={self.index + 1: mended}))
        self.assertNotIn("spacing.jump", codes(again))
        shape = to_json(again)["track"]["shapes"][self.index]
        self.assertEqual((shape["source"], shape["confidence"]), ("placed", 1.0))
        self.assertEqual(shape["found"]["x"], self.told["track"]["shapes"][self.index]["x"])

    def test_taking_it_back_gives_what_was_found(self) -> None:
        there = Ellipse(x=50, y=50, major=60, minor=60, angle=0)
        placed = json.loads(
            json.dumps(to_json(judge_again(self.told, SOFT, Placement(shapes={3: there}, ground=(440, 450)))))
        )
        self.assertTrue(placed["track"]["ground"]["placed"])
        back = to_json(judge_again(placed, SOFT, placing.NOTHING))
        self.assertEqual(back["track"], self.told["track"])

    def test_a_ground_put_lower_makes_contacts_hang(self) -> None:
        lower = JUMP.recipe.ground_y + 6
        self.assertIn("contact.gap", codes(judge_again(self.told, SOFT, Placement(ground=(lower, lower)))))

    def test_drawings_that_are_not_there_are_left_out(self) -> None:
        far = Placement(shapes={999: Ellipse(x=1, y=1, major=9, minor=9, angle=0)})
        self.assertEqual(to_json(judge_again(self.told, SOFT, far))["track"], self.told["track"])


class FollowedWithHelp(unittest.TestCase):
    def test_the_rest_is_found_again_from_one_ball(self) -> None:
        """A larger thing moves about as well, and is taken for the ball until someone says which it is."""
        clip = clip_of(PLAN, "clean")
        for number, picture in enumerate(clip.footage._pictures):  # type: ignore[attr-defined]
            rows, columns = np.mgrid[:270, :480]
            inside = (rows - 60) ** 2 + (columns - 430 + 9 * number) ** 2 < 34**2
            picture[inside] = (20, 40, 90, 255)
        misled = analyse(clip, SOFT)
        self.assertGreater(float(np.nanmedian(off(misled))), 20)
        helped = analyse(clip, SOFT, placement=Placement(shapes={5: true_place(4)}))
        self.assertLess(float(np.nanmedian(off(helped))), 0.5)
        shape = helped.track.shape_of(5)
        self.assertEqual(shape.source if shape else None, "placed")


class Kept(unittest.TestCase):
    def test_to_json_and_back(self) -> None:
        placement = Placement(shapes={2: Ellipse(x=1.5, y=2, major=30, minor=20, angle=15)}, ground=(10, 20))
        self.assertEqual(placing.from_json(json.loads(json.dumps(placement.to_json()))), placement)
        self.assertEqual(placing.from_json(None), placing.NOTHING)

    def test_the_longer_axis_comes_first_whichever_was_dragged(self) -> None:
        told = {"shapes": {"1": {"x": 0, "y": 0, "major": 20, "minor": 30, "angle": 0}}}
        self.assertEqual(placing.from_json(told).shapes[1], Ellipse(x=0, y=0, major=30, minor=20, angle=90))

    def test_nonsense_is_refused(self) -> None:
        for told in (
            {"shapes": {"1": {"x": "left"}}},
            {"shapes": {"one": {}}},
            {"shapes": [1]},
            {"ground": [1]},
            {"ground": [float("nan"), 2]},
            {"shapes": {"1": {"x": 0, "y": 0, "major": 0, "minor": 0, "angle": 0}}},
        ):
            with self.subTest(told), self.assertRaises(NotAClip):
                placing.from_json(told)

    def test_a_drifting_clip_is_read_back_whole(self) -> None:
        plan = bounce(Recipe(width=320, height=200, diameter=30, ground_y=170, drop_px=100, kept=(0.8,), speed_x=9))
        found = analyse(clip_of(plan, "photographed"), SOFT)
        told = json.loads(findings_file.to_text(found))
        clip, track = findings_file.read_back(told)
        self.assertEqual(clip.frames, plan.frames)
        self.assertEqual(len(track.shifts), len(track.shapes))
        self.assertEqual(to_json(judge_again(told, SOFT, placing.NOTHING))["preflight"], told["preflight"])
        self.assertIn("drift", str(told["preflight"]))


class Confidence(unittest.TestCase):
    def test_where_the_ball_is_wrong_it_says_so(self) -> None:
        """Half of the ball hidden behind a still thing: measured worse, and told with less confidence."""
        drawn = [p for p, _ in draw.frames(PLAN, LOOKS["clean"], 1)]
        clip = clip_of(PLAN, "clean")
        at = 6
        pose = PLAN.poses[at]
        cover = drawn[at].copy()
        cover[:, int(pose.x) :] = drawn[0][:, int(pose.x) :]
        clip.footage._pictures[at] = cover  # type: ignore[attr-defined]
        shapes = analyse(clip, SOFT).track.shapes
        whole = [s.confidence for i, s in enumerate(shapes) if s and i != at]
        hidden = shapes[at]
        self.assertTrue(hidden is None or hidden.confidence < 0.8 * float(np.median(whole)))


if __name__ == "__main__":
    unittest.main()
