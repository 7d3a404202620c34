"""What any brief may ask of a clip's length and exposures: what a finding says where it is otherwise."""

from __future__ import annotations

from typing import Any, Protocol

from motion.brief import Brief
from motion.findings import span

Told = dict[str, Any]
"""A finding but for its code and its drawings; ``times`` is how many times its tolerance it is off."""


class Exposed(Protocol):
    """A drawing in playing order."""

    @property
    def drawing(self) -> int: ...
    @property
    def frame(self) -> int: ...
    @property
    def last_frame(self) -> int: ...
    @property
    def frames(self) -> int: ...


def length(brief: Brief, frames: int) -> Told | None:
    """``timing.length``: the clip is shorter or longer than asked; None where it is as asked."""
    asked = brief.frames
    if asked is None or asked[0] <= frames <= asked[1]:
        return None
    nearest = asked[0] if frames < asked[0] else asked[1]
    off = abs(frames - nearest)
    mend = "Add" if frames < nearest else "Take away"
    return {
        "times": 1 + off / max(2.0, 0.05 * nearest),
        "measured": float(frames),
        "expected": float(nearest),
        "tolerance": 0.0,
        "unit": "frames",
        "message": f"The clip has {frames} frames; the brief asks for {asked[0]} to {asked[1]}.",
        "advice": f"{mend} {off} frame{'s' if off > 1 else ''}.",
    }


def exposure(brief: Brief) -> int | None:
    """For how many frames a drawing is to show; None where the brief does not ask."""
    return {"ones": 1, "twos": 2}.get(brief.exposure)


def exposed(brief: Brief, step: Exposed, asked: int) -> Told:
    """``timing.exposure``: a drawing is exposed otherwise than asked."""
    off = abs(step.frames - asked)
    frames = f"{step.frames} frame{'s' if step.frames > 1 else ''}"
    return {
        "times": 1.0 + off,
        "measured": float(step.frames),
        "expected": float(asked),
        "tolerance": 0.0,
        "unit": "frames",
        "message": f"{span(step.frame, step.last_frame)}: drawing {step.drawing} is exposed for {frames}; the brief "
        f"asks for {brief.exposure}.",
        "advice": f"Expose each drawing for {asked} frame{'s' if asked > 1 else ''} here.",
    }
