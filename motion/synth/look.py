"""How a clip is drawn: paper, ink, ground, hand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Colour = tuple[int, int, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """One way of drawing. Colours are red, green, blue; widths in px.

    ``wobble`` is the unsteadiness of the hand as a share of the diameter, ``jitter`` how far it misplaces the
    centre, ``grain`` the paper's noise in levels. ``paper`` None is transparency; ``scenery`` paints a still view
    behind. ``fill`` None leaves the ball unfilled.
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
    )
}
