"""How a clip is drawn: paper, ink, ground, hand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

Colour = tuple[int, int, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """One way of drawing. Colours are red, green, blue; widths in px.

    ``wobble`` is the unsteadiness of the hand as a share of the size, ``jitter`` how far it misplaces the
    centre, ``grain`` the paper's noise in levels. ``paper`` None is transparency; ``scenery`` paints a still view
    behind. ``fill`` None leaves the subject unfilled. ``drift`` is how unsteadily the paper lies under the camera, px,
    ``flicker`` how much its light wavers, as a share; ``register`` shows the paper's peg holes.

    Of a figure with limbs: ``strokes`` draws each as one stroke, ``limb_px`` wide in a frame of 960 px, else they are
    shapes twice as wide; ``pale_far`` is by which share the far side's colours go over into the paper's. ``bundle`` is
    how large what it carries on its back is, in bodies; 0 where it carries nothing.
    """

    name: str
    paper: Colour | None = (255, 255, 255)
    scenery: bool = False
    fill: Colour | None = (205, 120, 60)
    outline: Colour | None = (30, 34, 30)
    outline_px: float = 3.0
    shade: float = 0.0
    two_toned: bool = False
    ground: Literal["none", "line", "floor"] = "line"
    ground_colour: Colour = (40, 44, 40)
    ground_px: float = 3.0
    ground_wobble: float = 0.0
    wobble: float = 0.0
    jitter: float = 0.0
    grain: float = 0.0
    shadow: bool = False
    texture: Literal["stripes", "hatch"] | None = None
    speed_lines: bool = False
    register: bool = False
    drift: float = 0.0
    flicker: float = 0.0
    strokes: bool = False
    limb_px: float = 10.0
    pale_far: float = 0.5
    bundle: float = 0.0


LOOKS = {
    look.name: look
    for look in (
        Look(name="clean"),
        Look(name="outline", fill=None),
        Look(
            name="pencil",
            fill=None,
            outline=(95, 95, 100),
            outline_px=2.0,
            paper=(248, 245, 236),
            wobble=0.008,
            jitter=0.006,
            ground_px=2.0,
            ground_wobble=0.5,
            ground_colour=(110, 110, 112),
        ),
        Look(
            name="cut-out",
            outline=None,
            fill=(60, 90, 140),
            paper=(240, 232, 214),
            ground="floor",
            ground_colour=(190, 172, 140),
        ),
        Look(name="cel", paper=None, fill=(220, 90, 80), shade=0.35),
        Look(name="cel outline", paper=None, fill=None, outline_px=4.0),
        Look(name="harbour", scenery=True, fill=(225, 150, 60), wobble=0.006),
        Look(
            name="night", paper=(28, 34, 44), fill=(70, 80, 100), outline=(235, 230, 215), ground_colour=(200, 200, 190)
        ),
        Look(name="no ground", ground="none", fill=None, wobble=0.006),
        Look(
            name="marker", fill=(120, 160, 90), outline_px=5.0, wobble=0.01, jitter=0.008, ground_px=5.0, two_toned=True
        ),
        Look(
            name="scan",
            fill=None,
            outline=(70, 70, 76),
            outline_px=2.5,
            paper=(236, 233, 225),
            grain=3.0,
            wobble=0.008,
            jitter=0.006,
            ground_colour=(90, 90, 94),
        ),
        Look(name="shadow", fill=(200, 180, 90), shadow=True, wobble=0.005),
        Look(name="striped", fill=(232, 214, 180), outline=(60, 40, 36), texture="stripes", wobble=0.004),
        Look(name="hatched", fill=None, outline=(70, 70, 76), outline_px=2.0, texture="hatch", wobble=0.006),
        Look(name="speed lines", fill=(205, 120, 60), speed_lines=True),
        Look(name="speed lines, outline", fill=None, outline_px=2.5, speed_lines=True, wobble=0.005),
        Look(
            name="photographed",
            fill=None,
            outline=(66, 66, 72),
            outline_px=2.5,
            paper=(226, 220, 208),
            grain=2.5,
            wobble=0.006,
            ground_colour=(90, 90, 94),
            ground_wobble=0.5,
            register=True,
            drift=1.2,
            flicker=0.015,
        ),
        Look(
            name="photographed, filled",
            fill=(150, 96, 70),
            outline=(60, 50, 46),
            paper=(230, 226, 214),
            grain=2.0,
            register=True,
            drift=0.8,
            flicker=0.01,
            ground="floor",
            ground_colour=(150, 138, 118),
        ),
        Look(name="drift", fill=(90, 130, 110), paper=(244, 242, 236), drift=1.0, register=True),
    )
}


LEAST_CONTRAST = 55
"""How far ink must stand out from paper, in levels of its largest channel, to be visible to a person at all."""


def random_look(rng: np.random.Generator) -> Look:
    """A look that nobody chose: any paper, ink and ground that a person could still see."""
    paper = [None, _colour(rng, 215, 255), _colour(rng, 120, 215), _colour(rng, 5, 60)][
        int(rng.choice(4, p=[0.2, 0.5, 0.15, 0.15]))
    ]
    behind = paper or (0, 0, 0)
    outlined, filled = ((True, False), (False, True), (True, True))[int(rng.integers(3))]
    ground: Literal["none", "line", "floor"] = ("none", "line", "floor")[int(rng.choice(3, p=[0.15, 0.6, 0.25]))]
    fill = _away_from(rng, behind, paper) if filled else None
    return Look(
        name="random",
        paper=paper,
        fill=fill,
        outline=_away_from(rng, behind, paper) if outlined else None,
        outline_px=float(rng.uniform(1.2, 7.0)),
        shade=float(rng.choice([0.0, 0.3])),
        # A half that nobody can see has no edge to judge.
        two_toned=bool(rng.random() < 0.2) and (outlined or _shows(fill, paper)),
        ground=ground,
        ground_colour=_away_from(rng, behind, paper),
        ground_px=float(rng.uniform(1.0, 7.0)),
        ground_wobble=float(rng.choice([0.0, 0.5])),
        wobble=float(rng.uniform(0.0, 0.01)),
        jitter=float(rng.uniform(0.0, 0.008)),
        grain=float(rng.choice([0.0, 0.0, rng.uniform(1.0, 5.0)])) if paper else 0.0,
        # Through an unfilled subject its own shadow would show.
        shadow=bool(filled and rng.random() < 0.12),
    )


def second_tone(fill: Colour) -> Colour:
    """The lighter half of a two-toned subject."""
    red, green, blue = (min(255, c + 90) for c in fill)
    return red, green, blue


def _shows(fill: Colour | None, paper: Colour | None) -> bool:
    """Whether the lighter half of a subject without an outline shows; on transparency any does."""
    return fill is None or paper is None or _stands_out(second_tone(fill), paper)


def _stands_out(colour: Colour, behind: Colour) -> bool:
    return max(abs(a - b) for a, b in zip(colour, behind, strict=True)) >= LEAST_CONTRAST


def _colour(rng: np.random.Generator, low: int, high: int) -> Colour:
    red, green, blue = (int(v) for v in rng.integers(low, high, 3))
    return red, green, blue


def _away_from(rng: np.random.Generator, behind: Colour, paper: Colour | None) -> Colour:
    """A colour that shows on the paper; on transparency any does."""
    while True:
        colour = _colour(rng, 0, 256)
        if paper is None or _stands_out(colour, behind):
            return colour
