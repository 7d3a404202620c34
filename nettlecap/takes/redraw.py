"""Drawings that can be made again are not kept for ever: those that are asked for and not there are drawn anew."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

from django.db.models import Q
from django_tasks_db.models import DBTaskResult

from motion import jobs, sandbox
from motion.errors import ClipError, ReaderKilled
from nettlecap.errors import Conflict
from nettlecap.takes import stopping
from nettlecap.takes.models import Take
from nettlecap.takes.stopping import PutBack

DRAWN_FIRST = 10


def ask(take: Take) -> None:
    """Have the drawings of a take's shown run drawn again, unless that is asked for already."""
    from nettlecap.takes.tasks import draw_again

    asked = {"args": [take.pk, take.analysis.shown_run], "kwargs": {}}
    under_way = DBTaskResult.objects.filter(Q(status="READY") | Q(status="RUNNING"), task_path=draw_again.module_path)
    if not under_way.filter(args_kwargs=asked).exists():
        draw_again.enqueue(*asked["args"])


def are_there(take: Take) -> bool:
    """Whether every drawing of a take's shown run is kept at the moment."""
    folder = take.analysis.drawings_of(take.analysis.shown_run)
    exposures = (take.analysis.findings or {}).get("clip", {}).get("exposures", ())
    return all((folder / f"{number}.png").exists() for number in {e["drawing"] for e in exposures})


def require_drawings(take: Take) -> None:
    """Raises Conflict where drawings are not there, and has them drawn again."""
    if not are_there(take):
        ask(take)
        raise Conflict("The drawings of this clip are being drawn again from the file. Try again in a moment.")


def draw(take_id: int, run: int) -> str:
    """Draw them: the worker's part; what became of it."""
    take = Take.everything.select_related("analysis", "brief").filter(pk=take_id, analysis__shown_run=run).first()
    if take is None or not take.analysis.findings:
        return "nothing to do"
    clip, folder = take.analysis.findings["clip"], take.analysis.drawings_of(run)
    folder.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder.parent, prefix="part-") as part:
        try:
            sandbox.run(
                jobs.draw_again,
                take.file,
                take.file_name,
                clip["fps"],
                take.preparation,
                clip["exposures"],
                Path(part),
                reads=[take.file],
                writes=[Path(part)],
                stopping=stopping.asked.is_set,
            )
        except ReaderKilled as killed:
            raise PutBack from killed
        except ClipError:
            return "the clip cannot be read any more"
        folder.mkdir(exist_ok=True)
        for path in Path(part).glob("*.png"):
            shutil.move(path, folder / path.name)
    return "drawn"
