"""The spacing strip: the gap from each drawing to the next as an upright bar over the frames, keys ringed below."""

from __future__ import annotations

import itertools
import math

from motion import ink
from motion.guide.guide import Guide
from motion.ink import Element, add, label, line

WIDTH, HEIGHT, FLOOR = 760.0, 84.0, 58.0


def gaps_of(guide: Guide) -> list[float]:
    """From each drawing to the next, in the exercise's own unit; one fewer than there are drawings."""
    return list(guide.exercise.guided.gaps(guide.plan))


def draw(guide: Guide) -> Element:
    """The strip over the whole length of the guide."""
    gaps, frames = gaps_of(guide), guide.plan.frames
    root = ink.svg(WIDTH, HEIGHT, "Spacing: the gap from each drawing to the next")
    widest = max(gaps, default=1.0) or 1.0
    step = WIDTH / frames
    line(root, 0, FLOOR, WIDTH, FLOOR, stroke=ink.RULE, stroke_width=1)
    last = -math.inf
    for drawing, gap in itertools.zip_longest(guide.drawings, gaps, fillvalue=0.0):
        if isinstance(drawing, float):
            break
        x, wide = step * (drawing.first_frame - 1), step * drawing.pose.frames
        tall = (FLOOR - 6) * float(gap or 0.0) / widest
        add(
            root,
            "rect",
            x=x + 0.1 * wide,
            y=FLOOR - tall,
            width=max(0.8, 0.8 * wide),
            height=tall,
            fill=ink.PALE,
            data_frame=str(drawing.first_frame),
        )
        at = x + step / 2
        if drawing.mark == "key" and at - last >= 17:
            label(root, min(max(at, 9), WIDTH - 9), FLOOR + 13, str(drawing.number), 10.5, "key")
            last = at
    return root
