"""Handing in, and following what becomes of a take."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from django.http import (
    FileResponse,
    Http404,
    HttpResponse,
    HttpResponseNotModified,
    JsonResponse,
    QueryDict,
)
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import quote_etag
from django.utils.text import slugify
from django.views.decorators.csrf import csrf_exempt, csrf_protect
from django.views.decorators.http import require_POST

from motion.formats.sound import CONTENT_TYPES
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import Refusal
from nettlecap.files import shelf
from nettlecap.guard.answers import wants_json
from nettlecap.guard.caches import ASKED_AGAIN
from nettlecap.takes import capture, redraw
from nettlecap.takes.arrivals import arrive, may_arrive, put_aside, require_room
from nettlecap.takes.drafts import put_right
from nettlecap.takes.forget import forget
from nettlecap.takes.hand_in import make_final
from nettlecap.takes.look_again import ask_again
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.quotas import require_quota
from nettlecap.takes.receipt import receipt_of
from nettlecap.takes.uploading import ToIncoming


@csrf_exempt
@require_POST
def hand_in_take(request: SignedIn, brief_id: int) -> HttpResponse:
    """Take in files; JSON to the page's script, a redirect to a plain form."""
    return _arriving(request, brief_id, Arrival.As.TAKE)


@csrf_exempt
@require_POST
def check_clip(request: SignedIn, brief_id: int) -> HttpResponse:
    """Take in files to run the checks on, without handing them in."""
    return _arriving(request, brief_id, Arrival.As.CHECK)


@csrf_exempt
@require_POST
def look_clip_through(request: SignedIn, brief_id: int) -> HttpResponse:
    """Take in files to look through and put right before they are handed in."""
    return _arriving(request, brief_id, Arrival.As.DRAFT)


def _arriving(request: SignedIn, brief_id: int, wanted_as: str) -> HttpResponse:
    """Whoever may not hand in, or has enough on the way, is told so before anything of the body is read.

    The token of the form stands in the body; so it is looked at (``csrf_protect``) after that, and not before.
    """
    brief = get_object_or_404(Brief.objects.visible_to(request.user), pk=brief_id)
    may_arrive(request.user, brief, wanted_as)
    require_room(request.user)
    require_quota(request.user, brief.course)
    request.upload_handlers = [ToIncoming(request)]
    return _arrived(request, brief, wanted_as)


@csrf_protect
def _arrived(request: SignedIn, brief: Brief, wanted_as: str) -> HttpResponse:
    arrival = arrive(request.user, brief, [*request.FILES.getlist("files")], wanted_as)
    url = reverse("arrival", args=[arrival.pk])
    if wants_json(request):
        return JsonResponse({"url": url, "state": reverse("arrival-state", args=[arrival.pk])}, status=201)
    return redirect(url)


def arrival(request: SignedIn, arrival_id: int) -> HttpResponse:
    """What became of a clip that came in; the take that was made of it, once it is read."""
    came = _own_arrival(request, arrival_id)
    if came.take_id is not None:
        return redirect("take", came.take_id)
    return render(request, "takes/arrival.html", {"arrival": came})


def arrival_state(request: SignedIn, arrival_id: int) -> HttpResponse:
    """How far the reading is: as JSON to the form that sent it, else as a part of the page."""
    came = _own_arrival(request, arrival_id)
    url = reverse("take", args=[came.take_id]) if came.take_id else ""
    if wants_json(request):
        return JsonResponse({"unread": came.unread, "message": came.message, "url": url})
    answer = render(request, "takes/_arrival.html", {"arrival": came})
    if url:
        answer["HX-Redirect"] = url
    return answer


@require_POST
def put_arrival_aside(request: SignedIn, arrival_id: int) -> HttpResponse:
    """Have done with a clip that was refused, or that is not read yet and not wanted any more."""
    came = _own_arrival(request, arrival_id)
    put_aside(request.user, came)
    return redirect("brief", came.brief_id)


def _own_arrival(request: SignedIn, arrival_id: int) -> Arrival:
    own = Arrival.objects.own(request.user).select_related("brief__course")
    return get_object_or_404(own, pk=arrival_id)


@require_POST
def look_at_again(request: SignedIn, take_id: int) -> HttpResponse:
    """Have a take that could not be looked at tried once more."""
    seen = _seen(request, take_id)
    ask_again(request.user, seen)
    own = seen.student_id == request.user.pk
    return redirect("take" if own else "desk", take_id)


def capture_stand(request: SignedIn, brief_id: int) -> HttpResponse:
    """The simulated camera over a paper animation."""
    brief = _to_hand_in(request, brief_id)
    return render(request, "takes/capture_stand.html", {"brief": brief, "sheets": len(capture.paper(brief.core).poses)})


def stand_picture(request: SignedIn, brief_id: int, sheet: int, shot: int) -> HttpResponse:
    """What the simulated camera sees."""
    seen = capture.picture(_to_hand_in(request, brief_id).core, sheet, shot)
    if seen is None:
        raise Http404
    return HttpResponse(seen, content_type="image/png")


def _to_hand_in(request: SignedIn, brief_id: int) -> Brief:
    brief = get_object_or_404(Brief.objects.visible_to(request.user), pk=brief_id)
    policy.require(policy.may_hand_in(request.user, brief), "hand in to this brief")
    return brief


@require_POST
def hand_in_checked(request: SignedIn, take_id: int) -> HttpResponse:
    """Hand in a clip that was only checked so far."""
    own = Take.everything.own(request.user).select_related("brief")
    make_final(request.user, get_object_or_404(own, pk=take_id))
    return redirect("take", take_id)


@require_POST
def put_clip_right(request: SignedIn, take_id: int) -> HttpResponse:
    """Change how a draft is read."""
    draft = get_object_or_404(Take.everything.own(request.user).select_related("brief", "analysis"), pk=take_id)
    put_right(request.user, draft, _change(request.POST))
    return redirect("take", take_id)


def _change(post: QueryDict) -> dict[str, Any]:
    """What a form asks to put right; an empty value takes it back."""
    change: dict[str, Any] = {}
    for key in ("first", "last", "each"):
        if key in post:
            change[key] = _whole(post.get(key, ""))
    if "order" in post:
        order = post.get("order", "")
        change["order"] = [_whole(n) for n in order.split(",")] if order else None
    if "columns" in post:
        columns, rows = _whole(post.get("columns", "")) or 0, _whole(post.get("rows", "")) or 0
        change |= {"grid": [columns, rows, _whole(post.get("cells", "")) or columns * rows], "order": None}
    return change


def _whole(text: str) -> int | None:
    if text and not (text.isdecimal() and len(text) < 6):
        raise Refusal("Give whole numbers.")
    return int(text) if text else None


@require_POST
def throw_away(request: SignedIn, take_id: int) -> HttpResponse:
    """Remove a draft."""
    draft = get_object_or_404(Take.everything.drafts(request.user).select_related("analysis"), pk=take_id)
    brief_id = draft.brief_id
    forget(draft)
    return redirect("brief", brief_id)


def sound(request: SignedIn, take_id: int) -> HttpResponseBase:
    """The sound track of a take."""
    seen = _seen(request, take_id)
    if not seen.sound_path:
        raise Http404
    return kept_file(request, seen.sound, CONTENT_TYPES[seen.sound_kind])


def handed_in_file(request: SignedIn, take_id: int) -> HttpResponseBase:
    """The file as it was handed in, to keep or to open elsewhere; never shown as a page of ours."""
    seen = _seen(request, take_id)
    name = f"take-{seen.number}-{slugify(Path(seen.file_name).stem) or 'clip'}{Path(seen.file_name).suffix[:8]}"
    answer = FileResponse(seen.file.open("rb"), as_attachment=True, filename=name)
    answer["Content-Type"] = "application/octet-stream"
    return answer


def receipt(request: SignedIn, take_id: int) -> HttpResponse:
    """The receipt of a take that is handed in, as a text file."""
    seen = get_object_or_404(
        Take.objects.visible_to(request.user).select_related("brief__course", "student"), pk=take_id
    )
    answer = HttpResponse(receipt_of(seen), content_type="text/plain; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="receipt-take-{seen.number}.txt"'
    return answer


def _seen(request: SignedIn, take_id: int) -> Take:
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis")
    return get_object_or_404(takes, pk=take_id)


def drawing(request: SignedIn, take_id: int, run: int, number: int) -> HttpResponseBase:
    """One drawing of a take as a picture."""
    seen = _seen(request, take_id)
    if run != seen.analysis.shown_run:
        raise Http404
    path = shelf.folder_here(seen.analysis.run_folder(run)) / f"{number}.png"
    drawn = (seen.analysis.findings or {}).get("clip", {}).get("exposures", ())
    if not path.exists() and any(e["drawing"] == number for e in drawn):
        # Drawings that were thinned, or are missing after a restore, are drawn again from the clip.
        redraw.ask(seen)
        return HttpResponse("This drawing is being drawn again.", status=503, headers={"Retry-After": "1"})
    return picture_file(path, request)


def picture_file(path: Path, request: SignedIn) -> HttpResponseBase:
    """A picture that was kept; Http404 where it is not there."""
    return kept_file(request, path, "image/png")


def kept_file(request: SignedIn, path: Path, content_type: str) -> HttpResponseBase:
    """A kept file, which its owner's browser may keep as well, and asks each time whether it still may show it.

    Http404 where it is not there.
    """
    try:
        stream = path.open("rb")
    except FileNotFoundError:
        raise Http404 from None
    about = os.fstat(stream.fileno())
    etag = quote_etag(f"{about.st_mtime_ns:x}-{about.st_size:x}")
    if request.headers.get("If-None-Match") == etag:
        stream.close()
        answer: HttpResponseBase = HttpResponseNotModified()
    else:
        answer = FileResponse(stream, content_type=content_type)
    answer["ETag"] = etag
    answer["Cache-Control"] = ASKED_AGAIN
    return answer


def findings_file(request: SignedIn, take_id: int) -> HttpResponse:
    """The findings file, for markers."""
    seen = _seen(request, take_id)
    policy.require(policy.may_mark(request.user, seen.brief.course_id), "see what was found before it is returned")
    answer = JsonResponse(seen.analysis.findings or {}, json_dumps_params={"ensure_ascii": False, "indent": 1})
    answer["Content-Disposition"] = f'attachment; filename="take-{seen.pk}.findings.json"'
    return answer


def track_table(request: SignedIn, take_id: int) -> HttpResponse:
    """The track table, for markers."""
    seen = _seen(request, take_id)
    policy.require(policy.may_mark(request.user, seen.brief.course_id), "see the measures of this clip")
    answer = HttpResponse(seen.analysis.track_csv, content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="take-{seen.pk}.track.csv"'
    return answer
