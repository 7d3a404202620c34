"""A small picture of right and wrong: the drawings about a fault, as they belong and as they are told."""

from __future__ import annotations

from collections.abc import Sequence

from motion import ink
from motion.account.example import Example, Examples
from motion.findings import Finding
from motion.ink import Element, add, say
from motion.plan import Plan

PANEL, HEIGHT, CAPTION, GUTTER = 300.0, 150.0, 20.0, 16.0
BESIDE = 5
"""So many frames before and after a fault are shown."""
GRAVE = "#8c3a2b"
STRIPS = ("timing.exposure", "timing.length")
"""Faults that show in the frames alone."""
MOST_BOXES = 44


def draw(examples: Examples, code: str) -> Element:
    """The picture of a fault: on the left as it belongs, on the right with the fault, which is drawn filled."""
    example = examples.example(code)
    root = ink.svg(2 * PANEL + GUTTER, HEIGHT + CAPTION, f"{code}: as it belongs, and with the fault")
    panels = ((example.right, None, "As it belongs"), (example.wrong, example.finding, "With the fault"))
    for turn, (plan, finding, words) in enumerate(panels):
        panel = add(root, "svg", x=turn * (PANEL + GUTTER), y=0, width=PANEL, height=HEIGHT + CAPTION)
        add(panel, "rect", x=0, y=0, width=PANEL, height=HEIGHT, fill="#fbf8ef", stroke=ink.RULE)
        if code in STRIPS:
            _strip(panel, plan, finding if code == "timing.exposure" else None)
        else:
            examples.panel(panel, plan, finding, _window(example, examples.all_over))
        say(panel, words, x=4, y=HEIGHT + 15, font_size=13, fill=ink.SOFT)
    return root


def _window(example: Example, all_over: Sequence[str]) -> tuple[int, int]:
    """The frames to show: about the fault, or all where it concerns the whole clip."""
    first, last = example.finding.first_frame, example.finding.last_frame
    if last - first > 2 * BESIDE + 6 or example.finding.code in all_over:
        return 1, max(example.right.frames, example.wrong.frames)
    return first - BESIDE, last + BESIDE


def _strip(panel: Element, plan: Plan, finding: Finding | None) -> None:
    """The clip as a row of frames, a box a drawing as wide as it shows."""
    box, top = (PANEL - 20) / MOST_BOXES, 50.0
    for index, pose in enumerate(plan.poses):
        frame = plan.first_frame(index)
        told = finding is not None and finding.first_frame <= frame <= finding.last_frame
        add(
            panel,
            "rect",
            x=10 + (frame - 1) * box,
            y=top,
            width=max(1.0, pose.frames * box - 1),
            height=34,
            fill=GRAVE if told else ink.PALE,
            fill_opacity=0.7,
            stroke=GRAVE if told else ink.INK,
            stroke_width=0.8,
        )
    say(panel, f"{plan.frames} frames", x=10, y=top + 54, font_size=12, fill=ink.INK)
