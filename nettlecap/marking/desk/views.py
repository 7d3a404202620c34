"""The marking desk, and the way through the clips."""

from __future__ import annotations

from typing import Any

from django.db.models import Count, Window
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from nettlecap.classroom import policy
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import Refusal
from nettlecap.marking.comparing import comparisons
from nettlecap.marking.decisions import decide
from nettlecap.marking.decisions.history import changes
from nettlecap.marking.desk import companion, queue
from nettlecap.marking.desk.laid_out import lay_out_for
from nettlecap.marking.desk.queue import Asked
from nettlecap.marking.desk.requests import number, on_desk, small_number, whole
from nettlecap.marking.models import Blind, Decision
from nettlecap.marking.returning.since import since
from nettlecap.marking.sheets import blind_of, sheet_for
from nettlecap.takes.models import Take
from nettlecap.words import COMPANION_WAYS, EXPORT_KINDS, PEN_WORDS


def asked_of(request: SignedIn) -> Asked:
    """What the marker asked the queue for in this sitting."""
    return Asked.read(request.session.get(queue.KEPT) or {})


def shown_on_desk(request: SignedIn, take: Take, template: str, told: str = "") -> HttpResponse:
    """A part of the desk as it is now; ``told`` is what just happened, in words."""
    _spend(request, take)
    # What was fetched with the take stands as long as nothing was decided since.
    part = take.seen_in_part if request.method == "GET" else blind_of(request.user, take)  # type: ignore[attr-defined]
    laid_out = lay_out_for(request.user, take, part)
    elsewhere = part is None and not policy.may_change_marks(request.user, take.brief, take.student_id)
    locked = elsewhere or (laid_out.sheet is not None and laid_out.sheet.returned)
    context = {
        "take": take,
        "desk": laid_out,
        "blind": part.comparison if part else None,
        **_to_come(request, take, part),
        "since": since(take, tell_new=True, dismissed=laid_out.keys_said(Decision.Verdict.DISMISSED)),
        "took": queue.duration(laid_out.sheet.seconds) if laid_out.sheet and laid_out.sheet.seconds else "",
        "told": told,
        "pens": PEN_WORDS,
        "export_kinds": EXPORT_KINDS,
        "companion_ways": COMPANION_WAYS,
        "companions": companion.options(request.user, take) if template == "marking/desk.html" else (),
        "may_place": not locked,
        "locked": locked,
        "elsewhere": elsewhere,
        "measured": True,
    }
    return render(request, template, context)


def _to_come(request: SignedIn, take: Take, part: Blind | None) -> dict[str, Any]:
    """The clip that comes next, and how many wait: of the comparison that is at hand, else of the queue."""
    if part:
        left = comparisons.left_for(request.user, part.comparison, after=take)
        return {"next": left[0] if left else None, "left": len(left)}
    waiting = queue.waiting(request.user, asked_of(request), after=take)
    # How many there are in all comes with the first of them.
    first = waiting.annotate(all_waiting=Window(Count("pk"))).first()
    return {"next": first, "left": first.all_waiting if first else 0}  # type: ignore[attr-defined]


def _spend(request: SignedIn, take: Take) -> None:
    """Keep how long the marker was at it since the last decision."""
    spent = request.headers.get("X-Seconds", "")
    if request.method == "POST" and spent.isdecimal():
        decide.spend(request.user, take, int(spent[:6]))


def desk(request: SignedIn, take_id: int) -> HttpResponse:
    """The marking desk of one take."""
    return shown_on_desk(request, on_desk(request, take_id), "marking/desk.html")


def looked_at_again(request: SignedIn, take_id: int) -> HttpResponse:
    """How far a new look at the clip is; once it is through, the desk is laid out anew."""
    take = on_desk(request, take_id)
    answer = render(request, "marking/_again.html", {"take": take})
    if not take.analysis.unfinished:
        answer["HX-Refresh"] = "true"
    return answer


def next_clip(request: SignedIn) -> HttpResponse:
    """The clip that waits longest, within what was asked for."""
    waiting = queue.waiting(request.user, asked_of(request)).first()
    return redirect("desk", waiting.pk) if waiting else redirect("start")


def clips(request: SignedIn) -> HttpResponse:
    """The queue: clips by brief, by state, by student. What is asked for stays for the sitting."""
    if "state" in request.GET:
        request.session[queue.KEPT] = Asked.read(request.GET).kept
    gathered = queue.gather(request.user, asked_of(request), small_number(request.GET.get("page", "")) or 1)
    template = "marking/_queue.html" if getattr(request, "htmx", False) else "marking/queue.html"
    return render(request, template, {"queue": gathered})


@require_POST
def say(request: SignedIn, take_id: int) -> HttpResponse:
    """Agree or dismiss a finding, or leave it open again."""
    take = on_desk(request, take_id)
    decide.say(request.user, take, request.POST.get("key", ""), request.POST.get("verdict", ""))
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def call(request: SignedIn, take_id: int) -> HttpResponse:
    """Call a drawing a key, a breakdown or an in-between."""
    take = on_desk(request, take_id)
    decide.call(request.user, take, whole(request, "drawing"), request.POST.get("role", ""))
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def first_look(request: SignedIn, take_id: int) -> HttpResponse:
    """Keep what was tapped at the first look, and show it beside what was found."""
    take = on_desk(request, take_id)
    taps = [t for t in request.POST.get("taps", "").split(",") if t]
    frames = [small_number(t) for t in taps]
    if None in frames:
        raise Refusal("Taps are frames, as whole numbers.")
    decide.first_look(request.user, take, [f for f in frames if f is not None])
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def take_back(request: SignedIn, take_id: int) -> HttpResponse:
    """Take back the latest decision."""
    take = on_desk(request, take_id)
    told = decide.take_back(request.user, take)
    return shown_on_desk(request, take, "marking/_after_decision.html", told=f"Taken back: {told}.")


@require_POST
def note(request: SignedIn, take_id: int) -> HttpResponse:
    """Write a note."""
    take = on_desk(request, take_id)
    first = whole(request, "first_frame")
    decide.note(
        request.user,
        take,
        first=first,
        last=whole(request, "last_frame", first),
        principle=request.POST.get("principle", ""),
        text=request.POST.get("text", ""),
        code=request.POST.get("code", ""),
    )
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def take_back_note(request: SignedIn, take_id: int, note_id: int) -> HttpResponse:
    """Remove a note."""
    take = on_desk(request, take_id)
    decide.take_back_note(request.user, take, note_id)
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def points(request: SignedIn, take_id: int) -> HttpResponse:
    """Set points by hand, or go back to the proposed ones."""
    take = on_desk(request, take_id)
    decide.set_points(request.user, take, request.POST.get("principle", ""), number(request))
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def remark(request: SignedIn, take_id: int) -> HttpResponse:
    """Save the closing remark as it is written."""
    take = on_desk(request, take_id)
    decide.set_remark(request.user, take, request.POST.get("remark", ""))
    _spend(request, take)
    return HttpResponse(status=204)


@require_POST
def return_marks(request: SignedIn, take_id: int) -> HttpResponse:
    """Return the marks to the student."""
    take = on_desk(request, take_id)
    if "remark" in request.POST:
        decide.set_remark(request.user, take, request.POST["remark"])
    part = blind_of(request.user, take)
    decide.return_marks(request.user, take)
    if part and not blind_of(request.user, take):
        # That was the last of both: the comparison has ended, and tells.
        return HttpResponse(headers={"HX-Redirect": reverse("comparison", args=[part.comparison_id])})
    return shown_on_desk(request, take, "marking/_after_decision.html")


@require_POST
def reopen(request: SignedIn, take_id: int) -> HttpResponse:
    """Take returned marks back to change them."""
    take = on_desk(request, take_id)
    if blind_of(request.user, take):
        comparisons.take_up(request.user, take)
    else:
        decide.reopen(request.user, take, request.POST.get("reason", ""))
    return shown_on_desk(request, take, "marking/_after_decision.html")


def history(request: SignedIn, take_id: int) -> HttpResponse:
    """Who changed which mark when, for markers."""
    take = on_desk(request, take_id)
    return render(request, "marking/history.html", {"take": take, "changes": changes(sheet_for(request.user, take))})
