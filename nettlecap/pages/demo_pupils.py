"""The demo's students: how each draws, and what goes wrong in what they hand in for each brief."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import motion.brief as core
from motion.exercises.bounce.plan import Recipe
from motion.synth import write


@dataclass(frozen=True, slots=True, kw_only=True)
class Pupil:
    """A demo student: how they draw, the form in which they hand in, and what goes wrong in their take.

    ``first`` is what they handed in before, where this is their second take; ``swing`` how their lantern goes, where
    it is one, or what ``hangs`` in its place; ``stride`` how what ``walks`` goes; ``drawn`` is what of their look is
    their own.
    """

    login: str
    name: str
    look: str
    form: write.Form = "zip"
    faults: tuple[str, ...] = ()
    seed: int = 1
    recipe: Recipe = Recipe()
    swing: core.Swing | None = None
    hangs: core.PendulumBrief = core.PendulumBrief()
    stride: core.Stride | None = None
    walks: core.WalkBrief = core.WalkBrief(direction="right")
    drawn: tuple[tuple[str, Any], ...] = ()
    first: Pupil | None = None

    @property
    def takes(self) -> tuple[Pupil, ...]:
        """What they hand in, in order."""
        return (*((self.first,) if self.first else ()), self)


PUPILS = (
    Pupil(login="ayumi", name="Ayumi Torrance", look="pencil", faults=("contact.gap",), seed=4),
    Pupil(
        login="kofi",
        name="Kofi Lindqvist",
        look="clean",
        faults=("spacing.even",),
        seed=2,
        recipe=Recipe(drop_px=330, fall_frames=8.2),
    ),
    Pupil(login="safiya", name="Safiya Brandão", look="cel", recipe=Recipe(kept=(0.82, 0.8, 0.81), speed_x=17)),
    Pupil(
        login="mateus",
        name="Mateus Ilves",
        look="harbour",
        faults=("arc.off_path", "volume.changes"),
        seed=9,
        recipe=Recipe(fall_frames=8.4, speed_x=16.5, drop_px=310),
    ),
    Pupil(login="niamh", name="Niamh Adeyemi", look="night", faults=("arc.leaning", "squash.in_air"), seed=5),
    Pupil(
        login="ravi",
        name="Ravi Kestrel",
        look="cut-out",
        form="gif",
        faults=("timing.hold",),
        seed=3,
        recipe=Recipe(exposure=2, fall_frames=12.4, speed_x=10.2, kept=(0.8, 0.8)),
    ),
    Pupil(
        login="yulia",
        name="Yulia Marchbank",
        look="marker",
        faults=("spacing.jump", "contact.through"),
        seed=7,
        recipe=Recipe(diameter=72, drop_px=300, fall_frames=7.8, speed_x=17.2),
        first=Pupil(
            login="yulia",
            name="Yulia Marchbank",
            look="marker",
            faults=("squash.missing", "spacing.jump"),
            seed=8,
            recipe=Recipe(diameter=72, drop_px=290, fall_frames=9.6, speed_x=14.2, kept=(0.74, 0.78, 0.8)),
        ),
    ),
    Pupil(
        login="tane", name="Tane Oyelaran", look="outline", recipe=Recipe(halves=True, fall_frames=8.1, kept=(0.8, 0.8))
    ),
)


HUNG = core.Swing(pivot_x=480, pivot_y=64, length=310, size=84, angle=-36, count=5, keeps=0.92, swing_s=0.95)
LANTERNS = (
    Pupil(login="ayumi", name="Ayumi Torrance", look="pencil", faults=("spacing.jump",), seed=3, swing=HUNG),
    Pupil(
        login="kofi",
        name="Kofi Lindqvist",
        look="clean",
        faults=("spacing.even",),
        seed=2,
        swing=replace(HUNG, angle=32, swing_s=0.8),
    ),
    Pupil(login="safiya", name="Safiya Brandão", look="cel", swing=replace(HUNG, keeps=0.9, size=96)),
    Pupil(
        login="mateus",
        name="Mateus Ilves",
        look="harbour",
        faults=("arc.off_path", "volume.changes"),
        seed=6,
        swing=replace(HUNG, angle=-42, size=76),
    ),
    Pupil(login="niamh", name="Niamh Adeyemi", look="night", faults=("arc.lopsided",), seed=5, swing=HUNG),
    Pupil(
        login="ravi",
        name="Ravi Kestrel",
        look="cut-out",
        form="gif",
        faults=("timing.hold",),
        seed=3,
        swing=replace(HUNG, angle=38, swing_s=1.1),
    ),
    Pupil(login="yulia", name="Yulia Marchbank", look="marker", faults=("arc.straight",), seed=7, swing=HUNG),
    Pupil(
        login="tane",
        name="Tane Oyelaran",
        look="outline",
        faults=("spacing.hangs", "contact.pivot"),
        seed=4,
        swing=replace(HUNG, keeps=0.95),
    ),
)
"""What the same students hand in for the second brief."""
WALKED = core.Stride(start_x=480, ground=462, leg=200, body=120, step=150, frames=12, steps=4, rise=10, lift=15)
_STROKES = (("strokes", True),)
ROUNDS = (
    Pupil(login="ayumi", name="Ayumi Torrance", look="pencil", faults=("contact.slides",), seed=9, stride=WALKED),
    Pupil(
        login="kofi",
        name="Kofi Lindqvist",
        look="clean",
        faults=("contact.gap",),
        seed=2,
        stride=replace(WALKED, frames=10, step=165, bend=0.015),
    ),
    Pupil(
        login="safiya",
        name="Safiya Brandão",
        look="cel",
        seed=3,
        stride=replace(WALKED, rise=14, frames=14),
        drawn=(("pale_far", 0.4),),
    ),
    Pupil(
        login="mateus",
        name="Mateus Ilves",
        look="harbour",
        faults=("arc.off_path", "volume.changes"),
        seed=6,
        stride=replace(WALKED, lift=22),
    ),
    Pupil(
        login="niamh",
        name="Niamh Adeyemi",
        look="night",
        faults=("timing.limps",),
        seed=5,
        stride=WALKED,
        drawn=_STROKES,
    ),
    Pupil(
        login="ravi",
        name="Ravi Kestrel",
        look="cut-out",
        form="gif",
        faults=("timing.hold",),
        seed=3,
        stride=replace(WALKED, frames=14, step=140),
    ),
    Pupil(
        login="yulia",
        name="Yulia Marchbank",
        look="marker",
        faults=("volume.length",),
        seed=7,
        stride=WALKED,
        drawn=(("limb_px", 16.0), ("pale_far", 0.0)),
    ),
    Pupil(
        login="tane",
        name="Tane Oyelaran",
        look="outline",
        faults=("form.backwards",),
        seed=8,
        stride=WALKED,
        drawn=(*_STROKES, ("bundle", 2.0)),
    ),
)
"""What they hand in for the third. What Tane's figure carries hides it, until somebody places one drawing of it."""
ROUNDED = core.Stride(
    start_x=480,
    ground=478,
    leg=165,
    body=105,
    step=130,
    rise=8,
    lift=14,
    bend=0.035,
    lean=3,
    arms=24,
    frames=12,
    steps=4,
)
WHOLE = core.WalkBrief(figure="whole", direction="right")
LETTERS = (
    Pupil(
        login="kofi",
        name="Kofi Lindqvist",
        look="clean",
        faults=("timing.opposite",),
        seed=2,
        stride=ROUNDED,
        walks=WHOLE,
    ),
    Pupil(
        login="safiya",
        name="Safiya Brandão",
        look="cel",
        faults=("arc.off_path",),
        seed=3,
        stride=replace(ROUNDED, frames=14),
        walks=WHOLE,
    ),
    Pupil(login="yulia", name="Yulia Marchbank", look="marker", seed=7, stride=ROUNDED, walks=WHOLE),
)
"""What some of them hand in for the fifth, a whole figure."""
STRUNG = core.Swing(
    pivot_x=480, pivot_y=60, length=320, wide=38, angle=-38, count=4, keeps=0.88, swing_s=0.8, follows=2.0
)
THREE = core.PendulumBrief(hangs="chain", links=3)
STRINGS = (
    Pupil(
        login="ayumi",
        name="Ayumi Torrance",
        look="pencil",
        faults=("overlap.stiff",),
        seed=4,
        swing=STRUNG,
        hangs=THREE,
    ),
    Pupil(
        login="kofi",
        name="Kofi Lindqvist",
        look="clean",
        seed=2,
        swing=replace(STRUNG, angle=34, follows=2.5),
        hangs=THREE,
    ),
    Pupil(
        login="niamh",
        name="Niamh Adeyemi",
        look="night",
        faults=("overlap.leads",),
        seed=5,
        swing=replace(STRUNG, wide=26, size=64, weighted=True),
        hangs=THREE,
    ),
    Pupil(
        login="tane",
        name="Tane Oyelaran",
        look="marker",
        faults=("volume.length",),
        seed=6,
        swing=STRUNG,
        hangs=THREE,
    ),
)
"""What some of them hand in for the fourth, a chain."""
