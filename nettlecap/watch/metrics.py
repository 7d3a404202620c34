"""Numbers for a scraper, in the text format that such read (OpenMetrics and its predecessor).

Of this process's requests it tells what it counted itself; of jobs, files and processes what the database tells, so
every machine answers the same of those.
"""

from __future__ import annotations

import shutil
from collections.abc import Iterator, Sequence

from django.conf import settings
from django.utils import timezone
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.metrics_core import Metric
from prometheus_client.registry import Collector

from nettlecap.watch import state
from nettlecap.watch.models import BackupMade
from nettlecap.watch.registry import REGISTRY

CONTENT_TYPE = CONTENT_TYPE_LATEST


def text() -> bytes:
    """Everything, as it is now."""
    return bytes(generate_latest(REGISTRY)) + bytes(generate_latest(_told_by_database))


class OfDatabase(Collector):
    """What the database and the disk tell, asked anew at each scrape."""

    def collect(self) -> Iterator[Metric]:
        yield from _jobs()
        living = state.processes()
        workers = GaugeMetricFamily("nettlecap_workers_alive", "Workers that give a sign of life, on all machines.")
        workers.add_metric([], sum(process.name != "server" for process in living))
        yield workers
        refused = GaugeMetricFamily("nettlecap_clips_refused", "Clips refused lately, by reason.", labels=["reason"])
        for reason, count in state.refused():
            refused.add_metric([reason], count)
        yield refused
        kept = GaugeMetricFamily("nettlecap_kept_bytes", "Bytes of everything that was handed in.")
        kept.add_metric([], state.kept_bytes())
        yield kept
        free = GaugeMetricFamily("nettlecap_disk_free_bytes", "Bytes that are free on this machine's data disk.")
        free.add_metric([], shutil.disk_usage(settings.DATA).free)
        yield free
        yield from _backup()


def _jobs() -> Iterator[Metric]:
    kinds = state.kinds()
    told: dict[str, tuple[str, Sequence[float]]] = {
        "nettlecap_jobs_waiting": ("Jobs that wait.", [k.waiting for k in kinds]),
        "nettlecap_jobs_running": ("Jobs that are being done.", [k.running for k in kinds]),
        "nettlecap_jobs_failed": (
            "Jobs that failed or were set aside, until they are swept.",
            [k.failed for k in kinds],
        ),
        "nettlecap_jobs_oldest_waiting_seconds": ("How long the oldest has waited.", [k.oldest_s for k in kinds]),
        "nettlecap_jobs_done_last_hour": ("Jobs done within the last hour.", [k.done_lately for k in kinds]),
        "nettlecap_job_seconds_median": ("How long they took, the last hour.", [k.median_s for k in kinds]),
        "nettlecap_job_seconds_p95": ("How long the slow ones took, the last hour.", [k.slow_s for k in kinds]),
    }
    for name, (words, values) in told.items():
        gauge = GaugeMetricFamily(name, words, labels=["kind"])
        for kind, value in zip(kinds, values, strict=True):
            gauge.add_metric([kind.key], value)
        yield gauge


def _backup() -> Iterator[Metric]:
    last = BackupMade.objects.first()
    if last is not None:
        age = GaugeMetricFamily("nettlecap_backup_age_seconds", "Since the last backup was written.")
        age.add_metric([], (timezone.now() - last.made_at).total_seconds())
        yield age


_told_by_database = CollectorRegistry()
_told_by_database.register(OfDatabase())
