"""Walks told from pictures: what scatters is no fault, what does the same in other steps neither, and hips and grounds
that show in no single drawing are told from all.
"""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Callable, Mapping
from dataclasses import replace
from unittest import TestCase, mock

import cv2
import numpy as np

from bench.apart import walks
from bench.apart.walk_measure import brief_of, spoilt, track_of
from motion.exercises.walk import grain, limp
from motion.exercises.walk.checks import arms, judged, timing
from motion.exercises.walk.figure import SIDES
from motion.exercises.walk.scene import Scene, look
from motion.exercises.walk.smooth import ACROSS_LEG, Off
from motion.exercises.walk.steps import Contact, Pace
from motion.exercises.walk.truth import FIGURE
from motion.exercises.walk.undrawn import standing_line
from motion.findings import Finding
from motion.track import Figure, Ground, Track
from motion.tracking import still
from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure.ink import Sheet

Place = tuple[float, float]
SEEN = 0.95
"""How sure a figure is that was told from pictures."""


def walk(number: int = 3) -> walks.Walk:
    """A clean walk of a body on legs with several steps, drawn apart."""
    rng = random.Random(f"by eye {number}")
    while True:
        found = walks.plan(rng)
        if len(found.drawings) > 30 and found.manner.exposure == "ones" and not found.manner.across:
            return found


def by_eye(own: walks.Walk, change: Callable[[int, dict[str, Place]], Mapping[str, Place]] | None = None) -> Track:
    """It as told from pictures, its landmarks changed by drawing (from 0)."""
    track = track_of(own)
    seen = []
    for n, figure in enumerate(track.figures(FIGURE)):
        assert figure is not None
        points = dict(figure.points)
        seen.append(replace(figure, points=dict(change(n, points)) if change else points, confidence=SEEN))
    return track.with_marks(FIGURE, tuple(seen))


def scene_of(own: walks.Walk, track: Track) -> Scene:
    found = look(track, brief_of(own), own.manner.width)
    assert found is not None
    return found


def found_in(scene: Scene, code: str) -> list[Finding]:
    return [f for f in judged(scene) if f.code == code]


def longer(points: dict[str, Place], side: str, times: float) -> dict[str, Place]:
    """A figure whose shin on one side is so many times as long, its foot with it."""
    (kx, ky), (ax, ay) = points[f"knee_{side}"], points[f"ankle_{side}"]
    dx, dy = (times - 1) * (ax - kx), (times - 1) * (ay - ky)
    own = {f"{joint}_{side}" for joint in ("ankle", "heel", "toe")}
    return {name: (x + dx, y + dy) if name in own else (x, y) for name, (x, y) in points.items()}


class Grain(TestCase):
    def test_a_tolerance_grows_with_what_scatters_and_no_further_than_that(self) -> None:
        steady = [10.0, 10.1, 9.9, 10.0, 10.1, 9.9, 10.0]
        self.assertEqual(grain.widened(2.0, steady), 2.0)
        loose = [10.0, 11.0, 9.0, 10.6, 9.4, 10.8, 9.2]
        self.assertTrue(2.0 < grain.widened(2.0, loose) <= 2.0 * grain.MOST)
        self.assertEqual(grain.widened(2.0, [0.0, 50.0, -50.0, 30.0, -30.0, 10.0]), 2.0 * grain.MOST)
        self.assertEqual(grain.widened(2.0, loose[:3]), 2.0)

    def test_one_that_lies_apart_widens_nothing(self) -> None:
        self.assertEqual(grain.widened(2.0, [10.0, 10.1, 9.9, 10.0, 10.1, 9.9, 30.0]), 2.0)

    def test_scattered_shins_are_no_fault_and_one_plainly_longer_is(self) -> None:
        own, rng = walk(), random.Random(1)
        scatter = [rng.gauss(0, 0.04) for _ in own.drawings]
        scene = scene_of(own, by_eye(own, lambda n, p: longer(p, "near", 1 + scatter[n])))
        self.assertEqual(found_in(scene, "volume.length"), [])
        plain = scene_of(own, by_eye(own, lambda n, p: longer(p, "near", 1.3 if n == 9 else 1 + scatter[n])))
        self.assertIn("near shin", [f.part for f in found_in(plain, "volume.length")])

    def test_what_is_so_in_every_step_is_no_drawings_fault(self) -> None:
        own = walk()
        contacts = scene_of(own, by_eye(own)).reading.contacts
        at = {c.index + 3: c.side for c in contacts[:-1]}
        self.assertGreater(len(at), 2)

        def all_steps(n: int, points: dict[str, Place]) -> Mapping[str, Place]:
            return longer(points, at[n], 1.18) if n in at else points

        self.assertEqual(found_in(scene_of(own, by_eye(own, all_steps)), "volume.length"), [])
        first, side = next((n, s) for n, s in at.items() if n > 3)
        once = scene_of(own, by_eye(own, lambda n, p: longer(p, side, 1.18) if n == first else p))
        self.assertEqual([f.first_frame for f in found_in(once, "volume.length")], [first + 1])

    def test_a_knee_that_slips_along_its_leg_changes_no_length(self) -> None:
        own = walk()
        straight = max(
            range(4, 30), key=lambda n: math.dist(*(own.drawings[n].points[name] for name in ("hip", "ankle_near")))
        )

        def slips(n: int, points: dict[str, Place]) -> Mapping[str, Place]:
            if n != straight:
                return points
            (hx, hy), (kx, ky) = points["hip"], points["knee_near"]
            return {**points, "knee_near": (kx + 0.16 * (kx - hx), ky + 0.16 * (ky - hy))}

        self.assertEqual(found_in(scene_of(own, by_eye(own, slips)), "volume.length"), [])
        track = by_eye(own, slips)
        sure = track.with_marks(FIGURE, tuple(f and replace(f, confidence=1.0) for f in track.figures(FIGURE)))
        self.assertTrue(found_in(scene_of(own, sure), "volume.length"))

    def test_legs_that_lie_over_each_other_are_not_told_to_have_changed_places(self) -> None:
        own = walk()

        def exchanged(points: dict[str, Place]) -> dict[str, Place]:
            other = {"near": "far", "far": "near"}
            return {f"{n.split('_')[0]}_{other[n.split('_')[1]]}" if "_" in n else n: p for n, p in points.items()}

        wide = max(range(6, 20), key=lambda n: math.dist(*(own.drawings[n].points[f"ankle_{s}"] for s in SIDES)))
        for hides in (False, True):
            track = by_eye(own, lambda n, p: exchanged(p) if n == wide else p)
            seen = list(track.figures(FIGURE))
            if hides:
                one = seen[wide]
                assert one is not None
                seen[wide] = replace(one, hidden=frozenset({"knee_near", "ankle_near"}), firm=frozenset())
            scene = scene_of(own, track.with_marks(FIGURE, tuple(seen)))
            legs = [f for f in found_in(scene, "spacing.jump") if f.part == "legs"]
            with self.subTest(hides=hides):
                self.assertEqual(len(legs), 0 if hides else 1)


class Undrawn(TestCase):
    def figures(self, own: walks.Walk, slope: float) -> list[Figure | None]:
        """A walk's figures on a ground that falls by so much, px for each px to the right."""
        sheared = by_eye(own, lambda _, p: {n: (x, y + slope * x) for n, (x, y) in p.items()})
        return list(sheared.figures(FIGURE))

    def test_a_slope_is_told_by_the_soles_and_a_level_stays(self) -> None:
        own = walk()
        ground, width = own.manner.ground_at(0.0), own.manner.width
        level = Ground(y_left=ground, y_right=ground, width=width, confidence=0.6, drawn=False)
        for slope in (-0.1, -0.04, 0.0, 0.06, 0.12):
            with self.subTest(slope=slope):
                found = standing_line(level, self.figures(own, slope), own.manner.leg)
                x = own.drawings[0].points["hip"][0]
                self.assertAlmostEqual(
                    found.y_at(x), ground + slope * x, delta=0.02 * own.manner.leg if slope else 1e-6
                )

    def test_soles_that_do_not_show_leave_the_level(self) -> None:
        own = walk()
        level = Ground(y_left=300, y_right=300, width=own.manner.width, confidence=0.6, drawn=False)
        hidden = [f and replace(f, hidden=frozenset(f.points), low=None) for f in self.figures(own, 0.1)]
        self.assertEqual(standing_line(level, hidden, own.manner.leg), level)


class Bodies(TestCase):
    def sheet(self, grown: float = 1.0, *, limb: bool = False) -> tuple[Sheet, Ellipse]:
        """A box with round corners, and a thick limb below it."""
        cover = np.zeros((200, 160), np.float32)
        half, tall = round(24 * grown), round(30 * grown)
        cv2.rectangle(cover, (80 - half + 8, 60 - tall), (80 + half - 8, 60 + tall), 1, -1)
        cv2.rectangle(cover, (80 - half, 60 - tall + 8), (80 + half, 60 + tall - 8), 1, -1)
        if limb:
            cv2.line(cover, (90, 80), (110, 150), 1, 34)
        return Sheet(0, 0, cover, cover, np.zeros((200, 160, 4), np.uint8)), Ellipse(
            x=80, y=60, major=66, minor=52, angle=90
        )

    def off(self, sheet: Sheet, body: Ellipse) -> float:
        usual = bodies.upper_edge(*self.sheet())
        return float(np.abs(bodies.upper_edge(sheet, body).astype(float) - usual).mean())

    def test_a_limb_leaves_the_upper_edge_as_it_is_and_another_size_does_not(self) -> None:
        for sheet, alike in (
            (self.sheet(limb=True)[0], True),
            (self.sheet(1.14)[0], False),
            (self.sheet(0.86)[0], False),
        ):
            at = bodies.core(sheet)
            assert at is not None
            body = bodies.of_size(sheet, at, self.sheet()[1])
            with self.subTest(alike=alike):
                self.assertEqual(self.off(sheet, body) < 0.15, alike)


class Behind(TestCase):
    def test_what_a_subject_left_of_itself_is_not_believed_there(self) -> None:
        """A white body on pale paper, seen in all pictures but for an edge that moves."""
        pictures = []
        for n in range(8):
            picture = np.full((40, 60), 215, np.uint8)
            picture[10:30, 20 + n % 2 : 40 + n % 2] = 248
            pictures.append(picture)
        changed = np.zeros((40, 60), bool)
        changed[8:32, 18:43] = True
        first, _ = still.behind([pictures], changed, 0.0, changed)
        where = np.zeros((40, 60), bool)
        where[10:30, 20:41] = True
        left = still.Left(where, [np.where(where, 248, 215).astype(np.uint8)])
        anew, _ = still.behind([pictures], changed, 0.0, changed, left)
        self.assertEqual(int(anew[0].max()), 215)
        self.assertGreaterEqual(int(first[0].max()), int(anew[0].max()))

    def test_what_lies_beside_it_is_still_seen(self) -> None:
        pictures = [np.full((20, 30), 215, np.uint8) for _ in range(6)]
        for n, picture in enumerate(pictures):
            picture[5:15, 8:12] = 190
            picture[5:15, 12 + n : 14 + n] = 248
        changed = np.zeros((20, 30), bool)
        changed[5:15, 8:22] = True
        left = still.Left(np.zeros((20, 30), bool), [pictures[0]])
        anew, _ = still.behind([pictures], changed, 0.0, changed, left)
        self.assertTrue(all(int(anew[0][r, c]) == 190 for r, c in itertools.product(range(6, 14), range(8, 12))))

    def test_a_row_that_moves_all_along_is_as_it_mostly_is(self) -> None:
        """The edge of a ground that lies a little off in every picture, with feet on it in most of them."""
        pictures = []
        for n in range(9):
            picture = np.full((20, 60), 240, np.uint8)
            picture[12] = 236 if n % 2 else 90
            picture[13:] = 60
            if n > 2:
                picture[10:13, 20:40] = 150
            pictures.append(picture)
        changed = np.zeros((20, 60), bool)
        changed[10:12, 20:40] = changed[12] = True
        found, _ = still.behind([pictures], changed, 0.0, changed)
        self.assertNotIn(150, found[0])
        self.assertEqual(set(np.unique(found[0][10:12])), {240})

    def test_a_pixel_that_is_covered_in_all_pictures_leads_nothing(self) -> None:
        """Feet that pass each other: one place of them is covered all the time, and paper shows beside it."""
        pictures = []
        for n in range(8):
            picture = np.full((12, 80), 240, np.uint8)
            picture[4:8, 20 + 3 * n : 42 + 3 * n] = 90
            pictures.append(picture)
        changed = np.zeros((12, 80), bool)
        changed[4:8, 20:63] = True
        changed[4:8, 41] = False
        found, _ = still.behind([pictures], changed, 0.0)
        self.assertEqual(int(found[0][5, :41].min()), 240)
        self.assertEqual(int(found[0][5, 42:].min()), 240)

    def test_scenery_that_feet_reach_across_is_told_from_above_them(self) -> None:
        """Rows end in paper on both sides of it; of limbs that are nearly as pale as the paper, too."""
        for limb in (90, 252):
            pictures = []
            for n in range(9):
                picture = np.full((40, 80), 238, np.uint8)
                picture[6:30, 30:50] = 196
                picture[18:30, 10 + 6 * n : 22 + 6 * n] = limb
                pictures.append(picture)
            changed = np.zeros((40, 80), bool)
            changed[18:30, 8:72] = True
            found, _ = still.behind([pictures], changed, 0.0, changed, columns=True)
            with self.subTest(limb=limb):
                self.assertEqual(set(np.unique(found[0][6:30, 30:50])), {196})
                self.assertEqual(set(np.unique(found[0][18:30, 8:29])), {238})

    def test_a_part_is_guessed_as_a_whole_or_not_at_all(self) -> None:
        """In stripes it would look like a ground."""
        pictures = []
        for n in range(8):
            picture = np.full((12, 80), 240, np.uint8)
            picture[5:7, 50:] = 60
            picture[4:8, 20 + n : 42 - n] = picture[4:8, 27:35] = 90 if n % 2 else 150
            pictures.append(picture)
        changed = np.zeros((12, 80), bool)
        changed[4:8, 20:50] = True
        found, _ = still.behind([pictures], changed, 0.0, np.zeros_like(changed), None, changed)
        self.assertNotIn(240, found[0][4:8, 31])

    def test_in_video_a_guess_is_what_is_still_on_both_sides(self) -> None:
        """Told at half size; beside what is guessed there may be what stood there in most pictures."""
        taken = np.full((4, 20), still.STILL, np.int8)
        taken[1:3, 4:16], taken[1:3, 8:12] = still.MIDDLE, still.GUESSED
        samples = []
        for _ in range(5):
            luma = np.full((8, 40), 240, np.uint8)
            luma[2:6, 8:32] = 90
            samples.append(luma)
        found = still.put_together(samples, taken, 0.0)
        self.assertEqual((int(found[4, 20]), int(found[4, 10]), int(found[4, 2])), (240, 90, 240))

    def test_where_feet_always_stand_there_is_what_lies_on_both_sides_of_them(self) -> None:
        """Now one foot and now the other covers a place, on bare paper, and where a ground slopes to one side."""
        for sloping in (False, True):
            pictures = []
            for n in range(8):
                picture = np.full((12, 80), 240, np.uint8)
                picture[:, 50:] = 60 if sloping else 240
                picture[4:8, 20 + n : 42 - n] = 90 if n % 2 else 150
                picture[4:8, 27:35] = 90 if n % 2 else 150
                pictures.append(picture)
            changed = np.zeros((12, 80), bool)
            changed[4:8, 20:50] = True
            found, _ = still.behind([pictures], changed, 0.0, np.zeros_like(changed), None, changed)
            with self.subTest(sloping=sloping):
                self.assertEqual(int(found[0][5, 31]) == 240, not sloping)


class Finely(TestCase):
    """A contact is a whole drawing: steps of few of them are longer or shorter by that than they were drawn."""

    def paces(self, *contacts: tuple[float, float | None]) -> list[Pace]:
        row = [Contact(side=SIDES[n % 2], index=n, time=time, nears=nears) for n, (time, nears) in enumerate(contacts)]
        return [
            Pace(number=n, side=b.side, start=a, end=b, length=None) for n, (a, b) in enumerate(itertools.pairwise(row))
        ]

    def test_it_limps_only_if_feet_also_come_near_at_such_times(self) -> None:
        for contacts, limps in (
            (((4, 3.4), (17, 15.4), (28, 27.4), (41, 39.4)), False),
            (((4, 3.4), (17, 16.4), (28, 27.4), (41, 40.4)), True),
            # The clip begins with a foot that stands: what the other's steps leave is its own.
            (((0, None), (7, 6.1), (12, 11.9)), False),
            (((0, None), (7, 6.1), (12, 11.1)), True),
        ):
            paces = self.paces(*contacts)
            near, far = (np.mean([p.frames for p in paces if p.side == side]) for side in SIDES)
            with self.subTest(contacts):
                self.assertEqual(limp._also_finely(paces, float(near - far), 1.0), limps)

    def test_a_limp_is_more_than_allowed_finely_as_well(self) -> None:
        """By whole drawings steps differ by two frames, by when feet come near by hardly more than one."""
        paces = self.paces((0, None), (12, 11.6), (25, 24.45), (35, 35.53))
        for allowed, limps in ((1.5, True), (1.8, False)):
            with self.subTest(allowed=allowed):
                self.assertEqual(limp._also_finely(paces, 2.0, allowed), limps)

    def test_a_contact_a_cycle_later_came_near_a_cycle_later(self) -> None:
        one = Contact(side="near", index=2, time=4.0, nears=3.4)
        self.assertEqual((one.after(48).time, one.after(48).nears), (52.0, 51.4))
        self.assertIsNone(replace(one, nears=None).after(48).nears)

    def test_legs_pass_at_the_same_moment_though_the_contact_is_told_early(self) -> None:
        own = walk()
        scene = scene_of(own, by_eye(own))
        whole = [p for p in scene.paces if p.finely is not None]
        self.assertTrue(whole)
        for pace in whole:
            early = replace(pace, start=replace(pace.start, time=pace.start.time - 2))
            told, shifted = timing.passes(scene, pace), timing.passes(scene, early)
            assert told is not None and shifted is not None
            self.assertLess(abs(told - shifted), 0.05)

    def test_a_step_that_is_told_finely_is_held_to_less_than_one_told_by_whole_drawings(self) -> None:
        own = walk(0)
        scene = scene_of(own, by_eye(own))
        fine = [p for p in scene.paces if p.finely is not None]
        self.assertTrue(0 < len(fine) < len(scene.paces))
        for at, judged_too in ((0.64, []), (0.68, fine), (0.7, scene.paces)):
            with mock.patch.object(timing, "passes", return_value=at):
                told = list(timing.passing(scene))
            with self.subTest(at=at):
                self.assertEqual(len(told), min(1, len(judged_too)))
                if judged_too:
                    steps = [s for p in judged_too for s in scene.within(p)]
                    self.assertEqual((told[0].first_frame, told[0].last_frame), (steps[0].frame, steps[-1].last_frame))


class Snaps(TestCase):
    def test_a_knee_that_snaps_is_told_though_hips_hide(self) -> None:
        own, at = spoilt("spacing.pops", random.Random("a knee snaps"))
        track = by_eye(own)
        for around in (range(0), range(at[0] - 1, at[-1] + 3)):
            seen = [
                f and replace(f, hidden=frozenset({"hip"} if n in around else set()))
                for n, f in enumerate(track.figures(FIGURE))
            ]
            told = found_in(scene_of(own, track.with_marks(FIGURE, tuple(seen))), "spacing.pops")
            with self.subTest(hidden=len(around)):
                self.assertEqual(len(told), 1)


class Hidden(TestCase):
    """A hand that hides beside the trunk for a drawing or two is led by those before and after it."""

    def found(self, hidden: tuple[int, ...], *, off: float) -> dict[tuple[str, int], Off]:
        rng = random.Random("a hand hides")
        while True:
            own = walks.plan(rng, whole=True)
            if own.manner.exposure == "ones" and own.manner.drawings == 8 and len(own.drawings) > 24:
                break
        track = by_eye(own, lambda n, points: self.higher(points, off * own.manner.leg) if n == 12 else points)
        figures = [
            f and replace(f, hidden=frozenset({"hand_near"} if n in hidden else set()))
            for n, f in enumerate(track.figures(FIGURE))
        ]
        return scene_of(own, track.with_marks(FIGURE, tuple(figures))).off

    def higher(self, points: dict[str, Place], by: float) -> dict[str, Place]:
        x, y = points["hand_near"]
        return points | {"hand_near": (x, y - by)}

    def test_it_is_led_past_what_hides_it_where_sides_are_told_apart(self) -> None:
        for hidden in ((10, 11), (11,), (13, 14)):
            self.assertEqual(list(self.found(hidden, off=0.09)), [("hand_near", 12)])
            self.assertEqual(self.found(hidden, off=0.0), {})

    def test_longer_it_is_not(self) -> None:
        self.assertEqual(self.found((9, 10, 11, 13, 14, 15), off=0.09), {})


class Swings(TestCase):
    """Arms of a whole figure, their angles given by drawing: there and back in twelve drawings each way."""

    def found(self, angle: Callable[[float], float]) -> list[float]:
        rng = random.Random("arms swing")
        while True:
            own = walks.plan(rng, whole=True)
            if own.manner.exposure == "ones" and len(own.drawings) > 48 and not own.manner.across:
                break
        scene = scene_of(own, by_eye(own))
        angles = [(step, angle(math.pi * step.index / 12)) for step in scene.reading.steps]
        with mock.patch.object(arms, "_angles", return_value=angles):
            return [abs(s.angles[-1] - s.angles[0]) for s in arms._swings(scene, "near")]

    def test_one_goes_from_where_an_arm_turns_round_to_where_it_does_again(self) -> None:
        wide = self.found(lambda t: 40 * math.cos(t))
        self.assertGreaterEqual(len(wide), 2)
        self.assertGreater(min(wide), 79)

    def test_half_of_one_is_none_where_an_arm_was_taken_for_the_other_as_they_passed(self) -> None:
        # From its third swing on what is followed turns round with the other arm, wherever both pass.
        told = self.found(lambda t: 40 * (math.cos(t) if t < 2 * math.pi else abs(math.cos(t))))
        self.assertTrue(told)
        self.assertGreater(min(told), 60)


class FeetHide(TestCase):
    """An ankle whose heel and toe hide lies where its shin leads, and must be off by more."""

    def found(self, times: float, *, hides: bool) -> bool:
        """Whether an ankle is off that is so many times its tolerance above its arc, in the middle of a swing."""
        own = walk()
        reading = scene_of(own, by_eye(own)).reading
        first, last = next(s for s in reading.swings("near") if s[1] - s[0] > 7 and s[0] > 3)
        middle = (first + last) // 2
        # What is told from pictures may be off by a share more.
        up = times * ACROSS_LEG * scene_of(own, by_eye(own)).unsure * reading.leg
        names = ("ankle_near", "heel_near", "toe_near")

        def higher(n: int, points: dict[str, Place]) -> Mapping[str, Place]:
            return points | {k: (points[k][0], points[k][1] - up) for k in names} if n == middle else points

        track = by_eye(own, higher)
        figures = [
            f and replace(f, hidden=f.hidden | set(names[1:])) if n == middle and hides else f
            for n, f in enumerate(track.figures(FIGURE))
        ]
        return ("ankle_near", middle) in scene_of(own, track.with_marks(FIGURE, tuple(figures))).off

    def test_it_is_off_by_half_as_much_again_or_not_at_all(self) -> None:
        for times, hides, told in ((1.35, False, True), (1.35, True, False), (2.2, True, True), (0.5, False, False)):
            with self.subTest(times=times, hides=hides):
                self.assertEqual(self.found(times, hides=hides), told)
