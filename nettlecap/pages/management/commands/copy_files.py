"""``manage.py copy_files --to shared``: hand-ins into the storage that several machines share, or back from it."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nettlecap.errors import Refusal
from nettlecap.files import moving
from nettlecap.files.shelf import StorageAway
from nettlecap.takes.used import all_used

TELL_EVERY = 100


class Command(BaseCommand):
    help = (
        "Copy every hand-in to the shared storage (FILES_BUCKET) or back to this machine, each held against its "
        "SHA-256. Break it off and begin it again as often as you like; nothing is removed."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--to", required=True, choices=moving.PLACES)

    def handle(self, *, to: str, **options: Any) -> None:
        paths = sorted(all_used())
        done = 0

        def tell(path: str) -> None:
            nonlocal done
            done += 1
            if done % TELL_EVERY == 0:
                self.stdout.write(f"{done} of {len(paths)} …")

        try:
            moved = moving.copy(paths, to, tell)
        except (Refusal, StorageAway) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{moved.sent} files sent, {moved.there} were there already and are whole.")
        if moved.missing:
            listed = "\n  ".join(moved.missing[:20])
            raise CommandError(f"{len(moved.missing)} files are not to be had whole where they come from:\n  {listed}")
