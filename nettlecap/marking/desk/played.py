"""What the scripts need to play a clip and draw over it, from what was found in it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from motion.brief import Brief
from motion.catalogue import Fault, faults
from motion.exercises import exercise_of
from motion.report.report import Report
from nettlecap.marking.desk.companion import guide_of
from nettlecap.marking.keys import finding_key


def played(report: Report | None, kept: set[str], brief: Brief, *, with_guide: bool) -> dict[str, Any]:
    """What the scripts need to play a clip and draw over it."""
    if report is None:
        return {"clip": None, "track": None, "arcs": [], "size": None, "ideal": [], "guide": [], "moments": []} | {
            "findings": [],
            "parts": {},
            "marks": [],
        }
    known = faults(brief.exercise)
    return {
        "clip": report.clip,
        "track": report.track,
        "arcs": report.motion.get("arcs", []),
        "size": report.size,
        "ideal": report.motion.get("ideal", []),
        "guide": _guide(brief, report) if with_guide else [],
        "moments": [moment.frame for moment in report.moments],
        "fixture": exercise_of(brief).fixture,
        "landmarks": exercise_of(brief).landmarks(report.track),
        "unsure": exercise_of(brief).unsure(report.track),
        **exercise_of(brief).drawn_over(report.data),
        "still": report.motion.get("rest_line"),
        "findings": [
            {
                "key": finding_key(f),
                "code": f["code"],
                "principle": f["principle"],
                "first_frame": f["first_frame"],
                "last_frame": f["last_frame"],
                "overlay": f.get("overlay", []),
                **_shown_by(known.get(f["code"])),
            }
            for f in report.findings
            if finding_key(f) in kept
        ],
    }


def _shown_by(fault: Fault | None) -> dict[str, Any]:
    """Which chart and which layers show a fault best."""
    return {"chart": fault.chart if fault else "", "layers": list(fault.layers) if fault else []}


def _guide(brief: Brief, report: Report) -> list[dict[str, Any]]:
    """The brief's own ideal, drawing by drawing; nothing for a clip of another size, or a guide that is not drawn."""
    guide = guide_of(brief)
    if guide is None or (guide.plan.width, guide.plan.height) != (report.width, report.height):
        return []
    return [
        {
            "frame": d.first_frame,
            **{k: getattr(d.pose, k) for k in ("x", "y", "major", "minor", "angle")},
            "lines": [_rounded(line) for line in guide.sketch.lines(guide.plan, index)],
        }
        for index, d in enumerate(guide.drawings)
    ]


def _rounded(line: Sequence[tuple[float, float]]) -> list[list[float]]:
    return [[round(x, 1), round(y, 1)] for x, y in line]
