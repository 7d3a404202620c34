"""Drills are begun, laid out ahead of need, and ended."""

from __future__ import annotations

import random
import secrets
from collections.abc import Sequence

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion.catalogue import faults
from motion.exercises import EXERCISES
from motion.synth import plant
from motion.training.questions import KINDS, WITH_FAULT, Kind
from motion.training.rule import next_wish
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.training import earlier
from nettlecap.training.models import Drill, Question, SetDrill, Sight
from nettlecap.training.tasks import SOON, draw_question

AHEAD = 3
"""So many clips are laid out beyond what was answered: one is looked at, the others are drawn meanwhile."""
MOST_OPEN = 6
LENGTHS = (6, 8, 10, 12)
MORE_OFTEN: dict[str, int] = {"spot": 4, "which": 2}
"""In a mix some kinds come more often than others."""


def codes_of(exercise: str) -> list[str]:
    """The faults of an exercise that a drill can ask about, in the order of its catalogue."""
    return [code for code in faults(exercise) if code in plant.drilled(exercise)]


def kinds_of(exercise: str) -> list[Kind]:
    """The kinds of question that an exercise has."""
    return [kind for kind in KINDS if kind != "place" or plant.one_shape(exercise)]


def begin(person: Person, exercise: str, kinds: Sequence[str], codes: Sequence[str], length: int) -> Drill:
    """Begin a drill of one's own.

    Raises Refusal where there is no such exercise, kind, fault or length, Conflict where too many are open.
    """
    told = checked(exercise, kinds, codes, length)
    _require_room(person)
    ahead = Drill.objects.own(person).filter(begun_at=None, set_drill=None, exercise=exercise)
    drill = ahead.filter(**told).first() or _of_others(Drill.objects.create(person=person, **told), ahead)
    return _begun(drill)


def _require_room(person: Person) -> None:
    """Clips are drawn for whoever begins; who has many drills open has enough. Raises Conflict."""
    if Drill.objects.own(person).open().filter(set_drill=None).count() >= MOST_OPEN:
        raise Conflict(f"You have {MOST_OPEN} drills open already. Go on with one of them first.")


def _of_others(drill: Drill, ahead: QuerySet[Drill]) -> Drill:
    """A new drill with what was laid out ahead for others that were not begun, as far as it is asked for."""
    fit = Question.objects.filter(drill__in=ahead.exclude(pk=drill.pk), kind__in=drill.kinds).order_by("state", "pk")
    fit = fit.filter(code__in=["", *drill.codes]) if drill.codes else fit
    for number, question in enumerate(fit.defer("told")[:AHEAD], start=1):
        Question.objects.filter(pk=question.pk).update(drill=drill, number=number)
    return drill


def begin_set(person: Person, asked: SetDrill) -> Drill:
    """Begin a drill that is set, or go on with it."""
    told = {"exercise": asked.exercise, "kinds": asked.kinds, "codes": asked.codes, "clips": asked.clips}
    drill, _ = Drill.objects.get_or_create(person=person, set_drill=asked, defaults=told)
    return drill if drill.begun_at else _begun(drill)


def begin_with_clip(person: Person, shown: Question) -> Drill:
    """A drill of one clip that somebody else was shown: the same seed is the same clip."""
    _require_room(person)
    drill = Drill.objects.create(
        person=person, exercise=shown.exercise, kinds=[shown.kind], codes=[], clips=1, begun_at=timezone.now()
    )
    copied = {k: getattr(shown, k) for k in ("kind", "exercise", "code", "times", "busy", "seed")}
    draw_question.enqueue(Question.objects.create(drill=drill, number=1, given=True, **copied).pk)
    return drill


def checked(exercise: str, kinds: Sequence[str], codes: Sequence[str], length: int) -> dict[str, object]:
    """What a drill is about, as it is kept. Raises Refusal."""
    if exercise not in EXERCISES:
        raise Refusal("There is no such exercise.")
    own_kinds, own_codes = kinds_of(exercise), codes_of(exercise)
    if any(k not in own_kinds for k in kinds) or not kinds:
        raise Refusal("Choose at least one kind of question that this exercise has.")
    if any(c not in own_codes for c in codes):
        raise Refusal("Choose among the faults of this exercise.")
    if length not in LENGTHS:
        raise Refusal(f"A drill has {LENGTHS[0]} to {LENGTHS[-1]} clips.")
    return {
        "exercise": exercise,
        "kinds": [k for k in own_kinds if k in kinds],
        "codes": [c for c in own_codes if c in codes],
        "clips": length,
    }


def _begun(drill: Drill) -> Drill:
    drill.begun_at = timezone.now()
    drill.save(update_fields=["begun_at"])
    lay_out(drill)
    for waiting in drill.questions.filter(state=Question.State.WAITING):
        # What was laid out for whenever is wanted now; whichever job comes first draws it.
        draw_question.enqueue(waiting.pk)
    return drill


def lay_out(drill: Drill, priority: int = SOON) -> None:
    """Lay out the next clips, by what is known now, and have them drawn."""
    with transaction.atomic():
        Drill.objects.select_for_update().get(pk=drill.pk)
        laid = list(drill.questions.defer("told").all())
        answered = sum(q.answered_at is not None for q in laid)
        wanted = min(drill.clips, answered + AHEAD)
        number = max((q.number for q in laid), default=0)
        for more in range(1, wanted - len(laid) + 1):
            question = _laid(drill, number + more, [q.code for q in laid if q.answered_at is None and q.code])
            if question is None:
                break
            draw_question.using(priority=priority).enqueue(question.pk)
            laid.append(question)


def draw_if_lost(question: Question) -> None:
    """Have a clip that waits drawn by another seed where no job is about to draw it: the one that was has failed."""
    jobs = DBTaskResult.objects.filter(task_path=draw_question.module_path, args_kwargs__args=[question.pk])
    if question.drawn or jobs.filter(status__in=("READY", "RUNNING")).exists():
        return
    question.seed = _new_seed(question.drill, random.Random(secrets.randbits(64)))  # noqa: S311
    question.save(update_fields=["seed"])
    draw_question.enqueue(question.pk)


def _laid(drill: Drill, number: int, coming: Sequence[str]) -> Question | None:
    """The next clip; None where there is no other take to ask about."""
    if drill.set_drill is not None and drill.set_drill.of_takes:
        return _of_take(drill, drill.set_drill, number)
    rng = random.Random(secrets.randbits(64))  # noqa: S311 - a choice of clips, no secret
    kind: Kind = rng.choice([k for k in drill.kinds for _ in range(MORE_OFTEN.get(k, 1))])
    codes = drill.codes or codes_of(drill.exercise)
    sight = Sight.objects.filter(person=drill.person_id, exercise=drill.exercise).first()
    wish = next_wish(rng, kind, codes, (sight or Sight()).eye, coming)
    return Question.objects.create(
        drill=drill,
        number=number,
        kind=kind,
        exercise=drill.exercise,
        code=(wish.code or "") if kind in WITH_FAULT else "",
        times=wish.times,
        busy=wish.busy,
        seed=_new_seed(drill, rng),
    )


def _of_take(drill: Drill, asked: SetDrill, number: int) -> Question | None:
    take = earlier.next_for(asked.created_by, drill.person, drill.exercise)
    if take is None:
        return None
    return Question.objects.create(drill=drill, number=number, kind="spot", exercise=drill.exercise, seed=0, take=take)


def offered(question: Question) -> list[str]:
    """The faults that can be named: those that can be planted, or for somebody's take all."""
    return list(faults(question.exercise)) if question.take_id else codes_of(question.exercise)


def _new_seed(drill: Drill, rng: random.Random) -> int:
    """One that this person was not shown yet."""
    while True:
        seed = rng.getrandbits(30)
        if not Question.objects.filter(drill__person=drill.person_id, seed=seed).exists():
            return seed
