"""How often a clip's pictures are decoded: once where they can be kept, and never all at once where they cannot."""

from __future__ import annotations

import tempfile
import unittest
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TypeVar, cast
from unittest import mock

from motion import formats
from motion.brief import Brief
from motion.clip import Clip, Footage, Picture, PlanarFootage, Planes
from motion.exercises.bounce.plan import Recipe, bounce
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from motion.tracking import scan
from motion.tracking.subjects import blob as ball

Given = TypeVar("Given")
SMALL = Recipe(width=320, height=180, diameter=26, ground_y=150, drop_px=95, start_x=30, speed_x=6, kept=(0.8, 0.8))


class Counted:
    """A footage that counts what is asked of it."""

    def __init__(self, footage: Footage) -> None:
        self._footage = footage
        self.decoded: Counter[int] = Counter()
        self.passes = 0

    def __len__(self) -> int:
        return len(self._footage)

    def fingerprint(self, index: int) -> str | None:
        return self._footage.fingerprint(index)

    @property
    def planar(self) -> bool:
        return isinstance(self._footage, PlanarFootage) and self._footage.planar

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return self._count(indices, self._footage.pictures(indices))

    def planes(self, indices: Sequence[int]) -> Iterator[Planes]:
        return self._count(indices, cast("PlanarFootage", self._footage).planes(indices))

    def _count(self, indices: Sequence[int], given: Iterator[Given]) -> Iterator[Given]:
        self.passes += bool(len(indices))
        for index, one in zip(indices, given, strict=True):
            self.decoded[index] += 1
            yield one


def counted(path: Path) -> tuple[Clip, Counted]:
    clip = formats.read(path, Brief().fps)
    footage = Counted(clip.footage)
    return replace(clip, footage=footage), footage


class Passes(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def clip(self, look: str, form: write.Form) -> Path:
        return write.save(draw.frames(bounce(SMALL), LOOKS[look], 3), self.folder / f"{look}.{form}", form, 24)

    def test_every_picture_of_a_short_clip_is_decoded_once(self) -> None:
        for look, form in (("clean", "zip"), ("scan", "zip"), ("harbour", "mp4"), ("photographed", "zip")):
            with self.subTest(look, form=form):
                clip, footage = counted(self.clip(look, form))  # type: ignore[arg-type]
                found = ball.track(clip)
                self.assertEqual(set(footage.decoded.values()), {1})
                self.assertEqual(footage.passes, 1)
                self.assertTrue(any(found.shapes))

    def test_what_a_short_clip_gives_does_not_hang_on_its_being_kept(self) -> None:
        for look, form in (("pencil", "zip"), ("harbour", "mp4"), ("photographed", "zip")):
            with self.subTest(look, form=form):
                path = self.clip(look, form)  # type: ignore[arg-type]
                kept = ball.track(counted(path)[0])
                with mock.patch.object(scan, "KEPT_BYTES", 0):
                    clip, footage = counted(path)
                    passed_over = ball.track(clip)
                self.assertEqual(kept, passed_over)
                self.assertGreater(footage.passes, 1)

    def test_of_a_long_clip_only_samples_are_kept(self) -> None:
        path = self.clip("clean", "zip")
        with mock.patch.object(scan, "KEPT_BYTES", 0):
            clip, _ = counted(path)
            pictures = scan.Pictures(clip)
        self.assertEqual(pictures._raw, {})
        self.assertLessEqual(len(pictures._samples), scan.SAMPLES)
