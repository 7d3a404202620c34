"""Told from pictures: feet that hide as they scuff, slide or take a step, and cycles that leap as a whole."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from dataclasses import replace
from unittest import TestCase

from bench.apart import walks
from motion.exercises.walk.checks import as_asked
from motion.exercises.walk.figure import SIDES
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.truth import FIGURE
from motion.findings import Finding
from motion.track import Figure
from tests.core.test_walk_by_eye import Place, by_eye, found_in, scene_of, walk


class Scuffs(TestCase):
    def test_a_foot_that_hides_as_it_passes_scuffs_where_it_never_rises(self) -> None:
        own = walk()
        for dragged in (True, False):
            track = by_eye(own, self.dragged(own) if dragged else None)
            scene = scene_of(own, track)
            hidden = [self.passing_hidden(scene, n, f) for n, f in enumerate(track.figures(FIGURE))]
            told = found_in(scene_of(own, track.with_marks(FIGURE, tuple(hidden))), "contact.scuffs")
            with self.subTest(dragged=dragged):
                self.assertEqual(bool(told), dragged)

    def test_what_shows_of_a_foot_tells_how_low_it_comes(self) -> None:
        """All of the swing hides but for what is lowest of it in the passing drawings."""
        own = walk()
        for dragged in (True, False):
            track = by_eye(own, self.dragged(own) if dragged else None)
            scene = scene_of(own, track)
            seen = [self.swing_hidden(scene, n, f) for n, f in enumerate(track.figures(FIGURE))]
            for lows in (True, False):
                shown = [f if lows else replace(f, lows={}) for f in seen]
                told = found_in(scene_of(own, track.with_marks(FIGURE, tuple(shown))), "contact.scuffs")
                with self.subTest(dragged=dragged, lows=lows):
                    self.assertEqual(bool(told), dragged and lows)

    def test_a_foot_that_hides_as_it_is_dragged_on_has_taken_a_step(self) -> None:
        """It is never off the ground: that it has gone shows only where it comes out again."""
        own = walk()
        track = by_eye(own, self.dragged(own))
        scene = scene_of(own, track)
        seen = [self.swing_hidden(scene, n, f, also=("ankle",)) for n, f in enumerate(track.figures(FIGURE))]
        told = scene_of(own, track.with_marks(FIGURE, tuple(replace(f, lows={}) for f in seen))).reading
        before = [(c.side, c.index) for c in scene.reading.contacts]
        self.assertGreaterEqual(len(before), 3)
        for (side, index), contact in zip(before, told.contacts, strict=True):
            self.assertEqual(contact.side, side)
            self.assertLessEqual(abs(contact.index - index), 1)

    def dragged(self, own: walks.Walk) -> Callable[[int, dict[str, Place]], Mapping[str, Place]]:
        ground = own.manner.ground_at(0.0)

        def down(_: int, points: dict[str, Place]) -> Mapping[str, Place]:
            found = dict(points)
            for side in SIDES:
                high = ground - max(points[f"{end}_{side}"][1] for end in ("heel", "toe"))
                for joint in ("ankle", "heel", "toe"):
                    x, y = points[f"{joint}_{side}"]
                    found[f"{joint}_{side}"] = (x, y + max(0.0, high - 0.5))
            return found

        return down

    def swing_hidden(self, scene: Scene, index: int, figure: Figure | None, also: tuple[str, ...] = ()) -> Figure:
        assert figure is not None
        swings = [s for s in SIDES if any(a < index < b for a, b in scene.reading.swings(s))]
        lows = {s: max(figure.points[f"{end}_{s}"][1] for end in ("heel", "toe")) for s in swings}
        return replace(figure, lows=lows, hidden=frozenset(f"{n}_{s}" for n in ("heel", "toe", *also) for s in swings))

    def passing_hidden(self, scene: Scene, index: int, figure: Figure | None) -> Figure | None:
        assert figure is not None
        ends = set()
        for side in SIDES:
            for first, last in scene.reading.swings(side):
                if abs(index - (first + last) / 2) <= (last - first) / 6:
                    ends |= {f"heel_{side}", f"toe_{side}"}
        return replace(figure, hidden=figure.hidden | ends, lows={})


class Airborne(TestCase):
    def test_a_figure_that_flies_does_so_though_its_swinging_foot_hides(self) -> None:
        """The lowest of the drawing's ink tells that neither foot is down; a hidden one may be where that is low."""
        own = walk()
        reading = scene_of(own, by_eye(own)).reading
        stand = next(s for s in reading.stands if s.lands and s.leaves and s.last - s.first > 6)
        middle = (stand.first + stand.last) // 2
        other = next(side for side in SIDES if side != stand.side)

        def flying(n: int, points: dict[str, Place]) -> Mapping[str, Place]:
            up = 0.19 * reading.leg if n in (middle, middle + 1) else 0.0
            return {k: (x, y - up) for k, (x, y) in points.items()}

        track = by_eye(own, flying)
        for ink_flies in (True, False):
            figures = list(track.figures(FIGURE))
            for n in (middle, middle + 1):
                figure = figures[n]
                assert figure is not None
                ends = [at for k, at in figure.points.items() if k.startswith(("heel", "toe"))]
                low = max(y for _, y in ends) + (0.0 if ink_flies else 0.19 * reading.leg)
                span = (min(x for x, _ in ends), max(x for x, _ in ends))
                hidden = frozenset({f"heel_{other}", f"toe_{other}"})
                figures[n] = replace(figure, low=low, span=span, lows={}, hidden=figure.hidden | hidden)
            told = found_in(scene_of(own, track.with_marks(FIGURE, tuple(figures))), "contact.airborne")
            with self.subTest(ink_flies=ink_flies):
                self.assertEqual(bool(told), ink_flies)


class Slides(TestCase):
    def test_a_foot_that_slides_behind_the_other_one_does_so_where_it_hides(self) -> None:
        for by, hides in ((0.12, 3), (0.0, 3), (-0.12, 2)):
            told, gone = self.slid_by(by, hides)
            with self.subTest(by=by):
                self.assertEqual([f.part for f in told], ["near foot"] if by else [])
                for finding in told:
                    self.assertEqual((finding.first_frame, finding.last_frame), gone)
                    self.assertIn("between which it hides", finding.message)

    def test_what_a_foot_does_that_hides_for_most_of_a_step_is_not_known(self) -> None:
        self.assertEqual(self.slid_by(0.12, 9)[0], [])

    def slid_by(self, by: float, hides: int) -> tuple[list[Finding], tuple[int, int]]:
        """What is found of a near foot that goes on by such a share of the leg, and hides in so many drawings before.

        With the frames from where it hides to where it shows again.
        """
        own = walk()
        track = by_eye(own)
        reading = scene_of(own, track).reading
        stand = next(s for s in reading.stands if s.side == "near" and s.lands and s.leaves and s.last - s.first > 11)
        shows = (stand.first + stand.last + hides) // 2 + 1
        names = ("heel_near", "toe_near", "ankle_near")
        figures = []
        for n, figure in enumerate(track.figures(FIGURE)):
            assert figure is not None
            gone = by * reading.leg if shows <= n <= stand.last else 0.0
            moved = {k: (figure.points[k][0] + gone, figure.points[k][1]) for k in names}
            # Its knee goes half the way: neither thigh nor shin is of another length.
            moved["knee_near"] = (figure.points["knee_near"][0] + gone / 2, figure.points["knee_near"][1])
            hidden = frozenset(names) if shows - hides <= n < shows else figure.hidden
            figures.append(replace(figure, points={**figure.points, **moved}, hidden=hidden))
        steps = reading.steps
        told = found_in(scene_of(own, track.with_marks(FIGURE, tuple(figures))), "contact.slides")
        return told, (steps[shows - hides].frame, steps[shows].last_frame)


class Seams(TestCase):
    def test_a_figure_that_leaps_as_a_whole_need_leap_no_farther_than_asked(self) -> None:
        """What single landmarks may be off by, told from pictures, they are not all off by at once."""
        rng = random.Random("a cycle")
        while True:
            own = walks.plan(rng, whole=True)
            if own.manner.loop and own.manner.exposure == "ones" and len(own.drawings) > 14:
                break
        last, leg = len(own.drawings) - 1, own.manner.leg
        for names, by, found in (("", 0.062, True), ("", 0.0, False), ("ankle_near", 0.062, False)):

            def moved(n: int, points: dict[str, Place], names: str = names, by: float = by) -> Mapping[str, Place]:
                gone = by * leg if n == last else 0.0
                return {k: (x + gone * k.startswith(names), y) for k, (x, y) in points.items()}

            scene = scene_of(own, by_eye(own, moved))
            with self.subTest(names=names, by=by):
                self.assertEqual([f.code for f in as_asked.loop(scene)], ["timing.loop"] if found else [])
