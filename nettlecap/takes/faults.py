"""What was found in a take, in so few words that a whole class can be laid side by side."""

from __future__ import annotations

from typing import Any

from motion.comparison import times_off


def faults_of(findings: dict[str, Any]) -> list[dict[str, Any]]:
    """Each finding's code, principle, severity and frames, its part where it has one, and its times the tolerance."""
    told = ("code", "principle", "severity", "first_frame", "last_frame", "part")
    return [
        {**{k: f[k] for k in told if k in f}, "times": round(times_off(f), 2)} for f in findings.get("findings", ())
    ]
