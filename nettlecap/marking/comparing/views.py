"""Two markers, one measure: handing them clips, marking blind, and what came of it."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.marking.comparing import comparisons
from nettlecap.marking.desk.requests import small_number
from nettlecap.marking.models import Comparison
from nettlecap.takes.models import Take


def two_markers(request: SignedIn, brief_id: int) -> HttpResponse:
    """Hand clips of a brief to two markers; what was handed out before."""
    brief = get_object_or_404(Brief.objects.markable_by(request.user).select_related("course"), pk=brief_id)
    takes, proposed = comparisons.candidates(request.user, brief)
    if request.method == "POST":
        one, other = (small_number(request.POST.get(name, "")) for name in ("one", "other"))
        chosen = [n for n in map(small_number, request.POST.getlist("take")) if n is not None]
        comparison = comparisons.hand_to_two(request.user, brief, one=one, other=other, takes=chosen)
        return redirect("comparison", comparison.pk)
    context = {
        "brief": brief,
        "takes": takes,
        "proposed": proposed,
        "markers": comparisons.markers_of(brief),
        "earlier": brief.comparisons.select_related("one", "other"),
    }
    return render(request, "marking/two_markers.html", context)


def comparison(request: SignedIn, comparison_id: int) -> HttpResponse:
    """Where a comparison stands; once it has ended, how the two agree and which clips to talk about."""
    found = visible(request, comparison_id)
    outcome = comparisons.outcome(found)
    may_lead = policy.may_lead(request.user, found.brief.course_id)
    return render(request, "marking/comparison.html", {"comparison": found, "outcome": outcome, "may_lead": may_lead})


def mark_blind(request: SignedIn, comparison_id: int) -> HttpResponse:
    """On to the clip that this marker marks next in the comparison."""
    left = comparisons.left_for(request.user, visible(request, comparison_id))
    return redirect("desk", left[0].pk) if left else redirect("comparison", comparison_id)


@require_POST
def end_comparison(request: SignedIn, comparison_id: int) -> HttpResponse:
    """End a comparison with what is marked by both."""
    comparisons.end(request.user, visible(request, comparison_id))
    return redirect("comparison", comparison_id)


@require_POST
def adopt(request: SignedIn, comparison_id: int, take_id: int) -> HttpResponse:
    """Make what one of the two said the marks of a clip, and go on at the desk."""
    found = visible(request, comparison_id)
    take = get_object_or_404(
        Take.objects.markable_by(request.user).filter(blind__comparison=found).distinct(), pk=take_id
    )
    comparisons.adopt(request.user, found, take, small_number(request.POST.get("marker", "")))
    return redirect("desk", take.pk)


def visible(request: SignedIn, comparison_id: int) -> Comparison:
    found = comparisons.visible(request.user, comparison_id)
    if found is None:
        raise Http404
    return found
