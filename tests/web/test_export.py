"""A take saved again in open formats."""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from pathlib import Path

import numpy as np
from django.urls import reverse
from django.utils import timezone

from motion import formats
from motion.exercises.bounce.plan import bounce
from motion.export.take import KINDS
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from nettlecap.marking.models import MarkSheet
from nettlecap.takes.hand_in import hand_in
from nettlecap.words import EXPORT_KINDS
from tests.web.school import SMALL, SchoolTest, clean_clip, upload

FRAMES = [p for p, n in draw.frames(bounce(SMALL), LOOKS["clean"]) for _ in range(n)]


class Exports(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take()
        self.as_person(self.school.student)

    def save(self, kind: str, **query: str) -> bytes:
        answer = self.client.get(reverse("export-take", args=[self.take.pk, kind]), query)
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(answer["Content-Type"], KINDS[kind])
        self.assertIn(f'filename="ayumi-take-1{"-measured" if query else ""}-{kind}"', answer["Content-Disposition"])
        return b"".join(answer.streaming_content)

    def frames(self, data: bytes) -> list[np.ndarray]:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "saved"
            path.write_bytes(data)
            clip = formats.read(path, 24)
            pictures = clip.footage.pictures(range(len(clip.footage)))
            return [p for p, n in zip(pictures, clip.picture_frames, strict=True) for _ in range(n)]

    def test_each_format_holds_the_take_frame_by_frame(self) -> None:
        self.assertEqual({kind for kind, _ in EXPORT_KINDS}, set(KINDS))
        for kind in KINDS:
            with self.subTest(kind):
                frames = self.frames(self.save(kind))
                self.assertEqual(len(frames), len(FRAMES))
                off = max(
                    float(np.abs(a[..., :3].astype(int) - b[..., :3]).mean())
                    for a, b in zip(frames, FRAMES, strict=True)
                )
                self.assertLess(off, 0.1 if kind in ("frames.zip", "clip.png", "clip.webp") else 2.5)

    def test_the_exposure_sheet_lies_beside_the_pictures(self) -> None:
        packed = zipfile.ZipFile(io.BytesIO(self.save("frames.zip")))
        sheet = json.loads(packed.read("exposures.json"))
        self.assertEqual(sum(e["frames"] for e in sheet["exposures"]), len(FRAMES))
        rows = packed.read("exposures.csv").decode().splitlines()
        self.assertEqual((rows[0], len(rows)), ("frame,drawing,begins", len(FRAMES) + 1))

    def test_what_was_measured_can_be_drawn_over_it(self) -> None:
        self.assertEqual(
            self.client.get(reverse("export-take", args=[self.take.pk, "clip.png"]), {"overlays": "1"}).status_code, 403
        )
        MarkSheet.objects.create(take=self.take, returned_at=timezone.now())
        plain, measured = self.frames(self.save("clip.png")), self.frames(self.save("clip.png", overlays="1"))
        shape = self.take.analysis.findings["track"]["shapes"][0]
        edge = (round(shape["y"]), round(shape["x"] + shape["major"] / 2))
        self.assertFalse(np.array_equal(plain[0][edge], measured[0][edge]))
        self.assertTrue(np.array_equal(plain[0][5, 5], measured[0][5, 5]))

    def test_what_cannot_be_saved_is_said(self) -> None:
        self.assertEqual(self.client.get(reverse("export-take", args=[self.take.pk, "clip.doc"])).status_code, 404)
        waiting = hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        answer = self.client.get(reverse("export-take", args=[waiting.pk, "clip.gif"]))
        self.assertContains(answer, "has not been looked at yet", status_code=409)
