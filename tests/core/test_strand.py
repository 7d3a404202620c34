"""Chains and tails are followed: joints, middle lines, weights, and the point from which they hang."""

from __future__ import annotations

import math
import random
import unittest
from dataclasses import replace

import cv2
import numpy as np

from bench.apart import strand_measure, strands
from motion.account.pendulum.examples import example
from motion.analysis import judge, of_plan
from motion.brief import Brief, PendulumBrief, Strictness
from motion.clip import Clip, Exposure, Unseen
from motion.exercises.pendulum import strand
from motion.exercises.pendulum.truth import LINE, of_parts
from motion.report.file import to_json
from motion.track import Line, Pivot, Shape, Track
from motion.tracking.ellipse import Ellipse
from motion.tracking.placing import Placement
from motion.tracking.subjects.strand import breaks as along_it
from motion.tracking.subjects.strand import links
from motion.tracking.subjects.strand.root import root_of
from motion.tracking.subjects.strand.topology import ways_through
from motion.tracking.subjects.strand.weight import weight_of

LOOK = strands.Look(
    links="capsules",
    wide=10.0,
    thin=10.0,
    outline=0.0,
    hook=True,
    paper=(246, 241, 228),
    ink=(30, 60, 160),
    fill=(90, 160, 90),
)


def swung(hangs: str, *, weight: bool, seed: int = 3) -> strands.Strand:
    """A short clip of one that drags."""
    planned = strands.plan(random.Random(seed), hangs, drag=2.0, weight=weight)
    return replace(planned, points=planned.points[:32], frames=planned.frames[:32])


def track_of(hung: strands.Strand) -> Track:
    """It as perfectly measured."""
    starts = np.cumsum([1, *hung.frames])
    ends = [(float(p[-1, 0]), float(p[-1, 1])) for p in hung.points]
    x, y = (float(v) for v in hung.points[0, 0])
    return of_parts(
        tuple(
            Exposure(drawing=n + 1, first_frame=int(starts[n]), frames=frames) for n, frames in enumerate(hung.frames)
        ),
        tuple(
            Shape(
                drawing=n,
                x=end[0],
                y=end[1],
                major=9,
                minor=9,
                angle=0,
                bottom=end[1] + 4.5,
                clipped=False,
                confidence=0.99,
                bare=True,
            )
            for n, end in enumerate(ends, start=1)
        ),
        tuple(
            Line(drawing=n, points=tuple((float(a), float(b)) for a, b in p), confidence=0.99)
            for n, p in enumerate(hung.points, start=1)
        ),
        tuple(range(len(ends))),
        Pivot(x=x, y=y, confidence=0.99),
    )


class Pictures(unittest.TestCase):
    def test_a_chains_joints_and_its_pivot_are_found(self) -> None:
        for weight in (False, True):
            hung = swung("chain", weight=weight)
            found = strand_measure.analysed(hung, LOOK, None, drags=True)
            told = to_json(found)["track"]
            with self.subTest(weight=weight):
                off = np.array([c["points"] for c in told["chains"]]) - hung.points
                self.assertLess(float(np.median(np.hypot(off[:, 1:-1, 0], off[:, 1:-1, 1]))), 0.5)
                self.assertLess(float(np.hypot(off[:, -1, 0], off[:, -1, 1]).max()), 1.0)
                self.assertLess(math.dist(told["pivot"], hung.points[0, 0]), 0.7)
                self.assertEqual([c["bob"] is not None for c in told["chains"]], [weight] * len(hung.points))
                self.assertEqual([f.code for f in found.findings], [])

    def test_a_tail_is_told_by_nine_points_at_equal_distances(self) -> None:
        hung = swung("tail", weight=False)
        found = strand_measure.analysed(hung, replace(LOOK, wide=16.0, thin=5.0, outline=2.0), "lossless", drags=True)
        lines = found.track.lines(LINE)
        for line, truth in zip(lines, hung.points, strict=True):
            assert line is not None
            wanted = strand_measure.evenly(truth)
            self.assertEqual(len(line.points), 9)
            self.assertLess(float(np.hypot(*(np.array(line.points) - wanted).T).max()), 2.5)


class Links(unittest.TestCase):
    def test_stiff_links_are_told_from_each_other_by_all_drawings(self) -> None:
        hung = swung("chain", weight=False)
        count = len(hung.points[0]) - 1
        breaks = along_it.breaks_of(list(hung.points), None)
        self.assertEqual(len(breaks) - 1, count)
        lengths = np.hypot(*np.diff(hung.points[0], axis=0).T)
        shares = np.concatenate([[0.0], np.cumsum(lengths) / lengths.sum()])
        self.assertLess(float(np.abs(np.array(breaks) - shares).max()), 1.5 / (along_it.STATIONS - 1))

    def test_so_many_links_as_are_asked_for_are_looked_for(self) -> None:
        hung = swung("chain", weight=False)
        self.assertEqual(len(along_it.breaks_of(list(hung.points), 3)), 4)

    def test_a_drawing_of_which_next_to_nothing_shows_keeps_the_links(self) -> None:
        hung = swung("chain", weight=False)
        lines = [*hung.points[:-1], hung.points[-1][[0, -1]]]
        breaks = along_it.breaks_of(lines, len(hung.points[0]) - 1)
        pivot = float(hung.points[0, 0, 0]), float(hung.points[0, 0, 1])
        told, fixed = [links.links_of(line, breaks, 5.0) for line in lines], (False,) * (len(breaks) - 2)
        chains = links.joints_of(told, links.lengths_of(told, lines, breaks, pivot, fixed), lines, pivot, fixed)
        self.assertEqual({len(c) for c in chains}, {len(hung.points[0])})
        self.assertTrue(np.isfinite(np.array(chains)).all())

    def test_parts_that_lie_apart_hang_together_by_the_shortest_way(self) -> None:
        marked = np.zeros((120, 60), bool)
        marked[10:50, 26:34] = marked[60:110, 26:34] = True
        ways = ways_through(marked)
        assert ways is not None
        ((_, one), (_, other)) = ways.apart[0]
        self.assertEqual(len(ways.apart), 1)
        self.assertLess(abs(abs(one - other) - 11), 3)
        self.assertGreater(float(ways.far_from(ways.nearest((30.0, 10.0))).max()), 95)

    def test_the_root_is_where_all_middle_lines_lead(self) -> None:
        hung = swung("chain", weight=False)
        first = [p[0] + np.linspace(0.2, 0.9, 12)[:, None] * (p[1] - p[0]) for p in hung.points]
        x, y = hung.points[0, 0]
        found = root_of(first, (float(x) + 9, float(y) - 7), bends=False)
        self.assertLess(math.dist(found, (x, y)), 0.1)


class Judged(unittest.TestCase):
    def judged(self, hung: strands.Strand) -> list[tuple[str, int, str | None]]:
        clip = Clip(
            name="chain", fps=24, width=hung.width, height=hung.height, footage=Unseen(), picture_frames=hung.frames
        )
        brief = Brief(asked=PendulumBrief(hangs="chain"))
        return [(f.code, f.first_frame, f.part) for f in judge(clip, brief, track_of(hung)).findings]

    def test_a_chain_that_drags_is_clean(self) -> None:
        self.assertEqual(self.judged(swung("chain", weight=False)), [])

    def test_a_link_drawn_longer_once_is_told_with_its_number(self) -> None:
        hung = swung("chain", weight=False)
        points = hung.points.copy()
        way = points[12, 2] - points[12, 1]
        points[12, 2:] += 0.2 * way
        found = self.judged(replace(hung, points=points))
        self.assertIn(("volume.length", 1 + sum(hung.frames[:12]), "link 2"), found)

    def test_what_a_person_places_leaves_the_joints_between_as_they_were_found(self) -> None:
        track = track_of(swung("chain", weight=False))
        before = track.lines(LINE)[4]
        placed = strand.applied(track, Placement(shapes={5: Ellipse(x=300, y=310, major=20, minor=20, angle=0)}))
        after = placed.lines(LINE)[4]
        assert before is not None and after is not None
        self.assertEqual(after.points[1:-1], before.points[1:-1])
        self.assertEqual(after.points[-1], (300, 310))

    def dragged(self, hangs: str, drag: float, strictness: Strictness = "standard") -> list[str]:
        hung = strands.plan(random.Random(5), hangs, drag=drag, weight=False)
        if hangs == "tail":
            hung = replace(hung, points=np.array([strand_measure.evenly(p) for p in hung.points]))
        clip = Clip(
            name="hung", fps=24, width=hung.width, height=hung.height, footage=Unseen(), picture_frames=hung.frames
        )
        brief = Brief(asked=PendulumBrief(hangs=hangs), strictness=strictness)  # type: ignore[arg-type]
        return [f.code for f in judge(clip, brief, track_of(hung)).findings]

    def test_parts_that_move_as_one_bar_are_told_and_those_that_follow_are_not(self) -> None:
        for hangs in ("chain", "tail"):
            # Each of the four parts of a tail comes three quarters of a whole part's drag later.
            share = 1.0 if hangs == "chain" else 4 / 3
            for drag, codes in (
                (0.4, ["overlap.stiff"]),
                (0.65, []),
                (-0.6, ["overlap.stiff"]),
                (-0.95, ["overlap.leads"]),
            ):
                with self.subTest(hangs=hangs, drag=drag):
                    self.assertEqual(self.dragged(hangs, drag * share), codes)

    def test_parts_that_come_to_rest_one_after_the_other_are_clean_and_together_are_told(self) -> None:
        shown = example("overlap.stops_together")
        brief = Brief(asked=PendulumBrief(hangs="chain"))
        self.assertEqual([f.code for f in of_plan(shown.right, brief).findings], [])
        self.assertEqual([f.code for f in of_plan(shown.wrong, brief).findings], ["overlap.stops_together"])
        free = Brief(asked=PendulumBrief(hangs="chain", drag=False))
        self.assertEqual([f.code for f in of_plan(shown.wrong, free).findings], [])

    def test_parts_that_follow_at_first_and_stop_together_are_not_stiff(self) -> None:
        for number in range(6):
            for hangs in ("chain", "tail"):
                planted = strand_measure.planted("overlap.stops_together", hangs, number)
                assert planted is not None
                with self.subTest(hangs, number=number):
                    codes = [f.code for f in strand_measure.judged(planted[0]) if f.code.startswith("overlap")]
                    self.assertEqual(codes, ["overlap.stops_together"])

    def test_however_strictly_a_part_that_does_not_follow_is_either_stiff_or_leads(self) -> None:
        strictness: Strictness
        for strictness in ("gentle", "standard", "strict"):
            for drag in (-1.6, -0.95, -0.6, -0.35, 0.0):
                with self.subTest(strictness=strictness, drag=drag):
                    found = self.dragged("chain", drag, strictness)
                    self.assertEqual(len([c for c in found if c.startswith("overlap.")]), 1)


class Weights(unittest.TestCase):
    def test_one_little_thicker_than_wide_links_keeps_its_size_however_it_hangs(self) -> None:
        sizes, hook = [], np.array([230.0, 30.0])
        for turn in range(-40, 41, 8):
            end = hook + 270 * np.array([math.sin(math.radians(turn)), math.cos(math.radians(turn))])
            begins, ends = ((round(16 * x), round(16 * y)) for x, y in (hook, end))
            filled = np.zeros((460, 460), np.uint8)
            cv2.line(filled, begins, ends, 1, 33, cv2.LINE_8, 4)
            cv2.circle(filled, ends, 24 * 16, 1, -1, cv2.LINE_8, 4)
            late = np.zeros(filled.shape, bool)
            late[170:] = True
            weight = weight_of(filled.astype(np.float32), filled > 0, (0, 0), 16.5, late)
            assert weight is not None
            self.assertLess(math.dist((weight.x, weight.y), end), 4.0)
            sizes.append(weight.major * weight.minor)
        self.assertLess(max(sizes) / min(sizes), 1.08, sizes)
