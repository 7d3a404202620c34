"""The worker's jobs about drills."""

from __future__ import annotations

from django_tasks import task

from nettlecap.training import drawing


@task(priority=8)
def draw_question(question_id: int) -> str:
    """Draw the clips of a question; somebody is about to look at them."""
    return drawing.prepare(question_id)
