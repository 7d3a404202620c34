"""Having takes analysed anew."""

from __future__ import annotations

from django.db import transaction

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict, NotAllowed
from nettlecap.takes.models import Analysis, Take
from nettlecap.takes.tasks import analyse_later
from nettlecap.takes.urgency import Urgency

MOST_LOOKS = 6
"""So often a student has a clip tried that cannot be looked at."""


def look_again(brief: Brief) -> int:
    """Have every take of a brief, trials too, analysed again; how many there are. Call it inside a transaction."""
    takes = list(Take.everything.filter(brief=brief))
    for take in takes:
        start_again(take, Urgency.AGAIN)
    return len(takes)


def ask_again(person: Person, take: Take) -> None:
    """Have a take that could not be looked at tried once more: by its student, or by who marks it."""
    if take.student_id != person.pk and not policy.may_mark(person, take.brief.course_id):
        raise NotAllowed("You may not have this clip looked at again.")
    if take.analysis.state != Analysis.State.FAILED:
        raise Conflict("This clip is looked at already, or is being looked at.")
    if take.student_id == person.pk and take.analysis.run >= MOST_LOOKS:
        raise Conflict("This clip was tried several times. Ask your instructor, or hand in another take.")
    start_again(take)


def start_again(take: Take, urgency: Urgency | None = None) -> None:
    """Have one take analysed anew; what is shown stays until that is through."""
    with transaction.atomic():
        analysis = Analysis.objects.select_for_update().get(take=take)
        analysis.run += 1
        analysis.state, analysis.progress, analysis.step, analysis.message = Analysis.State.WAITING, 0.0, "", ""
        analysis.save(update_fields=["run", "state", "progress", "step", "message"])
        analyse_later(take, analysis.run, urgency)
