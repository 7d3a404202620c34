"""``manage.py analyse``: clips and a brief in, findings files out; the same code path as the worker's."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any, NoReturn

from django.core.management.base import BaseCommand, CommandParser

import motion.brief
from motion import jobs, sandbox
from motion.brief import Brief
from motion.errors import BriefError, MotionError
from motion.guide.guide import checked
from motion.preparation import NONE as AS_IT_IS
from motion.preparation import Grid, Preparation
from motion.tracking import placing


class Command(BaseCommand):
    help = "Analyse clips against a brief; for each write NAME.findings.json and NAME.track.csv."
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("clips", nargs="+", metavar="CLIP", help="a file or folder that can be handed in")
        parser.add_argument("--brief", required=True, metavar="BRIEF.json", help="a brief file")
        parser.add_argument("--out", required=True, metavar="DIR", help="where the findings go")

        parser.add_argument(
            "--grid", metavar="COLUMNSxROWS", help="how single pictures are divided that are sheets of frames"
        )

    def handle(self, *, clips: list[str], brief: str, out: str, grid: str | None, **options: Any) -> None:
        self._preparation = self._divided(grid) if grid else AS_IT_IS
        asked = self._brief(Path(brief))
        folder = Path(out)
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            self._stop(f"“{out}” cannot be made into a folder ({error.strerror}).")
        paths = [Path(clip) for clip in clips]
        names = [_stem(path) for path in paths]
        for name in names:
            if names.count(name) > 1:
                self._stop(f"Two clips are both called “{name}”; their findings would overwrite each other.")
        read = [self._analyse(path, asked, folder) for path in paths]
        if not all(read):
            sys.exit(1)

    def _divided(self, grid: str) -> Preparation:
        columns, _, rows = grid.partition("x")
        try:
            return Preparation(grid=Grid(columns=int(columns), rows=int(rows), cells=int(columns) * int(rows)))
        except ValueError:
            self._stop(f"The grid “{grid}” is not right: write columns and rows, such as 4x3.")

    def _brief(self, path: Path) -> Brief:
        try:
            return checked(motion.brief.parse(path.read_bytes()))
        except OSError as error:
            self._stop(f"The brief “{path}” cannot be opened ({error.strerror}).")
        except BriefError as error:
            self._stop(f"The brief “{path.name}” is not right: {error}")

    def _analyse(self, path: Path, brief: Brief, folder: Path) -> bool:
        terminal = self.stderr.isatty()

        def tell(part: float, step: str) -> None:
            if terminal:
                self.stderr.write(f"\r{path.name}: {100 * part:3.0f} % {step:<44}", style_func=str, ending="")

        try:
            outcome: jobs.Outcome = sandbox.run(
                jobs.examine,
                path.resolve(),
                path.name,
                brief,
                None,
                self._preparation,
                placing.NOTHING,
                progress=tell,
                reads=[path.resolve()],
            )
        except MotionError as error:
            self.stderr.write(("\r" if terminal else "") + f"{path.name}: {error}")
            return False
        stem = _stem(path)
        (folder / f"{stem}.findings.json").write_text(outcome.findings_text, encoding="utf-8")
        (folder / f"{stem}.track.csv").write_text(outcome.track_csv, encoding="utf-8")
        if terminal:
            self.stderr.write("\r" + " " * (len(path.name) + 52) + "\r", style_func=str, ending="")
        self.stdout.write(f"{path.name}: {outcome.count} finding{'' if outcome.count == 1 else 's'}")
        return True

    def _stop(self, message: str) -> NoReturn:
        self.stderr.write(message)
        sys.exit(2)


def _stem(path: Path) -> str:
    return path.name if path.is_dir() else path.stem
