"""The pages of whoever trains: the choice of a drill, its clips one after another, and what was learned."""

from __future__ import annotations

from typing import Any

from django.core import signing
from django.db.models import Count
from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST
from django_tasks_db.models import DBTaskResult

from motion.catalogue import faults
from motion.exercises import EXERCISES
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.guard.caches import KEPT
from nettlecap.takes.models import Take
from nettlecap.takes.views import kept_file
from nettlecap.training import ahead, answering, drills, earlier, learned, pack, shown, words
from nettlecap.training.drawing import CONTENT_TYPE
from nettlecap.training.models import Consent, Drill, Question, SetDrill
from nettlecap.training.tasks import draw_question

SALT = "nettlecap.training.clip"


@require_GET
def training(request: SignedIn) -> HttpResponse:
    """What is set, what one may choose, and what one has learned."""
    exercise = request.GET.get("exercise", "")
    exercise = exercise if exercise in EXERCISES else next(iter(EXERCISES))
    ahead.for_person(request.user, exercise)
    known = faults(exercise)
    context = {
        "open": Drill.objects.own(request.user).open().select_related("set_drill"),
        "set_drills": _set_for(request),
        "exercises": [(key, e.nouns.exercise) for key, e in EXERCISES.items()],
        "exercise": exercise,
        "kinds": [(kind, words.KINDS[kind]) for kind in drills.kinds_of(exercise)],
        "faults": [known[code] for code in drills.codes_of(exercise)],
        "lengths": drills.LENGTHS,
        "learned": learned.of(request.user),
    }
    return render(request, "training/start.html", context)


def _set_for(request: SignedIn) -> list[tuple[SetDrill, Drill | None, int]]:
    """Drills that are set for somebody, with their own and how many of its clips they answered."""
    own = Drill.objects.own(request.user).exclude(set_drill=None).annotate(answered=Count("questions__answered_at"))
    drills_of = {d.set_drill_id: (d, d.answered) for d in own}  # type: ignore[attr-defined]  # comes with the query
    asked = SetDrill.objects.for_student(request.user).select_related("course")
    return [(s, *drills_of.get(s.pk, (None, 0))) for s in asked]


@require_POST
def begin(request: SignedIn) -> HttpResponse:
    """Begin a drill of one's own."""
    sent = request.POST
    exercise = sent.get("exercise", "")
    kinds = sent.getlist("kinds") or (drills.kinds_of(exercise) if exercise in EXERCISES else [])
    length = int(sent["clips"]) if sent.get("clips", "").isdecimal() and len(sent["clips"]) < 4 else drills.LENGTHS[1]
    return redirect("drill", drills.begin(request.user, exercise, kinds, sent.getlist("codes"), length).pk)


@require_POST
def begin_set(request: SignedIn, set_id: int) -> HttpResponse:
    """Begin a drill that is set, or go on with it."""
    asked = get_object_or_404(SetDrill.objects.for_student(request.user), pk=set_id)
    return redirect("drill", drills.begin_set(request.user, asked).pk)


@require_GET
def drill(request: SignedIn, drill_id: int) -> HttpResponse:
    """The clip of a drill that comes next; when all are answered, how it went."""
    own = get_object_or_404(Drill.objects.own(request.user).begun().select_related("set_drill"), pk=drill_id)
    questions = list(own.questions.defer("told"))
    at = next((q for q in questions if q.answered_at is None), None)
    if own.ended_at or at is None:
        return render(request, "training/ended.html", {"drill": own, "rows": [_row(q) for q in questions]})
    return render(request, "training/drill.html", {"drill": own, **_context(own.questions.get(pk=at.pk))})


def _row(question: Question) -> dict[str, Any]:
    known = faults(question.exercise).get(question.code)
    return {"question": question, "kind": words.KINDS[question.kind], "fault": known}


def _context(question: Question) -> dict[str, Any]:
    coming = question.drill.questions.filter(number=question.number + 1).defer("told").first()
    return {
        "question": question,
        "shown": shown.of(question) if question.drawn else None,
        "drill": question.drill,
        "coming": coming.pk if coming else None,
        "token": token_of(question) if question.answered_at and not question.take_id else "",
    }


def _own(request: SignedIn, question_id: int) -> Question:
    own = Question.objects.filter(drill__person=request.user).select_related("drill__person")
    return get_object_or_404(own, pk=question_id)


@require_GET
def question(request: SignedIn, question_id: int) -> HttpResponse:
    """One clip of a drill as a part of its page: while it is drawn, to be answered, or answered."""
    own = _own(request, question_id)
    drills.draw_if_lost(own)
    return render(request, "training/_question.html", _context(own))


@require_POST
def answer(request: SignedIn, question_id: int) -> HttpResponse:
    """Take an answer, and tell how it is."""
    told = answering.answer(_own(request, question_id), request.POST.dict())
    return render(request, "training/_question.html", _context(told))


@require_GET
def pictures(request: SignedIn, question_id: int, name: str) -> HttpResponseBase:
    """All drawings of a clip in one; they are drawn again where they are not kept any more."""
    # What is told of a clip is large, and is asked for only where its pictures are not there.
    own = get_object_or_404(Question.objects.filter(drill__person=request.user).defer("told"), pk=question_id)
    if not (own.folder / name).exists():
        return _being_drawn(own, name)
    answer = kept_file(request, own.folder / name, "application/octet-stream")
    answer["Cache-Control"] = KEPT
    return answer


@require_GET
def picture(request: SignedIn, question_id: int, name: str, number: int) -> HttpResponse:
    """One drawing of a clip."""
    own = get_object_or_404(Question.objects.filter(drill__person=request.user).defer("told"), pk=question_id)
    try:
        found = pack.one(own.folder / name, number)
    except FileNotFoundError:
        return _being_drawn(own, name)
    if found is None:
        raise Http404
    return HttpResponse(found, content_type=CONTENT_TYPE, headers={"Cache-Control": KEPT})


def _being_drawn(own: Question, name: str) -> HttpResponse:
    """Have pictures that are gone drawn again; Http404 where there never were any of that name."""
    if name not in (own.told or {}).get("clips", {}):
        raise Http404
    _draw_again(own)
    return HttpResponse("These drawings are being drawn again.", status=503, headers={"Retry-After": "1"})


def _draw_again(own: Question) -> None:
    asked = {"args": [own.pk], "kwargs": {}}
    waiting = DBTaskResult.objects.filter(status__in=("READY", "RUNNING"), task_path=draw_question.module_path)
    if not waiting.filter(args_kwargs=asked).exists():
        draw_question.enqueue(own.pk)


def token_of(own: Question) -> str:
    """By which a colleague is shown the same clip: what it is made from, signed."""
    return signing.dumps(
        {k: getattr(own, k) for k in ("kind", "exercise", "code", "times", "busy", "seed")}, salt=SALT, compress=True
    )


def consent(request: SignedIn, take_id: int) -> HttpResponse:
    """Whether others may learn from a take of one's own; said, or taken back."""
    take = get_object_or_404(Take.objects.own(request.user).select_related("sheet"), pk=take_id)
    if request.method == "POST":
        say = earlier.agree if request.POST.get("agree") == "1" else earlier.withdraw
        say(request.user, take)
    agreed = Consent.objects.filter(take=take).exists()
    return render(request, "training/_consent.html", {"take": take, "agreed": agreed})


def clip(request: SignedIn, token: str) -> HttpResponse:
    """A clip that somebody was shown by its link: a drill of that one clip."""
    try:
        told = signing.loads(token, salt=SALT)
    except signing.BadSignature as error:
        raise Http404 from error
    if told["kind"] not in words.KINDS or told["exercise"] not in EXERCISES:
        raise Http404
    if request.method == "POST":
        return redirect("drill", drills.begin_with_clip(request.user, Question(**told)).pk)
    about = {"kind": words.KINDS[told["kind"]], "exercise": EXERCISES[told["exercise"]].nouns.exercise}
    return render(request, "training/clip.html", {**about, "url": reverse("training-clip", args=[token])})
