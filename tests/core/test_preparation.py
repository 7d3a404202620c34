"""What a student puts right before a hand-in is final; sheets of frames; sound beside a clip."""

from __future__ import annotations

import io
import math
import struct
import tempfile
import unittest
import wave
from pathlib import Path

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from motion import formats, preparation
from motion.clip import Clip
from motion.errors import ClipError, DamagedFile, NotAClip, OnePicture
from motion.exercises.bounce.plan import Recipe, bounce
from motion.formats import sound, sprite
from motion.formats.limits import DEFAULT
from motion.preparation import Grid, Preparation
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.draw import DrawnFootage
from motion.synth.look import LOOKS

SMALL = bounce(Recipe(width=200, height=120, diameter=22, ground_y=100, drop_px=60, kept=(0.8,), speed_x=6, start_x=20))


def shades(levels: list[int], frames: list[int] | None = None) -> Clip:
    """A clip of plain pictures that are told apart by their shade."""
    pictures = [np.full((20, 20, 4), level, np.uint8) for level in levels]
    held = tuple(frames or [1] * len(levels))
    return Clip(name="x", fps=24, width=20, height=20, footage=DrawnFootage(pictures), picture_frames=held)


def played(clip: Clip) -> list[int]:
    """The shade of each frame."""
    levels = [int(p[0, 0, 0]) for p in clip.footage.pictures(range(len(clip.footage)))]
    return [level for level, n in zip(levels, clip.picture_frames, strict=True) for _ in range(n)]


class Prepared(unittest.TestCase):
    def test_ends_are_trimmed_by_frames_and_held_pictures_shortened(self) -> None:
        clip = preparation.apply(shades([1, 2, 3, 4], [2, 3, 1, 2]), Preparation(first=2, last=7))
        self.assertEqual(played(clip), [1, 2, 2, 2, 3, 4])

    def test_pictures_are_put_in_another_order(self) -> None:
        clip = preparation.apply(shades([1, 2, 3], [1, 2, 1]), Preparation(order=(3, 1, 2)))
        self.assertEqual(played(clip), [3, 1, 2, 2])

    def test_every_picture_is_shown_for_so_many_frames(self) -> None:
        self.assertEqual(played(preparation.apply(shades([1, 2]), Preparation(each=2))), [1, 1, 2, 2])

    @given(st.permutations([1, 2, 3, 4, 5]), st.integers(1, 3), st.data())
    def test_order_comes_first_then_rate_then_trimming(self, order: list[int], each: int, data: st.DataObject) -> None:
        last = data.draw(st.integers(2, 5 * each))
        prepared = Preparation(order=tuple(order), each=each, last=last)
        whole = [n for n in order for _ in range(each)]
        self.assertEqual(played(preparation.apply(shades([1, 2, 3, 4, 5]), prepared)), whole[:last])
        self.assertEqual(preparation.from_json(prepared.to_json()), prepared)

    def test_what_leaves_no_clip_is_refused(self) -> None:
        for bad in ({"first": 3, "last": 3}, {"last": 99}, {"order": (1, 1, 2)}, {"order": (1, 2)}, {"each": 0}):
            with self.subTest(bad), self.assertRaises(NotAClip):
                preparation.apply(shades([1, 2, 3]), Preparation(**bad))

    def test_nonsense_is_refused(self) -> None:
        for told in ({"grid": [1]}, {"order": ["a"]}, {"each": "two"}, {"grid": [0, 2, 2]}, {"first": []}):
            with self.subTest(told), self.assertRaises(NotAClip):
                preparation.from_json(told)


class Sheets(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.path = Path(place.name) / "sheet.png"

    def test_a_sheet_is_divided_as_guessed_and_gives_its_frames(self) -> None:
        for look, columns in (("clean", 4), ("outline", 5), ("cut-out", 4), ("harbour", 5)):
            pictures = [p for p, _ in draw.frames(SMALL, LOOKS[look], 2)]
            with self.subTest(look, columns=columns):
                write.to_sheet(pictures, self.path, columns)
                grid = sprite.guess(self.path, "sheet.png", DEFAULT)
                rows = math.ceil(len(pictures) / columns)
                self.assertEqual(grid, Grid(columns=columns, rows=rows, cells=len(pictures)))
                clip = formats.read(self.path, 24, preparation=Preparation(grid=grid))
                self.assertEqual((clip.width, clip.height), (200, 120))
                for one, other in zip(clip.footage.pictures(range(len(pictures))), pictures, strict=True):
                    self.assertTrue(np.array_equal(one, other))

    def test_without_a_grid_it_is_a_single_picture(self) -> None:
        write.to_sheet([p for p, _ in draw.frames(SMALL, LOOKS["clean"])], self.path, 4)
        with self.assertRaisesRegex(OnePicture, "sheet of frames"):
            formats.read(self.path, 24)

    def test_a_grid_that_does_not_divide_it_is_refused(self) -> None:
        Image.new("RGB", (300, 200)).save(self.path)
        with self.assertRaisesRegex(NotAClip, "whole pixels"):
            formats.read(self.path, 24, preparation=Preparation(grid=Grid(columns=7, rows=1, cells=7)))

    def test_a_damaged_sheet_is_refused(self) -> None:
        Image.effect_noise((300, 200), 40).save(self.path)
        self.path.write_bytes(self.path.read_bytes()[:3000])
        for read in (
            lambda: sprite.guess(self.path, "sheet.png", DEFAULT),
            lambda: formats.read(self.path, 24, preparation=Preparation(grid=Grid(columns=3, rows=1, cells=3))),
        ):
            with self.assertRaises(DamagedFile):
                read()


def tone(seconds: float) -> bytes:
    """A plain tone as WAV."""
    stream = io.BytesIO()
    with wave.open(stream, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(8000)
        samples = (int(9000 * math.sin(i / 6)) for i in range(int(8000 * seconds)))
        out.writeframes(b"".join(struct.pack("<h", s) for s in samples))
    return stream.getvalue()


class Sounds(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.path = Path(place.name) / "sound"

    def test_each_kind_is_told_with_its_length(self) -> None:
        self.path.write_bytes(tone(1.5))
        self.assertEqual(sound.read(self.path, "a.wav"), sound.Sound(kind="wav", seconds=1.5))
        for kind, codec in (("ogg", "libopus"), ("flac", "flac"), ("mp3", "libmp3lame")):
            with self.subTest(kind):
                packed = write.to_sound(self.path, self.path.with_suffix(f".{kind}"), kind, codec)
                told = sound.read(packed, packed.name)
                self.assertEqual(told.kind, kind)
                self.assertAlmostEqual(told.seconds, 1.5, delta=0.15)

    def test_what_is_no_sound_or_is_damaged_is_refused(self) -> None:
        for content in (b"", b"hello", b"OggS" + bytes(60), b"fLaC" + bytes(90), b"ID3" + bytes(50), tone(0.0)):
            with self.subTest(content[:8]):
                self.path.write_bytes(content)
                with self.assertRaises(ClipError):
                    sound.read(self.path, "a.wav")


if __name__ == "__main__":
    unittest.main()
