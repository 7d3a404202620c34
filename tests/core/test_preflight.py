"""What is told of an export, and what is not: empty frames, a ball cut off, scenery left out, paper that drifts."""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import cv2
import numpy as np

from motion.brief import Brief
from motion.checks import preflight
from motion.clip import Clip, Exposure, Picture, Unseen
from motion.shift import Shift
from motion.track import Ground, Oversights, Shape, Track, of_shapes
from motion.tracking import background as bg
from motion.tracking.ellipse import Ellipse
from motion.tracking.outline import Candidate
from motion.tracking.scan import Scan, Seen
from motion.tracking.views import Lit

WIDTH, HEIGHT, SIZE = 480, 270, 40.0
Place = tuple[float, float] | None


def track(places: Sequence[Place], shifts: Sequence[Shift] = ()) -> Track:
    """A ball of 40 px at these places, one a frame; nothing is drawn where there is none."""
    half = SIZE / 2
    shapes = [
        None
        if place is None
        else Shape(
            drawing=number,
            x=place[0],
            y=place[1],
            major=SIZE,
            minor=SIZE,
            angle=0.0,
            bottom=place[1] + half,
            clipped=not (half <= place[0] <= WIDTH - 1 - half and half <= place[1]),
            confidence=0.99,
        )
        for number, place in enumerate(places, start=1)
    ]
    count = len(places)
    return of_shapes(
        exposures=tuple(Exposure(drawing=i + 1, first_frame=i + 1, frames=1) for i in range(count)),
        shapes=tuple(shapes),
        pictures=tuple(range(count)),
        ground=Ground(y_left=250.0, y_right=250.0, width=WIDTH, confidence=0.9, drawn=True),
        shifts=tuple(shifts),
        oversights=Oversights(empty=frozenset(i + 1 for i, p in enumerate(places) if p is None)),
    )


def told(seen: Track, width: int = WIDTH) -> list[tuple[str, int, int]]:
    clip = Clip(
        name="a", fps=24, width=width, height=HEIGHT, footage=Unseen(), picture_frames=(1,) * len(seen.exposures)
    )
    return [(n.code, n.first_frame, n.last_frame) for n in preflight.check(clip, seen, Brief(), "ball")]


class Empty(unittest.TestCase):
    def test_a_frame_is_empty_beside_a_ball_that_the_edge_cuts_but_that_stays(self) -> None:
        for places in (
            [(10.0, 200.0), None, (40.0, 160.0), (55.0, 130.0), (70.0, 110.0)],
            [(12.0, 60.0), (12.0, 110.0), (12.0, 170.0), (12.0, 228.0), None, (12.0, 130.0), (12.0, 80.0)],
        ):
            at = places.index(None) + 1
            with self.subTest(at=at):
                self.assertIn(("preflight.blank", at, at), told(track(places)))

    def test_frames_in_which_the_ball_is_out_of_sight_are_rightly_empty(self) -> None:
        over_the_top: list[Place] = [
            (100.0, 120.0),
            (110.0, 70.0),
            (120.0, 15.0),
            None,
            None,
            (150.0, 20.0),
            (160.0, 75.0),
        ]
        leaves: list[Place] = [
            (380.0, 100.0),
            (425.0, 120.0),
            (470.0, 150.0),
            None,
            None,
            (440.0, 150.0),
            (400.0, 120.0),
        ]
        for places in (over_the_top, leaves):
            self.assertNotIn("preflight.blank", [code for code, _, _ in told(track(places))])

    def test_little_that_is_drawn_and_nothing_round_is_an_empty_drawing(self) -> None:
        def drawing(marks: int, roundness: float) -> Seen:
            ellipse = Ellipse(x=50, y=50, major=40, minor=38, angle=0)
            found = Candidate(ellipse=ellipse, clipped=False, contrast=100, roundness=roundness)
            return Seen(picture=0, shift=Shift(), candidates=[found], bare=False, marks=marks)

        seen = [drawing(1000, 0.95), drawing(980, 0.9), drawing(150, 0.26), drawing(150, 0.97), drawing(40, 0.9)]
        self.assertEqual(Scan(numbers=[1, 2, 3, 4, 5], seen=seen).empty(), {2, 4})


class Cut(unittest.TestCase):
    def test_a_ball_that_comes_in_from_above_is_rightly_cut(self) -> None:
        falls: list[Place] = [(100.0, -5.0), (110.0, 12.0), (120.0, 40.0), (130.0, 90.0), (140.0, 160.0)]
        self.assertEqual(told(track(falls)), [])
        self.assertEqual(told(track(falls[::-1])), [])

    def test_one_that_is_cut_on_its_way_is_told(self) -> None:
        tops: list[Place] = [(100.0, 90.0), (110.0, 30.0), (120.0, 8.0), (130.0, 30.0), (140.0, 90.0)]
        self.assertEqual(told(track(tops)), [("preflight.edge", 3, 3)])


class Drift(unittest.TestCase):
    def codes(self, shifts: Sequence[float], width: int = WIDTH) -> list[str]:
        places: list[Place] = [(100.0 + 20 * i, 100.0) for i in range(len(shifts))]
        return [code for code, _, _ in told(track(places, [Shift(x=x) for x in shifts]), width)]

    def test_what_nobody_sees_is_not_told(self) -> None:
        self.assertEqual(self.codes([0.0, 0.7, -0.9, 1.2, 0.4]), [])
        self.assertEqual(self.codes([0.0, 0.0, 4.0, 0.0, 0.0]), [])
        self.assertEqual(self.codes([0.0, 2.0, -1.8, 1.0, 0.0]), ["preflight.drift"])
        self.assertEqual(self.codes([0.0, 2.0, -1.8, 1.0, 0.0], width=1920), [])


class Scenery(unittest.TestCase):
    def setUp(self) -> None:
        self.scene = self.paper()
        self.scene[200:203, :, :3] = 60
        background = bg.Background(self.scene, noise=0.0)
        self.missable, self.background = bg.Missable(background), background

    def paper(self) -> Picture:
        return np.full((HEIGHT, WIDTH, 4), 255, np.uint8)

    def is_missing(self, picture: Picture) -> bool:
        view = Lit.of(picture)
        return self.missable.without_background(view, self.background.differs(view))[1]

    def test_a_large_ball_in_front_of_most_of_it_leaves_it_where_it_is(self) -> None:
        narrow = self.paper()
        narrow[200:203, 120:340, :3] = 60
        self.background = bg.Background(narrow, noise=0.0)
        self.missable = bg.Missable(self.background)
        picture = narrow.copy()
        cv2.circle(picture, (230, 180), 80, (200, 90, 60, 255), -1, cv2.LINE_AA)
        self.assertFalse(self.is_missing(picture))
        self.assertTrue(self.is_missing(self.paper()))

    def test_what_a_ball_left_of_itself_in_the_background_is_no_scenery(self) -> None:
        remains, changes = self.scene.copy(), np.zeros((HEIGHT // 2, WIDTH // 2), bool)
        cv2.circle(remains, (230, 120), 50, (200, 90, 60, 255), -1)
        changes[30:90, 85:145] = True
        self.background = bg.Background(remains, noise=0.0, changes=changes)
        self.missable = bg.Missable(self.background)
        self.assertFalse(self.is_missing(self.scene))
        self.assertTrue(self.is_missing(self.paper()))

    def test_a_line_that_lies_a_little_off_is_there(self) -> None:
        moved = self.paper()
        moved[200:203, :, :3] = 60
        moved[200, :, :3], moved[203, :, :3] = 160, 160
        self.assertFalse(self.is_missing(moved))


if __name__ == "__main__":
    unittest.main()
