"""The work that is done on a hand-in in a process of its own; see ``motion.sandbox``."""

from __future__ import annotations

import bisect
import itertools
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PIL import Image

from motion import analysis, formats
from motion.brief import Brief
from motion.errors import DamagedFile
from motion.export import drawing_file, mended
from motion.export.mended import Shown
from motion.formats import sound, sprite
from motion.formats.limits import DEFAULT
from motion.preparation import Grid, Preparation
from motion.report import file as findings_file
from motion.strokes import Over
from motion.tracking.placing import Placement

Tell = Callable[[float, str], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What the analysis of one hand-in gives: the findings file, the track table, and how many findings."""

    findings: dict[str, Any]
    findings_text: str
    track_csv: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What a hand-in holds, told before it is analysed."""

    frames: int
    pictures: int
    width: int
    height: int


def check(path: Path, name: str, fps: float, preparation: Preparation, tell: Tell) -> Receipt:
    """Open a hand-in and decode every picture once. Raises ClipError for anything unreadable."""
    clip = formats.read(path, fps, name=name, preparation=preparation)
    distinct: dict[str, int] = {}
    for index in range(len(clip.footage)):
        distinct.setdefault(clip.footage.fingerprint(index) or f"#{index}", index)
    for picture in clip.footage.pictures(sorted(distinct.values())):
        if picture.shape[:2] != (clip.height, clip.width):
            raise DamagedFile(f"“{name}” holds a picture whose content is not of the size that it names.")
    return Receipt(frames=clip.frames, pictures=len(clip.footage), width=clip.width, height=clip.height)


def open_only(path: Path, name: str, fps: float, tell: Tell) -> None:
    """Look at a hand-in's headers. Raises ClipError, OnePicture for a single picture among them."""
    formats.read(path, fps, name=name)


def guess_grid(path: Path, name: str, tell: Tell) -> Grid:
    """How a sheet of frames may be divided. Raises ClipError for what is no picture."""
    return sprite.guess(path, name, DEFAULT)


def listen(path: Path, name: str, tell: Tell) -> sound.Sound:
    """Look through a sound track. Raises ClipError for what is none."""
    return sound.read(path, name)


def examine(
    path: Path,
    name: str,
    brief: Brief,
    pictures_to: Path | None,
    preparation: Preparation,
    placement: Placement,
    tell: Tell,
) -> Outcome:
    """Analyse a hand-in; write each drawing as ``<number>.png`` below ``pictures_to`` if given."""
    result = analysis.analyse_file(path, brief, name=name, progress=tell, preparation=preparation, placement=placement)
    return _outcome(result, pictures_to, tell)


def lay_out(path: Path, name: str, brief: Brief, pictures_to: Path, preparation: Preparation, tell: Tell) -> Outcome:
    """What can be had of a hand-in that could not be analysed: its drawings and exposures, to be marked by eye."""
    clip = formats.read(path, brief.fps, name=name, preparation=preparation)
    return _outcome(analysis.by_eye(clip, brief), pictures_to, tell)


def _outcome(result: analysis.Analysis, pictures_to: Path | None, tell: Tell) -> Outcome:
    if pictures_to is not None:
        tell(0.98, "keeping the drawings")
        _keep_drawings(result, pictures_to)
    data = findings_file.to_json(result)
    return Outcome(
        findings=data,
        findings_text=findings_file.to_text(result),
        track_csv=findings_file.track_csv(result),
        count=len(result.findings),
    )


def _keep_drawings(result: analysis.Analysis, folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for number, picture in enumerate(result.clip.footage.pictures(result.track.pictures), start=1):
        (folder / f"{number}.png").write_bytes(drawing_file.encode(picture))


def draw_again(
    path: Path,
    name: str,
    fps: float,
    preparation: Preparation,
    exposures: list[dict[str, int]],
    folder: Path,
    tell: Tell,
) -> int:
    """Write the drawings of a hand-in once more, as an earlier analysis told them apart; how many there are."""
    clip = formats.read(path, fps, name=name, preparation=preparation)
    ends = list(itertools.accumulate(clip.picture_frames))
    first_shown: dict[int, int] = {}
    for exposure in exposures:
        first_shown.setdefault(exposure["drawing"], bisect.bisect_left(ends, exposure["first_frame"]))
    ordered = sorted(first_shown.items(), key=lambda shown: shown[1])
    pictures = clip.footage.pictures([index for _, index in ordered])
    for (number, _), picture in zip(ordered, pictures, strict=True):
        (folder / f"{number}.png").write_bytes(drawing_file.encode(picture))
    return len(ordered)


def mend(findings: dict[str, Any], agreed: list[dict[str, Any]], drawings: Path, to: Path, tell: Tell) -> list[Shown]:
    """Mend a take as some of its findings say, and keep each moved drawing in a folder as ``<index>.png``."""
    shown = mended.plan(findings, agreed)
    to.mkdir(parents=True, exist_ok=True)
    for index, picture in mended.pictures(findings, drawings, shown):
        Image.fromarray(picture).save(to / f"{index}.png", compress_level=3)
    return shown


def export(
    kind: str,
    to: Path,
    findings: dict[str, Any],
    drawings: Path,
    overlays: bool,
    strokes: tuple[Over, ...],
    tell: Tell,
) -> None:
    """Write a take that was looked at to a file; see ``motion.export.take``."""
    from motion.export import take

    take.write(kind, to, findings, drawings, overlays=overlays, strokes=strokes)
