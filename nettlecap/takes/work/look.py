"""Analysing a take."""

from __future__ import annotations

import logging
import shutil
import tempfile
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.db import InterfaceError, OperationalError, close_old_connections
from django.utils import timezone

from motion import jobs, preparation, sandbox
from motion.errors import MotionError, ReaderKilled
from nettlecap.errors import Refusal
from nettlecap.files import shelf
from nettlecap.takes import results, stopping
from nettlecap.takes.file_check import check
from nettlecap.takes.models import Analysis, Take
from nettlecap.takes.stopping import PutBack

logger = logging.getLogger(__name__)
TELL_EVERY_S = 0.4
WENT_WRONG = "Something went wrong while this take was looked at. It is kept; tell your instructor."
UNCHANGED = "The clip is as it was before."


def look_at(take_id: int, run: int) -> str:
    """Analyse a take and store what was found; the state it ends in. Safe to run twice.

    A run that is not the take's present one any more does nothing. Raises PutBack when the reader was ended by
    somebody else, or because this process stops: the take waits again then.
    """
    analysis = Analysis.objects.select_related("take__brief").filter(take_id=take_id, run=run).first()
    if analysis is None or not analysis.unfinished:
        return "nothing to do"
    rows = Analysis.objects.filter(pk=analysis.pk, run=run)
    rows.update(state=Analysis.State.RUNNING, progress=0.0, step="opening the file", message="")
    try:
        return _looked_at(analysis, rows)
    except ReaderKilled as killed:
        rows.update(state=Analysis.State.WAITING, progress=0.0, step="")
        raise PutBack from killed


def _looked_at(analysis: Analysis, rows) -> str:  # type: ignore[no-untyped-def]
    take, run = analysis.take, analysis.run
    if take.to_try is not None:
        refused = _try_otherwise(take)
        if refused:
            # What is shown is of how the clip was read before, and still is.
            state = Analysis.State.DONE if analysis.findings else Analysis.State.FAILED
            rows.update(state=state, step="", message=f"{refused} {UNCHANGED}"[:400])
            return str(state)
    drawings = analysis.drawings_of(run)
    drawings.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=drawings.parent, prefix="part-", ignore_cleanup_errors=True) as name:
        part = Path(name)
        outcome, trouble = _examined(take, part, rows)
        if outcome is None:
            return _failed(rows, trouble)
        # Whoever did the same run before, and was stopped or overtaken, drew the same.
        shutil.rmtree(drawings, ignore_errors=True)
        try:
            (part / "drawings").replace(drawings)
            shelf.keep_folder(analysis.run_folder(run))
        except FileNotFoundError:
            if rows.exists():
                raise
            return _for_nothing(analysis)
    written = rows.update(
        state=Analysis.State.FAILED if trouble else Analysis.State.DONE,
        message=trouble[:400],
        shown_run=run,
        progress=1.0,
        step="",
        finished_at=timezone.now(),
        **results.columns(outcome.findings, outcome.track_csv),
    )
    if not written:
        return _for_nothing(analysis)
    _forget_runs_before(analysis)
    return str(Analysis.State.FAILED if trouble else Analysis.State.DONE)


def _examined(take: Take, part: Path, rows) -> tuple[jobs.Outcome | None, str]:  # type: ignore[no-untyped-def]
    """What was found, and (where it could not be analysed) what went wrong: then it is laid out to be marked by eye."""
    given = (take.file, take.file_name, take.brief.core, part / "drawings", take.preparation)
    around: dict[str, Any] = {"reads": [take.file], "writes": [part], "stopping": stopping.asked.is_set}
    try:
        return sandbox.run(jobs.examine, *given, take.placement, progress=_teller(rows), **around), ""
    except (ReaderKilled, OSError):
        raise
    except MotionError as error:
        trouble = str(error)
    except Exception:
        logger.exception("take %s could not be analysed", take.pk)
        trouble = WENT_WRONG
    if take.analysis.findings:
        # What an earlier run found, and what was decided on it, stays.
        return None, trouble
    shutil.rmtree(part / "drawings", ignore_errors=True)
    try:
        return sandbox.run(jobs.lay_out, *given, progress=_teller(rows), **around), trouble
    except (ReaderKilled, OSError):
        raise
    except Exception:
        return None, trouble


def _try_otherwise(take: Take) -> str:
    """Read a draft as its student asked last, and keep that if it can be; why not, in a sentence, if not."""
    asked = preparation.from_json(take.to_try)
    try:
        receipt = check(take.file, take.file_name, take.brief, asked)
    except Refusal as refusal:
        Take.everything.filter(pk=take.pk).update(to_try=None)
        return str(refusal)
    take.to_try, take.prepared, take.placed = None, asked.to_json(), {}
    take.frames, take.pictures, take.width, take.height = (
        receipt.frames,
        receipt.pictures,
        receipt.width,
        receipt.height,
    )
    take.save(update_fields=["to_try", "prepared", "placed", "frames", "pictures", "width", "height"])
    return ""


def _for_nothing(analysis: Analysis) -> str:
    """Remove what was drawn out of a take that is gone by now, or is being looked at anew."""
    shelf.forget_folder(analysis.run_folder(analysis.run))
    with suppress(OSError):
        shelf.local(analysis.drawings_folder).rmdir()
    return "nobody waits for it any more"


def _forget_runs_before(analysis: Analysis) -> None:
    for earlier in range(max(1, analysis.shown_run), analysis.run):
        shelf.forget_folder(analysis.run_folder(earlier))


def give_up(take_id: int, run: int, message: str) -> None:
    """Set an analysis aside whose worker was lost too often."""
    _failed(Analysis.objects.filter(take_id=take_id, run=run).unfinished(), message)


def _failed(rows, message: str) -> str:  # type: ignore[no-untyped-def]
    rows.update(state=Analysis.State.FAILED, step="", message=message[:400], finished_at=timezone.now())
    return str(Analysis.State.FAILED)


def _teller(rows):  # type: ignore[no-untyped-def]
    """Writes progress to the row, now and then; a database that cannot be written to then costs no work."""
    last = 0.0

    def tell(part: float, step: str) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= TELL_EVERY_S:
            last = now
            try:
                rows.update(progress=round(part, 3), step=step[:120])
            except (OperationalError, InterfaceError) as error:
                logger.warning("how far a take is could not be told: %s", error)
                close_old_connections()

    return tell
