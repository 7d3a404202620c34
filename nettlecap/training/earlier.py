"""Takes from which others may learn, because their students agreed: without names, as far as their marks agreed."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from nettlecap.classroom.models import Course, Person
from nettlecap.errors import Conflict, NotAllowed
from nettlecap.files import shelf
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision
from nettlecap.takes.models import Analysis, Take
from nettlecap.training.models import Consent, Question

HEAVINESS = ("strong", "clear", "slight")
FEWEST = 4
"""A drill of takes has no fewer clips."""


def agree(person: Person, take: Take) -> None:
    """Let others learn from one's own returned take. Raises NotAllowed, or Conflict before its marks are returned."""
    _require_own(person, take)
    if not _returned(take):
        raise Conflict("That can be said once the marks are returned.")
    Consent.objects.get_or_create(take=take)


def withdraw(person: Person, take: Take) -> None:
    """Let it be no more: nobody is shown it from now on, and what was kept of it for drills goes. Raises NotAllowed."""
    _require_own(person, take)
    shown = list(Question.objects.filter(take=take))
    with transaction.atomic():
        Consent.objects.filter(take=take).delete()
        Question.objects.filter(take=take, answered_at=None).delete()
        Question.objects.filter(take=take).update(told=None)
    for question in shown:
        shelf.forget_folder(question.place)


def _require_own(person: Person, take: Take) -> None:
    if take.student_id != person.pk:
        raise NotAllowed("Only whose take it is may say whether others learn from it.")


def _returned(take: Take) -> bool:
    sheet = getattr(take, "sheet", None)
    return sheet is not None and sheet.returned_at is not None


def takes_for(setter: Person, exercise: str) -> QuerySet[Take]:
    """Takes of an exercise from which others may learn, of courses in which somebody marks."""
    return Take.objects.filter(
        consent__isnull=False,
        sheet__returned_at__isnull=False,
        analysis__state=Analysis.State.DONE,
        brief__course__in=Course.objects.taught_by(setter),
        brief__parameters__exercise=exercise,
    )


def next_for(setter: Person, person: Person, exercise: str) -> Take | None:
    """One that somebody was not asked about yet, and that is not their own."""
    shown = Question.objects.filter(drill__person=person).exclude(take=None).values("take")
    return takes_for(setter, exercise).exclude(student=person).exclude(pk__in=shown).order_by("?").first()


def told_of(take: Take) -> dict[str, Any]:
    """What a question keeps of a take: its clip without anything that tells whose it is, and what was agreed."""
    agreed = {d.key for d in take.sheet.decisions.all() if d.verdict == Decision.Verdict.AGREED}
    data = take.analysis.measured
    findings = [f for f in data["findings"] if finding_key(f) in agreed]
    findings.sort(key=lambda f: HEAVINESS.index(f["severity"]))
    clip = {**data["clip"], "name": "", "remarks": []}
    return {
        "brief": take.brief.core.to_json(),
        "clips": {"shown": {**data, "clip": clip, "findings": findings, "preflight": []}},
        "keys": {"shown": []},
        "right": "" if findings else "shown",
        "finding": findings[0] if findings else None,
        "findings": findings,
        "truth": {},
    }
