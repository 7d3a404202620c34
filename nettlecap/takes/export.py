"""Giving a take out again as a file."""

from __future__ import annotations

import logging
import tempfile
from pathlib import Path
from typing import IO

from motion import jobs, sandbox
from motion.errors import MotionError
from motion.export.take import KINDS
from motion.strokes import Over
from nettlecap.errors import Conflict, Refusal
from nettlecap.guard import at_once
from nettlecap.takes import redraw
from nettlecap.takes.models import Take

logger = logging.getLogger(__name__)
SECONDS = 120.0
SCRATCH_PREFIX = "nettlecap-export-"


def export(take: Take, kind: str, *, overlays: bool = False, strokes: tuple[Over, ...] = ()) -> IO[bytes]:
    """The take as an open file that is gone once it is closed; over it what was measured, or these strokes.

    Raises Conflict while there is nothing to write yet, Refusal where it cannot be written.
    """
    if kind not in KINDS:
        raise Refusal("Choose one of the formats on the page.")
    analysis = take.analysis
    if not analysis.findings:
        raise Conflict("This take has not been looked at yet; it can be saved after that.")
    redraw.require_drawings(take)
    drawings = analysis.drawings_of(analysis.shown_run)
    with at_once.a_place(), tempfile.TemporaryDirectory(prefix=SCRATCH_PREFIX) as folder:
        path = Path(folder) / kind
        try:
            sandbox.run(
                jobs.export,
                kind,
                path,
                analysis.findings,
                drawings,
                overlays,
                strokes,
                seconds=SECONDS,
                reads=[drawings],
                writes=[Path(folder)],
            )
        except (MotionError, OSError, RuntimeError) as error:
            logger.warning("take %s could not be written as %s: %s", take.pk, kind, error)
            raise Refusal(f"This take could not be written as {kind}. Try another format.") from error
        # Opened before its folder goes: what is open stays readable.
        return path.open("rb")


def name_of(take: Take, kind: str, *, overlays: bool = False, drawn: bool = False) -> str:
    """What to call the file: who, which take, and whether it is drawn over."""
    over = ("-measured" if overlays else "") + ("-drawn" if drawn else "")
    which = "draft" if take.draft else f"take-{take.number or take.trial_number}"
    return f"{take.student.username}-{which}{over}-{kind}"
