"""How the walk's parts are called in messages."""

from __future__ import annotations

from motion.exercises.walk.figure import Side

NAMES = {
    "hip": "hips",
    "ankle_near": "near foot",
    "ankle_far": "far foot",
    "hand_near": "near hand",
    "hand_far": "far hand",
}


def foot(side: Side) -> str:
    """``near foot``."""
    return f"{side} foot"


def part_of(name: str) -> str:
    """The part that a landmark stands for."""
    return NAMES.get(name, name)
