"""Everything handed in is hostile until read: damaged and hand-made files end in a sentence, never in a crash."""

from __future__ import annotations

import io
import tempfile
import unittest
import zipfile
import zlib
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from motion import formats
from motion.errors import ClipError
from motion.exercises.bounce.plan import Recipe, bounce
from motion.formats.limits import Limits
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS

SMALL = Recipe(width=96, height=64, diameter=14, ground_y=54, drop_px=32, start_x=14, speed_x=2, kept=(0.8,))
BEGINNINGS = [
    b"", b"PK\x03\x04", b"GIF89a", b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"RIFF\x00\x00\x00\x00WEBP", b"BM",
    b"II*\x00",    b"<svg ", b"\x1f\x8b", b"BZh9", b"\xfd7zXZ\x00", b"\x1aE\xdf\xa3",
    b"\x00\x00\x00\x18ftypisom", b"RIFF\x00\x00\x00\x00AVI ",
]  # fmt: skip
TIGHT = Limits(pictures=200, side=2000, picture_pixels=1_000_000, total_pixels=20_000_000)


def read_all(path: Path) -> int:
    """Open and decode everything, as the check of a hand-in does; how many pictures there were."""
    clip = formats.read(path, 24, limits=TIGHT)
    return sum(1 for _ in clip.footage.pictures(range(len(clip.footage))))


FORMS: tuple[write.Form, ...] = (
    "zip", "tar", "tar.gz", "jpeg", "webp stills", "tiff", "ora", "gif", "apng", "webp", "mp4", "webm", "avi",
    "lossless",
)  # fmt: skip


def valid() -> dict[str, bytes]:
    frames = list(draw.frames(bounce(SMALL), LOOKS["clean"]))[:6]
    files = {}
    with tempfile.TemporaryDirectory() as folder:
        for form in FORMS:
            files[form] = write.save(frames, Path(folder) / f"a.{write.suffix(form)}", form, 24).read_bytes()
    group = '<g id="f{n}"><circle cx="{x}" cy="30" r="9"/></g>'
    drawn = "".join(group.format(n=n, x=20 + n) for n in range(4))
    files["svg"] = f'<svg xmlns="http://www.w3.org/2000/svg" width="96" height="64">{drawn}</svg>'.encode()
    return files


class Damaged(unittest.TestCase):
    FILES = valid()

    @given(
        st.sampled_from([*FORMS, "svg"]),
        st.lists(st.tuples(st.floats(0, 1), st.binary(min_size=1, max_size=6)), min_size=1, max_size=5),
        st.floats(0.05, 1),
    )
    @settings(max_examples=600, deadline=None)
    def test_bytes_changed_and_ends_cut_off(self, kind: str, edits: list[tuple[float, bytes]], kept: float) -> None:
        data = bytearray(self.FILES[kind])
        for where, new in edits:
            at = int(where * (len(data) - 1))
            data[at : at + len(new)] = new
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "hostile"
            path.write_bytes(bytes(data[: max(1, int(kept * len(data)))]))
            try:
                read_all(path)
            except ClipError as error:
                self.assertTrue(str(error))

    @given(st.binary(max_size=400), st.sampled_from(BEGINNINGS))
    @settings(max_examples=200, deadline=None)
    def test_anything_after_a_known_beginning(self, data: bytes, head: bytes) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "anything"
            path.write_bytes(head + data)
            with self.assertRaises(ClipError):
                read_all(path)


class HandMade(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.path = Path(place.name) / "made.zip"

    def test_a_picture_that_claims_to_be_huge_is_refused_by_its_header(self) -> None:
        picture = io.BytesIO()
        Image.new("RGB", (32, 32)).save(picture, format="PNG")
        data = bytearray(picture.getvalue())
        data[16:24] = (60000).to_bytes(4, "big") * 2
        data[29:33] = zlib.crc32(bytes(data[12:29])).to_bytes(4, "big")
        with zipfile.ZipFile(self.path, "w") as archive:
            archive.writestr("f1.png", bytes(data))
            archive.writestr("f2.png", bytes(data))
        with self.assertRaisesRegex(ClipError, "60000"):
            formats.read(self.path, 24)

    def test_an_entry_that_unpacks_to_more_than_a_frame_can_be_is_refused(self) -> None:
        with zipfile.ZipFile(self.path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("f1.png", bytes(3_000_000))
            archive.writestr("f2.png", bytes(3_000_000))
        self.assertLess(self.path.stat().st_size, 20_000)
        with self.assertRaisesRegex(ClipError, "too large"):
            formats.read(self.path, 24, limits=Limits(entry_bytes=1_000_000))

    def test_a_password_is_said(self) -> None:
        with zipfile.ZipFile(self.path, "w") as archive:
            archive.writestr("f1.png", b"x")
        data = bytearray(self.path.read_bytes())
        for mark, offset in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
            data[data.index(mark) + offset] |= 1
        self.path.write_bytes(bytes(data))
        with self.assertRaisesRegex(ClipError, "password"):
            formats.read(self.path, 24)
