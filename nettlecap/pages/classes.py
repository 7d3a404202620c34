"""Pages about a class as a whole: the wall, clips to show in class, and grades as a file."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.marking.desk.requests import small_number
from nettlecap.pages import gradebook
from nettlecap.pages.wall import clips_of, wall
from nettlecap.training import setting


def class_wall(request: SignedIn, course_id: int) -> HttpResponse:
    """The class wall, by one brief or over the term."""
    asked = request.GET
    shown = wall(request.user, course_id, small_number(asked.get("brief", "")), asked.get("by", ""))
    context = {
        "wall": shown,
        "may_lead": policy.may_lead(request.user, shown.course),
        "drills": setting.of_course(shown.course, shown.students),
    }
    return render(request, "classroom/wall.html", context)


def show_clips(request: SignedIn, brief_id: int, code: str) -> HttpResponse:
    """The clips that show a fault best, one after another, to be seen in class; without names if wished."""
    brief, common = clips_of(request.user, brief_id, code)
    if common is None:
        raise Http404
    names = request.GET.get("names") == "1"
    clips = [
        {
            "name": f"{take.student.name}, take {take.number}" if names else "",
            "drawings": f"{reverse('start')}takes/{take.pk}/drawings/{take.analysis.shown_run}/",
            "clip": take.analysis.measured["clip"],
            "frame": frame,
        }
        for take, frame in common.clips
    ]
    context = {"brief": brief, "common": common, "clips": clips, "names": names}
    return render(request, "classroom/show.html", context)


def grades_file(request: SignedIn, course_id: int, kind: str) -> HttpResponse:
    """The class's points as a file."""
    course = get_object_or_404(Course.objects.taught_by(request.user), pk=course_id)
    if kind not in gradebook.KINDS:
        raise Http404
    data, content_type = gradebook.write(request.user, course, kind)
    answer = HttpResponse(data, content_type=content_type)
    answer["Content-Disposition"] = f'attachment; filename="grades-{course.pk}.{kind}"'
    return answer
