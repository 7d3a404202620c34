"""Each request has a number, a line in the log, and counts; the number stands on the page where something went wrong.

What is told of an address is the name of its page and the numbers in it: some addresses hold a secret.
"""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from uuid import uuid4

import structlog
from django.http import HttpRequest, HttpResponse
from prometheus_client import Counter, Histogram

from nettlecap.logs import REQUESTS
from nettlecap.watch.registry import REGISTRY

log = structlog.get_logger(REQUESTS)
TOLD = re.compile(r"^[A-Za-z0-9-]{8,64}$")
REQUESTS_MADE = Counter("nettlecap_requests", "Requests answered.", ["page", "method", "status"], registry=REGISTRY)
SECONDS = Histogram(
    "nettlecap_request_seconds",
    "How long requests took.",
    ["page"],
    buckets=(0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30, 100),
    registry=REGISTRY,
)
REFUSED = Counter("nettlecap_refusals", "Requests that were refused.", ["page", "status"], registry=REGISTRY)


class EachRequest:
    """Numbers a request, and tells of it once it is answered."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        number = _number(request)
        request.request_id = number  # type: ignore[attr-defined]
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request_id=number)
        begun = time.monotonic()
        answer = self.get_response(request)
        took = time.monotonic() - begun
        answer["X-Request-ID"] = number
        if request.resolver_match is not None or answer.status_code >= 500:
            self._tell(request, answer, took)
        return answer

    def _tell(self, request: HttpRequest, answer: HttpResponse, took: float) -> None:
        match = request.resolver_match
        page = (match.url_name or "?") if match else "?"
        REQUESTS_MADE.labels(page, request.method, answer.status_code).inc()
        SECONDS.labels(page).observe(took)
        if answer.status_code >= 400:
            REFUSED.labels(page, answer.status_code).inc()
        numbers = {k: v for k, v in match.kwargs.items() if isinstance(v, int)} if match else {}
        # Only if somebody has asked already who it is: this asks the database nothing.
        person = getattr(request, "_cached_user", None)
        log.info(
            "request",
            page=page,
            method=request.method,
            status=answer.status_code,
            ms=round(1000 * took, 1),
            person=person.pk if person is not None else None,
            **numbers,
        )


def _number(request: HttpRequest) -> str:
    """As a proxy of ours told it, which keeps it from others' hands (guard/address.py); else a new one."""
    told = request.META.get("HTTP_X_REQUEST_ID", "")
    return told if TOLD.match(told) else uuid4().hex[:16]
