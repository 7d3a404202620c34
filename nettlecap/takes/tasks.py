"""The worker's jobs."""

from __future__ import annotations

from django_tasks import task

from nettlecap.takes import arrivals, look_at, redraw


@task()
def read_arrival(arrival_id: int) -> str:
    """Read what came in; what became of it."""
    return arrivals.read(arrival_id)


@task(priority=10)
def draw_again(take_id: int, run: int) -> str:
    """Draw the drawings of a take once more that are not there."""
    return redraw.draw(take_id, run)


@task()
def analyse_take(take_id: int, run: int) -> str:
    """Analyse one run of a take; the state it ends in."""
    return look_at.look_at(take_id, run)
