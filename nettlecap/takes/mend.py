"""A take shown mended, as some of its findings say: made once for those findings, and kept beside its drawings."""

from __future__ import annotations

import hashlib
import json
import logging
import shutil
import tempfile
from pathlib import Path
from typing import Any

from motion import jobs, sandbox
from motion.errors import MotionError
from motion.exercises import exercise_of
from nettlecap.errors import Conflict, Refusal
from nettlecap.files import shelf
from nettlecap.guard import at_once
from nettlecap.takes import redraw
from nettlecap.takes.models import Take

logger = logging.getLogger(__name__)
SECONDS = 60.0
TOLD = "shown.json"
FORM = 2
"""What is kept in another form than this is made anew."""


def mend(take: Take, agreed: list[dict[str, Any]]) -> tuple[str, list[dict[str, Any]]]:
    """The name under which it is kept, and what it shows: drawing, frames, and the moved picture's index or None.

    Of a jointed figure also its lines (``figure``: points px, kind), ``anew`` where they are not the drawing's own.

    Raises Conflict where there is nothing to mend yet, Refusal where it cannot be made.
    """
    analysis = take.analysis
    if not analysis.findings:
        raise Conflict("This take has not been looked at yet; it can be shown mended after that.")
    name = hashlib.sha256(json.dumps([FORM, agreed], sort_keys=True).encode()).hexdigest()[:16]
    redraw.require_drawings(take)
    kept = folder_of(take, name)
    if not (kept / TOLD).exists():
        _make(take, agreed, kept)
    return name, json.loads((kept / TOLD).read_text(encoding="utf-8"))


def folder_of(take: Take, name: str) -> Path:
    """Where a mended take has its moved drawings."""
    return shelf.folder_here(_kept_as(take, name))


def _kept_as(take: Take, name: str) -> str:
    return f"{take.analysis.run_folder(take.analysis.shown_run)}/mended/{name}"


def _make(take: Take, agreed: list[dict[str, Any]], kept: Path) -> None:
    kept.parent.mkdir(parents=True, exist_ok=True)
    drawings = take.analysis.drawings_of(take.analysis.shown_run)
    with at_once.a_place(), tempfile.TemporaryDirectory(dir=kept.parent, prefix="part-") as part:
        to = Path(part) / "made"
        try:
            shown = sandbox.run(
                jobs.mend,
                take.analysis.findings,
                agreed,
                drawings,
                to,
                seconds=SECONDS,
                reads=[drawings],
                writes=[Path(part)],
            )
        except (MotionError, OSError, RuntimeError) as error:
            logger.warning("take %s could not be shown mended: %s", take.pk, error)
            raise Refusal("This take could not be shown mended.") from error
        findings, figured = take.analysis.findings or {}, exercise_of(take.brief.core).figured
        told = [
            {
                "drawing": s.drawing,
                "frames": s.frames,
                "moved": i if (to / f"{i}.png").exists() else None,
                "figure": figured(findings, s.drawing, s.landmarks) if figured else [],
                "anew": bool(s.landmarks),
            }
            for i, s in enumerate(shown)
        ]
        (to / TOLD).write_text(json.dumps(told), encoding="utf-8")
        # Only what belongs to the latest decisions is kept.
        for older in kept.parent.iterdir():
            if older.is_dir() and older != Path(part) and not older.name.startswith("part-"):
                shutil.rmtree(older, ignore_errors=True)
        to.replace(kept)
        shelf.keep_folder(_kept_as(take, kept.name))
