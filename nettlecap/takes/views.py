"""Handing in, and following what becomes of a take."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from motion.formats.sound import CONTENT_TYPES
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.takes import capture
from nettlecap.takes.drafts import look_through, put_right
from nettlecap.takes.forget import forget
from nettlecap.takes.hand_in import hand_in, make_final, try_out
from nettlecap.takes.models import Take
from nettlecap.takes.receipt import receipt_of


@require_POST
def hand_in_take(request: HttpRequest, brief_id: int) -> HttpResponse:
    """Take in files; JSON to the page's script, a redirect to a plain form."""
    return _taken_in(request, brief_id, hand_in)


@require_POST
def check_clip(request: HttpRequest, brief_id: int) -> HttpResponse:
    """Take in files to run the checks on, without handing them in."""
    return _taken_in(request, brief_id, try_out)


@require_POST
def look_clip_through(request: HttpRequest, brief_id: int) -> HttpResponse:
    """Take in files to look through and put right before they are handed in."""
    return _taken_in(request, brief_id, look_through)


def capture_stand(request: HttpRequest, brief_id: int) -> HttpResponse:
    """The simulated camera over a paper animation."""
    brief = _to_hand_in(request, brief_id)
    return render(request, "takes/capture_stand.html", {"brief": brief, "sheets": len(capture.paper(brief.core).poses)})


def stand_picture(request: HttpRequest, brief_id: int, sheet: int, shot: int) -> HttpResponse:
    """What the simulated camera sees."""
    seen = capture.picture(_to_hand_in(request, brief_id).core, sheet, shot)
    if seen is None:
        raise Http404
    return HttpResponse(seen, content_type="image/png")


def _to_hand_in(request: HttpRequest, brief_id: int) -> Brief:
    brief = get_object_or_404(Brief.objects.visible_to(request.user), pk=brief_id)
    policy.require(policy.may_hand_in(request.user, brief), "hand in to this brief")
    return brief


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


@require_POST
def put_clip_right(request: HttpRequest, take_id: int) -> HttpResponse:
    """Change how a draft is read."""
    draft = get_object_or_404(Take.everything.own(request.user).select_related("brief", "analysis"), pk=take_id)
    put_right(request.user, draft, _change(request.POST))
    return redirect("take", take_id)


def _change(post: QueryDict) -> dict[str, Any]:
    """What a form asks to put right; an empty value takes it back."""
    change: dict[str, Any] = {}
    for key in ("first", "last", "each"):
        if key in post:
            change[key] = _whole(post[key])
    if "order" in post:
        change["order"] = [_whole(n) for n in post["order"].split(",")] if post["order"] else None
    if "columns" in post:
        columns, rows = _whole(post["columns"]) or 0, _whole(post.get("rows", "")) or 0
        change |= {"grid": [columns, rows, _whole(post.get("cells", "")) or columns * rows], "order": None}
    return change


def _whole(text: str) -> int | None:
    if text and not (text.isdecimal() and len(text) < 6):
        raise Refusal("Give whole numbers.")
    return int(text) if text else None


@require_POST
def throw_away(request: HttpRequest, take_id: int) -> HttpResponse:
    """Remove a draft."""
    draft = get_object_or_404(Take.everything.drafts(request.user).select_related("analysis"), pk=take_id)
    brief_id = draft.brief_id
    forget(draft)
    return redirect("brief", brief_id)


def sound(request: HttpRequest, take_id: int) -> HttpResponse:
    """The sound track of a take."""
    seen = _seen(request, take_id)
    if not seen.sound_path:
        raise Http404
    answer = FileResponse(seen.sound.open("rb"), content_type=CONTENT_TYPES[seen.sound_kind])
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


def receipt(request: HttpRequest, take_id: int) -> HttpResponse:
    """The receipt of a take that is handed in, as a text file."""
    seen = get_object_or_404(
        Take.objects.visible_to(request.user).select_related("brief__course", "student"), pk=take_id
    )
    answer = HttpResponse(receipt_of(seen), content_type="text/plain; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="receipt-take-{seen.number}.txt"'
    return answer


def _seen(request: HttpRequest, take_id: int) -> Take:
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis")
    return get_object_or_404(takes, pk=take_id)


def drawing(request: HttpRequest, take_id: int, run: int, number: int) -> HttpResponse:
    """One drawing of a take as a picture."""
    seen = _seen(request, take_id)
    if run != seen.analysis.shown_run:
        raise Http404
    return picture_file(seen.analysis.drawings_of(run) / f"{number}.png")


def picture_file(path: Path) -> FileResponse:
    """A picture that was kept; Http404 where it is not there."""
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
