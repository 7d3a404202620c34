"""``manage.py run_worker``: looks at handed-in takes, until told to stop."""

from __future__ import annotations

import time
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db.utils import OperationalError

from nettlecap.takes.worker import SurvivingWorker, only_one

PAUSE_S = 2.0


class Command(BaseCommand):
    help = "Look at handed-in takes. Run one of each name; a killed one's work is taken up by the next."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--name", default="worker-1", help="the name under which it works")
        parser.add_argument("--batch", action="store_true", help="stop when nothing is left to do")
        parser.add_argument("--only", metavar="QUEUE", help="do only the jobs of this queue")
        parser.add_argument("--without", metavar="QUEUE", help="leave the jobs of this queue to another worker")
        parser.add_argument("--interval", type=float, default=0.3, help="seconds between looks for new work")

    def handle(self, *, name: str, **options: Any) -> None:
        with only_one(name) as alone:
            if not alone:
                raise CommandError(f"Another worker runs under the name “{name}”. Give this one another --name.")
            while not self._work(name, options):
                # The database was busy for longer than we wait for it; nothing is lost by trying again.
                time.sleep(PAUSE_S)

    def _work(self, name: str, options: dict[str, Any]) -> bool:
        only, without = options.get("only"), options.get("without")
        worker = SurvivingWorker(
            queue_names=[only or "*"],
            interval=options["interval"],
            batch=options["batch"],
            backend_name="default",
            startup_delay=False,
            max_tasks=None,
            worker_id=name,
            excluded_queue_names=[without] if without else [],
        )
        worker.configure_signals()
        try:
            worker.run()
        except OperationalError as error:
            if "locked" not in str(error):
                raise
            return False
        return True
