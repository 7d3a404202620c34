"""How a page, a part of one, or a script is told that something was not done: its sentence, in the form asked for."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render


def wants_json(request: HttpRequest) -> bool:
    """Whether a script of ours asks, which reads JSON."""
    return request.headers.get("accept", "").startswith("application/json")


def refused(request: HttpRequest, words: str, status: int) -> HttpResponse:
    """The sentence as ``message`` in JSON, as plain text for a part of a page, or as a page."""
    if wants_json(request):
        return JsonResponse({"message": words}, status=status)
    if getattr(request, "htmx", False):
        return HttpResponse(words, status=status, content_type="text/plain; charset=utf-8")
    return render(request, "refused.html", {"message": words}, status=status)
