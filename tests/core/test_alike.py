"""Sides that are drawn alike: which limb comes out again, feet and knees that touch, cycles that begin again."""

from __future__ import annotations

import random
import unittest
from collections.abc import Callable, Collection
from dataclasses import replace
from functools import partial

import cv2
import numpy as np

from bench.apart import walks
from bench.apart.walk_measure import brief_of, track_of
from motion.brief import Brief
from motion.clip import Exposure
from motion.exercises.walk.checks import judged
from motion.exercises.walk.scene import Scene, look
from motion.exercises.walk.truth import FIGURE
from motion.track import Figure, Track
from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import feet
from motion.tracking.subjects.figure.drawn import Drawn
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.leg import Leg
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.settle import Across, Stretch

Place = tuple[float, float]
SEEN = 0.95
BUILD = Build(hip=(0.0, 20.0), thigh=70.0, shin=70.0, foot=42.0, wide=8.0, facing=1.0)


def walk(seed: str, *, whole: bool, fits: Callable[[walks.Walk], bool]) -> walks.Walk:
    """A clean walk in place, on ones, that has what a test needs."""
    rng = random.Random(seed)
    while True:
        found = walks.plan(rng, whole=whole)
        own = found.manner
        if own.exposure == "ones" and not own.across and fits(found):
            return found


def seen(track: Track, change: Callable[[int, Figure], Figure]) -> Track:
    """It as told from pictures, its figures changed by number (from 0)."""
    figures = [f and replace(change(n, f), confidence=SEEN) for n, f in enumerate(track.figures(FIGURE))]
    return track.with_marks(FIGURE, tuple(figures))


def scene_of(own: walks.Walk, track: Track, sides: str, *, loop: bool | None = None) -> Scene:
    brief = brief_of(own)
    asked = replace(brief.asked, sides=sides)  # type: ignore[type-var]
    brief: Brief = replace(brief, asked=asked, loop=brief.loop if loop is None else loop)
    scene = look(track, brief, own.manner.width)
    assert scene is not None
    return scene


class Hands(unittest.TestCase):
    def off(self, own: walks.Walk, hidden: Collection[int], wrong: int, by: float) -> set[tuple[str, int]]:
        def change(n: int, figure: Figure) -> Figure:
            x, y = figure.points["hand_near"]
            points = {**figure.points, "hand_near": (x, y - (by * own.manner.leg if n == wrong else 0.0))}
            return replace(figure, points=points, hidden=frozenset({"hand_near"} if n in hidden else set()))

        return set(scene_of(own, seen(track_of(own), change), "same").off)

    def test_one_that_goes_in_behind_the_trunk_and_comes_out_before_it_is_the_same(self) -> None:
        own = walk("hands", whole=True, fits=lambda w: w.manner.drawings == 8 and len(w.drawings) > 30)
        facing = 1.0 if own.drawings[0].points["toe_near"][0] > own.drawings[0].points["heel_near"][0] else -1.0
        ahead = [facing * (d.points["hand_near"][0] - d.points["neck"][0]) for d in own.drawings]
        through = next(n for n in range(10, 24) if ahead[n - 1] * ahead[n] < 0)
        turns = next(n for n in range(10, 24) if (ahead[n] - ahead[n - 1]) * (ahead[n + 1] - ahead[n]) < 0)
        self.assertEqual(self.off(own, (through - 1, through), through + 1, 0.09), {("hand_near", through + 1)})
        self.assertEqual(self.off(own, (through - 1, through), through + 1, 0.0), set())
        # Where it would turn round while it hides it may as well be the other one.
        self.assertEqual(self.off(own, (turns - 1, turns), turns + 1, 0.09), set())


class Cycles(unittest.TestCase):
    def one_step(self) -> tuple[walks.Walk, Track]:
        """A cycle of one step: it begins again with the other foot."""
        own = walk("cycle", whole=True, fits=lambda w: w.manner.drawings >= 8 and len(w.contacts) > 1 and w.manner.loop)
        count = own.manner.drawings
        track = track_of(replace(own, drawings=own.drawings[:count]))
        return own, seen(track, lambda _, figure: figure)

    def test_one_that_begins_again_with_the_other_foot_is_closed_where_both_look_alike(self) -> None:
        own, track = self.one_step()
        found = {f.code for f in judged(scene_of(own, track, "told", loop=True))}
        self.assertIn("timing.loop", found)
        self.assertEqual([f.code for f in judged(scene_of(own, track, "same", loop=True))], [])

    def test_steps_that_show_the_same_drawings_prove_nothing_of_them(self) -> None:
        """Each step is the one before with its sides turned: what a foot does there it does in all that are shown."""
        clean = walk("again", whole=False, fits=lambda w: w.manner.drawings == 8 and len(w.drawings) > 31)
        track, count = track_of(clean), clean.manner.drawings

        def ankles(number: int, side: str) -> Place:
            return clean.drawings[number].points[f"ankle_{side}"]

        exposures = (Exposure(drawing=n % count + 1, first_frame=n + 1, frames=1) for n in range(4 * count))
        marks = {part: some[:count] for part, some in track.marks.items()}
        again = replace(track, exposures=tuple(exposures), marks=marks, pictures=track.pictures[:count])

        passes = min(range(count), key=lambda n: abs(ankles(n, "near")[0] - ankles(n, "far")[0]))
        swings = min(("near", "far"), key=lambda side: ankles(passes, side)[1])

        def higher(wrong: int, number: int, figure: Figure) -> Figure:
            x, y = figure.points[f"ankle_{swings}"]
            up = 0.08 * clean.manner.leg if number == wrong else 0.0
            return replace(figure, points={**figure.points, f"ankle_{swings}": (x, y - up)})

        for changed, wrong in ((again, passes), (track, passes + 2 * count)):
            scene = scene_of(clean, seen(changed, partial(higher, wrong)), "same", loop=False)
            feet_off = {name for name, _ in scene.off if name.startswith("ankle")}
            self.assertEqual(bool(feet_off), changed is track)


class Touching(unittest.TestCase):
    def test_a_foot_that_touches_the_other_must_be_as_long_as_feet_are(self) -> None:
        cover = np.zeros((150, 200), np.float32)
        cv2.line(cover, (66, 34), (60, 100), 1.0, 8)
        cv2.line(cover, (54, 108), (96, 108), 1.0, 10)
        cv2.line(cover, (104, 112), (146, 112), 1.0, 10)
        for beside, touches in (((104.0, 112.0), True), ((104.0, 60.0), False)):
            other = np.array(beside) + np.linspace(0, 1, 5)[:, None] * np.array([42.0, 0.0])
            found = feet.foot_of(cover, (0.0, 0.0), (66.0, 34.0), (60.0, 100.0), other, BUILD)
            assert found is not None
            self.assertEqual(found.touches, touches)

    def test_another_ones_foot_is_left_and_the_ankle_is_where_the_shin_ends(self) -> None:
        places = {"knee_near": (50.0, 20.0), "ankle_near": (50.0, 100.0)}
        own = Drawn(body=None, places=places, sure={"heel_near": 0.9, "toe_near": 0.9}, firm={"ankle_near"})
        own.leave_foot("near", 60.0)
        self.assertEqual(own.places["ankle_near"], (50.0, 80.0))
        self.assertEqual((own.sure["toe_near"] < 0.5, own.firm, own.feet["near"]), (True, set(), None))

    def limbs(self, apart: float, *, alike: bool) -> Limbs:
        """Two legs from one hip whose bent knees lie so far apart, px."""
        nothing = Across(np.zeros((0, 2)), np.zeros(0), (0.0, 1.0))
        covers = [np.zeros((4, 4), np.float32) for _ in range(2)]
        legs = []
        for side in (0, 1):
            knee = (140.0 + side * apart, 140.0)
            thigh = Stretch(120.0, 110.0, 0.55, 0.835, seen=0.8, off=0.3, wide=7.0)
            shin = Stretch(knee[0], knee[1] + 30, -0.3, 0.954, seen=0.8, off=0.3, wide=7.0)
            cover = covers[0 if alike else side]
            legs.append(Leg(knee, (120.0, 205.0), (160.0, 206.0), cover, nothing, nothing, thigh, shin, joint=knee))
        body = Ellipse(x=100, y=60, major=68, minor=8, angle=90)
        sheet = Sheet(0, 0, covers[0], covers[0], np.zeros((4, 4, 4), np.uint8))
        return Limbs(sheet, body, BUILD, legs)

    def test_knees_that_lie_over_each_other_tell_no_lengths(self) -> None:
        for apart, alike, firm in ((2.0, True, False), (30.0, True, True), (2.0, False, True)):
            into = Drawn(body=None)
            self.limbs(apart, alike=alike).finish(BUILD, into)
            with self.subTest(apart=apart, alike=alike):
                self.assertEqual(any(name.startswith("knee") for name in into.firm), firm)
