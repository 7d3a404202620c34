"""``manage.py run_worker``: looks at handed-in takes, until told to stop."""

from __future__ import annotations

import os
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from nettlecap.takes.worker import Worker

NICER = 10
"""Pages are answered before clips are looked at."""


class Command(BaseCommand):
    help = "Read and look at what was handed in. Any number may run; what a killed one left is taken up by another."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--name", default="worker-1", help="what it is called, beside the machine and its number")
        parser.add_argument("--batch", action="store_true", help="stop when nothing is left to do")
        parser.add_argument("--only", metavar="QUEUE", help="do only the jobs of this queue")
        parser.add_argument("--without", metavar="QUEUE", help="leave the jobs of this queue to another worker")
        parser.add_argument("--interval", type=float, default=0.3, help="seconds between looks for new work")

    def handle(self, *, name: str, **options: Any) -> None:
        worker = Worker(
            name,
            only=options.get("only"),
            without=options.get("without"),
            batch=options["batch"],
            interval=options["interval"],
        )
        if not options["batch"]:
            os.nice(NICER)
        worker.configure_signals()
        worker.run()
