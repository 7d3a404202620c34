"""Drawings that can be made again are not kept for ever: those that are asked for and not there are drawn anew."""

from __future__ import annotations

from django.db.models import Q
from django_tasks_db.models import DBTaskResult

from nettlecap.errors import Conflict
from nettlecap.files import shelf
from nettlecap.takes.models import Take
from nettlecap.takes.tasks import draw_again


def ask(take: Take) -> None:
    """Have the drawings of a take's shown run drawn again, unless that is asked for already."""
    asked = {"args": [take.pk, take.analysis.shown_run], "kwargs": {}}
    under_way = DBTaskResult.objects.filter(Q(status="READY") | Q(status="RUNNING"), task_path=draw_again.module_path)
    if not under_way.filter(args_kwargs=asked).exists():
        draw_again.enqueue(*asked["args"])


def are_there(take: Take) -> bool:
    """Whether every drawing of a take's shown run is kept at the moment."""
    folder = shelf.folder_here(take.analysis.run_folder(take.analysis.shown_run))
    exposures = (take.analysis.findings or {}).get("clip", {}).get("exposures", ())
    return all((folder / f"{number}.png").exists() for number in {e["drawing"] for e in exposures})


def require_drawings(take: Take) -> None:
    """Raises Conflict where drawings are not there, and has them drawn again."""
    if not are_there(take):
        ask(take)
        raise Conflict("The drawings of this clip are being drawn again from the file. Try again in a moment.")
