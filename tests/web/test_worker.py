"""The worker as a process of its own: killed at any moment, it loses no job."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from dataclasses import replace

from django.conf import settings
from django.db import connections
from django.test import TransactionTestCase
from django_tasks_db.models import DBTaskResult

from motion.exercises.bounce.plan import bounce
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Analysis
from nettlecap.takes.worker import LOST, take_up_lost
from tests.web.school import SMALL, School, clean_clip, upload, zip_of


def start_worker(*options: str) -> subprocess.Popen[bytes]:
    """The real worker on the tests' database."""
    name = connections["default"].settings_dict["NAME"]
    environment = {
        **os.environ,
        "DATABASE_URL": f"sqlite:///{name}",
        "NETTLECAP_DATA": str(settings.DATA),
        "DJANGO_SETTINGS_MODULE": "nettlecap.settings",
    }
    command = [sys.executable, str(settings.BASE / "manage.py"), "run_worker", "--interval", "0.05", *options]
    return subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


class KilledWorkers(TransactionTestCase):
    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)

    def wait_for(self, what) -> None:  # type: ignore[no-untyped-def]
        end = time.monotonic() + 60
        while not what():
            self.assertLess(time.monotonic(), end, "the worker did not get there")
            time.sleep(0.02)

    def test_a_job_that_its_worker_was_killed_in_is_done_by_the_next(self) -> None:
        # Long enough to be caught at work.
        data = zip_of(bounce(replace(SMALL, width=960, height=540, kept=(0.9,) * 7, speed_x=6)))
        for student in (self.school.student, self.school.classmate):
            hand_in(student, self.school.brief, [upload(data)])
        worker = start_worker()
        self.addCleanup(worker.kill)
        self.wait_for(lambda: Analysis.objects.filter(state="running").exists())
        worker.send_signal(signal.SIGKILL)
        worker.wait()
        self.assertEqual(DBTaskResult.objects.running().count(), 1)
        following = start_worker("--batch")
        self.assertEqual(following.wait(60), 0)
        self.assertEqual(list(Analysis.objects.values_list("state", flat=True)), ["done", "done"])

    def test_a_job_that_kills_its_worker_twice_is_set_aside_with_a_message(self) -> None:
        take = hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        job = DBTaskResult.objects.get()
        for _ in range(2):
            job.refresh_from_db()
            job.claim("worker-1")
            take_up_lost("worker-1")
        job.refresh_from_db()
        take.analysis.refresh_from_db()
        self.assertEqual((job.status, take.analysis.state), ("FAILED", "failed"))
        self.assertEqual(take.analysis.message, LOST)

    def test_another_workers_running_job_is_left_alone(self) -> None:
        hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        DBTaskResult.objects.get().claim("worker-2")
        self.assertEqual(take_up_lost("worker-1"), 0)
        self.assertEqual(DBTaskResult.objects.running().count(), 1)

    def test_two_of_one_name_do_not_run_at_once(self) -> None:
        first = start_worker()
        self.addCleanup(first.kill)
        lock = settings.DATA / "worker-1.lock"
        self.wait_for(lock.exists)
        time.sleep(1.0)
        self.assertEqual(start_worker("--batch").wait(30), 1)
