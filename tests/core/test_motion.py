"""The ideal bounce, marks, and the separate process."""

from __future__ import annotations

import resource
import time
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from motion import marks, sandbox
from motion.catalogue import PRINCIPLES
from motion.errors import NotAClip, ReadingStopped
from motion.exercises.bounce import ideal
from motion.findings import severity


class Ideal(unittest.TestCase):
    @given(st.floats(20, 900), st.floats(0.3, 20), st.lists(st.floats(0.3, 0.95), max_size=6))
    def test_heights_go_with_the_square_of_the_speed_kept(
        self, height: float, gravity: float, kept: list[float]
    ) -> None:
        flights = ideal.dropped(height, gravity, kept)
        for share, one, other in zip(kept, flights, flights[1:], strict=False):
            self.assertAlmostEqual(other.top / one.top, share**2, places=6)
            self.assertAlmostEqual(other.left, one.lands)
        self.assertAlmostEqual(flights[0].height(1.0), height, delta=1e-6 * height)
        self.assertAlmostEqual(ideal.hop_frames(height, gravity), flights[0].lands - flights[0].left, places=6)


SEVERITIES = st.sampled_from(["slight", "clear", "strong"])
WEIGHTS = st.sampled_from([0.0, 0.5, 1.0, 2.0])
FOUND = st.tuples(st.sampled_from(PRINCIPLES), SEVERITIES, WEIGHTS)
AGREED = st.lists(FOUND, max_size=12)
Found = tuple[str, str, float]
GRAVER = {"slight": "clear", "clear": "strong", "strong": "strong"}


class Marks(unittest.TestCase):
    POINTS = dict.fromkeys(PRINCIPLES, 10.0)

    @given(AGREED, FOUND)
    def test_a_further_finding_never_raises_a_mark(self, agreed: list[Found], more: Found) -> None:
        before, after = marks.propose(self.POINTS, agreed), marks.propose(self.POINTS, [*agreed, more])
        for principle in PRINCIPLES:
            self.assertLessEqual(after[principle], before[principle])
            self.assertTrue(0 <= after[principle] <= 10)

    @given(AGREED.filter(bool))
    def test_a_graver_finding_never_raises_a_mark(self, agreed: list[Found]) -> None:
        principle, severity, weight = agreed[0]
        graver = [(principle, GRAVER[severity], weight), *agreed[1:]]
        before, after = marks.propose(self.POINTS, agreed), marks.propose(self.POINTS, graver)
        self.assertTrue(all(after[p] <= before[p] for p in PRINCIPLES))

    @given(AGREED.filter(bool))
    def test_what_weighs_nothing_costs_nothing_and_what_weighs_more_costs_no_less(self, agreed: list[Found]) -> None:
        principle, severity, _ = agreed[0]
        points = [
            marks.propose(self.POINTS, [(principle, severity, weight), *agreed[1:]])[principle]
            for weight in (0.0, 0.5, 1.0, 2.0)
        ]
        self.assertEqual(points[0], marks.propose(self.POINTS, agreed[1:])[principle])
        self.assertEqual(points, sorted(points, reverse=True))

    def test_lateness_takes_its_share_of_the_whole(self) -> None:
        self.assertEqual([marks.after_late(47.5, cost) for cost in (0.0, 0.1, 0.5, 1.0)], [47.5, 43.0, 24.0, 0.0])

    def test_nothing_agreed_is_full_points(self) -> None:
        self.assertEqual(marks.propose(self.POINTS, []), self.POINTS)

    def test_severity_by_times_of_the_tolerance(self) -> None:
        self.assertEqual(
            [severity(t) for t in (1.5, 2.0, 3.0, 4.0, 4.5)], ["slight", "slight", "clear", "clear", "strong"]
        )


def answer(number: int, tell: sandbox.Tell) -> int:
    tell(0.5, "halfway")
    return number + 1


def refuse(tell: sandbox.Tell) -> None:
    raise NotAClip("There is only one picture in it.")


def sleep(tell: sandbox.Tell) -> None:
    time.sleep(60)


def grow(tell: sandbox.Tell) -> int:
    return len(bytearray(40_000_000_000))


def crash(tell: sandbox.Tell) -> None:
    import os
    import signal

    os.kill(os.getpid(), signal.SIGSEGV)


PICTURE_BYTES, FEW, ROUNDS = 4_000_000, 4, 20


def faults(tell: sandbox.Tell) -> int:
    """How many pages of memory had to be asked for, to hold a few pictures after the other."""
    before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
    for level in range(ROUNDS):
        [np.full(PICTURE_BYTES, level, np.uint8) for _ in range(FEW)]
    return resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before


class Sandbox(unittest.TestCase):
    def test_the_memory_of_pictures_serves_the_next(self) -> None:
        self.assertLess(sandbox.run(faults) * resource.getpagesize(), 3 * FEW * PICTURE_BYTES)

    def test_answers_and_progress_come_back(self) -> None:
        told: list[tuple[float, str]] = []
        self.assertEqual(sandbox.run(answer, 41, progress=lambda part, step: told.append((part, step))), 42)
        self.assertEqual(told, [(0.5, "halfway")])

    def test_refusals_come_back_as_they_are(self) -> None:
        with self.assertRaisesRegex(NotAClip, "only one picture"):
            sandbox.run(refuse)

    def test_too_long_too_large_or_crashed_is_said(self) -> None:
        for work, seconds in ((sleep, 0.5), (grow, 30.0), (crash, 30.0)):
            with self.subTest(work.__name__), self.assertRaises(ReadingStopped):
                sandbox.run(work, seconds=seconds)
