"""Every form in which a clip can be handed in, and what is said of those that cannot."""

from __future__ import annotations

import io
import tarfile
import tempfile
import unittest
import zipfile
from fractions import Fraction
from pathlib import Path
from typing import get_args

import av
import numpy as np
from PIL import Image

from motion import analysis, formats
from motion.brief import Brief
from motion.clip import Clip, Picture
from motion.errors import ClipError, NotAClip, OverLimit, UnsafeArchive
from motion.exercises.bounce.plan import Recipe, bounce
from motion.export import moving, video
from motion.export.drawn import on_paper
from motion.formats.limits import Limits
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from motion.tracking.subjects import blob as ball

PLAN = bounce(Recipe(width=160, height=120, diameter=26, ground_y=100, drop_px=60, start_x=24, speed_x=3, exposure=2))
DRAWN = list(draw.frames(PLAN, LOOKS["cel"]))
ONES = [(picture, 1) for picture, _ in DRAWN]
FRAMES = [on_paper(picture) for picture, count in DRAWN for _ in range(count)]


def shown(clip: Clip) -> list[Picture]:
    """The picture of each frame."""
    pictures = clip.footage.pictures(range(len(clip.footage)))
    return [p for p, n in zip(pictures, clip.picture_frames, strict=True) for _ in range(n)]


class InAFolder(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def put(self, name: str, data: bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(data)
        return path


class EveryForm(InAFolder):
    def test_each_form_gives_back_the_frames_that_were_drawn(self) -> None:
        for form in get_args(write.Form):
            with self.subTest(form):
                path = write.save(DRAWN, self.folder / f"t {form}.{write.suffix(form)}", form, 24)
                clip = formats.read(path, 24)
                frames = shown(clip)
                self.assertEqual((len(frames), clip.width, clip.height), (len(FRAMES), 160, 120))
                off = [
                    float(np.abs(on_paper(f).astype(int) - t.astype(int)).mean())
                    for f, t in zip(frames, FRAMES, strict=True)
                ]
                self.assertLess(max(off), 3.0 if form in (*write.LOSSY, "gif") else 0.51)

    def test_the_content_decides_and_not_the_name(self) -> None:
        for form in ("zip", "tar.gz", "gif", "apng", "webm", "mp4"):
            with self.subTest(form):
                path = write.save(DRAWN, self.folder / f"t.{write.suffix(form)}", form, 24)  # type: ignore[arg-type]
                renamed = path.rename(self.folder / f"{form}.txt")
                self.assertEqual(formats.read(renamed, 24).frames, len(FRAMES))

    def test_drawings_held_on_twos_are_told_through_lossy_video(self) -> None:
        big = bounce(Recipe(exposure=2, fall_frames=12.4, speed_x=10.2, kept=(0.8,)))
        truth = [(big.first_frame(i), p.frames) for i, p in enumerate(big.poses)]
        for form in ("mp4", "webm", "avi"):
            with self.subTest(form):
                path = self.folder / f"t.{form}"
                write.save(draw.frames(big, LOOKS["harbour"], 3), path, form, 24)  # type: ignore[arg-type]
                track = ball.track(formats.read(path, 24))
                self.assertEqual([(e.first_frame, e.frames) for e in track.exposures], truth)


class Durations(InAFolder):
    def test_animations_tell_time_by_their_own_durations(self) -> None:
        held = [(p, n) for (p, _), n in zip(DRAWN, (1, 3, 2, 1) * 20, strict=False)]
        for name, writer in (("a.gif", moving.to_gif), ("a.png", moving.to_apng), ("a.webp", moving.to_webp)):
            for fps in (12, 24, 25):
                with self.subTest(name, fps=fps):
                    writer(held, self.folder / name, fps)
                    clip = formats.read(self.folder / name, fps)
                    self.assertEqual(list(clip.picture_frames), [n for _, n in held])

    def test_a_video_of_uneven_rate_is_read_by_its_time_stamps(self) -> None:
        path, ticks = self.folder / "uneven.mkv", [0, 42, 125, 167, 292, 333]
        with av.open(str(path), "w") as container:
            stream = container.add_stream("ffv1", rate=24)
            stream.width, stream.height, stream.pix_fmt = 160, 120, "bgr0"  # type: ignore[union-attr]
            for (picture, _), at in zip(DRAWN, ticks, strict=False):
                frame = av.VideoFrame.from_ndarray(on_paper(picture), format="rgb24")
                frame.pts, frame.time_base = at, Fraction(1, 1000)
                container.mux(stream.encode(frame))  # type: ignore[union-attr, arg-type]
            container.mux(stream.encode())  # type: ignore[union-attr]
        clip = formats.read(path, 24)
        self.assertEqual(list(clip.picture_frames)[:5], [1, 2, 1, 3, 1])

    def test_the_briefs_rate_wins_over_a_steady_one_nearby(self) -> None:
        for rate in (23.976, 24, 25):
            with self.subTest(rate):
                path = self.folder / f"{rate}.mp4"
                video.to_video(DRAWN, path, rate)
                self.assertEqual(formats.read(path, 24).frames, len(FRAMES))

    def test_a_rate_that_is_not_the_briefs_is_told_and_no_drawing_is_lost(self) -> None:
        for rate, fps, each, words in (
            (24, 24, 1, ""),
            (25, 24, 1, "read as one frame"),
            (30, 24, 1, "read as one frame"),
            (12, 24, 2, "read as 2 frames"),
            (12, 25, 1, "read as one frame"),
            (24, 25, 1, "read as one frame"),
        ):
            for name, written in (
                ("a.mp4", lambda path, r: video.to_video(ONES, path, r)),
                ("a.png", lambda path, r: moving.to_apng(ONES, path, r)),
                ("a.webp", lambda path, r: moving.to_webp(ONES, path, r)),
            ):
                with self.subTest(name, rate=rate, fps=fps):
                    written(self.folder / name, rate)
                    clip = formats.read(self.folder / name, fps)
                    self.assertEqual(clip.frames, each * len(ONES))
                    told = self.said(clip, fps)
                    self.assertEqual(len(told), 1 if words else 0)
                    self.assertIn(words, "".join(told))

    def test_a_file_that_counts_in_hundredths_is_taken_at_its_word(self) -> None:
        moving.to_gif(ONES, self.folder / "a.gif", 24)
        clip = formats.read(self.folder / "a.gif", 24)
        self.assertEqual(clip.frames, len(ONES))
        self.assertEqual(self.said(clip, 24), [])

    def said(self, clip: Clip, fps: float) -> list[str]:
        """What preflight says of a file's rate."""
        result = analysis.analyse(clip, Brief(fps=fps))
        return [n.message for n in result.preflight if n.code == "preflight.rate"]

    def test_a_file_of_twice_the_rate_is_read_one_picture_a_frame_and_told(self) -> None:
        for name, to_file in (("double.mp4", video.to_video), ("double.png", moving.to_apng)):
            with self.subTest(name):
                to_file(ONES, self.folder / name, 48)
                clip = formats.read(self.folder / name, 24)
                self.assertEqual(clip.frames, len(ONES))
                self.assertIn("48 pictures a second", self.said(clip, 24)[0])

    def test_a_cover_picture_of_an_animated_png_is_no_frame(self) -> None:
        images = [Image.fromarray(on_paper(p)) for p, _ in DRAWN[:4]]
        images[0].save(self.folder / "a.png", save_all=True, append_images=images[1:], default_image=True, duration=42)
        self.assertEqual(len(formats.read(self.folder / "a.png", 24).footage), 3)


def svg(body: str, size: str = 'width="160" height="120"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{body}</svg>'.encode()


def disc(x: int, colour: str = "#c04020") -> str:
    return f'<circle cx="{x}" cy="60" r="13" fill="{colour}"/>'


class Drawings(InAFolder):
    def middles(self, clip: Clip) -> list[float]:
        return [float(np.nonzero(p[60, :, 3])[0].mean()) for p in shown(clip)]

    def test_one_svg_a_frame(self) -> None:
        for i, x in enumerate((30, 60, 90)):
            self.put(f"svgs/f{i}.svg", svg(disc(x)))
        self.assertEqual([round(m) for m in self.middles(formats.read(self.folder / "svgs", 24))], [30, 60, 90])

    def test_numbered_groups_of_one_svg_are_frames_over_what_is_not_numbered(self) -> None:
        groups = "".join(f'<g id="frame {n}">{disc(20 * n)}</g>' for n in (2, 10, 1))
        sheet = svg('<rect y="100" width="160" height="9"/>' + groups.replace("200", "140"))
        clip = formats.read(self.put("sheet.svg", sheet), 24)
        frames = shown(clip)
        self.assertEqual(len(frames), 3)
        self.assertTrue(all(f[104, 5, 3] == 255 for f in frames))
        self.assertEqual([int(np.nonzero(f[60, :, 3])[0].mean().round()) for f in frames[:2]], [20, 40])

    def test_an_svg_cannot_reach_for_anything_outside_itself(self) -> None:
        secret = self.put("secret.png", b"")
        Image.new("RGB", (160, 120), (255, 0, 0)).save(secret)
        link = f'<image href="{secret}" width="160" height="120"/>'
        for i in range(2):
            self.put(f"svgs/f{i}.svg", svg(link + disc(30 + i)))
        first = shown(formats.read(self.folder / "svgs", 24))[0]
        self.assertEqual(int(first[5, 5, 3]), 0)
        bomb = b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + svg("<text>&b;</text>")
        for i in range(2):
            self.put(f"bombs/f{i}.svg", b'<?xml version="1.0"?>' + bomb)
        with self.assertRaises(ClipError):
            formats.read(self.folder / "bombs", 24)

    def test_sizes_in_other_units_and_view_boxes(self) -> None:
        for size in ('width="40mm" height="30mm"', 'viewBox="0 0 151 113"', 'width="151" height="113px"'):
            for i in range(2):
                self.put(f"sizes/f{i}.svg", svg(disc(30 + i), size))
            clip = formats.read(self.folder / "sizes", 24)
            self.assertEqual((clip.width, clip.height), (151, 113), size)

    def test_layers_of_an_openraster_without_a_merged_picture_are_put_together(self) -> None:
        def layer(colour: tuple[int, ...], size: tuple[int, int]) -> bytes:
            stream = io.BytesIO()
            Image.new("RGBA", size, colour).save(stream, format="PNG")
            return stream.getvalue()

        stack = (
            '<image w="40" h="30"><stack>'
            '<layer src="data/top.png" x="10" y="5" opacity="0.5"/>'
            '<layer src="data/hidden.png" visibility="hidden"/>'
            '<layer src="data/low.png"/></stack></image>'
        )
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            archive.writestr("mimetype", "image/openraster")
            archive.writestr("stack.xml", stack)
            archive.writestr("data/top.png", layer((255, 255, 255, 255), (10, 10)))
            archive.writestr("data/hidden.png", layer((0, 255, 0, 255), (40, 30)))
            archive.writestr("data/low.png", layer((100, 0, 0, 255), (40, 30)))
        for i in range(2):
            self.put(f"ora/f{i}.ora", stream.getvalue())
        frame = shown(formats.read(self.folder / "ora", 24))[0]
        self.assertEqual([int(v) for v in frame[0, 0]], [100, 0, 0, 255])
        self.assertTrue(all(abs(int(a) - b) <= 1 for a, b in zip(frame[8, 15], (178, 128, 128, 255), strict=True)))

    def test_photographs_are_turned_as_they_were_taken(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6
        for i in range(2):
            Image.new("RGB", (60, 40), (i, 0, 0)).save(self.folder / f"p{i}.jpg", exif=exif)
        clip = formats.read(self.folder, 24)
        self.assertEqual((clip.width, clip.height, shown(clip)[0].shape), (40, 60, (60, 40, 4)))


class Refused(InAFolder):
    def refused(self, path: Path, kind: type[ClipError], words: str, limits: Limits = formats.DEFAULT) -> None:
        with self.assertRaisesRegex(kind, words):
            shown(formats.read(path, 24, limits=limits))

    def test_tars_that_reach_out_or_hold_links(self) -> None:
        for name, kind, words in (("../f1.png", tarfile.REGTYPE, "points out"), ("f1.png", tarfile.SYMTYPE, "a link")):
            path = self.folder / "t.tar"
            with tarfile.open(path, "w") as archive:
                entry = tarfile.TarInfo(name)
                entry.type, entry.linkname = kind, "/etc/passwd"
                archive.addfile(entry)
            self.refused(path, UnsafeArchive, words)

    def test_a_packed_tar_is_not_unpacked_without_end(self) -> None:
        path = self.folder / "bomb.tar.gz"
        with tarfile.open(path, "w:gz") as archive:
            entry = tarfile.TarInfo("f1.png")
            entry.size = 30_000_000
            archive.addfile(entry, io.BytesIO(bytes(entry.size)))
        self.assertLess(path.stat().st_size, 100_000)
        self.refused(path, OverLimit, "unpacks to more", Limits(unpacked_bytes=1_000_000))

    def test_a_clip_inside_an_archive_is_asked_for_by_itself(self) -> None:
        gif = write.save(DRAWN, self.folder / "a.gif", "gif", 24).read_bytes()
        path = self.folder / "t.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("a.gif", gif)
        self.refused(path, NotAClip, "Hand that in by itself")

    def test_single_pictures_sound_alone_and_too_much(self) -> None:
        Image.new("RGB", (40, 30)).save(self.folder / "one.webp")
        self.refused(self.folder / "one.webp", NotAClip, "single picture")
        self.refused(self.put("one.svg", svg(disc(30))), NotAClip, "single drawing")
        sound = self.folder / "sound.mkv"
        with av.open(str(sound), "w") as container:
            stream = container.add_stream("pcm_s16le", rate=8000)
            frame = av.AudioFrame.from_ndarray(np.zeros((1, 800), np.int16), format="s16", layout="mono")
            frame.sample_rate = 8000
            container.mux(stream.encode(frame))  # type: ignore[union-attr, arg-type]
        self.refused(sound, NotAClip, "only sound")
        clip = write.save(DRAWN, self.folder / "t.mp4", "mp4", 24)
        self.refused(clip, OverLimit, "more than 5 pictures", Limits(pictures=5))
        self.refused(clip, OverLimit, "160 × 120", Limits(picture_pixels=1000))
