"""Walks to start a brief from, each with a pace and a weight of its own."""

from __future__ import annotations

from motion.brief import Stride, WalkBrief
from motion.exercises.exercise import Preset

PRESETS = (
    Preset(
        key="lamplighter",
        name="Lamplighter",
        words="On his round every evening: a steady pace, neither tired nor in haste.",
        asked=WalkBrief(direction="right"),
        ideal=Stride(),
    ),
    Preset(
        key="drill",
        name="Harbour guard",
        words="Knees nearly straight, heels first, eight frames a step: a brisk march on the quay.",
        asked=WalkBrief(direction="right"),
        ideal=Stride(frames=8, step=165, bend=0.012, rise=10, lift=18, roll=30),
    ),
    Preset(
        key="porter",
        name="Porter with a crate",
        words="Heavy: short steps, knees that stay bent, and a deep sink after each contact.",
        asked=WalkBrief(direction="right"),
        ideal=Stride(frames=16, step=105, bend=0.06, rise=16, lift=10, roll=12, lean=6),
    ),
    Preset(
        key="creep",
        name="After curfew",
        words="Low on bent knees, feet lifted high and set down softly.",
        asked=WalkBrief(direction="right"),
        ideal=Stride(frames=18, step=130, bend=0.13, rise=6, lift=36, roll=6, lean=10),
    ),
    Preset(
        key="crossing",
        name="Across the square",
        words="The same walk through the picture: the feet stay where they are put, and the figure goes.",
        asked=WalkBrief(path="across", direction="right"),
        ideal=Stride(start_x=150, step=140, steps=5),
    ),
    Preset(
        key="postwoman",
        name="Postwoman, all of her",
        words="Head, trunk, arms and legs: her arms swing against her legs, and she has letters to bring.",
        asked=WalkBrief(figure="whole", direction="right"),
        ideal=Stride(leg=165, body=105, step=130, rise=8, bend=0.035, lean=3, arms=24),
    ),
    Preset(
        key="blister",
        name="Home on a blister",
        words="A limp that is asked for: long on the good foot, off the sore one in a hurry.",
        asked=WalkBrief(direction="right", limp_frames=(4.0, 8.0)),
        ideal=Stride(frames=13, limp=6, step=118, rise=11, bend=0.045, lift=12, roll=16, lean=4),
    ),
    Preset(
        key="child",
        name="Small steps home",
        words="Short legs that have to hurry: many quick, bouncy steps.",
        asked=WalkBrief(direction="left"),
        ideal=Stride(leg=120, body=110, step=86, frames=7, rise=9, lift=12, roll=16, steps=6),
    ),
)
