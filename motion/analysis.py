"""The front door of the core: a hand-in and a brief in, everything that is found out."""

from __future__ import annotations

import csv
import io
import itertools
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from motion import formats
from motion.brief import Brief
from motion.checks import arcs, contact, preflight, scene, spacing, squash_stretch, timing
from motion.checks.preflight import Note
from motion.clip import Clip, Unseen
from motion.errors import BriefError
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.gravity import hop_duration, hop_height
from motion.exercises.bounce.truth import track_of
from motion.findings import Finding, in_order
from motion.tracking import ball
from motion.tracking.scan import Progress
from motion.tracking.track import Track

SCHEMA = "nettlecap.findings/1"
MORE_THAN_ASKED = 1.25
"""What a brief's own guide does is no fault in a clip, up to so many times of it."""
CHECKS = (spacing.check, arcs.check, squash_stretch.check, contact.check, timing.check)


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis:
    """A clip's track and what the checks found in it. ``scene`` is None where no bounce could be told."""

    clip: Clip
    brief: Brief
    track: Track
    scene: scene.Scene | None
    preflight: tuple[Note, ...]
    findings: tuple[Finding, ...]


def analyse(clip: Clip, brief: Brief, progress: Progress | None = None) -> Analysis:
    """Track a clip and run all its checks. Raises ClipError when a picture cannot be decoded."""
    track = ball.track(clip, ground_y=brief.ground_y, progress=progress)
    if progress:
        progress(0.97, "checking against the brief")
    return judge(clip, brief, track)


def judge(clip: Clip, brief: Brief, track: Track) -> Analysis:
    """Run the checks on a track that is already there."""
    seen = scene.look(track, brief, clip.width)
    findings = [f for check in CHECKS for f in check(seen)] if seen else []
    findings = [f for f in findings if not _explained(f, track)]
    if findings and brief.guide:
        asked = _asked_for(brief)
        findings = [f for f in findings if not _is_asked_for(f, asked)]
    return Analysis(
        clip=clip,
        brief=brief,
        track=track,
        scene=seen,
        preflight=tuple(preflight.check(clip, track, brief)),
        findings=tuple(in_order(findings)),
    )


@lru_cache(maxsize=16)
def of_guide(brief: Brief) -> Analysis:
    """What the checks say to a clip drawn exactly over the brief's own guide.

    Without the rule that what the guide does is no fault; so an instructor sees what the feel asks for that the
    checks would mind. Raises BriefError when the guide cannot be drawn.
    """
    plan = plan_of(brief)
    clip = Clip(
        name="guide",
        fps=brief.fps,
        width=plan.recipe.width,
        height=plan.recipe.height,
        footage=Unseen(),
        picture_frames=tuple(p.frames for p in plan.poses),
    )
    return judge(clip, replace(brief, guide=None), track_of(plan))


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


def analyse_file(path: Path, brief: Brief, *, name: str | None = None, progress: Progress | None = None) -> Analysis:
    """Read a hand-in and analyse it: what both the command line and the worker run.

    ``name`` is what to call the clip, its file name if None. Raises ClipError when it cannot be read.
    """
    return analyse(formats.read(path, brief.fps, name=name), brief, progress)


def to_json(analysis: Analysis) -> dict[str, Any]:
    """The findings file, ``nettlecap.findings/1``."""
    clip, track = analysis.clip, analysis.track
    ground = track.ground
    return {
        "schema": SCHEMA,
        "clip": {
            "name": clip.name,
            "fps": clip.fps,
            "frames": clip.frames,
            "width": clip.width,
            "height": clip.height,
            "exposures": [
                {"drawing": e.drawing, "first_frame": e.first_frame, "frames": e.frames} for e in track.exposures
            ],
        },
        "track": {
            "kind": track.kind,
            "ground": {
                "y_left": round(ground.y_left, 2),
                "y_right": round(ground.y_right, 2),
                "confidence": ground.confidence,
                "drawn": ground.drawn,
            }
            if ground
            else None,
            "shapes": [
                {
                    "drawing": s.drawing,
                    "x": round(s.x, 2),
                    "y": round(s.y, 2),
                    "major": round(s.major, 2),
                    "minor": round(s.minor, 2),
                    "angle": round(s.angle, 2),
                    "bottom": round(s.bottom, 2),
                    "clipped": s.clipped,
                    "confidence": s.confidence,
                    "source": s.source,
                }
                for s in track.shapes
                if s is not None
            ],
        },
        "motion": _motion(analysis),
        "preflight": [n.to_json() for n in analysis.preflight],
        "findings": [f.to_json() for f in analysis.findings],
    }


def _motion(analysis: Analysis) -> dict[str, Any] | None:
    """What the bounce was read as: diameter, gravity, contacts, hops, and each drawing's gap to the next."""
    seen = analysis.scene
    if seen is None:
        return None
    reading = seen.reading
    return {
        "diameter": round(reading.diameter, 2),
        "gravity": None if seen.gravity is None else round(seen.gravity, 4),
        "in_place": reading.in_place,
        "contacts": [
            {
                "first_frame": reading.steps[c.steps[0]].frame if c.steps else None,
                "last_frame": reading.steps[c.steps[-1]].last_frame if c.steps else None,
                "time": round(c.time, 2),
            }
            for c in reading.contacts
        ],
        "hops": [
            {
                "first_frame": reading.steps[h.air[0]].frame,
                "last_frame": reading.steps[h.air[-1]].last_frame,
                "top_frame": reading.steps[h.top].frame,
                "frames": _rounded(hop_duration(reading, h)),
                "height": round(hop_height(reading, h), 2),
                "whole": h.whole,
            }
            for h in reading.hops
        ],
        "arcs": _arcs(seen),
        "gaps": _gaps(seen),
    }


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _arcs(seen: scene.Scene) -> list[dict[str, Any]]:
    """Each hop's fitted arc as points of the centre's path in the frame."""
    import numpy as np

    reading, arcs_found = seen.reading, []
    for hop in reading.hops:
        if hop.parabola is None or len(hop.air) < 3:
            continue
        points = reading.points(hop.air)
        across = np.polyfit(hop.clock, points[:, 0], 1)
        start = hop.parabola.left if hop.start else float(hop.clock[0])
        end = hop.parabola.lands if hop.end else float(hop.clock[-1])
        times = np.linspace(start, end, 33)
        heights = 0.5 * hop.parabola.gravity * (times - hop.parabola.left) * (hop.parabola.lands - times)
        path = [reading.to_picture(float(np.polyval(across, t)), float(h)) for t, h in zip(times, heights, strict=True)]
        arcs_found.append({"points": [[round(x, 1), round(y, 1)] for x, y in path]})
    return arcs_found


def _gaps(seen: scene.Scene) -> list[dict[str, Any]]:
    """The gap from each drawing to the next, and what the hop's own parabola expects of it, px."""
    import numpy as np

    steps = seen.reading.steps
    expected: dict[int, float] = {}
    for hop in seen.reading.hops:
        if hop.parabola is None or len(hop.air) < 3:
            continue
        p = hop.parabola
        points = seen.reading.points(hop.air)
        across = np.polyfit(hop.clock, points[:, 0], 1)
        heights = 0.5 * p.gravity * (hop.clock - p.left) * (p.lands - hop.clock)
        xs = np.polyval(across, hop.clock)
        for k, index in enumerate(hop.air[:-1]):
            expected[index] = float(np.hypot(xs[k + 1] - xs[k], heights[k + 1] - heights[k]))
    return [
        {
            "frame": step.frame,
            "gap": round(float(np.hypot(after.x - step.x, after.y - step.y)), 2),
            "expected": round(expected[i], 2) if i in expected else None,
        }
        for i, (step, after) in enumerate(itertools.pairwise(steps))
    ]


def to_text(analysis: Analysis) -> str:
    """The findings file as UTF-8 JSON text; the same input gives the same bytes."""
    return json.dumps(to_json(analysis), ensure_ascii=False, indent=1, allow_nan=False) + "\n"


def track_csv(analysis: Analysis) -> str:
    """One row an exposure: frame range, drawing, and the measured shape; empty cells where none was measured."""
    columns = ["x", "y", "major", "minor", "angle", "bottom"]
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    rows.writerow(["first_frame", "last_frame", "drawing", *columns, "clipped", "confidence", "source"])
    for e in analysis.track.exposures:
        shape = analysis.track.shape_of(e.drawing)
        values: list[Any] = [""] * 9
        if shape is not None:
            numbers = [f"{getattr(shape, c):.2f}" for c in columns]
            values = [*numbers, str(shape.clipped).lower(), f"{shape.confidence:.3f}", shape.source]
        rows.writerow([e.first_frame, e.last_frame, e.drawing, *values])
    return stream.getvalue()
