"""A school that outgrows SQLite: its backup is put back into PostgreSQL, and everything goes on."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import unittest
from pathlib import Path

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase

from nettlecap.classroom.models import Person
from nettlecap.marking.decisions import decide
from nettlecap.marking.models import MarkSheet
from nettlecap.takes.models import Take
from tests.databases import address
from tests.web.school import School, hanging_clip

EVENING = """
from tests.databases import address
from tests.web.school import School, hanging_clip, upload
from nettlecap.takes.hand_in import hand_in
from nettlecap.marking.decisions import decide
school = School()
take = hand_in(school.student, school.brief, [upload(hanging_clip()[0])])
decide.set_remark(school.instructor, take, "Lower on frame nine.")
"""


def manage(database: str, data: Path, *words: str) -> None:
    """Run a command on a database of its own."""
    told = {"NETTLECAP_DATA": str(data), "DATABASE_URL": database, "DJANGO_SETTINGS_MODULE": "nettlecap.settings"}
    command = [sys.executable, str(settings.BASE / "manage.py"), *words]
    subprocess.run(command, env={**os.environ, **told}, cwd=settings.BASE, check=True, capture_output=True)


def an_evening_in_sqlite(folder: Path) -> Path:
    """The backup of a small school that keeps its data in SQLite."""
    where = f"sqlite:///{folder / 'school.sqlite3'}", folder / "data"
    manage(*where, "migrate", "--verbosity", "0")
    manage(*where, "shell", "--verbosity", "0", "-c", EVENING)
    manage(*where, "run_worker", "--batch")
    manage(*where, "backup", str(folder / "evening.tar.gz"))
    return folder / "evening.tar.gz"


@unittest.skipUnless(connection.vendor == "postgresql", "is about PostgreSQL")
class Carried(TransactionTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)
        self.backup = an_evening_in_sqlite(Path(folder.name))

    def test_everything_is_there_as_it_was_and_new_rows_come_after_it(self) -> None:
        Person.objects.create_user(username="gone", name="Gone")
        # In a process of its own: a test may not open the second database that this takes.
        manage(address(), settings.DATA, "restore", str(self.backup), "--yes")
        self.assertFalse(Person.objects.filter(username="gone").exists())
        take = Take.objects.select_related("analysis", "brief").get()
        self.assertEqual((take.number, take.analysis.state), (1, "done"))
        self.assertEqual(take.file.read_bytes(), hanging_clip()[0])
        sheet = MarkSheet.objects.get(take=take)
        self.assertEqual(sheet.remark, "Lower on frame nine.")
        self.assertLess(sheet.changed_at, take.analysis.finished_at)
        orla = Person.objects.get(username="orla")
        written = decide.note(orla, take, first=1, last=2, principle="arcs", text="And higher here.")
        self.assertEqual(written.sheet, sheet)
        School.person(School.__new__(School), "lind", "student", take.brief.course)


@unittest.skipUnless(connection.vendor == "sqlite", "is about SQLite")
class NotBack(TransactionTestCase):
    def test_a_backup_of_postgresql_is_not_put_into_sqlite(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "nettlecap-backup.json").write_text('{"schema": "nettlecap.backup/1"}')
            (folder / "database.pgdump").write_bytes(b"PGDMP")
            with tarfile.open(folder / "other.tar.gz", "w:gz") as archive:
                for part in ("nettlecap-backup.json", "database.pgdump"):
                    archive.add(folder / part, part)
            with self.assertRaisesRegex(CommandError, "cannot be put into SQLite"):
                call_command("restore", str(folder / "other.tar.gz"), "--yes")
