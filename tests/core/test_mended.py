"""A take shown mended: its own drawings, cut out and moved, are found where they belong, with no finding left."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from motion.analysis import analyse
from motion.clip import Picture
from motion.exercises.bounce.plan import Recipe
from motion.export import mended
from motion.export.mended import Shown
from motion.report.file import to_json
from motion.synth.bounce import draw
from motion.synth.draw import of_pictures
from motion.synth.look import LOOKS
from tests.core.drawn import SOFT, with_fault

SMALL = Recipe(width=480, height=270, diameter=34, ground_y=225, drop_px=150, start_x=50, speed_x=9, kept=(0.8, 0.8))


class Mending(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def told(self, code: str, look: str) -> dict[str, Any]:
        """The findings file of a take with that fault; its drawings lie in the folder."""
        result = analyse(of_pictures(list(draw.frames(with_fault(code, 2.5, SMALL)[0], LOOKS[look], 3)), 24), SOFT)
        for number, picture in enumerate(result.clip.footage.pictures(result.track.pictures), start=1):
            Image.fromarray(picture).save(self.folder / f"{number}.png")
        return to_json(result)

    def shown(self, told: dict[str, Any], plan: list[Shown]) -> list[tuple[Picture, int]]:
        moved = dict(mended.pictures(told, self.folder, plan))
        own = [np.asarray(Image.open(self.folder / f"{s.drawing}.png").convert("RGBA")) for s in plan]
        return [(moved.get(i, own[i]), s.frames) for i, s in enumerate(plan)]

    def test_no_finding_is_left_in_what_is_shown(self) -> None:
        for code, look in (
            ("contact.gap", "clean"),
            ("arc.off_path", "pencil"),
            ("spacing.jump", "cel"),
            ("volume.changes", "harbour"),
            ("timing.hold", "clean"),
            ("spacing.hangs", "cut-out"),
        ):
            with self.subTest(code, look=look):
                told = self.told(code, look)
                self.assertEqual([f["code"] for f in told["findings"]], [code])
                again = analyse(of_pictures(self.shown(told, mended.plan(told, told["findings"])), 24), SOFT)
                self.assertEqual([f.code for f in again.findings], [])

    def test_only_what_is_agreed_is_mended_and_only_there(self) -> None:
        told = self.told("contact.gap", "harbour")
        self.assertTrue(all(s.place is None for s in mended.plan(told, [])))
        (finding,) = told["findings"]
        plan = mended.plan(told, [finding])
        (index,) = [i for i, s in enumerate(plan) if s.place]
        before = np.asarray(Image.open(self.folder / f"{plan[index].drawing}.png").convert("RGBA"), dtype=int)
        ((_, after),) = mended.pictures(told, self.folder, plan)
        rows, columns = np.nonzero(np.abs(after.astype(int) - before).max(axis=2) > 6)
        shape = next(s for s in told["track"]["shapes"] if s["drawing"] == plan[index].drawing)
        self.assertLess(np.hypot(columns - shape["x"], rows - shape["y"]).max(), shape["major"])

    def test_drawings_are_added_within_a_hold_and_after_the_end(self) -> None:
        told = {
            "clip": {
                "exposures": [
                    {"drawing": 1, "first_frame": 1, "frames": 1},
                    {"drawing": 2, "first_frame": 2, "frames": 6},
                ]
            }
        }
        marks = [{"kind": "place", "frame": f, "x": 1, "y": 1, "major": 2, "minor": 2, "angle": 0} for f in (3, 4, 9)]
        plan = mended.plan(told, [{"overlay": marks}])
        self.assertEqual([(s.drawing, s.frames, s.place is not None) for s in plan],
                         [(1, 1, False), (2, 1, False), (2, 1, True), (2, 4, True), (2, 1, True)])  # fmt: skip


if __name__ == "__main__":
    unittest.main()
