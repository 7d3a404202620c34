"""``manage.py backup FILE``: everything in one file, while the application runs."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nettlecap.errors import Refusal
from nettlecap.pages.backup import back_up


class Command(BaseCommand):
    help = "Write the database and all hand-ins into one file (.tar.gz). The application may go on running."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE")
        parser.add_argument(
            "--without-files", action="store_true", help="the database alone, where the shared storage is kept safe"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            count = back_up(options["file"], with_files=not options["without_files"])
        except (Refusal, OSError) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Backed up into “{options['file']}”: the database, and {count} files of hand-ins.")
