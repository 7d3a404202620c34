"""How the installation is doing, as far as its database and disk tell."""

from __future__ import annotations

import platform
import shutil
import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from statistics import quantiles
from typing import Any

import django
from django.conf import settings
from django.db import connection
from django.db.models import BigIntegerField, Count, Min, Q, Sum, Value
from django.db.models.functions import Coalesce
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom.models import Course
from nettlecap.files import shelf
from nettlecap.takes import quotas
from nettlecap.takes.leases import any_alive, called
from nettlecap.takes.models import UNFINISHED, Arrival, Take
from nettlecap.watch.models import BackupMade

KINDS = {
    "read_arrival": "Reading what came in",
    "analyse_take": "Looking at clips",
    "draw_again": "Drawing clips again",
    "draw_question": "Drawing clips of drills",
    "make_parcel": "Files of a class",
    "send_letter": "Letters",
    "send_marks": "Marks to the school’s system",
}
"""Jobs by the last part of their task's name."""
LATELY = timedelta(hours=1)
MOST_SET_ASIDE, MOST_COURSES = 50, 30
GIGABYTE = 1_000_000_000
UNDER_WAY = ("READY", "RUNNING")


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """Jobs of one kind: how many wait and run, since when the oldest waits, how many failed; times of the last hour."""

    key: str
    waiting: int
    running: int
    failed: int
    oldest_s: float
    done_lately: int
    median_s: float
    slow_s: float

    @property
    def words(self) -> str:
        return KINDS.get(self.key, self.key)


@dataclass(frozen=True, slots=True, kw_only=True)
class Process:
    """A process that works or serves now: its name, its machine, and what it is doing."""

    name: str
    machine: str
    doing: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAside:
    """A job that failed or was set aside, and may be tried again."""

    pk: str
    words: str
    about: str
    at: datetime | None
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OfCourse:
    """What a course takes up, and may."""

    course: Course
    kept: int
    most: int
    waiting: int
    most_waiting: int

    @property
    def percent(self) -> int:
        return round(100 * self.kept / self.most) if self.most else 0

    @property
    def gigabytes(self) -> float:
        return round(self.most / GIGABYTE, 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """All of it."""

    kinds: tuple[Kind, ...]
    processes: tuple[Process, ...]
    set_aside: tuple[SetAside, ...]
    failed: int
    kept_bytes: int
    disk_free: int
    disk_total: int
    last_backup: BackupMade | None
    courses: tuple[OfCourse, ...]
    refused: tuple[tuple[str, int], ...]
    versions: tuple[tuple[str, str], ...]

    @property
    def workers(self) -> int:
        return sum(process.name != "server" for process in self.processes)

    @property
    def waiting(self) -> int:
        return sum(kind.waiting for kind in self.kinds)

    @property
    def disk_percent(self) -> int:
        return round(100 * (1 - self.disk_free / self.disk_total)) if self.disk_total else 0


def state() -> State:
    """How it is doing now."""
    disk = shutil.disk_usage(settings.MEDIA_ROOT if Path(settings.MEDIA_ROOT).exists() else settings.DATA)
    found = kinds()
    failed = DBTaskResult.objects.failed().order_by("-finished_at")
    return State(
        kinds=found,
        processes=processes(),
        set_aside=tuple(map(_set_aside, failed[:MOST_SET_ASIDE])),
        failed=sum(kind.failed for kind in found),
        kept_bytes=kept_bytes(),
        disk_free=disk.free,
        disk_total=disk.total,
        last_backup=BackupMade.objects.first(),
        courses=courses(),
        refused=refused(),
        versions=versions(),
    )


def kinds() -> tuple[Kind, ...]:
    """Jobs by kind: those that are under way, failed, or were done within the last hour."""
    now = timezone.now()
    rows = DBTaskResult.objects.exclude(status="SUCCESSFUL").values("task_path").order_by()
    counted = rows.annotate(
        waiting=Count("pk", filter=Q(status="READY")),
        running=Count("pk", filter=Q(status="RUNNING")),
        failed=Count("pk", filter=Q(status="FAILED")),
        oldest=Min("enqueued_at", filter=Q(status="READY")),
    )
    by_kind = {_key(row["task_path"]): row for row in counted}
    took = _took_lately(now)
    return tuple(
        _kind(key, by_kind.get(key, {}), took.get(key, []), now) for key in [*KINDS, *sorted({*by_kind} - {*KINDS})]
    )


def _kind(key: str, row: Any, took: Sequence[float], now: datetime) -> Kind:
    cut = quantiles(took, n=20) if len(took) > 1 else [sum(took)] * 19
    oldest = row.get("oldest")
    return Kind(
        key=key,
        waiting=row.get("waiting", 0),
        running=row.get("running", 0),
        failed=row.get("failed", 0),
        oldest_s=max(0.0, (now - oldest).total_seconds()) if oldest else 0.0,
        done_lately=len(took),
        median_s=cut[9],
        slow_s=cut[18],
    )


def _took_lately(now: datetime) -> dict[str, list[float]]:
    done = DBTaskResult.objects.successful().filter(finished_at__gte=now - LATELY).order_by()
    took: dict[str, list[float]] = {}
    for path, begun, finished in done.values_list("task_path", "started_at", "finished_at"):
        if begun and finished:
            took.setdefault(_key(path), []).append((finished - begun).total_seconds())
    return took


def processes() -> tuple[Process, ...]:
    """Who works and serves."""
    doing = {job.worker_ids[-1]: job for job in DBTaskResult.objects.running() if job.worker_ids}
    found = []
    for name in any_alive():
        short, machine = called(name)
        job = doing.get(name)
        words = f"{KINDS.get(_key(job.task_path), job.task_path)} ({_about(job)})" if job else ""
        found.append(Process(name=short, machine=machine, doing=words))
    return tuple(found)


def _set_aside(job: DBTaskResult[..., Any]) -> SetAside:
    last = job.traceback.strip().splitlines()[-1:] if job.traceback else []
    return SetAside(
        pk=str(job.pk),
        words=KINDS.get(_key(job.task_path), job.task_path),
        about=_about(job),
        at=job.finished_at,
        why=(last[0].partition(": ")[2] or last[0])[:300] if last else "",
    )


def _about(job: DBTaskResult[..., Any]) -> str:
    args = job.args_kwargs.get("args", [])
    return f"no. {args[0]}" if args else ""


def _key(task_path: str) -> str:
    return task_path.rpartition(".")[2]


def kept_bytes() -> int:
    """How much everything that was handed in takes up, each file counted once for each take that has it."""
    return Take.everything.aggregate(sum=Sum("file_bytes"))["sum"] or 0


def courses() -> tuple[OfCourse, ...]:
    """The courses that take up most."""
    found = Course.objects.annotate(
        kept=Coalesce(Sum("briefs__takes__file_bytes"), Value(0, output_field=BigIntegerField())),
        waiting=Count("briefs__takes__pk", filter=Q(briefs__takes__analysis__state__in=UNFINISHED)),
    ).order_by("-kept", "name")
    return tuple(
        OfCourse(
            course=course,
            kept=course.kept,  # type: ignore[attr-defined]  # comes with the query
            most=quotas.most_bytes(course),
            waiting=course.waiting,  # type: ignore[attr-defined]
            most_waiting=quotas.most_waiting(course),
        )
        for course in found[:MOST_COURSES]
    )


def refused() -> tuple[tuple[str, int], ...]:
    """Why clips were refused lately, as far as their arrivals are kept, and how many each."""
    rows = Arrival.objects.filter(state=Arrival.State.REFUSED).values("reason").order_by()
    counted = rows.annotate(n=Count("pk")).values_list("reason", "n")
    return tuple(sorted(((reason or "other", n) for reason, n in counted), key=lambda r: -r[1]))


def versions() -> tuple[tuple[str, str], ...]:
    """What is at work here."""
    return (
        ("Nettlecap", nettlecap_version()),
        ("Python", platform.python_version()),
        ("Django", django.get_version()),
        ("Database", _database()),
        ("Files", "shared storage" if shelf.is_shared() else "this machine’s disk"),
    )


def nettlecap_version() -> str:
    """As the project says."""
    told: str = tomllib.loads((settings.BASE / "pyproject.toml").read_text())["project"]["version"]
    return told


def _database() -> str:
    with connection.cursor() as cursor:
        cursor.execute("SHOW server_version" if connection.vendor == "postgresql" else "SELECT sqlite_version()")
        row = cursor.fetchone()
    return f"{connection.display_name} {row[0].split()[0]}"
