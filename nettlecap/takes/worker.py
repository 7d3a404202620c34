"""A worker that loses no job and blames none: what a stopped or killed one left is put back and done again.

Every process that works renews its lease in the database every few seconds (``Beat``). A job that runs under the name
of a process whose lease ran out, or which this machine knows to be gone, is taken up by any other.
"""

from __future__ import annotations

import logging
import os
import secrets
import signal
import socket
import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import DatabaseError, OperationalError, close_old_connections, connection, transaction
from django.utils import timezone
from django_tasks_db.models import DBTaskResult
from django_tasks_db.utils import exclusive_transaction, is_locked_database_exception

from nettlecap.guard.storage import trouble_of
from nettlecap.takes import stopping
from nettlecap.takes.models import Arrival, Beat
from nettlecap.takes.stopping import PutBack
from nettlecap.takes.tasks import analyse_take, read_arrival
from nettlecap.takes.work import look, read

logger = logging.getLogger(__name__)
BEAT_EVERY_S, LOOK_EVERY_S = 5.0, 5.0
LATER = timedelta(seconds=30)
MOST_LOSSES = 5
"""So often a job is begun; one that lost as many workers is set aside, since something is wrong then."""
LOST = (
    "Looking at this clip was interrupted again and again, so it was set aside. That says nothing of the clip; "
    "have it looked at again."
)
NOT_READ = "Reading this clip was interrupted again and again. That says nothing of the clip; hand it in once more."


class WorkerLostError(Exception):
    """Workers were lost while they ran this job, once too often."""


def name_of_process(name: str) -> str:
    """A name that no other process has, now or later: what it was called, the machine, its number, and a chance."""
    return f"{name}@{socket.gethostname()[:40]}:{os.getpid()}:{secrets.token_hex(3)}"


def beat(name: str) -> None:
    """Renew a process's lease."""
    Beat.objects.update_or_create(name=name, defaults={"beat_at": timezone.now()})


def alive(names: Sequence[str]) -> set[str]:
    """Those of these processes that live, as far as can be told."""
    since = timezone.now() - timedelta(seconds=settings.LEASE_SECONDS)
    held = Beat.objects.filter(name__in=set(names), beat_at__gte=since).values_list("name", flat=True)
    return {name for name in held if not _is_gone(name)}


def any_alive() -> list[str]:
    """Every process that works or serves on this data now."""
    since = timezone.now() - timedelta(seconds=settings.LEASE_SECONDS)
    try:
        return sorted(alive(list(Beat.objects.filter(beat_at__gte=since).values_list("name", flat=True))))
    except DatabaseError:
        # A database without tables yet: a fresh installation, into which a backup is put back.
        return []


def forget_all_beats() -> None:
    """After the data were put back as they were at another time: those who worked then do not now."""
    Beat.objects.all().delete()


def _is_gone(name: str) -> bool:
    """Whether a process is known to be gone: one of this machine whose number nobody has any more."""
    machine, _, rest = name.rpartition("@")[2].partition(":")
    number = rest.partition(":")[0]
    if machine != socket.gethostname()[:40] or not number.isdecimal():
        return False
    try:
        os.kill(int(number), 0)
    except ProcessLookupError:
        return True
    except OSError:
        return False
    return False


class Heart:
    """Renews a lease in the background for as long as the block lasts."""

    def __init__(self, name: str) -> None:
        self.name = name
        self._done = threading.Event()
        self._thread = threading.Thread(target=self._beat, daemon=True)
        # Inside somebody's transaction nobody else would see it, and it would wait for that to end.
        self._runs = not connection.in_atomic_block

    def __enter__(self) -> Heart:
        beat(self.name)
        if self._runs:
            self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._done.set()
        if self._runs:
            self._thread.join(10)
        with suppress(DatabaseError):
            Beat.objects.filter(name=self.name).delete()

    def _beat(self) -> None:
        while not self._done.wait(BEAT_EVERY_S):
            # A database that is busy, full or read-only now may take the next one.
            with suppress(DatabaseError):
                beat(self.name)
        connection.close()


class Worker:
    """Does what waits in its queues, one job after another, until it is told to stop."""

    def __init__(
        self, name: str, *, only: str | None = None, without: str | None = None, batch: bool, interval: float
    ) -> None:
        self.name = name_of_process(name)
        self.only, self.without, self.batch, self.interval = only, without, batch, interval
        self._looked_at = 0.0

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
                except OperationalError as error:
                    # Busy for longer than we wait, or full: nothing is lost by trying again.
                    logger.warning("the database cannot be worked with: %s", error)
                    stopping.asked.wait(2.0)
                    continue
                if idle and self.batch:
                    return
                if idle:
                    stopping.asked.wait(self.interval)

    def _do_one(self) -> bool:
        """Do a job, if there is one; whether there was none."""
        self._take_up_lost_now_and_then()
        job = self._claim()
        if job is not None:
            self._do(job)
        return job is None

    def _take_up_lost_now_and_then(self) -> None:
        now = time.monotonic()
        if not self._looked_at or now - self._looked_at > LOOK_EVERY_S:
            self._looked_at = now
            take_up_lost(idle=self.name)

    def _claim(self) -> DBTaskResult[..., Any] | None:
        waiting = DBTaskResult.objects.ready().filter(backend_name="default")
        if self.only:
            waiting = waiting.filter(queue_name=self.only)
        if self.without:
            waiting = waiting.exclude(queue_name=self.without)
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

    def _do(self, job: DBTaskResult[..., Any]) -> None:
        task, told = job.task, job.task_result
        try:
            job.set_successful(task.call(*told.args, **told.kwargs))
        except PutBack:
            put_back(job, blame=not stopping.asked.is_set())
        except (DatabaseError, OSError) as error:
            if trouble_of(error) is None or isinstance(error, FileNotFoundError):
                logger.exception("job %s failed", job.pk)
                job.set_failed(error)
                return
            # A full or busy disk says nothing of the job, and may be better in a while.
            logger.warning("job %s waits for the storage: %s", job.pk, error)
            put_back(job, blame=False, after=LATER)
        except Exception as error:
            logger.exception("job %s failed", job.pk)
            job.set_failed(error)


def put_back(job: DBTaskResult[..., Any], *, blame: bool, after: timedelta = timedelta()) -> None:
    """Let a job that was not finished be done again; with ``blame`` it counts as begun, so that this has an end."""
    if blame and len(job.worker_ids) >= MOST_LOSSES:
        _set_aside(job)
        return
    begun = job.worker_ids if blame else job.worker_ids[:-1]
    with transaction.atomic():
        DBTaskResult.objects.filter(pk=job.pk, status="RUNNING").update(
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
            read.refuse(arrival, NOT_READ)
