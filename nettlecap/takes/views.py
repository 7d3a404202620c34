"""Handing in, and following what becomes of a take."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.takes.export import KINDS, export, name_of
from nettlecap.takes.hand_in import hand_in, make_final, try_out
from nettlecap.takes.models import Take


@require_POST
def hand_in_take(request: HttpRequest, brief_id: int) -> HttpResponse:
    """Take in files; JSON to the page's script, a redirect to a plain form."""
    return _taken_in(request, brief_id, hand_in)


@require_POST
def check_clip(request: HttpRequest, brief_id: int) -> HttpResponse:
    """Take in files to run the checks on, without handing them in."""
    return _taken_in(request, brief_id, try_out)


def _taken_in(request: HttpRequest, brief_id: int, action: Callable[..., Take]) -> HttpResponse:
    brief = get_object_or_404(Brief.objects.visible_to(request.user), pk=brief_id)
    scripted = request.headers.get("accept", "").startswith("application/json")
    try:
        take = action(request.user, brief, request.FILES.getlist("files"))
    except Refusal as refusal:
        if not scripted:
            raise
        return JsonResponse({"message": str(refusal)}, status=422)
    if scripted:
        return JsonResponse({"url": reverse("take", args=[take.pk])}, status=201)
    return redirect("take", take.pk)


@require_POST
def hand_in_checked(request: HttpRequest, take_id: int) -> HttpResponse:
    """Hand in a clip that was only checked so far."""
    own = Take.everything.own(request.user).select_related("brief")
    make_final(request.user, get_object_or_404(own, pk=take_id))
    return redirect("take", take_id)


def _seen(request: HttpRequest, take_id: int) -> Take:
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis")
    return get_object_or_404(takes, pk=take_id)


def drawing(request: HttpRequest, take_id: int, run: int, number: int) -> HttpResponse:
    """One drawing of a take as a picture."""
    seen = _seen(request, take_id)
    if run != seen.analysis.shown_run:
        raise Http404
    return _file(seen.analysis.drawings_of(run) / f"{number}.png")


def _file(path: Path) -> FileResponse:
    try:
        answer = FileResponse(path.open("rb"), content_type="image/png")
    except FileNotFoundError:
        raise Http404 from None
    # A run's drawing never changes; only its owner's browser may keep it.
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


def findings_file(request: HttpRequest, take_id: int) -> HttpResponse:
    """The findings file, for markers."""
    seen = _seen(request, take_id)
    policy.require(policy.may_mark(request.user, seen.brief.course_id), "see what was found before it is returned")
    answer = JsonResponse(seen.analysis.findings or {}, json_dumps_params={"ensure_ascii": False, "indent": 1})
    answer["Content-Disposition"] = f'attachment; filename="take-{seen.pk}.findings.json"'
    return answer


def track_table(request: HttpRequest, take_id: int) -> HttpResponse:
    """The track table, for markers."""
    seen = _seen(request, take_id)
    policy.require(policy.may_mark(request.user, seen.brief.course_id), "see the measures of this clip")
    answer = HttpResponse(seen.analysis.track_csv, content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="take-{seen.pk}.track.csv"'
    return answer


def export_take(request: HttpRequest, take_id: int, kind: str) -> HttpResponse:
    """The take in an open format, with what was measured drawn over it where asked for."""
    seen = _seen(request, take_id)
    if kind not in KINDS:
        raise Http404
    overlays = request.GET.get("overlays") == "1"
    answer = FileResponse(export(seen, kind, overlays=overlays), content_type=KINDS[kind])
    answer["Content-Disposition"] = f'attachment; filename="{name_of(seen, kind, overlays=overlays)}"'
    return answer
