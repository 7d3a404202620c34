"""How long a clip plays is bounded for every form, before anything is laid out; and names that count nothing."""

from __future__ import annotations

import io
import tempfile
import unittest
import zipfile
from pathlib import Path

from PIL import Image

from motion import formats
from motion.errors import ClipError, NotAClip, OverLimit, UnsafeArchive
from motion.export import drawing_file
from motion.formats.limits import DEFAULT, Limits
from motion.preparation import MOST_EACH, Preparation


def animation(kind: str, duration_ms: int, pictures: int = 4) -> bytes:
    frames = [Image.new("RGB", (32, 32), (40 * n, 90, 200)) for n in range(pictures)]
    stream = io.BytesIO()
    frames[0].save(stream, format=kind, save_all=True, append_images=frames[1:], duration=duration_ms, lossless=True)
    return stream.getvalue()


class Lengths(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "clip"

    def read(self, data: bytes, **more: object):  # type: ignore[no-untyped-def]
        self.path.write_bytes(data)
        return formats.read(self.path, 24, **more)  # type: ignore[arg-type]

    def test_pictures_that_stay_for_hours_are_refused(self) -> None:
        for kind, longest in (("GIF", 655_350), ("PNG", 65_000_000), ("WEBP", 16_000_000)):
            data = animation(kind, longest)
            told = self.assertRaisesRegex(OverLimit, "Check how long its pictures stay")
            with self.subTest(kind, size=len(data)), told:
                self.read(data)

    def test_so_are_too_many_frames_however_they_come_about(self) -> None:
        short = Limits(frames=20)
        with self.assertRaisesRegex(OverLimit, "at most 20"):
            self.read(animation("GIF", 500), limits=short)
        plain = self.read(animation("GIF", 40), limits=short)
        self.assertEqual(plain.frames, 4)
        with self.assertRaisesRegex(OverLimit, "at most 20"):
            self.read(animation("GIF", 40), limits=short, preparation=Preparation(each=MOST_EACH))

    def test_what_is_just_within_is_taken(self) -> None:
        frames = DEFAULT.frames
        clip = self.read(animation("WEBP", round(1000 * frames / 24 / 4)))
        self.assertLessEqual(clip.frames, frames)

    def test_what_was_put_right_makes_sense_by_itself(self) -> None:
        for wrong in ({"each": 0}, {"each": MOST_EACH + 1}, {"first": 0}, {"first": 9, "last": 9}, {"last": 1}):
            with self.subTest(wrong), self.assertRaises(NotAClip):
                Preparation(**wrong)


class Names(unittest.TestCase):
    def read(self, names: list[str]) -> int:
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            for n, name in enumerate(names):
                picture = io.BytesIO()
                Image.new("RGB", (32, 32), (n, n, n)).save(picture, format="PNG")
                archive.writestr(zipfile.ZipInfo(name), picture.getvalue())
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "clip.zip"
            path.write_bytes(stream.getvalue())
            return formats.read(path, 24).frames

    def test_entries_without_a_name_and_numbers_that_count_nothing_are_refused_in_words(self) -> None:
        with self.assertRaisesRegex(UnsafeArchive, "without a name"):
            self.read(["", "2.png"])
        with self.assertRaisesRegex(NotAClip, "counts nothing"):
            self.read(["1" * 5000 + ".png", "2" * 5000 + ".png"])
        for names in (["1.", "2."], ["a/.1", "a/.2"], [".", "1.png"], ["1.png", "..png", "x/"]):
            with self.subTest(names):
                try:
                    self.read(names)
                except ClipError as error:
                    self.assertTrue(str(error))


class Kept(unittest.TestCase):
    def test_a_drawing_is_kept_tightly_and_nothing_of_it_is_lost(self) -> None:
        import numpy as np

        rng = np.random.default_rng(3)
        flat = np.zeros((40, 60, 4), np.uint8)
        flat[..., 3] = 255
        flat[10:20, 5:30, :3] = (200, 30, 90)
        many = rng.integers(0, 255, (40, 60, 4), dtype=np.uint8)
        opaque = many.copy()
        opaque[..., 3] = 255
        for picture in (flat, many, opaque):
            with Image.open(io.BytesIO(drawing_file.encode(picture))) as image:
                self.assertTrue(np.array_equal(np.asarray(image.convert("RGBA")), picture))
        with Image.open(io.BytesIO(drawing_file.encode(flat))) as image:
            self.assertEqual(image.mode, "P")
