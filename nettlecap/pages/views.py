"""Pages that bring people, briefs, takes and marks together: the start, briefs, a take."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from nettlecap.marking.desk import lay_out_clip, lay_out_trial
from nettlecap.pages.start import start_of
from nettlecap.takes.models import Take
from nettlecap.takes.terms import Terms
from nettlecap.words import EXPORT_KINDS


def start(request: HttpRequest) -> HttpResponse:
    """What waits for the person."""
    return render(request, "classroom/start.html", {"start": start_of(request.user)})


def _seen(request: HttpRequest, take_id: int) -> dict[str, Any]:
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis", "sheet")
    seen = get_object_or_404(takes, pk=take_id)
    laid_out = (lay_out_trial if seen.trial else lay_out_clip)(seen) if seen.analysis.findings else None
    terms = Terms.of(request.user, seen.brief) if seen.trial else None
    return {"take": seen, "desk": laid_out, "terms": terms, "export_kinds": EXPORT_KINDS}


def take(request: HttpRequest, take_id: int) -> HttpResponse:
    """A take's receipt, the state of its analysis, and the clip once it is there."""
    return render(request, "takes/take.html", _seen(request, take_id))


def take_state(request: HttpRequest, take_id: int) -> HttpResponse:
    """How far the analysis is; once it is through, the clip as well."""
    context = _seen(request, take_id)
    unfinished = context["take"].analysis.unfinished
    return render(request, "takes/_state.html" if unfinished else "takes/_arrived.html", context)
