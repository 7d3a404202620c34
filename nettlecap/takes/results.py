"""What is kept of an analysis, and judging it again."""

from __future__ import annotations

from typing import Any

from motion.report import file as findings_file
from motion.report.report import Report
from nettlecap.takes import small_path
from nettlecap.takes.faults import faults_of
from nettlecap.takes.models import Take


def columns(findings: dict[str, Any], track_csv: str) -> dict[str, Any]:
    """What is kept of an analysis, by column."""
    path_line, ground_line = small_path.lines(Report(findings))
    return {
        "findings": findings,
        "faults": faults_of(findings),
        "track_csv": track_csv,
        "path_line": path_line,
        "ground_line": ground_line,
    }


def judge_again(take: Take) -> None:
    """Run only the checks again, with what was placed by hand. Call it inside a transaction."""
    found = findings_file.judge_again(take.analysis.measured, take.brief.core, take.placement)
    kept = columns(findings_file.to_json(found), findings_file.track_csv(found))
    for column, value in kept.items():
        setattr(take.analysis, column, value)
    take.analysis.save(update_fields=list(kept))
