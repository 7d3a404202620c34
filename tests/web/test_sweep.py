"""What is left behind is swept up by the rules; what anybody handed in, marked or wrote never is."""

from __future__ import annotations

import os
import tempfile
import time
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion.sandbox import SCRATCH_PREFIX
from nettlecap.classroom.models import Letter
from nettlecap.pages import sweep
from nettlecap.takes.models import Arrival, Beat, Take
from tests.web.school import SchoolTest, clean_clip, files_below, hanging_clip, look_at_all, upload

DAYS = 86_400.0


class Sweeping(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.root = Path(settings.MEDIA_ROOT)
        self.take = self.school.take(data=clean_clip())

    def left(self, path: str, days: float) -> Path:
        """A file that was left behind so many days ago."""
        there = self.root / path
        there.parent.mkdir(parents=True, exist_ok=True)
        there.write_bytes(b"left")
        self.age(there, days)
        return there

    def age(self, path: Path, days: float) -> None:
        then = time.time() - days * DAYS
        os.utime(path, (then, then))

    def test_what_killed_processes_left_goes_and_what_is_under_way_stays(self) -> None:
        old, new = self.left("incoming/tmpold", 1), self.left("incoming/tmpnew", 0)
        unused = self.left("takes/ab/" + "ab" * 32, 2)
        just_kept = self.left("takes/cd/" + "cd" * 32, 0)
        gone = self.left("drawings/987654/1/1.png", 2)
        self.age(gone.parent.parent, 2)
        other_run = self.left(f"drawings/{self.take.pk}/99/1.png", 2)
        self.age(other_run.parent, 2)
        scratch = Path(tempfile.mkdtemp(prefix=SCRATCH_PREFIX))
        self.age(scratch, 1)
        before = self.take.file.read_bytes()
        swept = sweep.sweep()
        for path in (old, unused, gone, other_run, scratch):
            self.assertFalse(path.exists(), path)
        for path in (new, just_kept):
            self.assertTrue(path.exists(), path)
        self.assertEqual(self.take.file.read_bytes(), before)
        drawings = self.take.analysis.drawings_of(self.take.analysis.shown_run)
        self.assertTrue(list(drawings.glob("*.png")))
        self.assertEqual(swept.counts["uploads that broke off"], 1)
        self.assertIn("1 uploads that broke off", sweep.told(swept))

    def test_drawings_that_nobody_looks_at_for_long_go_and_come_back(self) -> None:
        folder = self.take.analysis.drawings_of(self.take.analysis.shown_run)
        for path in folder.glob("*.png"):
            self.age(path, settings.DRAWINGS_DAYS + 1)
        self.age(folder, settings.DRAWINGS_DAYS + 1)
        sweep.sweep()
        self.assertFalse(folder.exists())
        self.as_person(self.school.instructor)
        url = reverse("drawing", args=[self.take.pk, self.take.analysis.shown_run, 1])
        self.assertEqual(self.client.get(url).status_code, 503)
        look_at_all()
        self.assertEqual(self.client.get(url).status_code, 200)

    def test_rows_that_are_long_over_go(self) -> None:
        self.as_person(self.school.student)
        self.client.post(reverse("hand-in", args=[self.school.brief.pk]), {"files": [upload(b"no clip")]})
        self.client.post(reverse("hand-in", args=[self.school.brief.pk]), {"files": [upload(hanging_clip()[0])]})
        look_at_all()
        jobs = DBTaskResult.objects.count()
        self.assertGreater(jobs, 2)
        old = timezone.now() - timedelta(days=500)
        Letter.objects.create(to=self.school.student, subject="Old", body="Old")
        Letter.objects.create(to=self.school.student, subject="New", body="New")
        Letter.objects.filter(subject="Old").update(written_at=old)
        Beat.objects.create(name="gone", beat_at=old)
        sweep.sweep()
        self.assertEqual(DBTaskResult.objects.count(), jobs)
        self.assertEqual(Arrival.objects.count(), 3)
        DBTaskResult.objects.update(finished_at=old)
        Arrival.objects.update(came_at=old)
        sweep.sweep()
        self.assertFalse(DBTaskResult.objects.exists())
        self.assertEqual([x.subject for x in Letter.objects.all()], ["New"])
        self.assertFalse(Arrival.objects.exists() or Beat.objects.exists())
        self.assertEqual(Take.objects.count(), 2)
        self.assertEqual(len(files_below(self.root / "takes")), 2)

    def test_by_command(self) -> None:
        call_command("sweep")

    def test_a_clip_takes_little_more_room_than_it_came_with(self) -> None:
        folder = self.take.analysis.drawings_of(self.take.analysis.shown_run)
        drawn = sum(p.stat().st_size for p in folder.glob("*.png"))
        self.assertLess(drawn, 1.5 * self.take.file_bytes)
