"""A track told as contacts, hops and rest, and the gravity on which the hops agree."""

from __future__ import annotations

import unittest
from dataclasses import replace

import cv2
import numpy as np

from motion.exercises.bounce import flight, halves, reading
from motion.exercises.bounce.gravity import consensus_gravity, fits_gravity, hop_duration
from motion.exercises.bounce.hops import Reading
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.exercises.bounce.truth import track_of
from motion.track import Shape
from motion.tracking import ground
from tests.core.drawn import with_fault


def read(plan: Plan) -> Reading:
    found = reading.read(track_of(plan))
    assert found is not None
    return found


class Contacts(unittest.TestCase):
    def test_every_contact_is_told_on_its_frame(self) -> None:
        for recipe in (Recipe(), Recipe(exposure=2, fall_frames=12.4, speed_x=9), Recipe(speed_x=0, start_x=400)):
            with self.subTest(recipe):
                plan = bounce(recipe)
                told = read(plan)
                frames = [told.steps[c.steps[0]].frame for c in told.contacts]
                wanted = [plan.first_frame(i) for i, p in enumerate(plan.poses) if p.role == "contact"]
                self.assertEqual(frames, wanted)

    def test_hops_lie_between_them(self) -> None:
        told = read(bounce(Recipe()))
        self.assertEqual([h.whole for h in told.hops], [False, True, True, False])
        for hop in told.hops:
            self.assertEqual(hop.top, max(hop.air, key=lambda i: told.steps[i].height))

    def test_a_rest_is_no_hop(self) -> None:
        told = read(bounce(Recipe(end="rest", rest=6)))
        self.assertEqual(len(told.hops), 4)
        self.assertGreaterEqual(len(told.rest), 5)

    def test_a_missed_contact_has_a_time_and_no_drawings(self) -> None:
        plan, planted = with_fault("contact.missed", 1.0)
        missed = [c for c in read(plan).contacts if c.missed]
        self.assertEqual(len(missed), 1)
        self.assertTrue(planted.first_frame <= missed[0].time <= planted.last_frame + 1)

    def test_too_little_to_read_is_none(self) -> None:
        plan = bounce(Recipe())
        self.assertIsNone(reading.read(track_of(replace(plan, poses=plan.poses[:3]))))
        self.assertIsNone(reading.read(track_of(plan).with_fixture("ground", None)))

    def test_bounces_in_place_are_told_from_those_across(self) -> None:
        self.assertTrue(read(bounce(Recipe(speed_x=0.0))).in_place)
        self.assertFalse(read(bounce(Recipe())).in_place)


class Gravity(unittest.TestCase):
    def test_the_hops_agree_on_the_gravity_they_were_made_with(self) -> None:
        for recipe in (Recipe(), Recipe(fall_frames=9.6), Recipe(exposure=2, fall_frames=12.4, speed_x=9)):
            plan = bounce(recipe)
            found = consensus_gravity(read(plan))
            assert found is not None
            self.assertAlmostEqual(found / plan.gravity, 1.0, delta=0.03)

    def test_one_hop_of_wrong_length_does_not_move_it(self) -> None:
        plan, planted = with_fault("timing.hop", 2.5)
        told = read(plan)
        found = consensus_gravity(told)
        assert found is not None
        self.assertAlmostEqual(found / plan.gravity, 1.0, delta=0.05)
        slow = next(h for h in told.hops if told.steps[h.air[0]].frame >= planted.first_frame)
        duration = hop_duration(told, slow)
        assert duration is not None
        self.assertGreater(duration, 1.2 * np.sqrt(8 * told.steps[slow.top].height / plan.gravity))

    def test_a_hop_drawn_by_halves_does_not_tell_gravity_by_its_curve(self) -> None:
        told = read(bounce(Recipe(halves=True)))
        self.assertTrue(told.by_halves)
        self.assertFalse(any(fits_gravity(told, h) for h in told.hops))


class Halves(unittest.TestCase):
    def side(self, parts: list[float], flies: bool = False) -> halves.Hopped:
        """A fall in place whose drawings lie at these parts of the way down from a top of 200 px."""
        return halves.Hopped(np.array([[0.0, 200 * (1 - p)] for p in parts]), None, np.array([0.0, 0.0]), flies)

    def test_halved_gaps_are_a_habit_and_gravitys_are_not(self) -> None:
        halved = [0.0, 1 / 16, 1 / 8, 1 / 4, 1 / 2]
        falling = [(k / 6) ** 2 for k in range(6)]
        self.assertTrue(halves.is_habit([self.side(halved)] * 2))
        self.assertFalse(halves.is_habit([self.side(falling)] * 2))
        self.assertFalse(halves.is_habit([]))
        self.assertFalse(halves.is_habit([self.side(halved, flies=True)] * 2))

    def test_one_side_cannot_outvote_the_others(self) -> None:
        halved, falling = [0.0, 1 / 16, 1 / 8, 1 / 4, 1 / 2], [(k / 6) ** 2 for k in range(6)]
        self.assertFalse(halves.is_habit([self.side(halved), self.side(falling), self.side(falling)]))


class Exposures(unittest.TestCase):
    """What is time that passes and what is a hold, in a hop of 300 px and ten frames from contact to contact."""

    def drawn(self, exposures: list[int], holds: dict[int, int] | None = None) -> flight.Drawn:
        """Drawings where time puts them, of which some are then held for so many frames more."""
        more, time, shown = holds or {}, 1, 1
        frames, heights, exposed = [], [], []
        for i, lasts in enumerate(exposures):
            frames.append(float(shown))
            heights.append(12.0 * time * (10 - time))
            exposed.append(lasts + more.get(i, 0))
            time, shown = time + lasts, shown + exposed[-1]
        ends = flight.Foot(frame=float(shown), held=0, lead=exposed[-1], between=False)
        return flight.Drawn(
            frames=np.array(frames),
            exposures=tuple(exposed),
            heights=np.array(heights),
            start=flight.Foot(frame=0.0, held=0, lead=1, between=False),
            end=ends,
        )

    def test_an_exposure_is_time_that_passes_however_ones_and_twos_are_mixed(self) -> None:
        for exposures in ([1, 1, 1, 2, 2, 1, 1], [2, 2, 1, 1, 1, 2], [1, 2, 1, 2, 1, 2], [1, 1, 1, 3, 1, 1, 1]):
            flown = flight.fly(self.drawn(exposures), halved=False)
            assert flown.parabola is not None
            self.assertEqual(sum(flown.held), 0, exposures)
            self.assertAlmostEqual(flown.parabola.frames, 10.0, places=3)

    def test_what_the_motion_around_it_does_not_need_is_a_hold(self) -> None:
        for exposures, at in (
            ([1, 1, 1, 2, 2, 1, 1], 1),
            ([2, 2, 1, 1, 1, 2], 3),
            ([1] * 9, 6),
            ([2, 1, 2, 1, 2, 1], 2),
        ):
            flown = flight.fly(self.drawn(exposures, {at: 3}), halved=False)
            assert flown.parabola is not None
            self.assertEqual(flown.held, tuple(3 if i == at else 0 for i in range(len(exposures))), exposures)
            self.assertAlmostEqual(flown.parabola.frames, 10.0, places=3)

    def test_by_halves_only_what_is_unlike_its_neighbours_may_be_a_hold(self) -> None:
        self.assertEqual(flight.fly(self.drawn([1, 1, 2, 2, 2, 1, 1]), halved=True).held, (0,) * 7)
        self.assertEqual(flight.fly(self.drawn([1] * 9, {6: 3}), halved=True).held, (0,) * 6 + (3, 0, 0))


class Ground(unittest.TestCase):
    def shapes(self, bottoms: list[float], size: float = 40.0) -> list[Shape | None]:
        """Shapes that come down to these levels, one after the other, 200 px apart, and rise between."""
        found: list[Shape | None] = []
        for i, bottom in enumerate(bottoms):
            for lift in (120.0, 50.0, 0.0, 60.0):
                y = bottom - lift - size / 2
                x = 100.0 + 200 * i + 0.3 * lift
                found.append(
                    Shape(drawing=len(found) + 1, x=x, y=y, major=size, minor=size, angle=0.0, bottom=bottom - lift,
                          clipped=False, confidence=1.0)
                )  # fmt: skip
        return found

    def test_without_a_line_it_is_where_most_turns_agree(self) -> None:
        paper = np.full((400, 1000, 4), 255, np.uint8)
        found = ground.find(paper, self.shapes([300, 300, 290, 300]))
        assert found is not None
        self.assertEqual((found.drawn, round(found.y_at(500))), (False, 300))

    def test_it_may_slope_where_three_turns_tell_so(self) -> None:
        paper = np.full((400, 1000, 4), 255, np.uint8)
        found = ground.find(paper, self.shapes([300, 310, 320, 330]))
        assert found is not None
        self.assertAlmostEqual(found.y_at(500) - found.y_at(300), 10, delta=0.5)

    def test_it_may_slope_under_a_ball_as_large_as_its_hops_are_wide(self) -> None:
        found = ground.find(np.full((400, 1000, 4), 255, np.uint8), self.shapes([300, 316, 332], size=230.0))
        assert found is not None
        self.assertAlmostEqual(found.y_at(500) - found.y_at(300), 16, delta=0.5)

    def test_two_turns_tell_a_slope_only_where_both_were_put_on_the_ground(self) -> None:
        paper = np.full((400, 1000, 4), 255, np.uint8)
        for flat, slopes in ((0.75, True), (1.0, False)):
            with self.subTest(flat):
                shapes = [
                    s if s is None or i % 4 != 2 else replace(s, minor=s.minor * flat, y=s.y + s.minor * (1 - flat) / 2)
                    for i, s in enumerate(self.shapes([300, 312]))
                ]
                found = ground.find(paper, shapes)
                assert found is not None
                self.assertAlmostEqual(found.y_at(500) - found.y_at(300), 12 if slopes else 0, delta=0.5)

    def test_a_turn_at_the_clips_beginning_tells_a_slope_with_others(self) -> None:
        found = ground.find(np.full((400, 1000, 4), 255, np.uint8), self.shapes([300, 330, 360])[2:])
        assert found is not None
        self.assertAlmostEqual(found.y_at(500) - found.y_at(300), 30, delta=0.5)

    def test_a_drawn_line_is_found_below_the_only_turn_of_which_no_drawing_shows_the_contact(self) -> None:
        paper = np.full((400, 1000, 4), 255, np.uint8)
        paper[300:303, :, :3] = 60
        shapes = [s for s in self.shapes([300]) if s is not None and s.bottom < 299]
        found = ground.find(paper, shapes)
        assert found is not None
        self.assertEqual((found.drawn, round(found.y_at(500))), (True, 300))

    def test_a_drawn_line_counts_by_its_upper_edge_to_a_part_of_a_pixel(self) -> None:
        for top in (299.0, 299.5, 299.75):
            with self.subTest(top):
                paper = np.full((400, 1000, 4), 255, np.uint8)
                rows = np.arange(400)
                cover = np.clip(rows + 0.5 - top, 0, 1) - np.clip(rows + 0.5 - top - 4, 0, 1)
                paper[..., :3] = np.round(255 * (1 - 0.8 * cover))[:, None, None]
                found = ground.find(paper, self.shapes([top] * 3))
                assert found is not None
                self.assertTrue(found.drawn)
                self.assertAlmostEqual(found.y_at(400), top, delta=0.2)

    def test_of_two_lines_it_is_the_one_along_which_the_ball_turns(self) -> None:
        for level, quay, ink in ((292, 120, 60), (296, 120, 60), (292, 170, 120), (296, 170, 120)):
            with self.subTest(level=level, quay=quay):
                # A painted quay, and a sloping ground that is drawn across it.
                paper = np.full((400, 1000, 4), 255, np.uint8)
                paper[level:, :, :3] = quay
                cv2.line(paper, (0, 290), (1000, 310), (ink, ink, ink, 255), 3, cv2.LINE_AA)
                found = ground.find(paper, self.shapes([288.5 + 0.02 * (100 + 200 * i) for i in range(4)]))
                assert found is not None
                self.assertAlmostEqual(found.y_at(700) - found.y_at(300), 8.0, delta=1.0)

    def test_the_briefs_own_level_wins(self) -> None:
        found = ground.find(np.full((400, 1000, 4), 255, np.uint8), self.shapes([300] * 3), fixed_y=333.0)
        assert found is not None
        self.assertEqual((found.y_left, found.y_right, found.confidence), (333.0, 333.0, 1.0))
