"""The front door of the core: a hand-in and a brief in, everything that is found out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from motion import formats
from motion.brief import Brief
from motion.checks import preflight
from motion.checks.preflight import Note
from motion.clip import Clip, Unseen
from motion.errors import BriefError
from motion.exercises import exercise_of
from motion.findings import Finding, in_order
from motion.plan import Plan
from motion.preparation import NONE as AS_IT_IS
from motion.preparation import Preparation
from motion.track import Track
from motion.tracking import placing
from motion.tracking.exposures import expose
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress

MORE_THAN_ASKED = 1.25
"""What a brief's own guide does is no fault in a clip, up to so many times of it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis:
    """A clip's track and what the checks found in it. ``scene`` is the exercise's own, None where no motion of its
    kind could be told.
    """

    clip: Clip
    brief: Brief
    track: Track
    scene: Any
    preflight: tuple[Note, ...]
    findings: tuple[Finding, ...]


def analyse(
    clip: Clip, brief: Brief, progress: Progress | None = None, placement: Placement = placing.NOTHING
) -> Analysis:
    """Track a clip and run all its checks, with what a person placed. Raises ClipError when it cannot be decoded."""
    track = exercise_of(brief).follow(clip, brief, placement, progress)
    if progress:
        progress(0.97, "checking against the brief")
    return judge(clip, brief, track)


def by_eye(clip: Clip, brief: Brief) -> Analysis:
    """A clip of which nothing was measured: its drawings, as far as its form tells equal ones, and nothing found."""
    known = [clip.footage.fingerprint(i) or f"picture {i}" for i in range(len(clip.footage))]
    pictures = {name: known.index(name) for name in dict.fromkeys(known)}
    numbers = {name: number for number, name in enumerate(pictures, start=1)}
    exposures = expose([numbers[name] for name in known], clip.picture_frames)
    track = exercise_of(brief).nothing(exposures, tuple(pictures.values()))
    return Analysis(clip=clip, brief=brief, track=track, scene=None, preflight=(), findings=())


def judge(clip: Clip, brief: Brief, track: Track) -> Analysis:
    """Run the checks on a track that is already there."""
    exercise = exercise_of(brief)
    seen = exercise.look(track, brief, clip.width)
    findings = exercise.check(seen) if seen else []
    findings = [f for f in findings if not _explained(f, track)]
    if findings and brief.guide:
        asked = _asked_for(brief)
        findings = [f for f in findings if not _is_asked_for(f, asked)]
    return Analysis(
        clip=clip,
        brief=brief,
        track=track,
        scene=seen,
        preflight=tuple(
            preflight.check(clip, track, brief, exercise.nouns.mover, exercise.lacks(seen) if seen else None)
        ),
        findings=tuple(in_order(findings)),
    )


@lru_cache(maxsize=16)
def of_guide(brief: Brief) -> Analysis:
    """What the checks say to a clip drawn exactly over the brief's own guide.

    Without the rule that what the guide does is no fault; so an instructor sees what the feel asks for that the
    checks would mind. Raises BriefError when the guide cannot be drawn.
    """
    return of_plan(exercise_of(brief).guided.plan(brief), replace(brief, guide=None))


def of_plan(plan: Plan, brief: Brief) -> Analysis:
    """What the checks say to a plan as perfectly measured."""
    clip = Clip(
        name="plan",
        fps=brief.fps,
        width=plan.width,
        height=plan.height,
        footage=Unseen(),
        picture_frames=tuple(p.frames for p in plan.poses),
    )
    return judge(clip, brief, exercise_of(brief).truth(plan))


def _explained(finding: Finding, track: Track) -> bool:
    """Whether empty frames within or beside it explain what is found: a drawing that is not there cannot be judged."""
    return any(
        first - 1 <= finding.last_frame and finding.first_frame <= last + 1
        for first, last in preflight.runs(track, track.oversights.empty)
    )


def _asked_for(brief: Brief) -> Sequence[Finding]:
    """What the guide itself does; nothing for a guide that cannot be drawn, which is no reason to drop a clip."""
    try:
        return of_guide(brief).findings
    except BriefError:
        return ()


def _is_asked_for(finding: Finding, of_the_guide: Sequence[Finding]) -> bool:
    """Whether the guide itself does on these frames what is found, as much as is found."""
    return any(
        asked.code == finding.code
        and asked.first_frame <= finding.last_frame + 1
        and finding.first_frame <= asked.last_frame + 1
        and _excess(finding) <= MORE_THAN_ASKED * _excess(asked)
        for asked in of_the_guide
    )


def _excess(finding: Finding) -> float:
    return abs((finding.measured or 0.0) - (finding.expected or 0.0))


def analyse_file(
    path: Path,
    brief: Brief,
    *,
    name: str | None = None,
    progress: Progress | None = None,
    preparation: Preparation = AS_IT_IS,
    placement: Placement = placing.NOTHING,
) -> Analysis:
    """Read a hand-in and analyse it: what both the command line and the worker run.

    ``name`` is what to call the clip, its file name if None; ``preparation`` is what its student put right,
    ``placement`` where a person placed anything. Raises ClipError when it cannot be read.
    """
    clip = formats.read(path, brief.fps, name=name, preparation=preparation)
    return analyse(clip, brief, progress, placement)
