"""The account of all checks as a document, with its pictures beside it."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from pathlib import Path

from motion import ink
from motion.account import bounce, pendulum, picture, walk
from motion.account.entries import Entry, entries
from motion.account.example import STRICTNESS, Examples
from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES
from motion.exercises import EXERCISES

EXAMPLES: Mapping[str, Examples] = {
    "bounce": bounce.EXAMPLES,
    "pendulum": pendulum.EXAMPLES,
    "walk": walk.EXAMPLES,
}
"""Every exercise's examples, by its key."""
INTRODUCTION = [
    (
        "Every finding is a proposal: it says where, what, how much and what to do, and a person agrees with it or "
        "not. This page says what each check looks at, and how far off is too far."
    ),
    (
        "Lengths in px hold for frames up to 960 "
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
    for exercise, examples in EXAMPLES.items():
        parts += [f"## {_title(exercise)}", examples.introduction]
        for principle in PRINCIPLES:
            own = [entry for entry in entries(exercise) if entry.principle == principle]
            parts += [f"### {PRINCIPLE_NAMES[principle]}"] if own else []
            for entry in own:
                parts += _entry(exercise, entry, pictures)
    return "\n\n".join(parts) + "\n"


def _title(exercise: str) -> str:
    return f"The {EXERCISES[exercise].nouns.exercise}"


def _entry(exercise: str, entry: Entry, pictures: str) -> list[str]:
    told = EXAMPLES[exercise].example(entry.code).finding
    return [
        f'<a id="{exercise}.{entry.code}"></a>\n#### {entry.name} (`{entry.code}`)',
        entry.fault,
        f"![As it belongs, and with the fault]({pictures}/{exercise}/{entry.code}.svg)",
        f"What is measured: {entry.measured}",
        f"How far off is too far: {entry.allowed}",
        f"In the picture: “{told.message} {told.advice}” {allowed_here(exercise, entry.code)}".rstrip(),
    ]


def allowed_here(exercise: str, code: str) -> str:
    """What the example's own tolerance is, by strictness; nothing where there is none."""
    shown = EXAMPLES[exercise].example(code)
    if not any(shown.allowed.values()):
        return ""
    unit = _UNITS.get(shown.finding.unit, "")
    values = ", ".join(f"{s} {_value(shown.allowed[s])}{unit}" for s in STRICTNESS if s in shown.allowed)
    return f"The tolerance there: {values}."


_UNITS = {"px": " px", "frames": " frames", "degrees": "°"}


def _value(value: float) -> str:
    return f"{value:.1f}" if value >= 1 else f"{value:.2f}"


def pictures() -> Iterator[tuple[str, str]]:
    """Each fault's picture: where it lies among them, and the SVG."""
    for exercise, examples in EXAMPLES.items():
        for entry in entries(exercise):
            yield f"{exercise}/{entry.code}.svg", ink.text_of(picture.draw(examples, entry.code))


def write(document: Path, drawn: Path) -> None:
    """Write the document, and its pictures into a folder."""
    for name, svg in pictures():
        (drawn / name).parent.mkdir(parents=True, exist_ok=True)
        (drawn / name).write_text(svg + "\n", encoding="utf-8")
    document.write_text(markdown(os.path.relpath(drawn, document.parent)), encoding="utf-8")
