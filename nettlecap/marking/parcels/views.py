"""What goes out of a class as files: its feedback sheets, a reel, and how far they are."""

from __future__ import annotations

from typing import Any

from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from nettlecap.classroom.models import Brief
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.files import shelf
from nettlecap.marking.desk.requests import small_number
from nettlecap.marking.models import Parcel
from nettlecap.marking.parcels import ask, packing


def files_of_class(request: SignedIn, brief_id: int) -> HttpResponse:
    """Feedback sheets and reels of a brief."""
    brief = _brief(request, brief_id)
    context = _under_way(request, brief) | {
        "takes": packing.shown(brief).select_related("student", "analysis", "sheet").order_by("student__name"),
        "returned": packing.returned(brief).count(),
    }
    return render(request, "marking/files_of_class.html", context)


def parcels_state(request: SignedIn, brief_id: int) -> HttpResponse:
    """How far the files are."""
    return render(request, "marking/_parcels.html", _under_way(request, _brief(request, brief_id)))


@require_POST
def ask_feedback(request: SignedIn, brief_id: int) -> HttpResponse:
    """Have the feedback sheets made."""
    ask.ask_feedback(request.user, _brief(request, brief_id))
    return redirect("files-of-class", brief_id)


@require_POST
def ask_reel(request: SignedIn, brief_id: int) -> HttpResponse:
    """Have a reel made."""
    asked = request.POST
    ask.ask_reel(
        request.user,
        _brief(request, brief_id),
        takes=[n for n in map(small_number, asked.getlist("take")) if n is not None],
        kind=asked.get("kind", ""),
        names=asked.get("names") == "1",
        times=small_number(asked.get("times", "")) or 0,
    )
    return redirect("files-of-class", brief_id)


def parcel(request: SignedIn, parcel_id: int) -> FileResponse:
    """A file that is ready, for who asked for it."""
    briefs = Brief.objects.markable_by(request.user)
    found = get_object_or_404(Parcel, pk=parcel_id, made_for=request.user, brief__in=briefs, ready_at__isnull=False)
    kept = shelf.here(found.place)
    if not kept.is_file():
        raise Http404
    return FileResponse(kept.open("rb"), as_attachment=True, filename=found.kind)


def _brief(request: SignedIn, brief_id: int) -> Brief:
    return get_object_or_404(Brief.objects.markable_by(request.user).select_related("course"), pk=brief_id)


def _under_way(request: SignedIn, brief: Brief) -> dict[str, Any]:
    ways = ask.under_way(request.user, brief)
    return {"brief": brief, "ways": ways, "unfinished": any(w.unfinished for w in ways)}
