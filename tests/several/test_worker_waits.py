"""A worker whose database goes away in the middle of a job: the job is done again, and neither is blamed for it."""

from __future__ import annotations

import shutil
from contextlib import nullcontext
from datetime import timedelta
from unittest import mock

from django.conf import settings
from django.db import OperationalError
from django.test import TransactionTestCase
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from nettlecap.takes import stopping, worker
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Analysis, Beat
from nettlecap.takes.worker import Worker, take_up_lost
from tests.web.school import School, clean_clip, upload

AWAY = OperationalError("the connection is closed")


class DatabaseAway(TransactionTestCase):
    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)
        hand_in(self.school.student, self.school.brief, [upload(clean_clip())])
        self.enterContext(mock.patch.object(stopping.asked, "wait"))

    def work(self, *, warned: bool = False) -> None:
        """One worker, until nothing waits any more."""
        with self.assertLogs("nettlecap.takes.worker", "WARNING") if warned else nullcontext():
            Worker("worker-1", batch=True, interval=0.01).run()

    def test_its_job_is_put_back_unblamed_once_it_is_there_again(self) -> None:
        put_back = worker.put_back
        with (
            mock.patch.object(DBTaskResult, "set_successful", side_effect=AWAY),
            mock.patch.object(worker, "put_back", side_effect=[AWAY, AWAY, mock.DEFAULT], wraps=put_back) as tried,
        ):
            self.work(warned=True)
        self.assertEqual(tried.call_count, 3)
        job = DBTaskResult.objects.get()
        self.assertEqual((job.status, job.worker_ids), ("READY", []))
        DBTaskResult.objects.update(run_after=timezone.now())
        self.work()
        self.assertEqual(list(Analysis.objects.values_list("state", flat=True)), ["done"])

    def test_nobody_is_taken_for_gone_who_had_no_time_to_renew_a_lease(self) -> None:
        elsewhere = "worker-2@elsewhere:12:abc"
        DBTaskResult.objects.get().claim(elsewhere)
        old = timezone.now() - timedelta(seconds=settings.LEASE_SECONDS + 1)
        Beat.objects.create(name=elsewhere, beat_at=old)
        with mock.patch.object(worker, "take_up_lost", side_effect=[AWAY, mock.DEFAULT], wraps=take_up_lost) as looked:
            self.work(warned=True)
        self.assertEqual(looked.call_count, 1)
        self.assertEqual(DBTaskResult.objects.get().status, "RUNNING")
        self.work()
        self.assertEqual(list(Analysis.objects.values_list("state", flat=True)), ["done"])
