"""What a pendulum brief asks for, and how the ideal swing of its guide goes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from motion.brief.declare import choice, flag, number, shares, span, whole
from motion.brief.limits import MAX_SIDE

Hangs = Literal["bob", "chain", "tail"]
Pivot = Literal["fixed", "moved"]
SwingEnd = Literal["extreme", "settling", "cycle"]
_PARTS = (("hangs", "chain"), ("hangs", "tail"))
_FIXED, _CARRIED = (("pivot", "fixed"),), (("pivot", "moved"),)


@dataclass(frozen=True, slots=True, kw_only=True)
class PendulumBrief:
    """What a pendulum brief asks for beyond the common part."""

    exercise: ClassVar[str] = "pendulum"

    hangs: Hangs = choice(
        "bob",
        ("bob", "a weight on a line"),
        ("chain", "stiff links"),
        ("tail", "one bending part"),
        label="It is",
        group="thing",
        meaning="a weight on a line, stiff links, or one bending part",
    )
    links: int | None = whole(
        None,
        2,
        6,
        label="Links",
        help="Empty: however many are drawn; the guide has three.",
        group="thing",
        when=(("hangs", "chain"),),
        meaning="how many links a chain has; null: find out",
    )
    pivot: Pivot = choice(
        "fixed",
        ("fixed", "stays where it is"),
        ("moved", "is carried"),
        label="Its pivot",
        help="What is carried hangs still at first, and swings when its base goes off and stops.",
        group="thing",
        meaning="whether the point from which it hangs stays",
    )
    drag: bool | None = flag(
        None,
        label="Later parts must drag",
        group="asked",
        when=_PARTS,
        meaning="whether later parts must come later; null: true for a chain and a tail, false for a bob",
    )
    rest_angle: float = number(
        0.0,
        -60.0,
        60.0,
        label="Rest line leans (degrees)",
        help="From straight down, to the right.",
        group="asked",
        meaning="how far the rest line leans from straight down, degrees, to the right",
    )
    swings: int | None = whole(
        None,
        1,
        200,
        label="Swings asked for",
        help="From one extreme to the next. Empty: any number.",
        group="asked",
        meaning="how many swings, extreme to extreme, are asked for",
    )
    keeps: tuple[float, float] | None = span(
        label="Keeps at least",
        help="Share of the angle, 0 to 1. Empty: any.",
        group="asked",
        meaning="the share of the angle that may be kept from one extreme to the next",
    )
    length_m: float | None = number(
        None,
        0.01,
        1000.0,
        label="Real length (m)",
        help="From the pivot to the weight. Given, its weight is judged too.",
        group="thing",
        meaning="the real length from pivot to weight, m; given, gravity is checked",
    )

    def contradictions(self) -> dict[str, str]:
        """What is asked that cannot be so at once, by key: nothing."""
        return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Swing:
    """How the ideal swing of the guide goes. Lengths in px of the brief's frame, angles in degrees.

    ``angle`` is the first extreme's, from the rest line, below 0 to the left. ``count`` is how many swings it makes,
    from one extreme to the next; ``swing_s`` None: as long as gravity has it at the real length. Of a chain or a tail:
    ``follows`` by how many frames each part comes after the one above (a tail has four), ``bend`` by what share it
    swings farther than that; ``wide`` and ``thin`` how wide it is at the pivot and at its end, ``weighted`` whether a
    weight hangs there. What is carried hangs still below its pivot at first; its base carries it ``carry`` px to the
    right in ``carry_s``, and gathers speed and slows down over the share ``eases`` of that time each. ``count`` are the
    swings that it makes by itself then.
    """

    pivot_x: float = number(
        480.0, 0, MAX_SIDE, px="x", label="Pivot from the left (px)", group="way", meaning="the pivot, from the left"
    )
    pivot_y: float = number(
        60.0, 0, MAX_SIDE, px="y", label="Pivot from the top (px)", group="way", meaning="the pivot, from the top"
    )
    length: float = number(
        320.0,
        16,
        MAX_SIDE,
        px="fit",
        label="Line (px)",
        help="From the pivot to the middle of the weight, or to the end.",
        group="thing",
        meaning="from the pivot to the weight's centre, or to the end of what hangs straight",
    )
    wide: float = number(
        20.0,
        2,
        400,
        px="fit",
        label="Wide at the pivot (px)",
        group="thing",
        when=_PARTS,
        meaning="how wide the links are, or a tail at its pivot",
    )
    thin: float = number(
        8.0,
        2,
        400,
        px="fit",
        label="Wide at the end (px)",
        group="thing",
        when=(("hangs", "tail"),),
        meaning="how wide a tail is at its end",
    )
    weighted: bool = flag(
        False,
        label="With a weight at its end",
        group="thing",
        when=_PARTS,
        meaning="whether a weight hangs at the end of a chain or a tail",
    )
    size: float = number(
        64.0,
        8,
        2000,
        px="fit",
        label="Weight across (px)",
        group="thing",
        when=(("hangs", "bob"), ("weighted", "on")),
        meaning="the drawn weight",
    )
    angle: float = number(
        -40.0,
        -85.0,
        85.0,
        label="First extreme (degrees)",
        help="From the rest line. Below 0: to the left.",
        group="way",
        when=_FIXED,
        meaning="the first extreme's angle from the rest line, below 0 to the left",
    )
    carry: float = number(
        360.0,
        -MAX_SIDE,
        MAX_SIDE,
        px="x",
        label="Carried to the right by (px)",
        help="Below 0: to the left.",
        group="way",
        when=_CARRIED,
        meaning="how far its base carries it to the right, below 0 to the left",
    )
    carry_s: float = number(
        1.0,
        0.2,
        20.0,
        label="in (s)",
        group="way",
        when=_CARRIED,
        meaning="how long its base is on its way, s",
    )
    eases: float = number(
        0.35,
        0.05,
        0.5,
        label="Its base gathers speed over (share)",
        help="Of its time, and slows down over as much. 0.5: all the way.",
        group="way",
        when=_CARRIED,
        meaning="over which share of its time its base gathers speed, and slows down",
    )
    count: int = whole(
        4, 1, 60, label="Swings", help="From one extreme to the next.", group="way", meaning="how many swings it makes"
    )
    keeps: float = number(
        0.92,
        0.3,
        1.0,
        label="Keeps of its angle",
        help="Share kept from one extreme to the next, 0 to 1.",
        group="thing",
        meaning="share of the angle kept from one extreme to the next",
    )
    swing_s: float | None = number(
        0.8,
        0.1,
        20.0,
        open=True,
        label="A swing takes (s)",
        help="From one extreme to the next. Empty: it follows from the real length.",
        group="thing",
        meaning="how long a swing takes, s; null: from the real length, by 9.81 m/s²",
    )
    follows: float = number(
        2.0,
        0.0,
        12.0,
        label="Each part comes later by (frames)",
        help="Than the one above; a tail counts as four parts.",
        group="way",
        when=_PARTS,
        meaning="by how many frames each link, or each quarter of a tail, comes after the one above",
    )
    bend: float = number(
        0.0,
        0.0,
        0.5,
        label="and swings farther by (share)",
        help="0: as far as the one above.",
        group="way",
        when=_PARTS,
        meaning="by what share each part swings farther than the one above",
    )
    end: SwingEnd = choice(
        "extreme",
        ("extreme", "at an extreme"),
        ("settling", "coming to rest"),
        ("cycle", "where it began, in a cycle"),
        label="It ends",
        group="way",
        meaning="how it ends",
    )
    hang: int = whole(
        0,
        0,
        12,
        label="Hold the extremes (frames)",
        group="thing",
        meaning="how many frames longer each extreme is held",
    )
    ticks: tuple[tuple[int, float], ...] = shares(
        meaning="drawings (from 1) set by hand at a share of the way between their keys"
    )
