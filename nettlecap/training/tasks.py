"""The worker's jobs about drills."""

from __future__ import annotations

from django_tasks import task

from nettlecap.training import drawing

SOON, WHENEVER = 8, -15
"""Somebody is about to look at a clip; or nobody is known to be, and hand-ins come first."""


@task(priority=SOON)
def draw_question(question_id: int) -> str:
    """Draw the clips of a question."""
    return drawing.prepare(question_id)


@task(priority=WHENEVER)
def get_class_ready(set_id: int) -> str:
    """Lay out the first clips of a drill that was set, for everybody in the course."""
    from nettlecap.training import ahead

    return ahead.for_class(set_id)
