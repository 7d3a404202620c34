"""What a walk brief asks for, and how the ideal walk of its guide goes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from motion.brief.declare import choice, number, several, span, whole
from motion.brief.limits import MAX_SIDE

Figure = Literal["legs", "whole"]
Path = Literal["in_place", "across"]
Direction = Literal["left", "right"]
Sides = Literal["told", "same"]
Arms = Literal["opposite"]
Excused = Literal["rise", "knees", "limp", "arms"]


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkBrief:
    """What a walk brief asks for beyond the common part."""

    exercise: ClassVar[str] = "walk"

    figure: Figure = choice(
        "legs",
        ("legs", "a body on two legs"),
        ("whole", "head, trunk, arms and legs"),
        label="The figure",
        group="asked",
        meaning="a body on two legs with feet, or head, trunk, arms and legs",
    )
    path: Path = choice(
        "in_place",
        ("in_place", "walks in place"),
        ("across", "crosses the picture"),
        label="It",
        group="asked",
        meaning="whether the ground passes under the figure, or the figure travels",
    )
    direction: Direction | None = choice(
        None,
        ("right", "to the right"),
        ("left", "to the left"),
        label="It faces",
        group="asked",
        meaning="which way it faces; null: find out",
    )
    sides: Sides = choice(
        "told",
        ("told", "in two tones or colours"),
        ("same", "alike"),
        label="Near and far leg are drawn",
        group="asked",
        meaning="whether near and far side are drawn in different tones or colours",
    )
    step_frames: tuple[float, float] | None = span(
        1.0,
        200.0,
        label="Frames a step",
        help="From one foot’s contact to the other’s. Empty: any.",
        group="asked",
        meaning="allowed frames from one foot's contact to the other's",
    )

    rise_share: tuple[float, float] | None = span(
        0.0,
        0.5,
        label="Rise and fall (share of the leg)",
        help="From the lowest hips to the highest. Empty: any, but some.",
        group="asked",
        meaning="asked rise and fall of the hips over a step, as a share of the leg; null: any that is not flat",
    )
    knee_degrees: tuple[float, float] | None = span(
        0.0,
        120.0,
        label="The straightest knee bends by (degrees)",
        help="A stiff march 0 to 15, a sneak 40 to 80. Empty: any.",
        group="asked",
        meaning="by how many degrees the straightest knee of a step is to be bent; null: any",
    )
    lean_degrees: tuple[float, float] | None = span(
        -45.0,
        60.0,
        label="It leans forward by (degrees)",
        help="Below 0: back. Empty: any.",
        group="asked",
        meaning="by how many degrees body or trunk is to lean forward; null: any",
    )
    limp_frames: tuple[float, float] | None = span(
        0.0,
        60.0,
        label="One step takes longer by (frames)",
        help="For a limp that is asked for. Empty: both take as long.",
        group="asked",
        meaning="a limp that is asked for: by how many frames one step takes longer than the other; null: none",
    )
    arm_swing: Arms | None = choice(
        None,
        ("opposite", "swing, each against its leg"),
        label="Its arms",
        group="asked",
        when=(("figure", "whole"),),
        meaning="whether arms must swing, each against the leg of its side; null: as they do, if they swing",
    )
    excused: tuple[Excused, ...] = several(
        ("rise", "it glides, or sinks at another moment"),
        ("knees", "a knee snaps straight"),
        ("limp", "it limps: uneven steps"),
        ("arms", "arms swing evenly, or with their legs"),
        label="It is no fault where",
        group="asked",
        meaning="what is not judged: rise and fall, knees that snap, uneven steps, how arms swing",
    )

    def contradictions(self) -> dict[str, str]:
        """What is asked that cannot be so at once, by key."""
        both = {"rise": self.rise_share, "limp": self.limp_frames, "arms": self.arm_swing}
        if any(both.get(one) is not None for one in self.excused):
            return {"excused": "The same cannot be asked for and excused. Take one of them back."}
        return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Stride:
    """How the ideal walk of the guide goes.

    Lengths in px of the brief's frame; shares are of the leg's length, from hip to ankle when straight.
    """

    start_x: float = number(
        480.0,
        0,
        MAX_SIDE,
        px="x",
        label="Hips from the left (px)",
        help="Across: where they are on the first frame.",
        group="way",
        meaning="the hips on the first frame, from the left",
    )
    ground: float = number(
        470.0, 16, MAX_SIDE, px="y", label="Ground from the top (px)", group="way", meaning="the ground, from the top"
    )
    leg: float = number(
        190.0,
        40,
        2000,
        px="fit",
        label="Leg (px)",
        help="From hip to ankle, straight.",
        group="thing",
        meaning="from hip to ankle when straight",
    )
    body: float = number(
        110.0,
        16,
        2000,
        px="fit",
        label="Body high (px)",
        help="Of a whole figure its trunk, from hip to neck.",
        group="thing",
        meaning="the body's height; of a whole figure its trunk's, from hip to neck",
    )
    step: float = number(
        150.0,
        10,
        3000,
        px="fit",
        label="A step (px)",
        help="From where one foot stands to where the other does.",
        group="way",
        meaning="from where one foot stands to where the other does",
    )
    frames: int = whole(12, 4, 60, label="A step takes (frames)", group="way", meaning="how many frames a step takes")
    steps: int = whole(
        4, 2, 40, label="Steps", help="A cycle has two.", group="way", meaning="how many steps it makes; a cycle two"
    )
    rise: float = number(
        8.0,
        0,
        400,
        px="fit",
        label="Rise and fall (px)",
        help="From the lowest hips, after the contact, to the highest.",
        group="way",
        meaning="from the lowest hips to the highest",
    )
    bend: float = number(
        0.03,
        0.004,
        0.3,
        label="Knees stay bent by",
        help="Share of the leg by which it is never quite straight: 0.01 stiff, 0.1 a sneak.",
        group="thing",
        meaning="share of the leg's length by which it is never quite straight",
    )
    lift: float = number(
        14.0,
        0,
        600,
        px="fit",
        label="Lift of the foot (px)",
        help="How high its sole passes above the ground.",
        group="way",
        meaning="how high the swinging foot's sole passes above the ground",
    )
    roll: float = number(
        22.0,
        0,
        50,
        label="The foot rolls by (degrees)",
        help="Toes up at the contact; 0: it lands flat.",
        group="thing",
        meaning="by how much the toes are up at the contact, degrees; it leaves over its toe by twice that",
    )
    lean: float = number(
        0.0,
        -30,
        30,
        label="Body leans (degrees)",
        help="Forward.",
        group="thing",
        meaning="how far the body leans forward, degrees",
    )
    limp: int = whole(
        0,
        0,
        60,
        label="One step takes longer by (frames)",
        help="A limp: it stands longer on the near foot than on the far one.",
        group="way",
        meaning="by how many frames the step from the near foot takes longer than the one from the far foot",
    )
    arms: float = number(
        22.0,
        0,
        70,
        label="Arms swing by (degrees)",
        help="Either way, of a whole figure; each against the leg of its own side.",
        group="thing",
        meaning="of a whole figure, by how many degrees its arms swing either way",
    )
