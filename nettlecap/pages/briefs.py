"""Briefs: the page of one, the editor with its live guide, and what is done with one as a whole."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse, JsonResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

import motion.brief
from motion.exercises import EXERCISES
from motion.exercises.exercise import start_from
from motion.formats.limits import DEFAULT
from nettlecap.classroom import brief_keys, guide_files, live_guide, policy, set_brief
from nettlecap.classroom.forms import BriefForm, initial_of
from nettlecap.classroom.models import Brief, Course
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import Refusal
from nettlecap.guard import told_json
from nettlecap.marking.returning.ticking import to_fix
from nettlecap.takes.change_brief import change_brief, consequences
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.terms import TermsNow


def _course(request: SignedIn, course_id: int) -> Course:
    course = get_object_or_404(Course.objects.visible_to(request.user), pk=course_id)
    policy.require(policy.may_set_briefs(request.user, course), "set briefs in this course")
    return course


def _visible(request: SignedIn, brief_id: int) -> Brief:
    return get_object_or_404(Brief.objects.visible_to(request.user).select_related("course"), pk=brief_id)


def _own(request: SignedIn, brief_id: int) -> Brief:
    brief = _visible(request, brief_id)
    policy.require(policy.may_set_briefs(request.user, brief.course), "change this brief")
    return brief


def brief(request: SignedIn, brief_id: int) -> HttpResponse:
    """A brief: to its students with the hand-in, to its markers with what was handed in."""
    shown = _visible(request, brief_id)
    takes = Take.objects.filter(brief=shown).select_related("student", "analysis", "sheet", "brief")
    marks = policy.may_mark(request.user, shown.course_id)
    context: dict[str, Any] = {
        "brief": shown,
        "guide": guide_files.given(shown, marks=marks),
        "kinds": guide_files.KINDS,
    }
    if marks:
        context["takes"] = takes.newest().order_by("student__name")
        context["may_edit"] = policy.may_set_briefs(request.user, shown.course_id)
        context["courses"] = Course.objects.led_by(request.user) if context["may_edit"] else ()
        return render(request, "classroom/brief_for_markers.html", context)
    context["takes"] = takes.own(request.user).order_by("-number")
    context["terms"] = TermsNow.of(request.user, shown)
    context["to_fix"] = to_fix(request.user, shown)
    context["arrivals"] = Arrival.objects.own(request.user).filter(brief=shown).untold()
    context["most_bytes"] = DEFAULT.file_bytes
    context["draft"] = Take.everything.drafts(request.user).filter(brief=shown).first()
    return render(request, "classroom/brief_for_students.html", context)


def new_brief(request: SignedIn, course_id: int) -> HttpResponse:
    """Set a brief for a course."""
    course = _course(request, course_id)
    form = BriefForm(_exercise(request), request.POST or None)
    if request.method == "POST" and form.is_valid():
        publish = request.POST.get("act") != "draft"
        return redirect("brief", set_brief.set_brief(request.user, course, form.wanted(), publish=publish).pk)
    return _editor(request, {"form": form, "course": course})


def edit_brief(request: SignedIn, brief_id: int) -> HttpResponse:
    """Change a brief. Where takes are handed in, what follows is said first, and done once it is confirmed."""
    brief = _own(request, brief_id)
    form = BriefForm(brief.core.exercise, request.POST or None, initial=initial_of(brief))
    context = {"form": form, "course": brief.course, "brief": brief, "takes": brief.takes.count()}
    if request.method == "POST" and form.is_valid():
        follows = consequences(brief, form.wanted())
        if follows.worth_asking and request.POST.get("act") != "confirmed":
            return _editor(request, {**context, "follows": follows})
        change_brief(request.user, brief, form.wanted())
        return redirect("brief", brief.pk)
    return _editor(request, context)


def _editor(request: SignedIn, context: dict[str, Any]) -> HttpResponse:
    earlier = Brief.objects.filter(course__in=Course.objects.led_by(request.user)).order_by("-created_at")[:30]
    context |= {"exercise": context["form"].exercise, "exercises": EXERCISES.values(), "earlier": earlier}
    status = 422 if context["form"].errors else 200
    return render(request, "classroom/brief_form.html", context, status=status)


@require_POST
def live(request: SignedIn, course_id: int) -> HttpResponse:
    """The guide of the values as they are in the editor now; nothing is saved."""
    _course(request, course_id)
    form = BriefForm(_exercise(request), request.POST)
    change = told_json.read(request.POST["change"], dict) if "change" in request.POST else None
    told = live_guide.of_form(form, with_chart="chart" in request.POST, judged="judged" in request.POST, change=change)
    return JsonResponse(told)


def start_values(request: SignedIn, course_id: int) -> HttpResponse:
    """The form's values to start from: one of the exercise's own, an earlier brief, or a blank."""
    _course(request, course_id)
    kind, _, key = request.GET.get("from", "").partition(":")
    if kind == "brief":
        found = get_object_or_404(Brief.objects.filter(course__in=Course.objects.led_by(request.user)), pk=_pk(key))
        core = found.core
    elif kind == "own":
        guided = EXERCISES[_exercise(request)].guided
        preset = next((p for p in guided.presets if p.key == key), None)
        if preset is None:
            raise Http404
        core = start_from(preset, _as_it_is(request))
    elif kind == "blank":
        asked, _ = motion.brief.EXERCISES[_exercise(request)]
        guided = EXERCISES[_exercise(request)].guided
        core = motion.brief.Brief(asked=asked(), guide=guided.blank, canvas=motion.brief.CANVAS, frames=guided.frames)
    else:
        raise Http404
    return JsonResponse({**brief_keys.from_core(core), "due_at": None})


def _pk(text: str) -> int:
    if not text.isdecimal() or len(text) > 9:
        raise Http404
    return int(text)


def _exercise(request: SignedIn) -> str:
    """The key of the exercise that a page is about, the first one where it says none."""
    key = request.POST.get("exercise") or request.GET.get("exercise") or next(iter(EXERCISES))
    if key not in EXERCISES:
        raise Http404
    return key


def _as_it_is(request: SignedIn) -> motion.brief.Brief:
    """The brief of the values that the editor sent along, as far as they are sound; else a plain one."""
    exercise = _exercise(request)
    try:
        sent = told_json.read(request.GET.get("canvas", ""), dict)
        size = motion.brief.from_json({"schema": motion.brief.SCHEMA, "exercise": exercise, "canvas": sent}).canvas
    except (Refusal, ValueError):
        size = None
    return motion.brief.Brief(canvas=size)


@require_POST
def publish(request: SignedIn, brief_id: int) -> HttpResponse:
    """Show the brief to its students, or take it back."""
    set_brief.publish(request.user, _own(request, brief_id), show=request.POST.get("show") == "1")
    return redirect("brief", brief_id)


@require_POST
def copy(request: SignedIn, brief_id: int) -> HttpResponse:
    """Copy the brief to a course, as a draft that opens in the editor."""
    course = get_object_or_404(Course.objects.led_by(request.user), pk=_pk(request.POST.get("course", "")))
    return redirect("edit-brief", set_brief.copy_brief(request.user, _own(request, brief_id), course).pk)


def export(request: SignedIn, brief_id: int) -> HttpResponse:
    """The brief as a file, for its instructor to pass on."""
    brief = _own(request, brief_id)
    answer = JsonResponse(brief.core.to_json(), json_dumps_params={"ensure_ascii": False, "indent": 2})
    answer["Content-Disposition"] = f'attachment; filename="{guide_files.stem_of(brief)}.brief.json"'
    return answer


@require_POST
def import_brief(request: SignedIn, course_id: int) -> HttpResponse:
    """Take in a brief file as a draft that opens in the editor."""
    course = _course(request, course_id)
    file = request.FILES.get("file")
    if file is None:
        raise Refusal("Pick a brief file first.")
    text = file.read(set_brief.LARGEST_FILE + 1)
    return redirect("edit-brief", set_brief.import_brief(request.user, course, text).pk)


def guide_file(request: SignedIn, brief_id: int, kind: str) -> StreamingHttpResponse:
    """The guide as a file, as much of it as the person may have."""
    made = guide_files.file_for(request.user, _visible(request, brief_id), kind)
    if made is None:
        raise Http404
    answer = StreamingHttpResponse(made.parts, content_type=made.content_type)
    answer["Content-Disposition"] = f'attachment; filename="{made.name}"'
    return answer
