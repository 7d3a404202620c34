"""Chains where following is hard: outlined alone, thick at the root, straight all along, come apart; and mended."""

from __future__ import annotations

import math
import random
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from bench.apart import strand_faults, strand_measure, strands
from motion.analysis import Analysis, analyse
from motion.brief import Brief, PendulumBrief, Swing
from motion.clip import Picture
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.track_file import track_read
from motion.exercises.pendulum.truth import LINE
from motion.export import mended
from motion.report.file import read_back, to_json
from motion.synth import draw
from motion.synth.draw import of_pictures
from motion.synth.look import LOOKS
from motion.synth.pendulum.faults import FAULTS
from motion.tracking.subjects.strand.apart import parted
from motion.tracking.subjects.strand.breaks import told_by
from motion.tracking.subjects.strand.links import LinkLine

PAPER = (246, 241, 228)
PLAIN = strands.Look(
    links="capsules", wide=24.0, thin=24.0, outline=0.0, hook=True, paper=PAPER, ink=(40, 40, 44), fill=(90, 160, 90)
)


def chain(seed: int = 3, drag: float = 2.0) -> strands.Strand:
    """A short clip of a chain."""
    planned = strands.plan(random.Random(seed), "chain", drag=drag, weight=False)
    return replace(planned, points=planned.points[:24], frames=planned.frames[:24])


def points_of(result: Analysis) -> list[np.ndarray]:
    """Each drawing's points, in order."""
    return [np.array(line.points) for line in result.track.lines(LINE) if line is not None]


class Roots(unittest.TestCase):
    def test_a_thick_chain_and_one_of_outlines_alone_are_followed_to_their_pivot(self) -> None:
        hung = chain()
        for name, look in (
            ("filled", PLAIN),
            ("outlined", replace(PLAIN, outline=3.0)),
            ("hollow", replace(PLAIN, outline=3.0, fill=PAPER)),
            ("hollow and thin", replace(PLAIN, wide=11.0, thin=11.0, outline=3.0, fill=PAPER)),
        ):
            with self.subTest(name):
                found = strand_measure.analysed(hung, look, None, drags=True)
                off = np.array(points_of(found)) - hung.points
                self.assertLess(float(np.hypot(off[:, 0, 0], off[:, 0, 1]).max()), 0.7)
                self.assertLess(float(np.median(np.hypot(off[:, 1:-1, 0], off[:, 1:-1, 1]))), 0.6)
                self.assertLess(float(np.percentile(np.hypot(off[:, -1, 0], off[:, -1, 1]), 95)), 1.5)


class Joints(unittest.TestCase):
    def test_what_is_drawn_tells_the_joints_of_a_chain_that_never_turns(self) -> None:
        brief = Brief(
            canvas=(640, 360),
            asked=PendulumBrief(hangs="chain"),
            guide=Swing(pivot_x=320, pivot_y=40, length=210, wide=22, angle=-36, count=2, swing_s=0.7),
        )
        stiff = FAULTS["overlap.stiff"](plan_of(brief), np.random.default_rng(1), 2.5)
        assert stiff is not None
        for look in ("clean", "pencil"):
            clip = of_pictures(list(draw.frames("pendulum", stiff, LOOKS[look], 2)), 24)
            found = analyse(clip, replace(brief, guide=None))
            with self.subTest(look):
                self.assertEqual([f.code for f in found.findings], ["overlap.stiff"])
                lengths = [np.hypot(*np.diff(p, axis=0).T) for p in points_of(found)]
                self.assertLess(float(np.abs(np.array(lengths) - 70).max()), 3.0)

    def test_turning_tells_first_what_is_drawn_next_and_else_it_is_shared_evenly(self) -> None:
        self.assertEqual(told_by((0, 0.3, 1), [20.0], [0.6], 3, 0.04), ((0, 0.3, 0.6, 1), (False, True)))
        self.assertEqual(told_by((0, 0.31, 0.5, 1), [20.0, 1.0], [0.3, 0.62], 3, 0.04)[0], (0, 0.31, 0.62, 1))
        even, fixed = told_by((0, 0.2, 0.4, 1), [1.0, 1.0], [], 3, 0.04)
        np.testing.assert_allclose(even, (0, 1 / 3, 2 / 3, 1))
        self.assertEqual(fixed, (True, True))
        # Where it surely turns and nothing is drawn, a line elsewhere is no joint.
        self.assertEqual(told_by((0, 0.5, 1), [20.0], [0.8], None, 0.04)[0], (0, 0.5, 1))


class Apart(unittest.TestCase):
    def parted(self, *, longer: float = 0.0, moved: tuple[float, float] = (0.0, 0.0), ink: bool = True) -> int | None:
        """The joint at which three links of 100 px are told as apart; the second one longer, the third one moved."""
        ways = [(0.0, 1.0), (0.3, math.sqrt(1 - 0.09)), (0.5, math.sqrt(0.75))]
        at, links = np.zeros(2), []
        for k, way in enumerate(ways):
            at = at + (np.array(moved) if k == 2 else 0)
            middle = at + 50 * np.array(way)
            links.append(LinkLine(float(middle[0]), float(middle[1]), *way))
            at = at + (100 + (longer if k == 1 else 0)) * np.array(way)
        told = parted(links, [100.0] * 3, (0.0, 0.0), (float(at[0]), float(at[1])), 4.0, lambda one, other: ink)
        return told.joint if told else None

    def test_a_link_moved_aside_is_apart_and_one_drawn_longer_is_not(self) -> None:
        self.assertIsNone(self.parted())
        self.assertIsNone(self.parted(longer=15.0))
        self.assertEqual(self.parted(moved=(12.0, 0.0)), 2)
        self.assertEqual(self.parted(longer=15.0, ink=False), 2)
        self.assertIsNone(self.parted(moved=(2.0, 0.0)))

    def test_what_is_apart_is_found_in_pictures_and_kept_in_the_file(self) -> None:
        told = strand_faults.joint(random.Random("strand contact.joint chain 3"), "chain", strand_faults.TIMES)
        assert told is not None
        hung, (index,) = told
        found = strand_measure.analysed(hung, replace(PLAIN, wide=12.0), None, drags=True)
        frame = 1 + sum(hung.frames[:index])
        number, *moved = hung.apart[index]
        self.assertEqual(
            [(f.code, f.first_frame, f.part) for f in found.findings], [("contact.joint", frame, f"link {number + 1}")]
        )
        self.assertAlmostEqual(found.findings[0].measured or 0, math.hypot(*moved), delta=2.0)
        file = to_json(found)
        (chain_told,) = [c for c in file["track"]["chains"] if "apart" in c]
        again = track_read(read_back(file)[1], file["track"]).lines(LINE)[chain_told["drawing"] - 1]
        assert again is not None
        self.assertEqual(list(again.apart), [number])

    def test_just_inside_and_just_outside_its_tolerance(self) -> None:
        hung = chain()
        reach = float(np.median(np.hypot(*(hung.points[:, -1] - hung.points[:, 0]).T)))
        allowed = max(0.02 * reach, 2.0 * max(1.0, hung.width / 960))
        for times, codes in ((0.93, []), (1.07, ["contact.joint"])):
            points = hung.points.copy()
            points[12, 2:] += (times * allowed, 0.0)
            moved = replace(hung, points=points, apart={12: (1, times * allowed, 0.0)})
            with self.subTest(times=times):
                self.assertEqual([f.code for f in strand_measure.judged(moved)], codes)


class Mending(unittest.TestCase):
    def test_a_stiff_chain_and_one_that_leads_are_shown_with_parts_that_follow(self) -> None:
        for code, look, feel in (
            ("overlap.stiff", "pencil", {"wide": 24.0}),
            ("overlap.leads", "night", {"wide": 18.0, "weighted": True, "size": 40.0}),
        ):
            brief = Brief(
                canvas=(640, 360),
                asked=PendulumBrief(hangs="chain", links=3),
                guide=replace(Swing(pivot_x=320, pivot_y=40, length=210, angle=-36, count=3, swing_s=0.7), **feel),
            )
            planted = FAULTS[code](plan_of(brief), np.random.default_rng(1), 2.5)
            assert planted is not None
            plain = replace(brief, guide=None)
            found = analyse(of_pictures(list(draw.frames("pendulum", planted, LOOKS[look], 3)), 24), plain)
            with self.subTest(code), tempfile.TemporaryDirectory() as name:
                self.assertEqual([f.code for f in found.findings], [code])
                after = analyse(of_pictures(_mended(found, Path(name)), 24), plain)
                self.assertEqual([f.code for f in after.findings], [])


def _mended(found: Analysis, folder: Path) -> list[tuple[Picture, int]]:
    """The pictures of a clip shown mended by all that is found in it."""
    for number, picture in enumerate(found.clip.footage.pictures(found.track.pictures), start=1):
        Image.fromarray(picture).save(folder / f"{number}.png")
    told = to_json(found)
    plan = mended.plan(told, told["findings"])
    moved = dict(mended.pictures(told, folder, plan))
    own = [np.asarray(Image.open(folder / f"{s.drawing}.png").convert("RGBA")) for s in plan]
    return [(moved.get(i, own[i]), s.frames) for i, s in enumerate(plan)]


if __name__ == "__main__":
    unittest.main()
