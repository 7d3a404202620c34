"""What stands beside a take: its mended self, other timings, and the marker's own phrases."""

from __future__ import annotations

from django.http import Http404, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from motion import retiming
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.marking.decisions import phrases, propose
from nettlecap.marking.desk import companion
from nettlecap.marking.desk.measure_words import size_of
from nettlecap.marking.desk.mending import to_mend
from nettlecap.marking.desk.requests import number, on_desk, signed, small_number, visible, whole
from nettlecap.marking.desk.views import shown_on_desk
from nettlecap.marking.desk.who_sees import require_measures
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Proposal
from nettlecap.marking.sheets import sheet_shown_to
from nettlecap.takes.mend import folder_of, mend
from nettlecap.takes.views import picture_file

AS_MENDED = "mended"


def offered_phrases(request: SignedIn, take_id: int) -> HttpResponse:
    """The marker's own phrases that fit the frames and the finding at hand."""
    take = on_desk(request, take_id)
    asked = request.GET
    found = {finding_key(f): f for f in (take.analysis.findings or {}).get("findings", ())}.get(asked.get("key", ""))
    first, last = (small_number(asked.get(name, "")) or 1 for name in ("first_frame", "last_frame"))
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
def forget_phrase(request: SignedIn, take_id: int, phrase_id: int) -> HttpResponse:
    """Offer a phrase no more."""
    take = on_desk(request, take_id)
    phrases.forget(request.user, phrase_id)
    return render(request, "marking/_phrases.html", {"take": take, "offered": []})


@require_POST
def retime(request: SignedIn, take_id: int) -> HttpResponse:
    """A timing with one change made to it, or as the findings that are not dismissed ask; nothing is kept yet."""
    take = on_desk(request, take_id)
    asked = request.POST
    if asked.get("kind") == AS_MENDED:
        return JsonResponse({"timing": retiming.pairs(propose.as_mended(take, to_mend(request.user, take)))})
    first, last = whole(request, "first"), whole(request, "last")
    changed = propose.change(
        take, asked.get("timing", ""), asked.get("kind", ""), first, last, signed(request, "count")
    )
    return JsonResponse({"timing": retiming.pairs(changed)})


@require_POST
def propose_timing(request: SignedIn, take_id: int) -> HttpResponse:
    """Keep a timing as a proposal, or withdraw it."""
    take = on_desk(request, take_id)
    if "withdraw" in request.POST:
        propose.withdraw(request.user, take)
    else:
        fps = number(request, "fps") or 0.0
        propose.propose(request.user, take, request.POST.get("timing", ""), fps, request.POST.get("note", ""))
    return shown_on_desk(request, take, "marking/_after_decision.html")


def proposed_sheet(request: SignedIn, take_id: int, kind: str) -> HttpResponse:
    """The exposure sheet of a proposed timing: for markers, and for the student once the marks are returned."""
    take = visible(request, take_id)
    to_mend(request.user, take)
    kept = get_object_or_404(Proposal, sheet=sheet_shown_to(request.user, take))
    timing = retiming.read(kept.pairs, {h.drawing for h in propose.own_timing(take)})
    if kind == "csv":
        answer = HttpResponse(retiming.sheet_csv(timing), content_type="text/csv; charset=utf-8")
    elif kind == "json":
        answer = HttpResponse(retiming.sheet_json(timing, kept.fps), content_type="application/json")
    else:
        raise Http404
    answer["Content-Disposition"] = f'attachment; filename="take-{take.pk}-timing.{kind}"'
    return answer


def beside_take(request: SignedIn, take_id: int, other_id: int) -> HttpResponse:
    """An earlier take of the same student and brief, laid beside this one by its contacts."""
    take, other = visible(request, take_id), visible(request, other_id)
    if other not in companion.earlier(take):
        raise Http404
    require_measures(request.user, take)
    require_measures(request.user, other)
    return JsonResponse(companion.beside_take(take, other))


def beside_guide(request: SignedIn, take_id: int) -> HttpResponse:
    """The brief's own guide, laid beside a take by its moments."""
    take = visible(request, take_id)
    require_measures(request.user, take)
    return JsonResponse(companion.beside_guide(request.user, take))


def mended(request: SignedIn, take_id: int) -> HttpResponse:
    """The take as it would be with its findings mended: for a marker what is not dismissed, else what was agreed."""
    take = visible(request, take_id)
    name, shown = mend(take, to_mend(request.user, take))
    return JsonResponse({"pictures": f"{reverse('mended', args=[take.pk])}/{name}/", "shown": shown})


def mended_picture(request: SignedIn, take_id: int, name: str, index: int) -> HttpResponseBase:
    """A moved drawing of a mended take."""
    take = visible(request, take_id)
    to_mend(request.user, take)
    return picture_file(folder_of(take, name) / f"{index}.png", request)
