"""The account of all checks as a document, with its pictures beside it."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path

from motion.account import picture
from motion.account.entries import Entry, entries
from motion.account.examples import STRICTNESS, example
from motion.findings import PRINCIPLES
from motion.guide import ink

NAMES = {
    "spacing": "Spacing",
    "arcs": "Arcs",
    "squash_stretch": "Squash and stretch",
    "contact": "Contact",
    "timing": "Timing",
}
INTRODUCTION = [
    (
        "Every finding is a proposal: it says where, what, how much and what to do, and a person agrees with it or "
        "not. This page says what each check looks at, and how far off is too far."
    ),
    (
        "D is the round ball's diameter. A drawing stands for its first frame. Lengths in px hold for frames up to 960 "
        "px wide and grow with wider ones. The tolerances in words are those of a brief that is marked at standard "
        "strictness; a gentle brief allows 1.6 times as much, a strict one 0.6 times. Where something has to be there, "
        "such as stretch, a gentle brief asks for less of it."
    ),
    (
        "A finding is slight up to twice its tolerance, clear up to four times, and strong beyond. One fault is one "
        "finding: a drawing that is out of its place is not also told for the arc that it bends, and a finding about a "
        "whole rise or fall stands for its drawings."
    ),
]


def markdown(pictures: str) -> str:
    """The document; ``pictures`` is the folder of its pictures as seen from it."""
    parts = ["# How each fault is judged", *INTRODUCTION]
    for principle in PRINCIPLES:
        parts.append(f"## {NAMES[principle]}")
        for entry in entries():
            if entry.principle == principle:
                parts += _entry(entry, pictures)
    return "\n\n".join(parts) + "\n"


def _entry(entry: Entry, pictures: str) -> list[str]:
    told = example(entry.code).finding
    return [
        f'<a id="{entry.code}"></a>\n### {entry.name} (`{entry.code}`)',
        entry.fault,
        f"![As it belongs, and with the fault]({pictures}/{entry.code}.svg)",
        f"What is measured: {entry.measured}",
        f"How far off is too far: {entry.allowed}",
        f"In the picture: “{told.message} {told.advice}” {allowed_here(entry.code)}".rstrip(),
    ]


def allowed_here(code: str) -> str:
    """What the example's own tolerance is, by strictness; nothing where there is none."""
    shown = example(code)
    if not any(shown.allowed.values()):
        return ""
    unit = _UNITS.get(shown.finding.unit, "")
    values = ", ".join(f"{s} {_value(shown.allowed[s])}{unit}" for s in STRICTNESS if s in shown.allowed)
    return f"The tolerance there: {values}."


_UNITS = {"px": " px", "frames": " frames", "degrees": "°"}


def _value(value: float) -> str:
    return f"{value:.1f}" if value >= 1 else f"{value:.2f}"


def pictures() -> Mapping[str, str]:
    """Each fault's picture as SVG, by its code."""
    return {entry.code: ink.text_of(picture.draw(example(entry.code))) for entry in entries()}


def write(document: Path, drawn: Path) -> None:
    """Write the document, and its pictures into a folder."""
    drawn.mkdir(parents=True, exist_ok=True)
    for code, svg in pictures().items():
        (drawn / f"{code}.svg").write_text(svg + "\n", encoding="utf-8")
    document.write_text(markdown(os.path.relpath(drawn, document.parent)), encoding="utf-8")
