"""Looking a clip through and putting it right before it is handed in; sheets of frames; sound; receipts."""

from __future__ import annotations

import io
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from motion.exercises.bounce.plan import bounce
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.bounce.slips import Slip
from motion.synth.look import LOOKS
from nettlecap.takes.models import Arrival, Take
from tests.core.test_preparation import tone
from tests.web.school import SMALL, SchoolTest, clean_clip, files_below, look_at_all, read_all, upload

PLAN = bounce(SMALL)
TAIL = Slip(code="preflight.tail", first_frame=PLAN.frames + 1, last_frame=PLAN.frames + 4, tail=4)


def with_a_tail() -> bytes:
    return write.to_zip(draw.frames(PLAN, LOOKS["clean"], 0, TAIL))


def sheet(columns: int) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sheet.png"
        write.to_sheet([p for p, _ in draw.frames(PLAN, LOOKS["clean"])], path, columns)
        return path.read_bytes()


class LookingThrough(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.student)

    def send(self, *files: SimpleUploadedFile) -> Take:
        url = reverse("look-through", args=[self.school.brief.pk])
        answer = self.client.post(url, {"files": list(files)}, headers={"accept": "application/json"})
        self.assertEqual(answer.status_code, 201, answer.content)
        look_at_all()
        return self.latest()

    def latest(self) -> Take:
        return Take.everything.select_related("analysis", "brief").latest("pk")

    def put_right(self, take: Take, **values: Any) -> Take:
        answer = self.client.post(reverse("put-right", args=[take.pk]), values)
        self.assertEqual(answer.status_code, 302, answer.content)
        look_at_all()
        return self.latest()

    def page(self, take: Take) -> str:
        return self.client.get(reverse("take", args=[take.pk])).content.decode()

    def test_a_draft_is_not_handed_in_and_shows_no_findings_and_no_marker_sees_it(self) -> None:
        draft = self.send(upload(with_a_tail()))
        self.assertTrue(draft.draft)
        self.assertFalse(Take.objects.exists())
        page = self.page(draft)
        self.assertIn("It is not handed in yet", page)
        self.assertNotIn("data-finding", page)
        self.assertContains(self.client.get(reverse("brief", args=[self.school.brief.pk])), "Go on with it")
        self.as_person(self.school.instructor)
        self.assertEqual(self.client.get(reverse("take", args=[draft.pk])).status_code, 404)

    def test_each_point_says_where_what_it_means_and_mends_itself(self) -> None:
        draft = self.send(upload(with_a_tail()))
        page = self.page(draft)
        self.assertIn(f"Frames {PLAN.frames + 1}\N{EN DASH}{PLAN.frames + 4}", page)
        self.assertIn("does not count as animation", page)
        self.assertIn(f"Trim after frame {PLAN.frames}", page)
        trimmed = self.put_right(draft, last=PLAN.frames)
        self.assertEqual(trimmed.frames, PLAN.frames)
        self.assertEqual(trimmed.analysis.findings["preflight"], [])
        self.assertIn(f"Ends at frame {PLAN.frames} of the file", self.page(trimmed))
        back = self.put_right(trimmed, last="")
        self.assertEqual((back.frames, back.prepared), (PLAN.frames + 4, {}))

    def test_what_was_put_right_is_handed_in_with_it(self) -> None:
        draft = self.put_right(self.send(upload(with_a_tail())), last=PLAN.frames)
        self.client.post(reverse("make-final", args=[draft.pk]))
        take = Take.objects.get()
        self.assertEqual((take.number, take.trial, take.frames), (1, False, PLAN.frames))
        again = self.client.post(reverse("put-right", args=[take.pk]), {"last": "9"})
        self.assertEqual(again.status_code, 409)

    def test_pictures_out_of_order_are_put_in_order_by_what_is_played_now(self) -> None:
        with zipfile.ZipFile(io.BytesIO(clean_clip())) as archive:
            names = sorted(archive.namelist())
            content = {n: archive.read(n) for n in names}
        swapped = [names[0], names[2], names[1], *names[3:]]
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            for name, source in zip(names, swapped, strict=True):
                archive.writestr(name, content[source])
        draft = self.send(upload(stream.getvalue()))
        count = len(names)
        order = [1, 3, 2, *range(4, count + 1)]
        ordered = self.put_right(draft, order=",".join(map(str, order)))
        straight = Take.everything.get(pk=self.send(upload(clean_clip())).pk)
        places = [s["x"] for s in straight.analysis.findings["track"]["shapes"]]
        self.assertEqual([s["x"] for s in ordered.analysis.findings["track"]["shapes"]], places)

    def test_an_order_of_an_order_is_told_as_one_of_the_file(self) -> None:
        draft = self.send(upload(clean_clip()))
        rest = list(range(4, draft.pictures + 1))
        once = self.put_right(draft, order=",".join(map(str, [2, 3, 1, *rest])))
        twice = self.put_right(once, order=",".join(map(str, [2, 3, 1, *rest])))
        self.assertEqual(twice.prepared["order"][:3], [3, 1, 2])

    def test_bad_changes_are_refused_and_change_nothing(self) -> None:
        draft = self.send(upload(clean_clip()))
        for values in (
            {"last": "1"},
            {"each": "99"},
            {"order": "1,1"},
            {"first": "x"},
            {"order": "a"},
        ):
            with self.subTest(values):
                answer = self.client.post(reverse("put-right", args=[draft.pk]), values)
                self.assertEqual(answer.status_code, 422)
                self.assertEqual(self.latest().prepared, {})
        # Only who reads the clip can tell that this is past its end; what is shown stays as it is.
        beyond = self.put_right(draft, last="9999")
        self.assertEqual((beyond.prepared, beyond.to_try, beyond.frames), ({}, None, draft.frames))
        self.assertIn("Keep at least two frames, from 1 to", self.page(beyond))
        self.assertTrue(beyond.analysis.findings)

    def test_what_is_being_put_right_is_neither_changed_again_nor_handed_in(self) -> None:
        draft = self.send(upload(clean_clip()))
        url = reverse("put-right", args=[draft.pk])
        self.client.post(url, {"each": "2"})
        self.assertEqual(self.client.post(url, {"each": "3"}).status_code, 409)
        self.assertEqual(self.client.post(reverse("make-final", args=[draft.pk])).status_code, 409)
        look_at_all()
        self.assertEqual(self.client.post(reverse("make-final", args=[draft.pk])).status_code, 302)
        self.assertEqual(Take.objects.get().prepared, {"each": 2})

    def test_an_own_check_is_not_put_right_since_that_would_run_the_checks_again(self) -> None:
        brief = self.school.set_brief(terms={"own_checks": 1})
        self.client.post(reverse("check-clip", args=[brief.pk]), {"files": [upload(clean_clip())]})
        look_at_all()
        answer = self.client.post(reverse("put-right", args=[self.latest().pk]), {"last": "20"})
        self.assertEqual(answer.status_code, 409)
        self.assertEqual(self.latest().prepared, {})

    def test_the_rate_is_set_by_showing_each_picture_longer(self) -> None:
        draft = self.put_right(self.send(upload(clean_clip())), each="2")
        self.assertEqual(draft.frames, 2 * PLAN.frames)

    def test_a_sheet_of_frames_is_divided_by_a_guess_that_the_student_corrects(self) -> None:
        draft = self.send(upload(sheet(5), "sheet.png"))
        rows = -(-len(PLAN.poses) // 5)
        self.assertEqual(draft.prepared, {"grid": [5, rows, len(PLAN.poses)]})
        self.assertEqual((draft.width, draft.height), (SMALL.width, SMALL.height))
        fewer = self.put_right(draft, columns="5", rows=str(rows), cells="10")
        self.assertEqual(fewer.pictures, 10)
        wrong = self.put_right(draft, columns="7", rows="3")
        self.assertEqual((wrong.prepared["grid"], wrong.pictures), ([5, rows, 10], 10))
        self.assertIn("The clip is as it was before", self.page(wrong))
        self.client.post(reverse("hand-in", args=[self.school.brief.pk]), {"files": [upload(sheet(5), "sheet.png")]})
        look_at_all()
        self.assertIn("sheet of frames", Arrival.objects.untold().get().message)

    def test_a_new_draft_replaces_the_last_one_and_leaves_no_files(self) -> None:
        self.send(upload(with_a_tail()))
        draft = self.send(upload(clean_clip()))
        self.assertEqual(Take.everything.count(), 1)
        self.assertEqual(len(files_below(Path(settings.MEDIA_ROOT) / "takes")), 1)
        self.client.post(reverse("throw-away", args=[draft.pk]))
        self.assertEqual(Take.everything.count(), 0)
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])

    def test_a_file_that_a_take_also_has_stays(self) -> None:
        self.school.take(data=clean_clip())
        draft = self.send(upload(clean_clip()))
        self.client.post(reverse("throw-away", args=[draft.pk]))
        self.assertTrue(Take.objects.get().file.exists())


class Sound(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.student)

    def send(self, *files: SimpleUploadedFile):  # type: ignore[no-untyped-def]
        url = reverse("hand-in", args=[self.school.brief.pk])
        return self.client.post(url, {"files": list(files)}, headers={"accept": "application/json"})

    def test_a_sound_beside_a_clip_is_kept_and_played_only_by_those_who_see_the_take(self) -> None:
        self.assertEqual(self.send(upload(tone(1.0), "tock.wav"), upload(clean_clip())).status_code, 201)
        read_all()
        take = Take.objects.get()
        self.assertEqual((take.sound_name, take.sound_kind, take.frames), ("tock.wav", "wav", PLAN.frames))
        answer = self.client.get(reverse("sound", args=[take.pk]))
        self.assertEqual(b"".join(answer.streaming_content), tone(1.0))
        self.assertEqual(answer["Content-Type"], "audio/wav")
        look_at_all()
        self.assertContains(self.client.get(reverse("take", args=[take.pk])), "data-sound")
        self.as_person(self.school.classmate)
        self.assertEqual(self.client.get(reverse("sound", args=[take.pk])).status_code, 404)

    def test_a_bad_sound_refuses_the_whole_and_leaves_nothing(self) -> None:
        self.send(upload(b"RIFF0000WAVEfmt ", "a.wav"), upload(clean_clip()))
        read_all()
        self.assertIn("damaged", Arrival.objects.get().message)
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])
        for files, words in (
            ((upload(tone(1.0), "a.wav"), upload(tone(0.5), "b.wav"), upload(clean_clip())), "more than one sound"),
            ((upload(tone(1.0), "a.wav"),), "No clip was picked"),
        ):
            with self.subTest(words):
                answer = self.send(*files)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.json()["message"])
                self.assertFalse(Take.everything.exists())
                self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])


class Receipt(SchoolTest):
    def test_it_tells_what_was_handed_in_and_when(self) -> None:
        take = self.school.take()
        self.as_person(self.school.student)
        answer = self.client.get(reverse("receipt", args=[take.pk]))
        text = answer.content.decode()
        drawings = len({e["drawing"] for e in take.analysis.findings["clip"]["exposures"]})
        for words in ("take 1", "A cork float", f"{take.file_bytes} bytes", f"Drawings:   {drawings}", take.file.name):
            self.assertIn(words, text)
        self.assertIn("attachment", answer["Content-Disposition"])


class CaptureStand(SchoolTest):
    def test_pictures_of_one_sheet_differ_a_little_from_press_to_press(self) -> None:
        self.as_person(self.school.student)

        def seen(sheet: int, shot: int) -> bytes:
            return self.client.get(reverse("stand-picture", args=[self.school.brief.pk, sheet, shot])).content

        self.assertEqual(seen(1, 0), seen(1, 0))
        self.assertNotEqual(seen(1, 0), seen(1, 1))
        gone = self.client.get(reverse("stand-picture", args=[self.school.brief.pk, 999, 0]))
        self.assertEqual(gone.status_code, 404)

    def test_what_it_takes_can_be_looked_through(self) -> None:
        self.as_person(self.school.student)
        brief = self.school.brief
        url = reverse("capture-stand", args=[brief.pk])
        sheets = self.client.get(url).context["sheets"]
        shots = [
            upload(self.client.get(reverse("stand-picture", args=[brief.pk, n, n - 1])).content, f"p_{n:03d}.png")
            for n in range(1, sheets + 1)
        ]
        self.client.post(reverse("look-through", args=[brief.pk]), {"files": shots})
        look_at_all()
        found = Take.everything.get().analysis.findings
        self.assertIn("preflight.drift", [n["code"] for n in found["preflight"]])
        self.assertEqual([f["code"] for f in found["findings"]], [])
