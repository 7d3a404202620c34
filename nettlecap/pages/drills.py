"""An instructor's drills: set for a course, how far the class is, and what it sees."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.http import require_GET, require_POST

from motion.catalogue import faults
from motion.exercises import EXERCISES
from nettlecap.classroom import policy
from nettlecap.classroom.set_brief import next_due
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import NotAllowed, Refusal
from nettlecap.marking.comparing.views import visible
from nettlecap.marking.desk.requests import small_number
from nettlecap.pages.wall import Wall, wall
from nettlecap.training import drills, earlier, learned, setting, words
from nettlecap.training.models import SetDrill
from nettlecap.training.setting import Wanted


def course_drills(request: SignedIn, course_id: int) -> HttpResponse:
    """The drills of a course with how far its class is; the form to set one, with what the class gets wrong most."""
    shown = wall(request.user, course_id)
    course = shown.course
    context: dict[str, Any] = {"course": course, "may_set": policy.may_set_briefs(request.user, course)}
    if request.method == "POST":
        try:
            setting.set_drill(request.user, course, _wanted(request))
            return redirect("course-drills", course.pk)
        except NotAllowed:
            raise
        except Refusal as refused:
            context["problem"] = str(refused)
    context |= _form(request, shown) | {
        "set_drills": setting.of_course(course, shown.students),
        "seen": learned.of_course(course).items(),
    }
    return render(request, "training/course.html", context, status=422 if "problem" in context else 200)


def _form(request: SignedIn, shown: Wall) -> dict[str, Any]:
    asked = request.POST or request.GET
    exercise = asked.get("exercise", "")
    exercise = exercise if exercise in EXERCISES else next(iter(EXERCISES))
    own, known = drills.codes_of(exercise), faults(exercise)
    common = {c.code: c.students for c in shown.common if c.exercise == exercise}
    chosen = asked.getlist("codes")
    return {
        "exercises": [(key, e.nouns.exercise) for key, e in EXERCISES.items()],
        "exercise": exercise,
        "kinds": [(kind, words.KINDS[kind]) for kind in drills.kinds_of(exercise)],
        "chosen_kinds": asked.getlist("kinds") or drills.kinds_of(exercise),
        "faults": [(known[code], common.get(code), code in chosen) for code in own],
        "lengths": drills.LENGTHS,
        "takes_there": earlier.takes_for(request.user, exercise).count(),
        "counts": SetDrill.Counts.choices,
        "sent": request.POST,
        "due_at": request.POST.get("due_at") or timezone.localtime(next_due()).strftime("%Y-%m-%dT%H:%M"),
    }


def _wanted(request: SignedIn) -> Wanted:
    sent = request.POST
    try:
        due = parse_datetime(sent.get("due_at", ""))
        points = float(sent.get("points") or 0)
    except ValueError as error:
        raise Refusal("Enter a day and time, and points as a number.") from error
    if due is None:
        raise Refusal("Choose the day and time until which it is to be done.")
    return Wanted(
        title=sent.get("title", ""),
        exercise=sent.get("exercise", ""),
        kinds=sent.getlist("kinds"),
        codes=sent.getlist("codes"),
        clips=small_number(sent.get("clips", "")) or 0,
        due_at=timezone.make_aware(due) if timezone.is_naive(due) else due,
        counts=sent.get("counts", ""),
        points=points,
        of_takes=sent.get("of_takes") == "1",
    )


@require_POST
def take_back_drill(request: SignedIn, set_id: int) -> HttpResponse:
    """Take a drill back that nobody has begun."""
    asked = get_object_or_404(SetDrill.objects.taught_by(request.user), pk=set_id)
    setting.take_back(request.user, asked)
    return redirect("course-drills", asked.course_id)


@require_GET
def eyes_of_two(request: SignedIn, comparison_id: int) -> HttpResponse:
    """How small a fault each of two markers sees, beside how they agree: only to the two themselves."""
    found = visible(request, comparison_id)
    own = request.user.pk in (found.one_id, found.other_id)
    exercise = found.brief.core.exercise
    rows = learned.of_two(found.one, found.other, exercise) if own else ()
    return render(request, "training/_eyes_of_two.html", {"comparison": found, "rows": rows, "own": own})
