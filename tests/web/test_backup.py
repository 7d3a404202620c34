"""A backup of everything, made while it runs, gives the same pages when it is restored."""

from __future__ import annotations

import io
import re
import shutil
import tarfile
import tempfile
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import TransactionTestCase
from django.urls import reverse

from nettlecap.marking.models import MarkSheet
from nettlecap.pages import backup
from nettlecap.takes.leases import Heart, name_of_process
from nettlecap.takes.models import Take
from nettlecap.watch.models import BackupMade
from tests.web.school import School, hanging_clip, look_at_all


class Backup(TransactionTestCase):
    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.file = Path(folder.name) / "evening.tar.gz"
        self.take = self.school.take(data=hanging_clip()[0])
        self.client.force_login(self.school.instructor, backend="django.contrib.auth.backends.ModelBackend")
        self.client.post(reverse("points", args=[self.take.pk]), {"principle": "arcs", "points": "5"})

    def run_command(self, name: str, *options: str) -> str:
        out = io.StringIO()
        call_command(name, str(self.file), *options, stdout=out)
        return out.getvalue()

    def pages(self) -> list[str]:
        names = [("start", []), ("desk", [self.take.pk]), ("clips", []), ("class-wall", [self.school.course.pk])]
        pages = [self.client.get(reverse(name, args=args)).content.decode() for name, args in names]
        # What protects a form is new on every page.
        return [re.sub(r'csrf\w*" value="\w+"|X-CSRFToken": "\w+"', "", page) for page in pages]

    def test_it_gives_the_same_pages_and_pictures(self) -> None:
        before = self.pages()
        self.assertIn("files of hand-ins", self.run_command("backup"))
        made = BackupMade.objects.get()
        self.assertEqual((made.path, made.size, made.hand_ins), (str(self.file), self.file.stat().st_size, 1))
        MarkSheet.objects.all().delete()
        Take.objects.filter(pk=self.take.pk).update(file_name="another.zip")
        shutil.rmtree(settings.MEDIA_ROOT)
        self.assertNotEqual(self.pages(), before)
        self.run_command("restore", "--yes")
        self.assertEqual(self.pages(), before)
        run = self.take.analysis.shown_run
        url = reverse("drawing", args=[self.take.pk, run, 1])
        self.assertEqual(self.client.get(url).status_code, 503)
        look_at_all()
        self.assertEqual(self.client.get(url).status_code, 200)
        self.assertTrue(self.take.file.exists())

    def test_a_file_that_goes_while_it_is_made_is_in_it_all_the_same(self) -> None:
        engine = backup._engine()
        copy = engine.copy

        def meanwhile(to: Path) -> set[str]:
            told = copy(to)
            self.take.file.unlink()
            return told

        with mock.patch.object(engine, "copy", meanwhile):
            self.run_command("backup")
        self.assertFalse(self.take.file.exists())
        self.run_command("restore", "--yes")
        self.assertTrue(self.take.file.exists())

    def test_it_is_not_restored_while_anybody_works_or_serves(self) -> None:
        self.run_command("backup")
        with Heart(name_of_process("server")), self.assertRaisesRegex(CommandError, r"running \(server\)"):
            self.run_command("restore", "--yes")
        self.run_command("restore", "--yes")

    def test_nothing_of_another_time_stays_beside_what_is_restored(self) -> None:
        self.run_command("backup")
        stray = Path(settings.MEDIA_ROOT) / "drawings" / "77" / "1" / "1.png"
        stray.parent.mkdir(parents=True)
        stray.write_bytes(b"of a take that never was")
        self.run_command("restore", "--yes")
        self.assertFalse(stray.exists())

    def test_nothing_is_written_over(self) -> None:
        self.file.write_bytes(b"mine")
        with self.assertRaisesRegex(CommandError, "there already"):
            self.run_command("backup")
        self.assertEqual(self.file.read_bytes(), b"mine")
        self.assertEqual([p.name for p in self.file.parent.iterdir()], ["evening.tar.gz"])

    def test_it_is_not_restored_by_mistake(self) -> None:
        self.run_command("backup")
        with self.assertRaisesRegex(CommandError, "--yes"):
            self.run_command("restore")

    def test_a_backup_that_leads_out_of_its_folder_is_none(self) -> None:
        self.run_command("backup")
        outside = self.file.parent / "outside.txt"
        for kind, name in (
            (tarfile.REGTYPE, "../outside.txt"),
            (tarfile.SYMTYPE, "media"),
            (tarfile.REGTYPE, str(outside)),
        ):
            with tarfile.open(self.file, "w:gz") as archive:
                entry = tarfile.TarInfo(name)
                entry.type, entry.linkname = kind, "/etc"
                archive.addfile(entry)
            with self.subTest(name), self.assertRaisesRegex(CommandError, "no backup that can be read"):
                self.run_command("restore", "--yes")
            self.assertFalse(outside.exists())

    def test_what_is_no_backup_or_a_damaged_one_changes_nothing(self) -> None:
        self.run_command("backup")
        whole, before = self.file.read_bytes(), self.pages()
        with tarfile.open(self.file.with_name("other.tar.gz"), "w:gz") as archive:
            archive.add(__file__, "readme.txt")
        foreign = self.file.with_name("other.tar.gz").read_bytes()
        for data in (b"", b"no archive", whole[: len(whole) // 2], foreign):
            self.file.write_bytes(data)
            with self.subTest(data[:8]), self.assertRaisesRegex(CommandError, "nothing was changed"):
                self.run_command("restore", "--yes")
        self.assertEqual(self.pages(), before)
