"""Reading hand-ins: what is taken, in which order, and what is refused in which words."""

from __future__ import annotations

import io
import tempfile
import unittest
import zipfile
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from motion import formats
from motion.errors import ClipError, DamagedFile, NotAClip, OverLimit, UnknownFormat, UnsafeArchive
from motion.formats import durations, numbering
from motion.formats.limits import Limits


def png(shade: int = 0, size: tuple[int, int] = (40, 30)) -> bytes:
    stream = io.BytesIO()
    Image.new("RGB", size, (shade, shade, shade)).save(stream, format="PNG")
    return stream.getvalue()


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def zip(self, entries: dict[str, bytes], name: str = "take.zip") -> Path:
        path = self.folder / name
        with zipfile.ZipFile(path, "w") as archive:
            for entry, data in entries.items():
                archive.writestr(entry, data)
        return path

    def gif(self, shades: list[int], milliseconds: list[int]) -> Path:
        path = self.folder / "take.gif"
        frames = [Image.new("L", (40, 30), s) for s in shades]
        frames[0].save(path, save_all=True, append_images=frames[1:], duration=milliseconds, loop=0)
        return path


class Zips(Folder):
    def shades(self, path: Path) -> list[int]:
        clip = formats.read(path, 24)
        return [int(p[0, 0, 0]) for p in clip.footage.pictures(range(len(clip.footage)))]

    def test_numbers_order_the_pictures_padded_or_not(self) -> None:
        for names in (
            ("f1.png", "f2.png", "f10.png"),
            ("b/f001.png", "b/f002.png", "b/f010.png"),
            ("1_x.PNG", "2_x.png", "10_x.png"),
        ):
            with self.subTest(names):
                entries = {n: png(10 * i) for i, n in reversed(list(enumerate(names)))}
                self.assertEqual(self.shades(self.zip(entries)), [0, 10, 20])

    def test_gaps_in_the_numbers_are_told(self) -> None:
        clip = formats.read(self.zip({"f1.png": png(), "f2.png": png(9), "f5.png": png(7)}), 24)
        self.assertIn("3, 4", " ".join(clip.remarks))
        self.assertEqual(clip.frames, 3)

    def test_what_systems_leave_behind_is_passed_over(self) -> None:
        entries = {"f1.png": png(), "f2.png": png(5), "__MACOSX/._f1.png": b"x", ".DS_Store": b"x", "Thumbs.db": b"x"}
        self.assertEqual(len(formats.read(self.zip(entries), 24).footage), 2)

    def test_refusals(self) -> None:
        cases: dict[str, tuple[dict[str, bytes], type[ClipError]]] = {
            "no pictures": ({"readme.txt": b"hello"}, NotAClip),
            "one picture": ({"f1.png": png()}, NotAClip),
            "two sizes": ({"f1.png": png(), "f2.png": png(size=(41, 30))}, NotAClip),
            "same number": ({"a/f1.png": png(), "b/f1.png": png()}, NotAClip),
            "no number": ({"a.png": png(), "b.png": png()}, NotAClip),
            "points out": ({"../f1.png": png(), "f2.png": png()}, UnsafeArchive),
            "not a png": ({"f1.png": b"GIF89a....", "f2.png": png()}, DamagedFile),
            "too small": ({"f1.png": png(size=(4, 4)), "f2.png": png(size=(4, 4))}, NotAClip),
        }
        for name, (entries, error) in cases.items():
            with self.subTest(name), self.assertRaises(error) as caught:
                formats.read(self.zip(entries), 24)
            self.assertTrue(str(caught.exception).endswith("."))

    def test_a_link_is_refused(self) -> None:
        path = self.folder / "link.zip"
        with zipfile.ZipFile(path, "w") as archive:
            entry = zipfile.ZipInfo("f1.png")
            entry.external_attr = 0o120777 << 16
            archive.writestr(entry, "/etc/passwd")
        with self.assertRaises(UnsafeArchive):
            formats.read(path, 24)

    def test_limits_are_kept(self) -> None:
        path = self.zip({f"f{i}.png": png(i) for i in range(5)})
        for limits in (Limits(pictures=4), Limits(entries=3), Limits(picture_pixels=100), Limits(file_bytes=50),
                       Limits(total_pixels=2000), Limits(entry_bytes=20)):  # fmt: skip
            with self.subTest(limits), self.assertRaises(OverLimit):
                formats.read(path, 24, limits=limits)

    def test_a_picture_cut_short_is_said_when_it_is_decoded(self) -> None:
        clip = formats.read(self.zip({"f1.png": png(), "f2.png": png(3)[:60]}), 24)
        with self.assertRaises(DamagedFile):
            list(clip.footage.pictures([0, 1]))


class OtherForms(Folder):
    def test_a_folder_of_pictures(self) -> None:
        for i in range(3):
            (self.folder / f"n{i}.png").write_bytes(png(i))
        self.assertEqual(len(formats.read(self.folder, 24).footage), 3)

    def test_a_gif_in_its_own_durations(self) -> None:
        clip = formats.read(self.gif([0, 90, 180], [80, 40, 120]), 25)
        self.assertEqual(clip.picture_frames, (2, 1, 3))

    def test_content_decides_and_not_the_name(self) -> None:
        path = self.gif([0, 90], [40, 40]).rename(self.folder / "take.zip")
        self.assertEqual(len(formats.read(path, 25).footage), 2)

    def test_what_is_no_clip(self) -> None:
        for name, data, error in (
            ("empty.zip", b"", NotAClip),
            ("words.png", b"only words", UnknownFormat),
            ("single.png", png(), NotAClip),
            ("broken.zip", b"PK\x03\x04 and nothing more", DamagedFile),
            ("broken.gif", b"GIF89a", DamagedFile),
        ):
            path = self.folder / name
            path.write_bytes(data)
            with self.subTest(name), self.assertRaises(error):
                formats.read(path, 24)


class Durations(unittest.TestCase):
    def test_cumulative_rounding_never_adds_up(self) -> None:
        frames, rounded = durations.to_frames([0.05] * 11 + [0.07], 24, 0.01)
        self.assertEqual(sum(frames), 15)
        self.assertTrue(rounded)

    def test_a_steady_file_is_one_picture_a_frame_or_a_whole_part_of_the_rate(self) -> None:
        for rate, fps, each in (
            (24.0, 24.0, 1), (23.976, 24.0, 1), (25.0, 24.0, 1), (30.0, 24.0, 1), (12.0, 24.0, 2), (8.0, 24.0, 3),
            (12.0, 25.0, 1), (12.5, 25.0, 2), (10.0, 24.0, 1), (24.0, 25.0, 1), (25.0, 30.0, 1), (60.0, 24.0, 1),
            (48.0, 24.0, 1),
        ):  # fmt: skip
            with self.subTest(rate=rate, fps=fps):
                self.assertEqual(durations.of_steady(rate, fps), each)
                self.assertEqual(durations.to_frames([1 / rate] * 40, fps, 0.001)[0], (each,) * 40)

    def test_a_frame_cut_to_hundredths_stays_a_frame(self) -> None:
        self.assertEqual(durations.to_frames([0.04] * 48, 24, 0.01)[0], (1,) * 48)

    @given(st.lists(st.integers(1, 5), min_size=1, max_size=60), st.sampled_from([12.0, 24.0, 25.0, 30.0]))
    def test_running_hundredths_are_exact(self, wanted: list[int], fps: float) -> None:
        ends = np.round(np.cumsum(wanted) / fps * 100)
        delays = np.diff(ends, prepend=0.0) / 100
        self.assertEqual(durations.to_frames(list(delays), fps, 0.01)[0], tuple(wanted))


class Numbering(unittest.TestCase):
    @given(
        st.sets(st.integers(0, 5000), min_size=2, max_size=40),
        st.sampled_from(["walk{}", "2026_{:04d}_final2", "{} of 9"]),
    )
    @settings(max_examples=60)
    def test_any_naming_comes_out_in_order(self, numbers: set[int], pattern: str) -> None:
        ordered = sorted(numbers)
        names = [pattern.format(n) + ".png" for n in ordered]
        self.assertEqual(numbering.in_order(names).indices, tuple(range(len(names))))
