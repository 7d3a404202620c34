"""What comes in is kept and acknowledged, and opened by the worker alone; one person cannot fill the queue."""

from __future__ import annotations

import errno
import io
import resource
import zipfile
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion import sandbox
from motion.errors import ReaderKilled
from nettlecap.errors import Conflict
from nettlecap.takes import arrivals
from nettlecap.takes.models import Analysis, Arrival, Take
from nettlecap.takes.stopping import PutBack
from nettlecap.takes.tasks import read_arrival
from nettlecap.takes.work import look
from tests.web.school import SchoolTest, clean_clip, files_below, look_at_all, read_all, upload

KINDS = {"hand-in": "take", "check-clip": "check", "look-through": "draft"}


class Arriving(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.brief = self.school.set_brief(terms={"own_checks": None})
        self.as_person(self.school.student)

    def send(self, name: str = "hand-in", data: bytes | None = None):  # type: ignore[no-untyped-def]
        files = {"files": [upload(data or clean_clip())]}
        return self.client.post(reverse(name, args=[self.brief.pk]), files, headers={"accept": "application/json"})

    def test_nothing_is_opened_while_somebody_waits_for_the_page(self) -> None:
        with mock.patch.object(sandbox, "run", side_effect=AssertionError("opened within a request")):
            for name in KINDS:
                with self.subTest(name):
                    self.assertEqual(self.send(name).status_code, 201)
            draft_url = Arrival.objects.latest("pk")
        self.assertEqual([a.wanted_as for a in Arrival.objects.all()], list(KINDS.values()))
        look_at_all()
        self.assertEqual(Take.everything.count(), 3)
        draft = Take.everything.drafts(self.school.student).get()
        self.assertEqual(Arrival.objects.get(pk=draft_url.pk).take, draft)
        with mock.patch.object(sandbox, "run", side_effect=AssertionError("opened within a request")):
            self.assertEqual(self.client.post(reverse("put-right", args=[draft.pk]), {"each": "2"}).status_code, 302)

    def test_so_many_of_one_person_wait_and_the_rest_is_refused_before_it_is_read(self) -> None:
        for _ in range(arrivals.MOST_UNREAD):
            self.assertEqual(self.send().status_code, 201)
        with mock.patch("nettlecap.takes.views.ToIncoming", side_effect=AssertionError("the body was read")):
            refused = self.send()
        self.assertEqual(refused.status_code, 409)
        self.assertIn("still being read", refused.json()["message"])
        self.as_person(self.school.classmate)
        self.assertEqual(self.send().status_code, 201)
        # What is read and not looked at yet counts as well.
        read_all()
        self.as_person(self.school.student)
        self.assertEqual(self.send().status_code, 409)
        look_at_all()
        self.assertEqual(self.send().status_code, 201)

    def test_who_has_fewer_waiting_comes_first(self) -> None:
        for _ in range(3):
            self.send()
        self.as_person(self.school.classmate)
        self.send()
        waiting = [job.args_kwargs["args"][0] for job in DBTaskResult.objects.ready()]
        mine = Arrival.objects.get(student=self.school.classmate).pk
        self.assertEqual(waiting.index(mine), 1)

    def test_a_clip_of_a_thousand_pictures_holds_few_files_open(self) -> None:
        with zipfile.ZipFile(io.BytesIO(clean_clip())) as archive:
            picture = archive.read(archive.namelist()[0])
        files = [upload(picture, f"f{n:04d}.png") for n in range(1000)]
        soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
        resource.setrlimit(resource.RLIMIT_NOFILE, (200, hard))
        try:
            answer = self.client.post(reverse("hand-in", args=[self.brief.pk]), {"files": files})
        finally:
            resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))
        self.assertEqual(answer.status_code, 302)
        with zipfile.ZipFile(Arrival.objects.get().file) as archive:
            self.assertEqual(len(archive.namelist()), 1000)
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT) / "incoming"), [])

    def test_who_may_not_hand_in_is_told_so_before_the_body_is_read(self) -> None:
        with mock.patch("nettlecap.takes.views.ToIncoming", side_effect=AssertionError("the body was read")):
            self.as_person(self.school.instructor)
            self.assertEqual(self.send().status_code, 403)
            self.as_person(self.school.stranger)
            self.assertEqual(self.send().status_code, 404)

    def test_a_form_without_its_token_is_refused_and_leaves_nothing(self) -> None:
        client = self.client_class(enforce_csrf_checks=True)
        client.force_login(self.school.student, backend="django.contrib.auth.backends.ModelBackend")
        url = reverse("hand-in", args=[self.brief.pk])
        self.assertEqual(client.post(url, {"files": [upload(clean_clip())]}).status_code, 403)
        self.assertFalse(Arrival.objects.exists())
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])

    def test_a_reader_that_somebody_else_ends_blames_nobody(self) -> None:
        self.send()
        arrival = Arrival.objects.get()
        with mock.patch.object(sandbox, "run", side_effect=ReaderKilled("gone")), self.assertRaises(PutBack):
            read_arrival.call(arrival.pk)
        arrival.refresh_from_db()
        self.assertEqual((arrival.state, arrival.message), ("waiting", ""))
        read_all()
        take = Take.objects.get()
        with mock.patch.object(sandbox, "run", side_effect=ReaderKilled("gone")), self.assertRaises(PutBack):
            look.look_at(take.pk, 1)
        self.assertEqual(Analysis.objects.get().state, "waiting")
        look_at_all()
        self.assertEqual(Analysis.objects.get().state, "done")

    def test_reading_twice_makes_one_take(self) -> None:
        self.send()
        arrival = Arrival.objects.get()
        self.assertEqual(read_arrival.call(arrival.pk), "taken in")
        self.assertEqual(read_arrival.call(arrival.pk), "nothing to do")
        self.assertEqual(Take.objects.count(), 1)

    def test_what_is_put_aside_is_gone_unless_a_take_has_the_same_file(self) -> None:
        self.school.take(data=clean_clip())
        self.as_person(self.school.student)
        self.send()
        self.send(data=b"no clip")
        self.assertEqual(len(files_below(Path(settings.MEDIA_ROOT) / "takes")), 2)
        for arrival in Arrival.objects.unread():
            self.client.post(reverse("put-arrival-aside", args=[arrival.pk]))
        self.assertEqual(len(files_below(Path(settings.MEDIA_ROOT) / "takes")), 1)
        arrival = Arrival(student=self.school.student, state=Arrival.State.READING)
        with self.assertRaises(Conflict):
            arrivals.put_aside(self.school.student, arrival)

    def test_the_state_is_told_to_the_form_and_to_the_page(self) -> None:
        told = self.send().json()
        state = told["state"]
        waiting = self.client.get(state, headers={"accept": "application/json"}).json()
        self.assertEqual(waiting, {"unread": True, "message": "", "url": ""})
        self.assertContains(self.client.get(state), "every 700ms")
        read_all()
        there = reverse("take", args=[Take.objects.get().pk])
        self.assertEqual(self.client.get(state, headers={"accept": "application/json"}).json()["url"], there)
        self.assertEqual(self.client.get(state)["HX-Redirect"], there)


class WhenTheDiskIsFull(SchoolTest):
    def test_what_came_in_and_what_is_looked_at_waits_and_nothing_is_blamed(self) -> None:
        arrivals.arrive(self.school.student, self.school.brief, [upload(clean_clip())], Arrival.As.TAKE)
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch.object(sandbox, "run", side_effect=full):
            look_at_all()
        self.assertEqual((Arrival.objects.get().state, Arrival.objects.get().message), ("waiting", ""))
        job = DBTaskResult.objects.get()
        self.assertEqual((job.status, job.worker_ids), ("READY", []))
        self.assertGreater(job.run_after, timezone.now())
        DBTaskResult.objects.update(run_after=timezone.now())
        look_at_all(only="nothing")
        read_all()
        with mock.patch.object(sandbox, "run", side_effect=full):
            look_at_all()
        self.assertTrue(Analysis.objects.get().unfinished)
        DBTaskResult.objects.update(run_after=timezone.now())
        look_at_all()
        self.assertEqual(Analysis.objects.get().state, "done")

    def test_what_goes_wrong_on_our_side_is_said_and_nobody_waits_for_ever(self) -> None:
        arrivals.arrive(self.school.student, self.school.brief, [upload(clean_clip())], Arrival.As.TAKE)
        with (
            mock.patch.object(sandbox, "run", side_effect=RuntimeError("a fault of ours")),
            self.assertLogs("nettlecap"),
        ):
            look_at_all()
        self.assertIn("on our side", Arrival.objects.get().message)
