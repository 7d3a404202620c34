"""Texts that no person writes: with a NUL, or half a character. They are refused before any page sees them."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from django.http import HttpRequest, HttpResponse, QueryDict

from nettlecap.guard.answers import refused


def is_written(text: str) -> bool:
    """Whether a text can be kept in any database: no NUL, no lone half of a surrogate pair."""
    return "\0" not in text and not any("\ud800" <= c <= "\udfff" for c in text)


def _texts(values: QueryDict) -> Iterator[str]:
    for name, several in values.lists():
        yield name
        yield from (v for v in several if isinstance(v, str))


class WrittenTexts:
    """Answers 400, in words, to a request that holds such a text in its address, its query or its form."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not is_written(request.path) or not all(map(is_written, _texts(request.GET))):
            return self._refused(request)
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Callable[..., object], *_: object) -> HttpResponse | None:
        """A form is looked at once its token is; whoever reads the body on their own terms looks after its texts."""
        looked_at = request.method == "POST" and not getattr(view, "csrf_exempt", False)
        if looked_at and not all(map(is_written, _texts(request.POST))):
            return self._refused(request)
        return None

    def _refused(self, request: HttpRequest) -> HttpResponse:
        words = "There are characters in this that nobody can write. Nothing was changed."
        return refused(request, words, 400)
