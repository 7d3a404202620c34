"""What a domain action refuses, told as a page: the one place where refusals become status codes."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from nettlecap.errors import Conflict, NotAllowed, Refusal
from nettlecap.guard.answers import refused


class RefusalMiddleware:
    """Answers a Refusal raised in a view with its sentence: 403, 409 or 422."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Render a refusal; leave anything else to Django."""
        if not isinstance(error, Refusal):
            return None
        status = 403 if isinstance(error, NotAllowed) else 409 if isinstance(error, Conflict) else 422
        return refused(request, str(error), status)
