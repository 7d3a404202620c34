"""Hand-ins and drawings in a storage that several machines share: kept, brought, verified, removed, moved."""

from __future__ import annotations

import io
import os
import shutil
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.management import CommandError, call_command
from django.test import override_settings
from django.urls import reverse

from nettlecap.files import shelf
from nettlecap.marking.parcels import ask
from nettlecap.pages import sweep
from nettlecap.pages.keeping import delete
from nettlecap.takes.forget import forget
from nettlecap.takes.models import Arrival, Take
from tests.several.shared_storage import another_machine, shared_storage
from tests.web.school import SchoolTest, clean_clip, files_below, hanging_clip, look_at_all, upload

DAY_S = 86_400.0


class Shared(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        shared = shared_storage()
        self.environment = shared.__enter__()
        self.addCleanup(shared.__exit__, None, None, None)
        self.take = self.school.take(data=clean_clip())
        self.run_folder = self.take.analysis.run_folder(self.take.analysis.shown_run)

    def drawing(self) -> str:
        return reverse("drawing", args=[self.take.pk, self.take.analysis.shown_run, 1])

    def kept(self) -> list[str]:
        return sorted(path for top in ("takes", "drawings", "parcels") for path in shelf.kept_below(top))


class KeptAndBrought(Shared):
    def test_what_one_machine_takes_in_and_looks_at_another_shows(self) -> None:
        self.assertEqual(self.kept(), [f"{self.run_folder}.tar", self.take.file_path])
        self.as_person(self.school.student)
        with another_machine() as folder:
            self.assertEqual(files_below(folder), [])
            self.assertEqual(self.client.get(self.drawing()).status_code, 200)
            answer = self.client.get(reverse("handed-in-file", args=[self.take.pk]))
            self.assertEqual(b"".join(answer.streaming_content), clean_clip())
            self.assertIn(self.take.file_path, files_below(folder))

    def test_a_page_that_asks_for_all_drawings_at_once_has_them_brought_once(self) -> None:
        opened = []
        storage = shelf.shared()
        ask = storage.open

        def slowly(path: str, mode: str = "rb") -> Any:
            opened.append(path)
            time.sleep(0.2)
            return ask(path, mode)

        with another_machine(), mock.patch.object(storage, "open", slowly), ThreadPoolExecutor(8) as threads:
            there = list(threads.map(lambda _: shelf.folder_here(self.run_folder).exists(), range(8)))
        self.assertEqual((there, opened), ([True] * 8, [f"{self.run_folder}.tar"]))

    def test_a_machine_looks_at_what_another_took_in(self) -> None:
        self.as_person(self.school.classmate)
        self.client.post(reverse("hand-in", args=[self.school.brief.pk]), {"files": upload(hanging_clip()[0])})
        with another_machine():
            look_at_all()
        take = Take.objects.get(student=self.school.classmate)
        self.assertEqual(take.analysis.state, "done")
        self.as_person(self.school.instructor)
        with another_machine():
            self.assertEqual(self.client.get(reverse("drawing", args=[take.pk, 1, 1])).status_code, 200)

    def test_nobody_else_sees_it_wherever_it_lies(self) -> None:
        self.as_person(self.school.stranger)
        for url in (self.drawing(), reverse("handed-in-file", args=[self.take.pk])):
            self.assertEqual(self.client.get(url).status_code, 404)

    def test_the_same_clip_is_kept_once(self) -> None:
        self.school.take(self.school.classmate, clean_clip())
        self.assertEqual(sum(path.startswith("takes/") for path in self.kept()), 1)

    def test_a_clip_shown_mended_and_a_file_of_the_class_are_there_on_other_machines(self) -> None:
        parcel = ask.ask_reel(
            self.school.instructor, self.school.brief, takes=[self.take.pk], kind="reel.mp4", names=False, times=1
        )
        look_at_all()
        self.as_person(self.school.instructor)
        with another_machine():
            answer = self.client.get(reverse("parcel", args=[parcel.pk]))
            self.assertEqual(b"".join(answer.streaming_content)[4:8], b"ftyp")

    def test_what_was_damaged_there_is_not_shown(self) -> None:
        shelf.shared().delete(self.take.file_path)
        shelf.shared().save(self.take.file_path, ContentFile(b"another clip"))
        self.as_person(self.school.student)
        with another_machine(), self.assertLogs("nettlecap.files.shelf", "ERROR") as told:
            self.assertEqual(self.client.get(reverse("handed-in-file", args=[self.take.pk])).status_code, 410)
            self.assertFalse(shelf.local(self.take.file_path).exists())
        self.assertIn("is damaged", told.output[0])

    def test_where_it_cannot_be_reached_that_is_said_and_nothing_is_half_done(self) -> None:
        away = {**settings.STORAGES["shared"]["OPTIONS"], "endpoint_url": "http://127.0.0.1:9"}
        storage = {**settings.STORAGES["shared"], "OPTIONS": away}
        self.as_person(self.school.student)
        with override_settings(STORAGES={**settings.STORAGES, "shared": storage}):
            answer = self.client.post(
                reverse("hand-in", args=[self.school.brief.pk]),
                {"files": upload(hanging_clip()[0])},
                headers={"accept": "application/json"},
            )
            self.assertEqual(answer.status_code, 503)
            self.assertIn("cannot be reached", answer.json()["message"])
            self.assertFalse(Arrival.objects.unread().exists())
            with another_machine():
                self.assertEqual(self.client.get(self.drawing()).status_code, 503)
        self.assertEqual(self.client.get(self.drawing()).status_code, 200)


class Removed(Shared):
    def test_what_is_deleted_is_gone_from_the_storage(self) -> None:
        forget(self.take)
        self.assertEqual(self.kept(), [])

    def test_a_person_who_is_deleted_leaves_nothing_there(self) -> None:
        delete(self.school.instructor, self.school.student.pk, "ayumi")
        self.assertEqual(self.kept(), [])

    def test_a_clip_that_somebody_else_handed_in_too_stays(self) -> None:
        self.school.take(self.school.classmate, clean_clip())
        forget(self.take)
        self.assertIn(self.take.file_path, self.kept())

    def test_what_nobody_has_any_more_is_swept_there_and_what_somebody_has_stays(self) -> None:
        before = self.kept()
        for path in ("takes/ab/" + "ab" * 32, "drawings/987654/1.tar", f"drawings/{self.take.pk}/99.tar"):
            shelf.shared().save(path, ContentFile(b"left"))
        sweep.sweep(time.time())
        self.assertEqual(len(self.kept()), len(before) + 3)
        sweep.sweep(time.time() + 2 * DAY_S)
        self.assertEqual(self.kept(), before)

    def test_a_copy_that_nobody_asks_for_goes_and_is_brought_again(self) -> None:
        at = shelf.local(self.take.file_path)
        then = time.time() - 8 * DAY_S
        os.utime(at, (then, then))
        sweep.sweep()
        self.assertFalse(at.exists())
        self.assertEqual(self.take.file.read_bytes(), clean_clip())


class Moved(SchoolTest):
    """An installation that begins with its own folder and goes over to the shared storage, and back."""

    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take(data=clean_clip())
        self.other = self.school.take(self.school.classmate, hanging_clip()[0])

    def copy(self, to: str) -> str:
        out = io.StringIO()
        call_command("copy_files", "--to", to, stdout=out)
        return out.getvalue()

    def test_there_and_back_as_often_as_one_likes(self) -> None:
        with shared_storage():
            self.assertIn("2 files sent, 0 were there", self.copy("shared"))
            self.assertIn("0 files sent, 2 were there", self.copy("shared"))
            shutil.rmtree(settings.MEDIA_ROOT)
            self.assertIn("2 files sent", self.copy("local"))
        self.assertEqual((Path(settings.MEDIA_ROOT) / self.take.file_path).read_bytes(), clean_clip())

    def test_one_that_was_broken_off_is_sent_again(self) -> None:
        with shared_storage():
            self.copy("shared")
            shelf.shared().delete(self.take.file_path)
            shelf.shared().save(self.take.file_path, ContentFile(clean_clip()[:1000]))
            self.assertIn("1 files sent, 1 were there", self.copy("shared"))

    def test_what_is_damaged_is_named_and_not_sent(self) -> None:
        (Path(settings.MEDIA_ROOT) / self.take.file_path).write_bytes(b"damaged")
        with shared_storage(), self.assertRaisesRegex(CommandError, self.take.file_path):
            self.copy("shared")

    def test_without_a_shared_storage_it_says_so(self) -> None:
        with self.assertRaisesRegex(CommandError, "FILES_BUCKET"):
            self.copy("shared")
