"""``manage.py sweep``: sweeps up what was left behind; ``serve`` does so at its start and once a day."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from nettlecap.pages import sweep


class Command(BaseCommand):
    help = "Sweep up what killed processes left, drawings that can be made again, and what is long over."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(sweep.told(sweep.sweep()) or "There was nothing to sweep up.\n", ending="")
