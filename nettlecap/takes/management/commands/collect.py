"""``manage.py collect``: hand in a folder of clips, one file or folder a student, matched by name."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.takes.collect import Match, matches, take_in


class Command(BaseCommand):
    help = (
        "Match the files of a folder to a brief's students by name, show what would be handed in, and with --do do it."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path, metavar="FOLDER")
        parser.add_argument("--brief", required=True, metavar="BRIEF", help="the brief's number, or its title")
        parser.add_argument("--do", action="store_true", help="hand in; without it nothing is changed")

    def handle(self, *args: Any, **options: Any) -> None:
        folder, brief = options["folder"], self._brief(options["brief"])
        if not folder.is_dir():
            raise CommandError(f"“{folder}” is not a folder.")
        found = matches(folder, brief)
        if not found:
            raise CommandError(f"There is nothing in “{folder}”.")
        self.stdout.write(f"For “{brief.title}” in {brief.course.name}:")
        left = [match for match in found if not self._one(match, brief, do=options["do"])]
        if not options["do"]:
            self.stdout.write("Nothing was handed in yet. Run it again with --do to hand these in.")
        if left:
            raise CommandError(f"{len(left)} of {len(found)} left aside; see above.")

    def _one(self, match: Match, brief: Brief, *, do: bool) -> bool:
        name = match.path.name
        if match.student is None:
            self.stdout.write(f"  {name}: left aside, {match.why}")
            return False
        if not do:
            self.stdout.write(f"  {name}: {match.student.name}")
            return True
        try:
            take = take_in(match, brief)
        except Refusal as refusal:
            self.stdout.write(f"  {name}: {match.student.name}, left aside. {refusal}")
            return False
        self.stdout.write(f"  {name}: {match.student.name}, handed in as take {take.number}, {take.frames} frames")
        return True

    def _brief(self, told: str) -> Brief:
        found = list(Brief.objects.filter(pk=told) if told.isdecimal() else Brief.objects.filter(title=told))
        if len(found) != 1:
            many = "several briefs are" if found else "no brief is"
            raise CommandError(f"There {many} called “{told}”. Give its number, which its address ends in.")
        return found[0]
