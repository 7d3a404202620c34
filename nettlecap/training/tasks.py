"""The worker's job about a drill's clips."""

from __future__ import annotations

from django_tasks import task

from nettlecap.takes.urgency import Urgency
from nettlecap.training import drawing

SOON, WHENEVER = Urgency.SHOWN, Urgency.WHENEVER
"""Somebody is about to look at a clip; or nobody is known to be, and hand-ins come first."""


@task(priority=SOON)
def draw_question(question_id: int) -> str:
    """Draw the clips of a question."""
    return drawing.prepare(question_id)
