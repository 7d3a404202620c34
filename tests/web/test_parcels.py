"""What goes out of a class as files: made by the worker, had by who asked, gone after a day."""

from __future__ import annotations

import io
import shutil
import zipfile
from datetime import timedelta

import av
from django.conf import settings
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Person
from nettlecap.marking.models import Parcel
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip, hanging_clip, look_at_all, upload


class Parcels(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.first = self.school.take(data=hanging_clip()[0])
        self.second = self.school.take(self.school.classmate, clean_clip())
        self.as_person(self.school.instructor)
        self.page = reverse("files-of-class", args=[self.school.brief.pk])

    def return_all(self) -> None:
        for take in (self.first, self.second):
            self.client.post(reverse("return-marks", args=[take.pk]))

    def ask_reel(self, **more: object):  # type: ignore[no-untyped-def]
        values = {"kind": "reel.mp4", "times": "1", "names": "1", "take": [self.second.pk, self.first.pk], **more}
        return self.client.post(reverse("ask-reel", args=[self.school.brief.pk]), values)

    def made(self) -> bytes:
        look_at_all()
        parcel = Parcel.objects.latest("pk")
        answer = self.client.get(reverse("parcel", args=[parcel.pk]))
        self.assertEqual(answer.headers["Content-Disposition"], f'attachment; filename="{parcel.kind}"')
        return b"".join(answer.streaming_content)

    def test_the_feedback_of_a_class_is_a_zip_of_pdfs(self) -> None:
        self.return_all()
        self.client.post(reverse("ask-feedback", args=[self.school.brief.pk]))
        self.assertContains(self.client.get(self.page), "waiting for the worker")
        with zipfile.ZipFile(io.BytesIO(self.made())) as archive:
            self.assertEqual(archive.namelist(), ["ayumi-take-1-marks.pdf", "kofi-take-1-marks.pdf"])
            self.assertTrue(all(archive.read(name).startswith(b"%PDF") for name in archive.namelist()))
        self.assertContains(self.client.get(self.page), "Save it")
        self.assertEqual(Parcel.objects.get().done, 2)

    def test_a_reel_plays_the_chosen_clips(self) -> None:
        self.ask_reel(kind="reel.webm")
        with av.open(io.BytesIO(self.made())) as container:
            stream = container.streams.video[0]
            self.assertEqual((stream.codec_context.name, stream.width, stream.height), ("vp9", 1280, 720))
            frames = sum(1 for _ in container.decode(video=0))
        own = self.first.frames + self.second.frames
        self.assertGreater(frames, own + 2 * 24)
        self.assertEqual(Parcel.objects.get().asked["takes"], [self.second.pk, self.first.pk])

    def test_what_cannot_be_made_is_refused_before_it_is_asked_for(self) -> None:
        cases = (
            (reverse("ask-feedback", args=[self.school.brief.pk]), {}, "No marks of this brief are returned yet"),
            (reverse("ask-reel", args=[self.school.brief.pk]), {"kind": "reel.mp4", "times": "1"}, "Choose from 1 to"),
            (reverse("ask-reel", args=[self.school.brief.pk]), {"kind": "reel.avi", "times": "1"}, "an MP4 or a WebM"),
            (reverse("ask-reel", args=[self.school.brief.pk]), {"kind": "reel.mp4", "times": "99"}, "from once to"),
        )
        for url, values, words in cases:
            with self.subTest(words):
                self.assertContains(self.client.post(url, values), words, status_code=422)
        self.assertFalse(Parcel.objects.exists())

    def test_no_hand_in_waits_for_a_reel(self) -> None:
        self.ask_reel()
        take = hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        look_at_all(without=settings.QUEUE_OUT)
        self.assertEqual(Take.objects.get(pk=take.pk).analysis.state, "done")
        self.assertContains(self.client.get(self.page), "waiting for the worker")
        look_at_all(only=settings.QUEUE_OUT)
        self.assertContains(self.client.get(self.page), "Save it")

    def test_clips_of_another_class_do_not_come_in(self) -> None:
        self.assertEqual(self.ask_reel(take=["99999", "x"]).status_code, 422)

    def test_only_who_asked_has_it_and_only_while_they_mark_there(self) -> None:
        self.ask_reel()
        look_at_all()
        url = reverse("parcel", args=[Parcel.objects.get().pk])
        for person in (self.school.assistant, self.school.student, self.school.stranger):
            self.as_person(person)
            self.assertEqual(self.client.get(url).status_code, 404, person)
        self.school.instructor.memberships.update(left_at=timezone.now())
        self.as_person(Person.objects.get(pk=self.school.instructor.pk))
        self.assertEqual(self.client.get(url).status_code, 404)

    def test_drawings_that_are_gone_are_drawn_again(self) -> None:
        self.ask_reel()
        shutil.rmtree(self.first.analysis.drawings_of(self.first.analysis.shown_run))
        look_at_all()
        self.assertContains(self.client.get(self.page), "Save it")

    def test_a_clip_that_is_gone_is_told_and_nothing_half_done_is_had(self) -> None:
        self.ask_reel()
        shutil.rmtree(self.first.analysis.drawings_of(self.first.analysis.shown_run))
        self.first.file.unlink()
        look_at_all()
        parcel = Parcel.objects.get()
        self.assertContains(self.client.get(self.page), "not there any more")
        self.assertEqual(self.client.get(reverse("parcel", args=[parcel.pk])).status_code, 404)
        self.assertEqual(list(parcel.file.parent.iterdir()), [])

    def test_after_a_day_it_is_gone(self) -> None:
        self.ask_reel()
        look_at_all()
        old = Parcel.objects.get()
        Parcel.objects.update(made_at=timezone.now() - timedelta(days=2))
        self.ask_reel()
        self.assertEqual(Parcel.objects.count(), 1)
        self.assertFalse(old.file.exists())

    def test_progress_is_asked_for_only_while_something_is_on_its_way(self) -> None:
        state = reverse("parcels-state", args=[self.school.brief.pk])
        self.assertNotContains(self.client.get(state), "hx-get")
        self.ask_reel()
        self.assertContains(self.client.get(state), "hx-get")
        look_at_all()
        self.assertNotContains(self.client.get(state), "hx-get")
