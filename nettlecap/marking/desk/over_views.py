"""Requests about what is drawn over a take, and the take as a file with it."""

from __future__ import annotations

from django.http import FileResponse, Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_POST

from motion.export.take import KINDS
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.marking.desk import draw_over
from nettlecap.marking.desk.requests import on_desk, whole
from nettlecap.marking.desk.views import shown_on_desk
from nettlecap.marking.desk.who_sees import require_measures
from nettlecap.marking.sheets import as_seen_by
from nettlecap.takes.export import export, name_of
from nettlecap.takes.models import Take


@require_POST
def draw(request: SignedIn, take_id: int) -> HttpResponse:
    """Keep a stroke over frames."""
    take = on_desk(request, take_id)
    first = whole(request, "first_frame")
    asked = request.POST
    draw_over.draw(
        request.user,
        take,
        first=first,
        last=whole(request, "last_frame", first),
        tool=asked.get("tool", ""),
        points=asked.get("points", ""),
    )
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def wipe(request: SignedIn, take_id: int, stroke_id: int) -> HttpResponse:
    """Wipe a stroke away."""
    take = on_desk(request, take_id)
    draw_over.wipe(request.user, take, stroke_id)
    return shown_on_desk(request, take, "marking/_after_decision.html")


def export_take(request: SignedIn, take_id: int, kind: str) -> HttpResponseBase:
    """The take in an open format; where asked for with what was measured, or what its marker drew, over it."""
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis")
    take = get_object_or_404(takes, pk=take_id)
    if kind not in KINDS:
        raise Http404
    overlays, drawn = (request.GET.get(name) == "1" for name in ("overlays", "drawn"))
    if overlays:
        require_measures(request.user, take)
    take = take if take.trial else as_seen_by(request.user, take)
    strokes = draw_over.over(request.user, take) if drawn else ()
    answer = FileResponse(export(take, kind, overlays=overlays, strokes=strokes), content_type=KINDS[kind])
    name = name_of(take, kind, overlays=overlays, drawn=bool(strokes))
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
