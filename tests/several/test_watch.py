"""Knowing how an installation is doing: probes, numbers, lines of the log, checks at its start, and the page."""

from __future__ import annotations

import json
import logging
import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from unittest import mock

import structlog
from django.conf import settings
from django.core import checks
from django.db import OperationalError
from django.test import SimpleTestCase, override_settings
from django.urls import reverse
from django_tasks_db.models import DBTaskResult

from nettlecap import logs
from nettlecap.classroom.models import Person
from nettlecap.takes.leases import Heart, name_of_process
from nettlecap.takes.models import Analysis, Arrival, Take
from nettlecap.takes.tasks import analyse_take, draw_again, read_arrival
from nettlecap.watch import again, probes
from nettlecap.watch.models import BackupMade
from tests.web.school import SchoolTest, broken_zip, clean_clip, look_at_all, upload


class Keeper(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.keeper = Person.objects.create_user("keeper", name="The keeper", password="x", is_staff=True)

    def page(self) -> str:
        self.as_person(self.keeper)
        return self.client.get(reverse("house")).content.decode()


class Probed(Keeper):
    def test_a_living_process_says_so_without_asking_anything(self) -> None:
        with self.assertNumQueries(0):
            answer = self.client.get("/healthz", headers={"host": "10.1.2.3"})
        self.assertEqual((answer.status_code, answer.json()), (200, {"alive": True}))

    def test_it_is_ready_once_database_and_files_answer(self) -> None:
        answer = self.client.get("/readyz", headers={"host": "10.1.2.3"})
        self.assertEqual((answer.status_code, answer.json()["ready"]), (200, True))

    def test_it_is_not_where_the_database_is_away(self) -> None:
        away = {"cursor": mock.Mock(side_effect=OperationalError("gone: secret")), "close": mock.Mock()}
        with mock.patch.multiple(probes.connection, **away):
            answer = self.client.get("/readyz")
        self.assertEqual((answer.status_code, answer.json()["database"]), (503, "cannot be reached"))
        self.assertNotIn("secret", answer.content.decode())

    def test_it_is_not_with_tables_of_an_earlier_version(self) -> None:
        probes._laid_out.clear()
        with mock.patch.object(probes.MigrationExecutor, "migration_plan", return_value=["one"]):
            answer = self.client.get("/readyz")
        self.assertEqual((answer.status_code, answer.json()["database"]), (503, "migrations are to be run"))

    def test_it_is_not_where_the_disk_is_full(self) -> None:
        with mock.patch.object(probes.shutil, "disk_usage", return_value=mock.Mock(free=1000)):
            self.assertEqual(self.client.get("/readyz").json()["files"], "the disk is full")


class Numbers(Keeper):
    def scraped(self) -> dict[str, float]:
        """Every number by its name with its labels."""
        lines = self.client.get("/metrics").content.decode().splitlines()
        return {name: float(value) for name, _, value in (x.rpartition(" ") for x in lines if not x.startswith("#"))}

    def test_requests_and_refusals_are_counted_by_page(self) -> None:
        before = self.scraped()
        self.as_person(self.school.student)
        self.client.get(reverse("start"))
        self.client.get(reverse("outbox"))
        after = self.scraped()

        def more(name: str) -> float:
            return after[name] - before.get(name, 0.0)

        self.assertEqual(more('nettlecap_requests_total{method="GET",page="start",status="200"}'), 1)
        self.assertEqual(more('nettlecap_refusals_total{page="outbox",status="403"}'), 1)
        self.assertEqual(more('nettlecap_request_seconds_count{page="start"}'), 1)

    def test_jobs_files_and_refused_clips(self) -> None:
        self.as_person(self.school.student)
        hand_in = reverse("hand-in", args=[self.school.brief.pk])
        self.client.post(hand_in, {"files": upload(clean_clip())})
        self.client.post(hand_in, {"files": upload(broken_zip(), "broken.zip")})
        told = self.scraped()
        self.assertEqual(told['nettlecap_jobs_waiting{kind="read_arrival"}'], 2)
        self.assertGreater(told['nettlecap_jobs_oldest_waiting_seconds{kind="read_arrival"}'], 0)
        look_at_all()
        told = self.scraped()
        self.assertEqual(told['nettlecap_jobs_done_last_hour{kind="analyse_take"}'], 1)
        self.assertGreater(told['nettlecap_job_seconds_p95{kind="analyse_take"}'], 0)
        self.assertEqual(told["nettlecap_kept_bytes"], len(clean_clip()))
        self.assertEqual(told['nettlecap_clips_refused{reason="DamagedFile"}'], 1)

    def test_they_are_for_this_machine_or_who_has_the_token(self) -> None:
        self.assertEqual(self.client.get("/metrics").status_code, 200)
        self.assertEqual(self.client.get("/metrics", REMOTE_ADDR="10.9.9.9").status_code, 403)
        # A proxy on this machine stands between somebody else and us.
        self.assertEqual(self.client.get("/metrics", headers={"x-forwarded-for": "10.9.9.9"}).status_code, 403)
        with override_settings(METRICS_TOKEN="a-token"):
            self.assertEqual(self.client.get("/metrics").status_code, 403)
            for told, status in (("Bearer a-token", 200), ("Bearer b-token", 403)):
                answer = self.client.get("/metrics", REMOTE_ADDR="10.9.9.9", headers={"authorization": told})
                self.assertEqual(answer.status_code, status)


class Lines(Keeper):
    @contextmanager
    def told(self, name: str) -> Iterator[list[dict[str, Any]]]:
        """The lines that are written meanwhile, as the formatter that is set writes them."""
        formatter = logs.configured(logs.JSON)["formatters"]["told"]
        handler = logging.Handler()
        handler.setFormatter(structlog.stdlib.ProcessorFormatter(**{k: v for k, v in formatter.items() if k != "()"}))
        lines: list[dict[str, Any]] = []
        handler.emit = lambda record: lines.append(json.loads(handler.format(record)))  # type: ignore[method-assign]
        logger = logging.getLogger(name)
        before = logger.level
        logger.setLevel(logging.INFO)
        try:
            with mock.patch.multiple(logger, handlers=[handler], disabled=False):
                yield lines
        finally:
            logger.setLevel(before)

    def test_each_request_is_a_line_with_its_number_and_no_secret(self) -> None:
        self.as_person(self.school.student)
        with self.told(logs.REQUESTS) as lines:
            answer = self.client.get(reverse("brief", args=[self.school.brief.pk]))
            self.client.get(reverse("join", args=["a-secret-code"]))
        line = lines[0]
        self.assertEqual(line["request_id"], answer["X-Request-ID"])
        self.assertEqual((line["page"], line["status"], line["person"]), ("brief", 200, self.school.student.pk))
        self.assertEqual(line["brief_id"], self.school.brief.pk)
        self.assertGreater(line["ms"], 0)
        self.assertNotIn("a-secret-code", json.dumps(lines))

    def test_only_a_proxy_of_ours_may_give_the_number(self) -> None:
        asked = {"x-request-id": "from-the-proxy-1"}
        self.assertNotEqual(self.client.get("/sign-in", headers=asked)["X-Request-ID"], "from-the-proxy-1")
        with override_settings(TRUSTED_PROXIES=["127.0.0.1"]):
            self.assertEqual(self.client.get("/sign-in", headers=asked)["X-Request-ID"], "from-the-proxy-1")
            worse = {"x-request-id": 'x"} {"level": "forged'}
            self.assertNotIn("forged", self.client.get("/sign-in", headers=worse)["X-Request-ID"])

    def test_the_number_stands_on_the_page_where_something_went_wrong(self) -> None:
        self.as_person(self.school.student)
        self.client.raise_request_exception = False
        with mock.patch("nettlecap.pages.views.start_of", side_effect=RuntimeError("oh")):
            answer = self.client.get(reverse("start"))
        self.assertEqual(answer.status_code, 500)
        self.assertContains(answer, answer["X-Request-ID"], status_code=500)

    def test_a_database_that_is_away_before_any_page_is_reached_is_told_as_that(self) -> None:
        self.as_person(self.school.student)
        self.client.raise_request_exception = False
        away = OperationalError("consuming input failed: server closed the connection unexpectedly")
        with mock.patch("django.contrib.sessions.backends.db.SessionStore.load", side_effect=away):
            answer = self.client.get(reverse("start"))
        self.assertContains(answer, "cannot be reached at the moment", status_code=503)

    def test_each_job_is_a_line(self) -> None:
        take = self.school.take()
        DBTaskResult.objects.all().delete()
        draw_again.enqueue(take.pk, 1)
        with self.told(logs.JOBS) as lines:
            look_at_all()
        self.assertEqual([(x["kind"], x["about"], x["became"]) for x in lines], [("draw_again", [take.pk, 1], "drawn")])
        self.assertGreater(lines[0]["ms"], 0)


class ThePage(Keeper):
    def test_it_tells_who_works_what_waits_and_what_was_backed_up(self) -> None:
        self.assertIn("none yet", self.page())
        BackupMade.objects.create(machine="here", path="evening.tar.gz", size=5_000_000, hand_ins=12)
        name = name_of_process("worker-1")
        analyse_take.enqueue(41, 1)
        job = DBTaskResult.objects.get()
        with Heart(name):
            job.claim(name)
            page = self.page()
        self.assertIn("Looking at clips (no. 41)", page)
        self.assertIn("12 hand-ins", page)
        self.assertIn("PostgreSQL" if "postgres" in settings.DATABASES["default"]["ENGINE"] else "SQLite", page)

    def test_a_part_of_it_is_asked_for_again_and_again(self) -> None:
        self.as_person(self.keeper)
        part = self.client.get(reverse("house"), headers={"hx-request": "true"}).content.decode()
        self.assertNotIn("<html", part)
        self.assertIn("Jobs waiting", part)

    def test_it_takes_few_queries_however_much_there_is(self) -> None:
        self.as_person(self.keeper)
        for _ in range(20):
            analyse_take.enqueue(1, 1)
        DBTaskResult.objects.update(status="FAILED")
        with self.assertNumQueries(12):
            self.client.get(reverse("house"))

    def test_a_clip_that_was_set_aside_is_looked_at_again(self) -> None:
        take = self.school.take()
        Analysis.objects.filter(take=take).update(state="failed", findings=None)
        job = DBTaskResult.objects.get(task_path=analyse_take.module_path)
        job.set_failed(RuntimeError("Out of luck."))
        self.assertIn("Out of luck.", self.page())
        self.client.post(reverse("try-job-again", args=[job.pk]))
        look_at_all()
        self.assertEqual(Take.objects.get().analysis.state, "done")
        self.assertFalse(DBTaskResult.objects.failed().exists())

    def test_any_other_job_is_done_again_with_what_it_was_about(self) -> None:
        take = self.school.take()
        draw_again.enqueue(take.pk, 1)
        job = DBTaskResult.objects.ready().get()
        job.set_failed(RuntimeError("oh"))
        again.try_again(self.keeper, str(job.pk))
        self.assertEqual(DBTaskResult.objects.ready().get().args_kwargs["args"], [take.pk, 1])
        self.as_person(self.keeper)
        self.assertEqual(self.client.post(reverse("try-job-again", args=[job.pk])).status_code, 409)

    def test_what_was_refused_cannot_be_read_again_and_can_be_taken_off(self) -> None:
        read_arrival.enqueue(1)
        job = DBTaskResult.objects.get()
        job.set_failed(RuntimeError("oh"))
        self.as_person(self.keeper)
        self.assertEqual(self.client.post(reverse("try-job-again", args=[job.pk])).status_code, 409)
        self.client.post(reverse("let-job-go", args=[job.pk]))
        self.assertFalse(DBTaskResult.objects.exists())

    def test_a_course_is_given_another_measure(self) -> None:
        self.as_person(self.keeper)
        url = reverse("give-measure", args=[self.school.course.pk])
        self.client.post(url, {"gigabytes": "2.5", "waiting": "40"})
        self.school.course.refresh_from_db()
        self.assertEqual((self.school.course.most_bytes, self.school.course.most_waiting), (2_500_000_000, 40))
        for hostile in ("much", "NaN", "1e999", "-1", "9" * 5000, "0"):
            self.assertEqual(self.client.post(url, {"gigabytes": hostile}).status_code, 422, hostile)
        self.client.post(url, {"gigabytes": "", "waiting": ""})
        self.school.course.refresh_from_db()
        self.assertIsNone(self.school.course.most_bytes)


class BeforeItStarts(Keeper):
    def told(self, **changed: Any) -> set[str]:
        with override_settings(**changed):
            return {str(message.id) for message in checks.run_checks()}

    def test_a_small_school_on_its_own_machine_is_told_nothing(self) -> None:
        self.assertEqual(self.told(ALLOWED_HOSTS=["localhost", "127.0.0.1", "[::1]"]), set())

    def test_what_would_lose_or_leak_is_told(self) -> None:
        public = {"ALLOWED_HOSTS": ["motion.school.example"], "SECRET_KEY": "k" * 50}
        self.assertIn("nettlecap.E001", self.told(**public, DEBUG=True))
        self.assertIn("nettlecap.E002", self.told(ALLOWED_HOSTS=["*"]))
        self.assertIn("nettlecap.W003", self.told(**public))
        self.assertNotIn("nettlecap.W003", self.told(**public, HTTPS=True))
        self.assertIn("nettlecap.E005", self.told(**{**public, "SECRET_KEY": "short"}))
        self.assertIn("nettlecap.E008", self.told(USE_TZ=False))
        self.assertIn("nettlecap.I009", self.told(**public))
        with mock.patch("nettlecap.watch.checks.os.access", return_value=False):
            self.assertIn("nettlecap.E004", self.told())

    def test_a_secret_in_the_repository(self) -> None:
        tracked = settings.BASE / "README.md"
        self.assertTrue((settings.BASE / ".git").exists())
        with mock.patch("nettlecap.watch.checks._secret_files", return_value=[tracked]):
            self.assertIn("nettlecap.E006", self.told())

    def test_machines_that_share_files_share_a_secret_and_a_database(self) -> None:
        shared = {**settings.STORAGES, "shared": {"BACKEND": "storages.backends.s3.S3Storage"}}
        with mock.patch.dict(os.environ):
            os.environ.pop("SECRET_KEY", None)
            told = self.told(STORAGES=shared)
        self.assertIn("nettlecap.E007", told)
        self.assertEqual("nettlecap.W010" in told, "sqlite" in settings.DATABASES["default"]["ENGINE"])


class Settings(SimpleTestCase):
    def said(self, **environment: str) -> str:
        """What the settings say of an environment: the engine, or why not."""
        code = "from nettlecap.settings import DATABASES; print(DATABASES['default']['ENGINE'])"
        told = {**os.environ, **environment}
        done = subprocess.run([sys.executable, "-c", code], env=told, cwd=settings.BASE, capture_output=True, text=True)
        return (done.stdout or done.stderr).strip().splitlines()[-1]

    def test_the_database_is_named_by_its_url_and_an_empty_one_is_none(self) -> None:
        self.assertEqual(self.said(DATABASE_URL=""), "django.db.backends.sqlite3")
        self.assertEqual(self.said(DATABASE_URL="postgres://a:b@c:5/d"), "django.db.backends.postgresql")
        self.assertIn("works on no other database", self.said(DATABASE_URL="mysql://a:b@c:5/d"))


class Reasons(SchoolTest):
    def test_why_a_clip_was_refused_is_kept_with_it(self) -> None:
        self.as_person(self.school.student)
        self.client.post(reverse("hand-in", args=[self.school.brief.pk]), {"files": upload(b"words", "words.txt")})
        look_at_all()
        self.assertEqual(Arrival.objects.get().reason, "UnknownFormat")
