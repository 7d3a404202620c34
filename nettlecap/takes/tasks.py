"""The worker's jobs, and how they are queued."""

from __future__ import annotations

from django_tasks import task

from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.urgency import Urgency, priority
from nettlecap.takes.work import draw, look, read


@task()
def read_arrival(arrival_id: int) -> str:
    """Read what came in; what became of it."""
    return read.read(arrival_id, analyse_later)


@task(priority=Urgency.SHOWN)
def draw_again(take_id: int, run: int) -> str:
    """Draw the drawings of a take once more that are not there."""
    return draw.draw(take_id, run)


@task()
def analyse_take(take_id: int, run: int) -> str:
    """Analyse one run of a take; the state it ends in."""
    return look.look_at(take_id, run)


def read_later(arrival: Arrival) -> None:
    """Queue the reading of what came in."""
    urgency = priority(Urgency.READ, arrival.student, arrival.brief.course_id)
    read_arrival.using(priority=urgency).enqueue(arrival.pk)


def analyse_later(take: Take, run: int, urgency: Urgency | None = None) -> None:
    """Queue the analysis of a take's run: at once where its student waits for it before handing it in."""
    by_kind = Urgency.WAITED_FOR if take.trial else Urgency.HANDED_IN
    asked = priority(urgency or by_kind, take.student, take.brief.course_id)
    analyse_take.using(priority=asked).enqueue(take.pk, run)
