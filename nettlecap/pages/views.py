"""Pages that bring people, briefs, takes and marks together: the start, briefs, a take."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from nettlecap.classroom import policy
from nettlecap.classroom.forms import BriefForm, initial_of
from nettlecap.classroom.models import Brief, Course
from nettlecap.classroom.set_brief import set_brief
from nettlecap.marking.desk import lay_out_clip
from nettlecap.pages.start import start_of
from nettlecap.takes.change_brief import change_brief
from nettlecap.takes.models import Take


def start(request: HttpRequest) -> HttpResponse:
    """What waits for the person."""
    return render(request, "classroom/start.html", {"start": start_of(request.user)})


def new_brief(request: HttpRequest, course_id: int) -> HttpResponse:
    """Set a brief for a course."""
    course = get_object_or_404(Course.objects.visible_to(request.user), pk=course_id)
    policy.require(policy.may_set_briefs(request.user, course), "set briefs in this course")
    form = BriefForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        return redirect("brief", set_brief(request.user, course, form.wanted()).pk)
    status = 422 if form.errors else 200
    return render(request, "classroom/brief_form.html", {"form": form, "course": course}, status=status)


def edit_brief(request: HttpRequest, brief_id: int) -> HttpResponse:
    """Change a brief; takes are looked at again where its parameters changed."""
    brief = get_object_or_404(Brief.objects.visible_to(request.user).select_related("course"), pk=brief_id)
    policy.require(policy.may_set_briefs(request.user, brief.course), "change this brief")
    form = BriefForm(request.POST or None, initial=initial_of(brief))
    if request.method == "POST" and form.is_valid():
        change_brief(request.user, brief, form.wanted())
        return redirect("brief", brief.pk)
    context = {"form": form, "course": brief.course, "brief": brief, "takes": brief.takes.count()}
    return render(request, "classroom/brief_form.html", context, status=422 if form.errors else 200)


def brief(request: HttpRequest, brief_id: int) -> HttpResponse:
    """A brief: to its students with the hand-in, to its markers with what was handed in."""
    shown = get_object_or_404(Brief.objects.visible_to(request.user).select_related("course"), pk=brief_id)
    takes = Take.objects.filter(brief=shown).select_related("student", "analysis", "sheet", "brief")
    if policy.may_mark(request.user, shown.course_id):
        context = {
            "brief": shown,
            "takes": takes.newest().order_by("student__name"),
            "may_edit": policy.may_set_briefs(request.user, shown.course_id),
        }
        return render(request, "classroom/brief_for_markers.html", context)
    context = {"brief": shown, "takes": takes.own(request.user).order_by("-number")}
    return render(request, "classroom/brief_for_students.html", context)


def _seen(request: HttpRequest, take_id: int) -> dict[str, Any]:
    takes = Take.objects.visible_to(request.user).select_related("brief__course", "student", "analysis", "sheet")
    seen = get_object_or_404(takes, pk=take_id)
    return {"take": seen, "desk": lay_out_clip(seen) if seen.analysis.findings else None}


def take(request: HttpRequest, take_id: int) -> HttpResponse:
    """A take's receipt, the state of its analysis, and the clip once it is there."""
    return render(request, "takes/take.html", _seen(request, take_id))


def take_state(request: HttpRequest, take_id: int) -> HttpResponse:
    """How far the analysis is; once it is through, the clip as well."""
    context = _seen(request, take_id)
    unfinished = context["take"].analysis.unfinished
    return render(request, "takes/_state.html" if unfinished else "takes/_arrived.html", context)
