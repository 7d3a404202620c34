"""The worker's jobs."""

from __future__ import annotations

from django_tasks import task

from nettlecap.takes import look_at


@task()
def analyse_take(take_id: int, run: int) -> str:
    """Analyse one run of a take; the state it ends in."""
    return look_at.look_at(take_id, run)
