"""A worker that loses no job and blames none: what a stopped or killed one left is put back and done again.

Any number may run, on as many machines as share the database. A job that runs under the name of a process whose lease
ran out, or which this machine knows to be gone, is taken up by any other (see ``leases``).
"""

from __future__ import annotations

import logging
import signal
import time
from datetime import timedelta
from typing import Any

import structlog
from django.conf import settings
from django.db import DatabaseError, InterfaceError, OperationalError, close_old_connections, transaction
from django.utils import timezone
from django_tasks_db.models import DBTaskResult
from django_tasks_db.utils import exclusive_transaction, is_locked_database_exception

from nettlecap import logs
from nettlecap.guard.storage import trouble_of
from nettlecap.takes import stopping
from nettlecap.takes.leases import Heart, alive, name_of_process
from nettlecap.takes.models import Arrival
from nettlecap.takes.stopping import PutBack
from nettlecap.takes.tasks import analyse_take, read_arrival
from nettlecap.takes.work import look, read

logger = logging.getLogger(__name__)
log = structlog.get_logger(logs.JOBS)
LOOK_EVERY_S = 5.0
LATER = timedelta(seconds=30)
A_WHILE_S = 0.5
"""So long nothing is begun after a reader was killed the first time, and twice as long after each more time."""
MOST_LOSSES = 5
"""So often a job is begun; one that lost as many workers is set aside, since something is wrong then."""
LOST = (
    "Looking at this clip was interrupted again and again, so it was set aside. That says nothing of the clip; "
    "have it looked at again."
)
NOT_READ = "Reading this clip was interrupted again and again. That says nothing of the clip; hand it in once more."


class WorkerLostError(Exception):
    """Workers were lost while they ran this job, once too often."""


class Worker:
    """Does what waits in its queues, one job after another, until it is told to stop."""

    def __init__(
        self, name: str, *, only: str | None = None, without: str | None = None, batch: bool, interval: float
    ) -> None:
        self.name = name_of_process(name)
        self.only, self.without, self.batch, self.interval = only, without, batch, interval
        self._looks_at = 0.0
        self._at_hand: DBTaskResult[..., Any] | None = None

    def configure_signals(self) -> None:
        """Stop at once when told to: the job at hand is put back."""
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, lambda *_: stopping.asked.set())

    def run(self) -> None:
        with Heart(self.name):
            while not stopping.asked.is_set():
                close_old_connections()
                try:
                    idle = self._do_one()
                except (OperationalError, InterfaceError) as error:
                    # Busy for longer than we wait, full or away: nothing is lost by trying again.
                    logger.warning("the database cannot be worked with: %s", error)
                    busy = isinstance(error, OperationalError) and is_locked_database_exception(error)
                    if not busy:
                        # Away: nobody could renew a lease, so nobody is taken for gone until they had time to.
                        self._looks_at = time.monotonic() + settings.LEASE_SECONDS
                    stopping.asked.wait(2.0)
                    continue
                if idle and self.batch:
                    return
                if idle:
                    stopping.asked.wait(self.interval)

    def _do_one(self) -> bool:
        """Do a job, if there is one; whether there was none."""
        self._put_back_at_hand()
        self._take_up_lost_now_and_then()
        job = self.claim()
        if job is not None:
            self._do(job)
        return job is None

    def _take_up_lost_now_and_then(self) -> None:
        now = time.monotonic()
        if now >= self._looks_at:
            self._looks_at = now + LOOK_EVERY_S
            take_up_lost(idle=self.name)

    def claim(self) -> DBTaskResult[..., Any] | None:
        """The next job, which nobody else does from now on; None where there is none."""
        waiting = DBTaskResult.objects.ready().filter(backend_name="default")
        if self.only:
            waiting = waiting.filter(queue_name=self.only)
        if self.without:
            waiting = waiting.exclude(queue_name=self.without)
        if not waiting.exists():
            # Asked without a lock: an idle worker is in nobody's way.
            return None
        with exclusive_transaction(waiting.db):
            try:
                job = waiting.get_locked()
                if job is not None:
                    job.claim(self.name)
            except OperationalError as error:
                if not is_locked_database_exception(error):
                    raise
                job = None
        return job

    def _put_back_at_hand(self) -> None:
        """What it had begun when the database went away, which is not the job's fault."""
        if self._at_hand is not None:
            put_back(self._at_hand, blame=False, after=LATER)
            self._at_hand = None

    def _do(self, job: DBTaskResult[..., Any]) -> None:
        begun, self._at_hand = time.monotonic(), job
        structlog.contextvars.bind_contextvars(job_id=str(job.pk))
        try:
            became = self._called(job)
        finally:
            structlog.contextvars.clear_contextvars()
        self._at_hand = None
        args = job.args_kwargs["args"]
        ms = round(1000 * (time.monotonic() - begun), 1)
        log.info("job", job_id=str(job.pk), kind=job.task_path.rpartition(".")[2], about=args, became=became, ms=ms)

    def _called(self, job: DBTaskResult[..., Any]) -> str:
        """Do a job and record what became of it; that, in a word or two."""
        task, told = job.task, job.task_result
        try:
            answer = task.call(*told.args, **told.kwargs)
            job.set_successful(answer)
        except PutBack:
            put_back(job, blame=not stopping.asked.is_set())
            # Whatever killed it (memory that ran short, above all) may be over soon.
            stopping.asked.wait(A_WHILE_S * 2 ** len(job.worker_ids[1:]))
            return "put back"
        except (DatabaseError, InterfaceError, OSError) as error:
            if trouble_of(error) is None or isinstance(error, FileNotFoundError):
                logger.exception("job %s failed", job.pk)
                job.set_failed(error)
                return "failed"
            # A full or busy disk says nothing of the job, and may be better in a while.
            logger.warning("job %s waits for the storage: %s", job.pk, error)
            close_old_connections()
            put_back(job, blame=False, after=LATER)
            return "waits for the storage"
        except Exception as error:
            logger.exception("job %s failed", job.pk)
            job.set_failed(error)
            return "failed"
        return str(answer)


def put_back(job: DBTaskResult[..., Any], *, blame: bool, after: timedelta = timedelta()) -> None:
    """Let a job that was not finished be done again; with ``blame`` it counts as begun, so that this has an end."""
    if blame and len(job.worker_ids) >= MOST_LOSSES:
        _set_aside(job)
        return
    begun = job.worker_ids if blame else job.worker_ids[:-1]
    with transaction.atomic():
        # Only while it is that worker's: another may have put it back already, and a third have begun it.
        DBTaskResult.objects.filter(pk=job.pk, status="RUNNING", worker_ids=job.worker_ids).update(
            status="READY", started_at=None, worker_ids=begun, run_after=timezone.now() + after
        )


def take_up_lost(idle: str = "") -> int:
    """Put back what runs under the name of processes that are gone, or of one that is ``idle``; how many jobs."""
    running = [job for job in DBTaskResult.objects.running() if job.worker_ids]
    living = alive([job.worker_ids[-1] for job in running]) - {idle}
    lost = [job for job in running if job.worker_ids[-1] not in living]
    for job in lost:
        put_back(job, blame=True)
    if lost:
        logger.info("took up %s jobs that a worker left", len(lost))
    return len(lost)


def _set_aside(job: DBTaskResult[..., Any]) -> None:
    job.set_failed(WorkerLostError(LOST))
    args: list[Any] = job.args_kwargs["args"]
    if job.task_path == analyse_take.module_path:
        look.give_up(args[0], args[1], LOST)
    elif job.task_path == read_arrival.module_path:
        for arrival in Arrival.objects.unread().filter(pk=args[0]):
            read.refuse(arrival, NOT_READ, "WorkerLost")
