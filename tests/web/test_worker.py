"""The worker as a process of its own: killed or stopped at any moment, it loses no job and blames no clip."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.db import OperationalError
from django.db.models import QuerySet
from django.test import TransactionTestCase
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion import sandbox
from motion.errors import ReaderKilled
from motion.exercises.bounce.plan import bounce
from nettlecap.takes import look_again, worker
from nettlecap.takes.arrivals import arrive
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.leases import Heart, any_alive, name_of_process
from nettlecap.takes.models import Analysis, Arrival, Beat, Take
from nettlecap.takes.work import look
from nettlecap.takes.worker import LOST, MOST_LOSSES, NOT_READ, take_up_lost
from tests.databases import address
from tests.web.school import SMALL, School, clean_clip, upload, zip_of


def start_worker(*options: str) -> subprocess.Popen[bytes]:
    """The real worker on the tests' database."""
    environment = {
        **os.environ,
        "DATABASE_URL": address(),
        "NETTLECAP_DATA": str(settings.DATA),
        "DJANGO_SETTINGS_MODULE": "nettlecap.settings",
    }
    command = [sys.executable, str(settings.BASE / "manage.py"), "run_worker", "--interval", "0.05", *options]
    return subprocess.Popen(
        command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
    )


class WithWorkers(TransactionTestCase):
    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)

    def wait_for(self, what: Callable[[], object]) -> None:
        end = time.monotonic() + 90
        while not what():
            self.assertLess(time.monotonic(), end, "the worker did not get there")
            time.sleep(0.02)

    def long_clips(self) -> None:
        """Two takes, long enough for their worker to be caught at work."""
        data = zip_of(bounce(replace(SMALL, width=960, height=540, kept=(0.9,) * 7, speed_x=6)))
        for student in (self.school.student, self.school.classmate):
            hand_in(student, self.school.brief, [upload(data)])

    def working(self) -> subprocess.Popen[bytes]:
        """A worker that is looking at a clip."""
        process = start_worker()
        self.addCleanup(process.kill)
        self.wait_for(lambda: Analysis.objects.filter(state="running", progress__gt=0).exists())
        return process

    def states(self) -> list[str]:
        """Of each take's analysis, with what is said of one that failed."""
        told = Analysis.objects.order_by("pk").values_list("state", "message")
        return [f"{state} {message}".strip() for state, message in told]


class KilledAndStopped(WithWorkers):
    def test_a_job_that_its_worker_was_killed_in_is_done_by_any_other(self) -> None:
        self.long_clips()
        killed = self.working()
        killed.send_signal(signal.SIGKILL)
        killed.wait()
        self.assertEqual(DBTaskResult.objects.running().count(), 1)
        following = start_worker("--batch", "--name", "another")
        self.assertEqual(following.wait(120), 0)
        self.assertEqual(self.states(), ["done", "done"])
        self.assertEqual(len(Analysis.objects.latest("pk").findings["track"]["shapes"]) > 10, True)

    def test_one_that_is_told_to_stop_puts_its_job_back_at_once_and_unblamed(self) -> None:
        self.long_clips()
        for number in (signal.SIGTERM, signal.SIGINT):
            with self.subTest(number):
                stopped = self.working()
                # As Ctrl C and a service manager do: to the whole group.
                os.killpg(stopped.pid, number)
                self.assertEqual(stopped.wait(20), 0)
                self.assertEqual(self.states(), ["waiting", "waiting"])
                self.assertFalse(DBTaskResult.objects.running().exists())
                self.assertEqual([j.worker_ids for j in DBTaskResult.objects.ready()], [[], []])
                self.assertFalse(Beat.objects.exists())
        self.assertEqual(start_worker("--batch").wait(120), 0)
        self.assertEqual(self.states(), ["done", "done"])

    def test_a_readers_own_death_from_outside_is_not_the_clips_fault(self) -> None:
        self.long_clips()
        working = self.working()
        for child in _children(working.pid):
            os.kill(child, signal.SIGKILL)
        self.wait_for(lambda: self.states() == ["done", "done"])

    def test_nothing_is_left_of_a_killed_one(self) -> None:
        self.long_clips()
        killed = self.working()
        children = _children(killed.pid)
        self.assertTrue(children)
        killed.kill()
        killed.wait()
        self.wait_for(lambda: not any(_runs(child) for child in children))


class BusyDatabase(WithWorkers):
    def test_one_that_is_busy_while_a_clip_is_looked_at_costs_no_work_and_blames_nobody(self) -> None:
        take = hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        update, refused = QuerySet.update, []

        def busy(rows: QuerySet[Any], **values: Any) -> int:
            if 0.0 < values.get("progress", 0.0) < 1.0:
                refused.append(values["step"])
                raise OperationalError("database is locked")
            return update(rows, **values)

        with mock.patch.object(QuerySet, "update", busy), mock.patch.object(look, "TELL_EVERY_S", 0.0):
            self.assertEqual(look.look_at(take.pk, 1), "done")
        self.assertTrue(refused)
        self.assertEqual(self.states(), ["done"])
        self.assertTrue(Analysis.objects.get().findings)


class KilledReaders(WithWorkers):
    def test_after_each_a_worker_waits_longer_before_it_begins_anything(self) -> None:
        hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        own = worker.Worker("worker", batch=True, interval=0.05)
        with (
            mock.patch.object(sandbox, "run", side_effect=ReaderKilled("gone")),
            mock.patch.object(worker.stopping, "asked") as asked,
        ):
            asked.is_set.return_value = False
            own.run()
        waited = [call.args[0] for call in asked.wait.call_args_list]
        self.assertEqual(waited, [worker.A_WHILE_S * 2**k for k in range(MOST_LOSSES)])
        self.assertEqual(self.states(), [f"failed {LOST}"])


class Leases(WithWorkers):
    def claimed(self, name: str) -> DBTaskResult:
        hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        job = DBTaskResult.objects.get()
        job.claim(name)
        return job

    def test_a_living_workers_job_is_left_alone(self) -> None:
        name = name_of_process("worker-2")
        self.claimed(name)
        with Heart(name):
            self.assertEqual(take_up_lost(), 0)
            self.assertEqual(any_alive(), [name])
        self.assertEqual(take_up_lost(), 1)

    def test_one_of_another_machine_is_taken_up_once_its_lease_is_over(self) -> None:
        elsewhere = "worker-1@elsewhere:12:abc"
        self.claimed(elsewhere)
        Beat.objects.create(name=elsewhere, beat_at=timezone.now() - timedelta(seconds=settings.LEASE_SECONDS / 2))
        self.assertEqual(take_up_lost(), 0)
        Beat.objects.update(beat_at=timezone.now() - timedelta(seconds=settings.LEASE_SECONDS + 1))
        self.assertEqual(take_up_lost(), 1)
        self.assertLess(settings.LEASE_SECONDS + worker.LOOK_EVERY_S, 60)

    def test_a_job_that_lost_worker_after_worker_is_set_aside_without_blame_and_can_be_had_again(self) -> None:
        job = self.claimed("worker-1@elsewhere:12:abc")
        for _ in range(MOST_LOSSES - 1):
            self.assertEqual(take_up_lost(), 1)
            job.refresh_from_db()
            job.claim("worker-1@elsewhere:12:abc")
        take_up_lost()
        job.refresh_from_db()
        take = Take.objects.select_related("analysis", "brief").get()
        self.assertEqual((job.status, take.analysis.state, take.analysis.message), ("FAILED", "failed", LOST))
        look_again.ask_again(self.school.student, take)
        self.assertEqual(start_worker("--batch").wait(120), 0)
        self.assertEqual(self.states(), ["done"])

    def test_so_is_a_clip_that_could_not_be_read(self) -> None:
        arrive(self.school.student, self.school.brief, [upload(clean_clip())], Arrival.As.TAKE)
        job = DBTaskResult.objects.get()
        for _ in range(MOST_LOSSES):
            job.refresh_from_db()
            job.claim("worker-1@elsewhere:12:abc")
            take_up_lost()
        self.assertEqual(Arrival.objects.get().message, f"{NOT_READ} Nothing was handed in.")

    def test_two_work_side_by_side_whatever_they_are_called(self) -> None:
        self.long_clips()
        both = [start_worker("--batch"), start_worker("--batch")]
        self.assertEqual([w.wait(120) for w in both], [0, 0])
        self.assertEqual(self.states(), ["done", "done"])


def _children(pid: int) -> list[int]:
    """Every process that this one, or one of its own, began."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = path.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if int(fields[1]) == pid:
            child = int(path.parent.name)
            found += [child, *_children(child)]
    return found


def _runs(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
