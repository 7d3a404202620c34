"""The made-up school's drills: one that is set, and what some of its students have trained so far."""

from __future__ import annotations

import random
from datetime import timedelta

import numpy as np
from django.utils import timezone

from motion.training.rule import Eye, next_wish
from motion.training.threshold import seen_at
from nettlecap.classroom.models import Course, Person
from nettlecap.training.drills import codes_of
from nettlecap.training.models import Drill, Question, SetDrill, Sight

TITLE = "What the float does on the quay"
CODES = ("spacing.even", "contact.gap", "squash.missing", "timing.hold")
TRAINED = {"ayumi": 1.6, "kofi": 2.6, "niamh": 2.1, "mateus": 3.6}
"""How small a fault these see, in times its tolerance."""
ROWS, CLIPS = 5, 8
GUESSES = 0.05


def load(course: Course, instructor: Person) -> None:
    """A drill that counts for going through it, and five drills of some students, one every few days."""
    due = timezone.localtime().replace(hour=18, minute=0, second=0, microsecond=0) + timedelta(days=5)
    SetDrill.objects.create(
        course=course, title=TITLE, exercise="bounce", kinds=["spot", "which"], codes=list(CODES), clips=CLIPS,
        due_at=due, counts=SetDrill.Counts.DONE, points=5.0, created_by=instructor,
    )  # fmt: skip
    for login, sees in TRAINED.items():
        _trained(Person.objects.get(username=login), sees)


def _trained(person: Person, sees: float) -> None:
    rng, eye, now = random.Random(person.username), Eye(), timezone.now()  # noqa: S311
    for row in range(ROWS):
        at = now - timedelta(days=3 * (ROWS - row), minutes=rng.randrange(300))
        drill = Drill.objects.create(
            person=person, exercise="bounce", kinds=["spot"], clips=CLIPS, begun_at=at, ended_at=at
        )
        Drill.objects.filter(pk=drill.pk).update(made_at=at)
        for number in range(1, CLIPS + 1):
            wish = next_wish(rng, "spot", CODES if row < 4 else codes_of("bounce"), eye)
            times = max(1.0, wish.times)
            chance = float(seen_at(times, np.array([sees * 0.96**row]))[0]) if wish.code else 0.85
            right = rng.random() < chance
            eye = eye.after(wish.code, times, seen=right, chance=GUESSES)
            told = {"times": round(times, 2), "sees": round(eye.of(wish.code).times, 2)} if wish.code else {}
            Question.objects.create(
                drill=drill, number=number, kind="spot", exercise="bounce", code=wish.code or "", times=wish.times,
                busy=wish.busy, seed=rng.getrandbits(30), right=right, answered_at=at + timedelta(seconds=40 * number),
                answer={"off": right == bool(wish.code), "after_s": round(rng.uniform(1.2, 6.0) * sees / 2, 1)},
                judged={"parts": {}, **told},
            )  # fmt: skip
    sight, _ = Sight.objects.get_or_create(person=person, exercise="bounce")
    sight.keep(eye)
