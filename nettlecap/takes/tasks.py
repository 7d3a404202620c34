"""The worker's jobs, and how they are queued."""

from __future__ import annotations

from django_tasks import task

from nettlecap.takes.models import Take
from nettlecap.takes.waiting import unread_of
from nettlecap.takes.work import draw, look, read


@task()
def read_arrival(arrival_id: int) -> str:
    """Read what came in; what became of it."""
    return read.read(arrival_id, analyse_later)


@task(priority=10)
def draw_again(take_id: int, run: int) -> str:
    """Draw the drawings of a take once more that are not there."""
    return draw.draw(take_id, run)


@task()
def analyse_take(take_id: int, run: int) -> str:
    """Analyse one run of a take; the state it ends in."""
    return look.look_at(take_id, run)


def analyse_later(take: Take, run: int) -> None:
    """Queue the analysis of a take's run; who has more waiting comes later."""
    analyse_take.using(priority=-min(20, unread_of(take.student))).enqueue(take.pk, run)
