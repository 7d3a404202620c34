"""What many processes do at once; each takes the number of its process, and the keys of what it is done to."""

from __future__ import annotations

from typing import Any


def hands_in(number: int, student: int, brief: int, data: bytes) -> int:
    from nettlecap.classroom.models import Brief, Person
    from nettlecap.takes.hand_in import hand_in
    from tests.web.school import upload

    return hand_in(Person.objects.get(pk=student), Brief.objects.get(pk=brief), [upload(data)]).number


def arrives(number: int, student: int, brief: int, data: bytes) -> int:
    from nettlecap.classroom.models import Brief, Person
    from nettlecap.takes.arrivals import arrive
    from tests.web.school import upload

    arrival = arrive(Person.objects.get(pk=student), Brief.objects.get(pk=brief), [upload(data)], "take")
    return int(arrival.pk)


def marks(number: int, take: int, marker: int, what: str, key: str = "") -> Any:
    from nettlecap.classroom.models import Person
    from nettlecap.marking.decisions import decide
    from nettlecap.takes.models import Take

    marked = Take.objects.select_related("analysis", "brief").get(pk=take)
    orla = Person.objects.get(pk=marker)
    if what == "note":
        decide.note(orla, marked, first=1, last=2, principle="arcs", text=f"Note {number}.")
    elif what == "points":
        decide.set_points(orla, marked, "arcs", float(number))
    elif what == "say":
        decide.say(orla, marked, key, ("agreed", "dismissed")[number % 2])
    elif what == "back":
        return decide.take_back(orla, marked)
    else:
        decide.return_marks(orla, marked)
    return "done"


def hands_in_or_forgets(number: int, student: int, brief: int, data: bytes) -> str:
    """Every other one removes what it finds, while the rest hand in the very same clip."""
    from nettlecap.classroom.models import Brief, Person
    from nettlecap.takes.forget import forget
    from nettlecap.takes.hand_in import hand_in
    from nettlecap.takes.models import Take
    from tests.web.school import upload

    for _ in range(3):
        if number % 2:
            hand_in(Person.objects.get(pk=student), Brief.objects.get(pk=brief), [upload(data)])
        else:
            for take in Take.objects.filter(brief=brief, student=student).select_related("analysis"):
                forget(take)
    return "done"


def claims(number: int, jobs: int) -> list[str]:
    """The jobs that one worker gets when it takes what it can."""
    from nettlecap.takes.worker import Worker

    worker = Worker(f"worker-{number}", batch=True, interval=0.01)
    claimed = []
    while len(claimed) < jobs and (job := worker.claim()) is not None:
        claimed.append(str(job.pk))
        job.set_successful("done")
    return claimed


def joins(number: int, person: int, invitation: int) -> str:
    from nettlecap.classroom import invitations
    from nettlecap.classroom.models import Invitation, Person

    invitations.join(Person.objects.get(pk=person), Invitation.objects.get(pk=invitation))
    return "done"
