"""Pages that bring people, briefs, takes and marks together: the start, briefs, a take."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from motion.exercises import EXERCISES
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.guard import told_json
from nettlecap.marking.desk.draw_over import over
from nettlecap.marking.desk.laid_out import lay_out_clip, lay_out_trial
from nettlecap.marking.desk.placing import (
    find_again,
    may_place,
    place_figure,
    place_fixture,
    place_landmark,
    place_shape,
    placed_now,
    put_back,
    turn_sides,
)
from nettlecap.marking.desk.views import shown_on_desk
from nettlecap.marking.desk.who_sees import may_see_measures
from nettlecap.marking.returning.since import since
from nettlecap.marking.returning.ticking import to_fix
from nettlecap.pages.account import account
from nettlecap.pages.start import start_of
from nettlecap.takes.look_through import look_through
from nettlecap.takes.models import Take
from nettlecap.takes.terms import TermsNow
from nettlecap.words import EXPORT_KINDS


def start(request: SignedIn) -> HttpResponse:
    """What waits for the person."""
    return render(request, "classroom/start.html", {"start": start_of(request.user)})


def checks(request: SignedIn, exercise: str | None = None) -> HttpResponse:
    """How each fault of an exercise is judged: the checks' own words, and a picture of right and wrong."""
    shown = account(exercise or next(iter(EXERCISES)))
    if shown is None:
        raise Http404
    return render(request, "marking/checks.html", {"account": shown, "exercises": EXERCISES.values()})


def _seen(request: SignedIn, take_id: int) -> dict[str, Any]:
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis", "sheet")
    seen = get_object_or_404(takes, pk=take_id)
    laid_out = None
    if seen.analysis.findings:
        laid_out = (lay_out_trial if seen.trial and not seen.draft else lay_out_clip)(seen)
    return {
        "take": seen,
        "desk": laid_out,
        "terms": TermsNow.of(request.user, seen.brief) if seen.trial else None,
        "export_kinds": EXPORT_KINDS,
        "measured": may_see_measures(request.user, seen),
        "drawn": bool(over(request.user, seen)),
        "since": None if seen.trial else since(seen, tell_new=False),
        "to_fix": to_fix(request.user, seen.brief) if seen.trial else None,
        "through": look_through(seen) if seen.draft else None,
        "may_place": may_place(request.user, seen) and seen.trial,
    }


def take(request: SignedIn, take_id: int) -> HttpResponse:
    """A take's receipt, the state of its analysis, and the clip once it is there; a draft to look through."""
    context = _seen(request, take_id)
    return render(request, "takes/draft.html" if context["take"].draft else "takes/take.html", context)


def take_state(request: SignedIn, take_id: int) -> HttpResponse:
    """How far the analysis is; once it is through, the clip as well."""
    context = _seen(request, take_id)
    seen = context["take"]
    answer = render(request, "takes/_state.html" if seen.analysis.unfinished else "takes/_arrived.html", context)
    if seen.draft and not seen.analysis.unfinished:
        # A draft's page is made anew: its clip may have other frames now.
        answer["HX-Refresh"] = "true"
    return answer


@require_POST
def place(request: SignedIn, take_id: int) -> HttpResponse:
    """Place by hand what moves, or what it moves against, take that back, or have the rest found again."""
    takes = Take.everything.visible_to(request.user).select_related("brief__course", "student", "analysis", "sheet")
    seen = get_object_or_404(takes, pk=take_id)
    words = "That place could not be understood; nothing was changed."
    asked = told_json.read(request.POST.get("place", ""), dict, words=words)
    _place(request, seen, asked)
    if seen.trial:
        return render(request, "takes/_after_placing.html", _seen(request, take_id))
    return shown_on_desk(request, seen, "marking/_after_placing.html")


MOST_BACK = 30
"""So many changes of what was placed can be taken back, one after the other."""


def _place(request: SignedIn, seen: Take, asked: dict[str, Any]) -> None:
    """Do what is asked; what was placed before and after is kept with the session, to be put back."""
    if "undo" in asked:
        _take_back(request, seen)
        return
    if "again" in asked:
        find_again(request.user, seen)
        return
    before = placed_now(request.user, seen)
    if seen.brief.exercise.fixture in asked:
        place_fixture(request.user, seen, asked[seen.brief.exercise.fixture])
    elif "landmark" in asked:
        place_landmark(request.user, seen, asked.get("drawing"), asked["landmark"], asked.get("at"))
    elif "points" in asked:
        place_figure(request.user, seen, asked.get("drawing"), asked["points"])
    elif "turn" in asked:
        turn_sides(request.user, seen, asked["turn"])
    else:
        place_shape(request.user, seen, asked.get("drawing"), asked.get("ellipse"))
    done = [*_done(request, seen), [before, placed_now(request.user, seen)]]
    request.session[_name_of(seen)] = done[-MOST_BACK:]


def _take_back(request: SignedIn, seen: Take) -> None:
    """Put back what was placed before the last change of this person's."""
    # Who may not place is told so, whether or not there is anything to take back.
    placed_now(request.user, seen)
    done = _done(request, seen)
    if not done:
        return
    before, after = done.pop()
    # Where that can no longer be put back, nothing from before it can either.
    request.session[_name_of(seen)] = []
    put_back(request.user, seen, before, instead_of=after)
    request.session[_name_of(seen)] = done


def _name_of(seen: Take) -> str:
    return f"placed-{seen.pk}"


def _done(request: SignedIn, seen: Take) -> list[list[dict[str, Any]]]:
    return list(request.session.get(_name_of(seen), []))
