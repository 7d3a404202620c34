"""A worker that loses no job: what a killed one left half done is put back and done again."""

from __future__ import annotations

import fcntl
import logging
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django_tasks_db.management.commands.db_worker import Worker
from django_tasks_db.models import DBTaskResult

from nettlecap.takes import look_at
from nettlecap.takes.tasks import analyse_take

logger = logging.getLogger(__name__)
MOST_ATTEMPTS = 2
LOST = "The reader crashed on this take twice, so it was set aside. Export it again, in another format if you can."


class WorkerLostError(Exception):
    """The worker was killed while it ran this job, once too often."""


class SurvivingWorker(Worker):
    """The package's worker, which first takes up what an earlier one of the same name left running."""

    def run(self) -> None:
        take_up_lost(self.worker_id)
        super().run()


@contextmanager
def only_one(worker_id: str) -> Iterator[bool]:
    """Whether no other process on this machine works under that name; held until the end of the block."""
    path = Path(settings.DATA) / f"{worker_id}.lock"
    with path.open("w") as handle:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            yield False
            return
        yield True


def take_up_lost(worker_id: str) -> int:
    """Put back jobs that were running under this name when their worker died; how many.

    One that was lost too often is set aside, so that a file that kills its worker does not do so for ever.
    """
    taken_up = 0
    for job in DBTaskResult.objects.running():
        if not job.worker_ids or job.worker_ids[-1] != worker_id:
            continue
        if len(job.worker_ids) >= MOST_ATTEMPTS:
            _set_aside(job)
            continue
        with transaction.atomic():
            DBTaskResult.objects.filter(pk=job.pk).update(status="READY", started_at=None)
        taken_up += 1
    if taken_up:
        logger.info("took up %s jobs that an earlier worker left", taken_up)
    return taken_up


def _set_aside(job: DBTaskResult) -> None:
    job.set_failed(WorkerLostError(LOST))
    if job.task_path == analyse_take.module_path:
        take_id, run = job.args_kwargs["args"]
        look_at.give_up(take_id, run, LOST)
