"""A stand-in for a camera over a paper animation, so that paper work can be tried without one.

Nothing is photographed: the sheets are drawn from the brief's own guide, and the paper lies a little differently, in a
little other light, at each press.
"""

from __future__ import annotations

import io
from dataclasses import replace
from functools import lru_cache

from PIL import Image

from motion.brief import Brief
from motion.exercises import exercise_of
from motion.plan import Plan
from motion.synth import draw
from motion.synth.camera import Camera
from motion.synth.look import LOOKS

LOOK = LOOKS["photographed"]
MOST_SHOTS = 2000


@lru_cache(maxsize=4)
def paper(brief: Brief) -> Plan:
    """The stack of sheets: the brief's guide, or a plain one of its exercise where it has none."""
    guided = exercise_of(brief).guided
    plan: Plan = guided.plan(brief if brief.guide else replace(brief, guide=guided.blank, canvas=None))
    return plan


@lru_cache(maxsize=32)
def picture(brief: Brief, sheet: int, shot: int) -> bytes | None:
    """A sheet (from 1) as the camera sees it at a press (from 0), as a PNG; None where there is no such sheet."""
    plan = paper(brief)
    if not (1 <= sheet <= len(plan.poses) and 0 <= shot < MOST_SHOTS):
        return None
    seen = Camera.at(LOOK, shot).shoot(draw.sheet(brief.exercise, plan, LOOK, sheet - 1))
    stream = io.BytesIO()
    Image.fromarray(seen).convert("RGB").save(stream, format="PNG", compress_level=1)
    return stream.getvalue()
