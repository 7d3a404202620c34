"""Drawing what was asked for and is not there any more."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

from motion import jobs, sandbox
from motion.errors import ClipError, ReaderKilled
from nettlecap.files import shelf
from nettlecap.takes import stopping
from nettlecap.takes.models import Take
from nettlecap.takes.stopping import PutBack


def draw(take_id: int, run: int) -> str:
    """Draw the drawings of a take's run once more from its file; what became of it."""
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
    shelf.keep_folder(take.analysis.run_folder(run))
    return "drawn"
