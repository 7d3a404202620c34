"""Walks of real people, which are good work, and faults that are told once, or not, as they are."""

from __future__ import annotations

import random
from dataclasses import replace
from unittest import TestCase

from bench.apart import recorded, walk_measure, walks
from bench.apart.recorded import CLOSES, stride_of
from bench.apart.walk_measure import judged, spoilt
from bench.apart.walks import SIDES, Walk
from motion.exercises.walk.checks import arcs
from motion.exercises.walk.checks.again import once
from motion.exercises.walk.follow import swapped_sides
from motion.exercises.walk.scene import Scene, look
from motion.exercises.walk.sides import ARMS, sorted_arms
from motion.exercises.walk.truth import FIGURE
from motion.findings import Finding


def scene_of(walk: Walk) -> Scene:
    """A walk as perfectly measured, and read."""
    found = look(walk_measure.track_of(walk), walk_measure.brief_of(walk), walk.manner.width)
    assert found is not None
    return found


class Recorded(TestCase):
    def test_a_stride_goes_on_and_closes(self) -> None:
        places, length, seconds = stride_of(CLOSES)
        self.assertTrue(1.2 < length < 1.8 and 0.9 < seconds < 1.5)
        for x, y in places.values():
            self.assertAlmostEqual(float(x(0)), float(x(1)), places=6)
            self.assertAlmostEqual(float(y(0)), float(y(1)), places=6)

    def test_how_people_walk_is_clean_from_either_side(self) -> None:
        for whole, most in ((False, 1), (True, 2)):
            found = {}
            for number in range(25):
                walk = recorded.plan(random.Random(f"recorded {whole} {number}"), whole=whole)
                found[number] = [f.message for f in judged(walk)]
            with self.subTest(whole=whole):
                self.assertLessEqual(sum(map(bool, found.values())), most, found)

    def test_contacts_are_where_feet_come_down(self) -> None:
        met = wanted = 0
        for number in range(25):
            walk = recorded.plan(random.Random(f"landing {number}"))
            told = [(c.index, c.side) for c in scene_of(walk).reading.contacts]
            inner = [c for c in walk.contacts if 0 < c[0] < len(walk.drawings) - 2]
            wanted += len(inner)
            met += sum(any(abs(i - at) <= 1 and own == side for i, own in told) for at, side in inner)
        self.assertGreater(met / wanted, 0.94)

    def test_a_foot_that_hangs_in_them_is_found(self) -> None:
        """In the drawing in which it comes down, by two and a half tolerances."""
        hits, tried = 0, 12
        for number in range(tried):
            walk = recorded.plan(random.Random(f"hangs {number}"))
            at, side = next(c for c in walk.contacts if c[0] > 0)
            points = dict(walk.drawings[at].points)
            for name in (f"heel_{side}", f"toe_{side}", f"ankle_{side}"):
                x, y = points[name]
                low = walk.manner.ground - max(points[f"heel_{side}"][1], points[f"toe_{side}"][1])
                points[name] = x, y + low - 0.0625 * walk.manner.leg
            spoiled = walks.with_drawings(walk, {at: replace(walk.drawings[at], points=points)})
            frame = 1 + sum(d.frames for d in walk.drawings[:at])
            hits += any(f.code == "contact.gap" and abs(f.first_frame - frame) <= 2 for f in judged(spoiled))
        self.assertGreaterEqual(hits, tried - 1)


class ByEye(TestCase):
    """Walks that were told less surely than measured ones."""

    def told(self, walk: Walk) -> Scene:
        """A walk as told from pictures."""
        track = walk_measure.track_of(walk)
        figures = [f and replace(f, confidence=0.9) for f in track.figures(FIGURE)]
        found = look(track.with_marks(FIGURE, tuple(figures)), walk_measure.brief_of(walk), walk.manner.width)
        assert found is not None
        return found

    def test_a_body_that_glides_is_told_though_no_step_is(self) -> None:
        for number in range(4):
            walk, _ = spoilt("arc.flat", random.Random(f"glides {number}"))
            good = walks.plan(random.Random(f"glides not {number}"))
            for own, codes in ((walk, ["arc.flat"]), (good, [])):
                scene = self.told(own)
                bare = replace(scene, reading=replace(scene.reading, paces=(), contacts=()))
                self.assertEqual([f.code for f in arcs.flat(bare)], codes)

    def test_where_no_foot_shows_at_first_it_is_not_said_to_stand(self) -> None:
        walk = walks.plan(random.Random("feet hidden 3"))
        self.assertTrue(all(p.judged for p in self.told(walk).reading.paces))
        track = walk_measure.track_of(walk)
        feet = frozenset(n for n in walk.drawings[0].points if n.split("_")[0] in ("heel", "toe", "ankle"))
        figures = [f and (replace(f, hidden=feet) if n < 3 else f) for n, f in enumerate(track.figures(FIGURE))]
        hidden = look(track.with_marks(FIGURE, tuple(figures)), walk_measure.brief_of(walk), walk.manner.width)
        assert hidden is not None
        self.assertTrue(hidden.reading.paces)
        self.assertTrue(all(p.judged for p in hidden.reading.paces))

    def test_arms_of_alike_sides_are_kept_where_the_order_of_drawings_breaks(self) -> None:
        steps = scene_of(walks.plan(random.Random("arms alike"), whole=True)).reading.steps
        for broken in (True, False):
            turned = [
                replace(s, drawing=s.drawing + 10 * broken, figure=s.figure and swapped_sides(s.figure, ARMS[1]))
                if s.index >= len(steps) // 2
                else s
                for s in steps
            ]
            own, before, other = (
                [[s.at(n) for n in ("hand_near", "hand_far")] for s in some]
                for some in (sorted_arms(turned, 100.0), turned, steps)
            )
            with self.subTest(broken=broken):
                # Drawings that follow each other have had their arms kept as they were told.
                kept = other if broken else before
                self.assertIn(own, (kept, [pair[::-1] for pair in kept]))

    def test_a_hand_that_leaps_is_the_other_one_where_sides_are_alike(self) -> None:
        found = {}
        for share in (0.09, 0.3):
            walk = walks.plan(random.Random("a hand leaps"), whole=True)
            at = len(walk.drawings) // 2
            x, y = walk.drawings[at].points["hand_near"]
            points = {**walk.drawings[at].points, "hand_near": (x, y - share * walk.manner.leg)}
            leaping = walks.with_drawings(walk, {at: replace(walk.drawings[at], points=points)})
            scene = self.told(leaping)
            for sides in ("told", "same"):
                asked = replace(scene.asked, sides=sides)  # type: ignore[arg-type]
                again = Scene(
                    brief=replace(scene.brief, asked=asked), track=scene.track, reading=scene.reading, width=scene.width
                )
                found[share, sides] = {name for name, _ in again.off}
        self.assertEqual(found[0.09, "same"], {"hand_near"})
        self.assertEqual(found[0.3, "told"], {"hand_near"})
        self.assertEqual(found[0.3, "same"], set())


class AtTheEnds(TestCase):
    def test_a_knee_that_opens_as_the_clip_begins_does_not_snap(self) -> None:
        """How fast it went before that is not shown."""
        for number in range(2):
            walk, at = spoilt("spacing.pops", random.Random(f"planted spacing.pops {number}"))
            self.assertIn("spacing.pops", {f.code for f in judged(walk)})
            begun = replace(walk, drawings=walk.drawings[at[0] - 1 :], manner=replace(walk.manner, loop=False))
            self.assertNotIn("spacing.pops", {f.code for f in judged(begun)})


class Again(TestCase):
    def told(self, frame: int, part: str = "near foot", principle: str = "arcs") -> Finding:
        return Finding(
            code="arc.off_path", principle=principle, first_frame=frame, last_frame=frame, measured=5.0, expected=0.0,
            tolerance=3.0, unit="px", severity="slight", confidence=0.9, message="Off.", advice="Move it.", part=part,
            overlay=({"kind": "point", "frame": frame},),
        )  # fmt: skip

    def test_what_is_wrong_with_a_drawing_is_told_once(self) -> None:
        steps = scene_of(walks.plan(random.Random("again"))).reading.steps[:12]
        shown = [replace(s, drawing=1 + s.index % 4, frame=1 + s.index, frames=1) for s in steps]
        (one,) = once([self.told(2), self.told(6), self.told(10)], shown)
        self.assertEqual(one.message, "Off. The drawing shows again on frames 6 and 10.")
        self.assertEqual([mark["frame"] for mark in one.overlay], [2, 6, 10])
        # A step later it is the other side's.
        self.assertEqual(len(once([self.told(2), self.told(6, "far foot")], shown)), 1)
        both = [self.told(2, f"{side} foot") for side in SIDES] + [self.told(6, f"{side} foot") for side in SIDES]
        self.assertEqual([f.part for f in once(both, shown)], ["near foot", "far foot"])
        for others in (self.told(3), self.told(6, "hips"), self.told(6, principle="timing")):
            self.assertEqual(len(once([self.told(2), others], shown)), 2)
