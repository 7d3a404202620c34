"""What a domain action refuses, told as a page: the one place where refusals become status codes."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from nettlecap.errors import Conflict, NotAllowed, Refusal, TooOften
from nettlecap.guard.answers import refused

STATUS = {NotAllowed: 403, Conflict: 409, TooOften: 429}


class RefusalMiddleware:
    """Answers a Refusal raised in a view with its sentence: 403, 409, 429 or 422."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Render a refusal; leave anything else to Django."""
        if not isinstance(error, Refusal):
            return None
        answer = refused(request, str(error), next((s for kind, s in STATUS.items() if isinstance(error, kind)), 422))
        if isinstance(error, TooOften):
            answer["Retry-After"] = str(error.after_s)
        return answer
