"""Analysing a take: what the worker does, and having it done again."""

from __future__ import annotations

import logging
import shutil
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils import timezone

from motion import findings_file, jobs, sandbox
from motion.errors import MotionError
from nettlecap.classroom.models import Brief
from nettlecap.takes import small_path
from nettlecap.takes.faults import faults_of
from nettlecap.takes.models import Analysis, Take

logger = logging.getLogger(__name__)
TELL_EVERY_S = 0.4


def look_at(take_id: int, run: int) -> str:
    """Analyse a take and store what was found; the state it ends in. Safe to run twice.

    A run that is not the take's present one any more does nothing.
    """
    analysis = Analysis.objects.select_related("take__brief").filter(take_id=take_id, run=run).first()
    if analysis is None or not analysis.unfinished:
        return "nothing to do"
    rows = Analysis.objects.filter(pk=analysis.pk, run=run)
    rows.update(state=Analysis.State.RUNNING, progress=0.0, step="opening the file", message="")
    drawings = analysis.drawings_of(run)
    shutil.rmtree(drawings, ignore_errors=True)
    try:
        outcome: jobs.Outcome = sandbox.run(
            jobs.examine,
            analysis.take.file,
            analysis.take.file_name,
            analysis.take.brief.core,
            drawings,
            analysis.take.preparation,
            analysis.take.placement,
            progress=_teller(rows),
        )
    except MotionError as error:
        return _failed(rows, str(error))
    except Exception:
        logger.exception("take %s could not be analysed", take_id)
        return _failed(rows, "Something went wrong while this take was looked at. It is kept; tell your instructor.")
    written = rows.update(
        state=Analysis.State.DONE,
        shown_run=run,
        progress=1.0,
        step="",
        finished_at=timezone.now(),
        **_kept(outcome.findings, outcome.track_csv),
    )
    if not written:
        return _for_nothing(drawings)
    _forget_runs_before(drawings)
    return str(Analysis.State.DONE)


def _for_nothing(drawings: Path) -> str:
    """Remove what was drawn out of a take that is gone by now, or is being looked at anew."""
    shutil.rmtree(drawings, ignore_errors=True)
    with suppress(OSError):
        drawings.parent.rmdir()
    return "nobody waits for it any more"


def _kept(findings: dict[str, Any], track_csv: str) -> dict[str, Any]:
    """What is kept of an analysis, by column."""
    path_line, ground_line = small_path.lines(findings)
    return {
        "findings": findings,
        "faults": faults_of(findings),
        "track_csv": track_csv,
        "path_line": path_line,
        "ground_line": ground_line,
    }


def judge_again(take: Take) -> None:
    """Run only the checks again, with what was placed by hand. Call it inside a transaction."""
    found = findings_file.judge_again(take.analysis.findings, take.brief.core, take.placement)
    kept = _kept(findings_file.to_json(found), findings_file.track_csv(found))
    for column, value in kept.items():
        setattr(take.analysis, column, value)
    take.analysis.save(update_fields=list(kept))


def _forget_runs_before(drawings: Path) -> None:
    for folder in drawings.parent.iterdir():
        if folder.name.isdecimal() and int(folder.name) < int(drawings.name):
            shutil.rmtree(folder, ignore_errors=True)


def look_again(brief: Brief) -> int:
    """Have every take of a brief, trials too, analysed again; how many there are. Call it inside a transaction."""
    takes = list(Take.everything.filter(brief=brief))
    for take in takes:
        start_again(take)
    return len(takes)


def give_up(take_id: int, run: int, message: str) -> None:
    """Set an analysis aside whose worker was lost too often."""
    _failed(Analysis.objects.filter(take_id=take_id, run=run).unfinished(), message)


def start_again(take: Take) -> None:
    """Have one take analysed anew; what is shown stays until that is through."""
    from nettlecap.takes.tasks import analyse_take

    with transaction.atomic():
        analysis = Analysis.objects.get(take=take)
        analysis.run += 1
        analysis.state, analysis.progress, analysis.step, analysis.message = Analysis.State.WAITING, 0.0, "", ""
        analysis.save(update_fields=["run", "state", "progress", "step", "message"])
        analyse_take.enqueue(take.pk, analysis.run)


def _failed(rows, message: str) -> str:  # type: ignore[no-untyped-def]
    rows.update(state=Analysis.State.FAILED, step="", message=message[:400], finished_at=timezone.now())
    return str(Analysis.State.FAILED)


def _teller(rows):  # type: ignore[no-untyped-def]
    """Writes progress to the row, now and then."""
    last = 0.0

    def tell(part: float, step: str) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= TELL_EVERY_S:
            last = now
            rows.update(progress=round(part, 3), step=step[:120])

    return tell
