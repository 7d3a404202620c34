"""Handing in through the page, and what becomes of it."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from motion.exercises.bounce.plan import bounce
from nettlecap.takes.models import Analysis, Arrival, Take
from tests.web.school import (
    SMALL,
    SchoolTest,
    broken_zip,
    clean_clip,
    files_below,
    hanging_clip,
    look_at_all,
    read_all,
    upload,
)

FRAMES = bounce(SMALL).frames


class HandingIn(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.student)
        self.url = reverse("hand-in", args=[self.school.brief.pk])

    def send(self, *files: SimpleUploadedFile):  # type: ignore[no-untyped-def]
        return self.client.post(self.url, {"files": list(files)}, headers={"accept": "application/json"})

    def test_a_zip_becomes_take_one_and_is_looked_at(self) -> None:
        answer = self.send(upload(clean_clip()))
        self.assertEqual(answer.status_code, 201)
        self.assertFalse(Take.objects.exists())
        self.assertContains(self.client.get(answer.json()["url"]), "Your clip is here, and waits to be read")
        read_all()
        take = Take.objects.get()
        self.assertEqual((take.number, take.frames, take.width), (1, FRAMES, 480))
        self.assertEqual(take.analysis.state, Analysis.State.WAITING)
        look_at_all()
        take.analysis.refresh_from_db()
        self.assertEqual(take.analysis.state, Analysis.State.DONE)
        self.assertEqual(take.analysis.findings["findings"], [])
        self.assertTrue(take.analysis.path_line)
        page = self.client.get(answer.json()["url"], follow=True)
        self.assertContains(page, "Take 1 is handed in")

    def test_loose_pictures_make_one_clip(self) -> None:
        with zipfile.ZipFile(io.BytesIO(clean_clip())) as archive:
            pictures = [SimpleUploadedFile(n, archive.read(n)) for n in archive.namelist()]
        self.assertEqual(self.send(*reversed(pictures)).status_code, 201)
        read_all()
        self.assertEqual(Take.objects.get().frames, FRAMES)

    def test_a_further_hand_in_is_take_two_and_take_one_stays(self) -> None:
        self.send(upload(clean_clip()))
        self.send(upload(hanging_clip()[0]))
        read_all()
        self.assertEqual(list(Take.objects.values_list("number", flat=True)), [1, 2])
        self.assertTrue(all(t.file.exists() for t in Take.objects.all()))

    def test_a_bad_file_is_refused_in_words_and_leaves_nothing_behind(self) -> None:
        empty = io.BytesIO()
        zipfile.ZipFile(empty, "w").close()
        for name, data, words in (
            ("a.zip", broken_zip(), "cannot be opened as a zip"),
            ("b.zip", b"hello", "Hand in numbered pictures"),
            ("c.gif", b"GIF89a" + bytes(20), "damaged"),
        ):
            with self.subTest(name):
                answer = self.send(upload(data, name))
                self.assertEqual(answer.status_code, 201)
                read_all()
                state = self.client.get(answer.json()["state"], headers={"accept": "application/json"}).json()
                self.assertEqual((state["unread"], state["url"]), (False, ""))
                self.assertIn(words, state["message"])
                self.assertIn("Nothing was handed in", state["message"])
                self.assertContains(self.client.get(answer.json()["url"]), "Hand in another file")
        self.assertFalse(Take.objects.exists())
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])

    def test_no_file_is_said(self) -> None:
        self.assertEqual(self.send().status_code, 422)

    def test_without_a_script_the_form_works_too(self) -> None:
        answer = self.client.post(self.url, {"files": [upload(clean_clip())]})
        self.assertRedirects(answer, reverse("arrival", args=[Arrival.objects.get().pk]))
        self.client.post(self.url, {"files": [upload(b"hello")]})
        read_all()
        there = reverse("arrival", args=[Arrival.objects.first().pk])
        self.assertRedirects(self.client.get(there), reverse("take", args=[Take.objects.get().pk]))
        refused = Arrival.objects.untold().get()
        page = self.client.get(reverse("arrival", args=[refused.pk]))
        self.assertContains(page, "Nothing was handed in")
        self.assertContains(self.client.get(reverse("brief", args=[self.school.brief.pk])), "could not be taken")
        self.client.post(reverse("put-arrival-aside", args=[refused.pk]))
        self.assertFalse(Arrival.objects.untold().exists())

    def test_the_state_says_how_far_it_is_and_brings_the_clip_at_the_end(self) -> None:
        self.send(upload(clean_clip()))
        read_all()
        state = reverse("take-state", args=[Take.objects.get().pk])
        waiting = self.client.get(state)
        self.assertContains(waiting, "waits to be looked at")
        self.assertNotContains(waiting, "data-player")
        look_at_all()
        arrived = self.client.get(state)
        self.assertContains(arrived, "waits for your instructor")
        self.assertContains(arrived, "data-player")

    def test_drawings_are_served_to_those_who_may_see_them(self) -> None:
        take = self.school.take()
        self.as_person(self.school.student)
        url = reverse("drawing", args=[take.pk, take.analysis.run, 1])
        picture = self.client.get(url)
        self.assertEqual(b"".join(picture.streaming_content)[:8], b"\x89PNG\r\n\x1a\n")  # type: ignore[attr-defined]
        self.assertEqual(self.client.get(reverse("drawing", args=[take.pk, 99, 1])).status_code, 404)
        self.assertEqual(self.client.get(reverse("drawing", args=[take.pk, take.analysis.run, 999])).status_code, 404)
