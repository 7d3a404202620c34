"""The marking desk, and returned marks."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from motion import retiming
from nettlecap.errors import Refusal
from nettlecap.marking import decide, phrases, propose
from nettlecap.marking.desk import finding_key, lay_out
from nettlecap.marking.measured import size_of
from nettlecap.marking.mending import to_mend
from nettlecap.marking.models import Proposal
from nettlecap.takes.mend import folder_of, mend
from nettlecap.takes.models import Take
from nettlecap.takes.views import picture_file


def _on_desk(request: HttpRequest, take_id: int) -> Take:
    takes = Take.objects.markable_by(request.user).select_related("brief__course", "student", "analysis")
    take = get_object_or_404(takes, pk=take_id)
    if request.method == "POST" and "X-Marks-Seen" in request.headers:
        decide.refuse_unseen(request.user, take, request.headers["X-Marks-Seen"])
    return take


def next_after(person: Any, take: Take) -> Take | None:
    """The clip that is to be marked after this one."""
    waiting = Take.objects.markable_by(person).waiting_for_marks(first=take.brief_id)
    return waiting.exclude(pk=take.pk).first()


def _shown(request: HttpRequest, take: Take, template: str, told: str = "") -> HttpResponse:
    laid_out = lay_out(take)
    context = {
        "take": take,
        "desk": laid_out,
        "next": next_after(request.user, take),
        "told": told,
        "may_place": laid_out.sheet is None or not laid_out.sheet.returned,
    }
    return render(request, template, context)


def desk(request: HttpRequest, take_id: int) -> HttpResponse:
    """The marking desk of one take."""
    return _shown(request, _on_desk(request, take_id), "marking/desk.html")


def looked_at_again(request: HttpRequest, take_id: int) -> HttpResponse:
    """How far a new look at the clip is; once it is through, the desk is laid out anew."""
    take = _on_desk(request, take_id)
    answer = render(request, "marking/_again.html", {"take": take})
    if not take.analysis.unfinished:
        answer["HX-Refresh"] = "true"
    return answer


def next_clip(request: HttpRequest) -> HttpResponse:
    """The clip that waits longest."""
    waiting = Take.objects.markable_by(request.user).waiting_for_marks().first()
    return redirect("desk", waiting.pk) if waiting else redirect("start")


@require_POST
def say(request: HttpRequest, take_id: int) -> HttpResponse:
    """Agree or dismiss a finding, or leave it open again."""
    take = _on_desk(request, take_id)
    decide.say(request.user, take, request.POST.get("key", ""), request.POST.get("verdict", ""))
    return _shown(request, take, "marking/_after_decision.html")


@require_POST
def call(request: HttpRequest, take_id: int) -> HttpResponse:
    """Call a drawing a key, a breakdown or an in-between."""
    take = _on_desk(request, take_id)
    decide.call(request.user, take, _whole(request, "drawing"), request.POST.get("role", ""))
    return _shown(request, take, "marking/_after_decision.html")


@require_POST
def first_look(request: HttpRequest, take_id: int) -> HttpResponse:
    """Keep what was tapped at the first look, and show it beside what was found."""
    take = _on_desk(request, take_id)
    taps = [t for t in request.POST.get("taps", "").split(",") if t]
    if not all(t.isdecimal() for t in taps):
        raise Refusal("Taps are frames, as whole numbers.")
    decide.first_look(request.user, take, [int(t) for t in taps])
    return _shown(request, take, "marking/_after_decision.html")


@require_POST
def take_back(request: HttpRequest, take_id: int) -> HttpResponse:
    """Take back the latest decision."""
    take = _on_desk(request, take_id)
    told = decide.take_back(request.user, take)
    return _shown(request, take, "marking/_after_decision.html", told=f"Taken back: {told}.")


@require_POST
def note(request: HttpRequest, take_id: int) -> HttpResponse:
    """Write a note."""
    take = _on_desk(request, take_id)
    first = _whole(request, "first_frame")
    decide.note(
        request.user,
        take,
        first=first,
        last=_whole(request, "last_frame", first),
        principle=request.POST.get("principle", ""),
        text=request.POST.get("text", ""),
        code=request.POST.get("code", ""),
    )
    return _shown(request, take, "marking/_after_decision.html")


def offered_phrases(request: HttpRequest, take_id: int) -> HttpResponse:
    """The marker's own phrases that fit the frames and the finding at hand."""
    take = _on_desk(request, take_id)
    asked = request.GET
    found = {finding_key(f): f for f in (take.analysis.findings or {}).get("findings", ())}.get(asked.get("key", ""))
    first, last = (int(t) if t.isdecimal() else 1 for t in (asked.get("first_frame", ""), asked.get("last_frame", "")))
    offered = phrases.offer(
        request.user,
        principle=asked.get("principle", ""),
        code=found["code"] if found else "",
        first=first,
        last=max(first, last),
        measure=size_of(found) if found else "",
    )
    return render(request, "marking/_phrases.html", {"take": take, "offered": offered})


@require_POST
def forget_phrase(request: HttpRequest, take_id: int, phrase_id: int) -> HttpResponse:
    """Offer a phrase no more."""
    take = _on_desk(request, take_id)
    phrases.forget(request.user, phrase_id)
    return render(request, "marking/_phrases.html", {"take": take, "offered": []})


@require_POST
def take_back_note(request: HttpRequest, take_id: int, note_id: int) -> HttpResponse:
    """Remove a note."""
    take = _on_desk(request, take_id)
    decide.take_back_note(request.user, take, note_id)
    return _shown(request, take, "marking/_after_decision.html")


@require_POST
def points(request: HttpRequest, take_id: int) -> HttpResponse:
    """Set points by hand, or go back to the proposed ones."""
    take = _on_desk(request, take_id)
    decide.set_points(request.user, take, request.POST.get("principle", ""), _points(request))
    return _shown(request, take, "marking/_after_decision.html")


@require_POST
def remark(request: HttpRequest, take_id: int) -> HttpResponse:
    """Save the closing remark as it is written."""
    take = _on_desk(request, take_id)
    decide.set_remark(request.user, take, request.POST.get("remark", ""))
    return HttpResponse(status=204)


@require_POST
def return_marks(request: HttpRequest, take_id: int) -> HttpResponse:
    """Return the marks to the student."""
    take = _on_desk(request, take_id)
    if "remark" in request.POST:
        decide.set_remark(request.user, take, request.POST["remark"])
    decide.return_marks(request.user, take)
    return _shown(request, take, "marking/_after_decision.html")


@require_POST
def reopen(request: HttpRequest, take_id: int) -> HttpResponse:
    """Take returned marks back to change them."""
    take = _on_desk(request, take_id)
    decide.reopen(request.user, take)
    return _shown(request, take, "marking/_after_decision.html")


def returned(request: HttpRequest, take_id: int) -> HttpResponse:
    """Returned marks, as the student reads them; markers see the same page."""
    takes = Take.objects.visible_to(request.user).select_related("brief__course", "student", "analysis")
    take = get_object_or_404(takes, pk=take_id)
    shown = lay_out(take, agreed_only=True)
    if shown.sheet is None or not shown.sheet.returned:
        raise Http404
    return render(request, "marking/returned.html", {"take": take, "desk": shown})


@require_POST
def retime(request: HttpRequest, take_id: int) -> HttpResponse:
    """A timing with one change made to it; nothing is kept yet."""
    take = _on_desk(request, take_id)
    asked = request.POST
    first, last = _whole(request, "first"), _whole(request, "last")
    changed = propose.change(
        take, asked.get("timing", ""), asked.get("kind", ""), first, last, _signed(request, "count")
    )
    return JsonResponse({"timing": retiming.pairs(changed)})


@require_POST
def propose_timing(request: HttpRequest, take_id: int) -> HttpResponse:
    """Keep a timing as a proposal, or withdraw it."""
    take = _on_desk(request, take_id)
    if "withdraw" in request.POST:
        propose.withdraw(request.user, take)
    else:
        fps = _points(request, "fps") or 0.0
        propose.propose(request.user, take, request.POST.get("timing", ""), fps, request.POST.get("note", ""))
    return _shown(request, take, "marking/_after_decision.html")


def proposed_sheet(request: HttpRequest, take_id: int, kind: str) -> HttpResponse:
    """The exposure sheet of a proposed timing: for markers, and for the student once the marks are returned."""
    take = _visible(request, take_id)
    to_mend(request.user, take)
    kept = get_object_or_404(Proposal, sheet__take=take)
    timing = retiming.read(kept.timing, {h.drawing for h in propose.own_timing(take)})
    if kind == "csv":
        answer = HttpResponse(retiming.sheet_csv(timing), content_type="text/csv; charset=utf-8")
    elif kind == "json":
        answer = HttpResponse(retiming.sheet_json(timing, kept.fps), content_type="application/json")
    else:
        raise Http404
    answer["Content-Disposition"] = f'attachment; filename="take-{take.pk}-timing.{kind}"'
    return answer


def mended(request: HttpRequest, take_id: int) -> HttpResponse:
    """The take as it would be with its findings mended: for a marker what is not dismissed, else what was agreed."""
    take = _visible(request, take_id)
    name, shown = mend(take, to_mend(request.user, take))
    return JsonResponse({"pictures": f"{reverse('mended', args=[take.pk])}/{name}/", "shown": shown})


def mended_picture(request: HttpRequest, take_id: int, name: str, index: int) -> HttpResponse:
    """A moved drawing of a mended take."""
    take = _visible(request, take_id)
    to_mend(request.user, take)
    return picture_file(folder_of(take, name) / f"{index}.png")


def _visible(request: HttpRequest, take_id: int) -> Take:
    takes = Take.objects.visible_to(request.user).select_related("brief__course", "student", "analysis")
    return get_object_or_404(takes, pk=take_id)


def _whole(request: HttpRequest, name: str, default: int | None = None) -> int:
    text = request.POST.get(name, "").strip()
    if not text and default is not None:
        return default
    if not text.isdecimal():
        raise Refusal("Give the frames as whole numbers.")
    return int(text)


def _signed(request: HttpRequest, name: str) -> int:
    text = request.POST.get(name, "1").strip()
    if not text.removeprefix("-").isdecimal():
        raise Refusal("Give a whole number.")
    return int(text)


def _points(request: HttpRequest, name: str = "points") -> float | None:
    text = request.POST.get(name, "").strip().replace(",", ".")
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise Refusal(f"Give the {name} as a number.") from None
