"""``manage.py restore FILE``: everything as it was when the backup was made."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nettlecap.errors import Refusal
from nettlecap.pages.backup import restore


class Command(BaseCommand):
    help = "Put the database and all hand-ins as they were in a backup. What was entered since is gone."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE")
        parser.add_argument("--yes", action="store_true", help="do it; without it nothing is changed")

    def handle(self, *args: Any, **options: Any) -> None:
        if not options["yes"]:
            raise CommandError("This replaces everything that was entered since. Run it again with --yes to do it.")
        try:
            count = restore(options["file"])
        except (Refusal, OSError) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Restored from “{options['file']}”: the database, and {count} files of hand-ins.")
