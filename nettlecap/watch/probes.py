"""What machines ask: whether this process lives, whether it can be sent requests, and its numbers.

Answered before anything looks at the host's name or who asks, since a balancer comes by address and signs in nowhere.
"""

from __future__ import annotations

import hmac
import shutil
from collections.abc import Callable
from contextlib import suppress

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden, JsonResponse

from nettlecap.files import shelf
from nettlecap.guard.address import FORWARDED
from nettlecap.guard.storage import SPARE_BYTES
from nettlecap.watch import metrics

OK, AWAY = "ok", "cannot be reached"
HERE = ("127.0.0.1", "::1")
PROBED = "takes/.reached"
"""A path that nothing has; asking for it tells whether the storage answers."""


class Probes:
    """Answers ``/healthz``, ``/readyz`` and ``/metrics``."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response
        self.pages: dict[str, Callable[[HttpRequest], HttpResponse]] = {
            "/healthz": healthz,
            "/readyz": readyz,
            "/metrics": scraped,
        }

    def __call__(self, request: HttpRequest) -> HttpResponse:
        page = self.pages.get(request.path_info)
        return page(request) if page else self.get_response(request)


def healthz(request: HttpRequest) -> HttpResponse:
    """This process answers; nothing else is asked."""
    return JsonResponse({"alive": True})


def readyz(request: HttpRequest) -> HttpResponse:
    """Whether requests can be served here: 200, or 503 with what is amiss."""
    told = {"database": _database(), "files": _files()}
    ready = all(words == OK for words in told.values())
    return JsonResponse({"ready": ready, **told}, status=200 if ready else 503)


def scraped(request: HttpRequest) -> HttpResponse:
    """The numbers, for who has the token; without one set, for this machine itself."""
    if settings.METRICS_TOKEN:
        told = request.headers.get("Authorization", "")
        allowed = hmac.compare_digest(told.encode(), f"Bearer {settings.METRICS_TOKEN}".encode())
    else:
        # Through a proxy on this machine anybody could come.
        allowed = request.META.get("REMOTE_ADDR") in HERE and not any(name in request.META for name in FORWARDED)
    if not allowed:
        return HttpResponseForbidden("The numbers are for who keeps this installation.", content_type="text/plain")
    return HttpResponse(metrics.text(), content_type=metrics.CONTENT_TYPE)


_laid_out: set[str] = set()
"""Databases whose tables were seen to be as this version wants them."""


def _database() -> str:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        if connection.alias not in _laid_out:
            executor = MigrationExecutor(connection)
            if executor.migration_plan(executor.loader.graph.leaf_nodes()):
                return "migrations are to be run"
            _laid_out.add(connection.alias)
    except DatabaseError:
        # The next request begins with a new connection.
        with suppress(DatabaseError):
            connection.close()
        return AWAY
    return OK


def _files() -> str:
    try:
        shelf.local("").mkdir(parents=True, exist_ok=True)
        if shutil.disk_usage(settings.MEDIA_ROOT).free < SPARE_BYTES:
            return "the disk is full"
        shelf.is_kept(PROBED)
    except OSError:
        return AWAY
    return OK
