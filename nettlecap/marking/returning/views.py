"""Returned marks: read, printed, ticked off and answered."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import Conflict
from nettlecap.guard import at_once
from nettlecap.marking.desk import companion
from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.marking.desk.requests import visible
from nettlecap.marking.keys import finding_key
from nettlecap.marking.returning import feedback, ticking
from nettlecap.marking.returning.since import since
from nettlecap.marking.sheets import blind_of
from nettlecap.words import COMPANION_WAYS, EXPORT_KINDS


def returned(request: SignedIn, take_id: int) -> HttpResponse:
    """Returned marks, as the student reads them; markers see the same page."""
    return render(request, "marking/returned.html", _marks(request, take_id))


def _marks(request: SignedIn, take_id: int) -> dict[str, Any]:
    take = visible(request, take_id)
    if blind_of(request.user, take):
        raise Conflict("You mark this clip blind, so its marks are not shown to you before both of you are done.")
    shown = lay_out(take, agreed_only=True)
    if shown.sheet is None or not shown.sheet.returned:
        raise Http404
    agreed = {f.key for f in shown.agreed}
    others = frozenset(finding_key(f) for f in (take.analysis.findings or {}).get("findings", ())) - agreed
    return {
        "take": take,
        "desk": shown,
        "ticked": ticking.ticked(shown),
        "own": take.student_id == request.user.pk,
        "since": since(take, tell_new=True, dismissed=others),
        "companions": companion.options(request.user, take),
        "companion_ways": COMPANION_WAYS,
        "export_kinds": EXPORT_KINDS,
        "measured": True,
    }


def marks_pdf(request: SignedIn, take_id: int) -> HttpResponse:
    """Returned marks to print."""
    context = _marks(request, take_id)
    take = context["take"]
    with at_once.a_place():
        made = feedback.pdf(take, context["desk"])
    answer = HttpResponse(made, content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="{feedback.name_of(take)}"'
    return answer


@require_POST
def tick(request: SignedIn, take_id: int) -> HttpResponse:
    """Tick something off in one's marks, or take the tick away."""
    take = visible(request, take_id)
    ticking.tick(request.user, take, request.POST.get("key", ""), request.POST.get("done") == "1")
    return HttpResponse(status=204)


@require_POST
def answer(request: SignedIn, take_id: int, note_id: int) -> HttpResponse:
    """Answer a note, once."""
    take = visible(request, take_id)
    ticking.answer(request.user, take, note_id, request.POST.get("answer", ""))
    return render(request, "marking/_returned_marks.html", _marks(request, take_id))
