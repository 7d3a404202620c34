"""What is somebody's own stays with them: no cache between keeps it, and no browser past the sitting."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

NOT_KEPT = "private, no-store"
ASKED_AGAIN = "private, no-cache"
"""For drawings and sounds: a browser may keep them, and asks each time whether it may show them."""

KEPT = "private, max-age=86400, immutable"
"""For pictures that never change and tell nothing of anybody: a browser need not ask again."""


class PrivateAnswers:
    """Marks every answer that says nothing of it as one that is kept nowhere. Static files have gone before this."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        answer = self.get_response(request)
        if not answer.has_header("Cache-Control"):
            answer["Cache-Control"] = NOT_KEPT
        return answer
