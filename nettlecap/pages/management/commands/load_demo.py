"""``manage.py load_demo``: the made-up school, once; a second call changes nothing."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from nettlecap.pages import demo


class Command(BaseCommand):
    help = "Load the demo data, unless there are data already."

    def handle(self, **options: Any) -> None:
        unfinished = Path(settings.DATA) / "demo-unfinished"
        if demo.is_loaded() and not unfinished.exists():
            self.stdout.write("The data of last time are there; nothing was loaded.")
            return
        unfinished.touch()
        steps = iter(range(1, demo.STEPS + 1))

        def tell(words: str) -> None:
            self.stdout.write(f"  {next(steps)} of {demo.STEPS}  {words}")
            self.stdout.flush()

        demo.load(tell)
        demo.sample_clips(Path(settings.DATA) / "sample-clips")
        self.stdout.write("  The worker looks at the takes")
        call_command("run_worker", batch=True, name="demo-loader")
        unfinished.unlink()
