"""What a finding measured and how much is allowed, in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any


def measure_of(finding: dict[str, Any]) -> str:
    """The measure of a finding in the words of its code, or of its unit; empty where there is none."""
    measured, allowed = finding["measured"], finding["tolerance"]
    if measured is None or allowed is None:
        return ""
    say = _BY_CODE.get(finding["code"]) or _BY_UNIT.get(finding["unit"], _share)
    return say(measured, finding["expected"] or 0.0, allowed)


def size_of(finding: dict[str, Any]) -> str:
    """How far off a finding is, as short as a note wants it; empty where it has no length or angle."""
    if finding["measured"] is None:
        return ""
    off = abs(finding["measured"] - (finding["expected"] or 0.0))
    return {"px": f"{off:.0f} px", "degrees": f"{off:.0f}°", "share": f"{100 * off:.0f} %"}.get(finding["unit"], "")


Say = Callable[[float, float, float], str]


def _share(measured: float, expected: float, allowed: float) -> str:
    return f"{100 * abs(measured - expected):.0f} % off, {100 * allowed:.0f} % allowed"


def _later(frames: float) -> str:
    return f"{abs(frames):.1f} frames {'before' if frames <= -0.05 else 'after'}"


_BY_UNIT: dict[str, Say] = {
    "px": lambda m, _, a: f"{m:.1f} px off, {a:.1f} px allowed",
    "degrees": lambda m, e, a: f"{abs(m - e):.0f}° off, {a:.0f}° allowed",
    "frames": lambda m, e, a: f"{m:.3g} frames, {e:.3g} expected, {a:.2g} allowed either way",
    "contacts": lambda m, e, _: f"{m:g} contacts, {e:g} asked for",
    "factor": lambda m, _, a: f"{m:.2f} times the real gravity, up to {1 + a:.2f} times either way allowed",
}
_BY_CODE: dict[str, Say] = {
    "spacing.even": lambda m, _, a: f"{100 * m:.0f} % of the acceleration called for, at least {100 * a:.0f} % wanted",
    "spacing.hangs": lambda m, e, a: f"{m:.1f} frames, {e:.1f} called for, {a:.1f} more allowed",
    "spacing.dead_stop": lambda m, _, a: f"at {100 * m:.0f} % of the flight's own speed, up to {100 * a:.0f} % allowed",
    "arc.straight": lambda m, _, a: f"curves by {100 * m:.0f} % of a parabola, at least {100 * a:.0f} % wanted",
    "contact.slides": lambda m, _, a: f"{m:.1f} px, up to {a:.1f} px allowed",
    "contact.sticks": lambda m, _, a: f"{m:g} frames, up to {a:.2g} allowed",
    "stretch.missing": lambda m, _, a: f"{m:.2f} times as long as wide, at least {1 + a:.2f} times wanted",
    "overlap.stiff": lambda m, _, a: f"{_later(m)} the part above, at least {a:.2g} frames after it wanted",
    "overlap.leads": lambda m, _, a: f"{_later(m)} the part above, less than {a:.2g} before it allowed",
    "overlap.stops_together": lambda m, _, a: (
        f"{m:.1f} frames from the first part’s rest to the last one’s, at least {a:.2g} wanted"
    ),
    "squash.missing": lambda m, _, a: f"{m:.2f} times as high as wide, at most {1 - a:.2f} times wanted",
}
