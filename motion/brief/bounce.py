"""What a bouncing-ball brief asks for, and how the ideal bounce of its guide goes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from motion.brief.declare import choice, number, shares, span, whole
from motion.brief.limits import MAX_SIDE

Material = Literal["hard", "firm", "soft"]
Start = Literal["dropped", "thrown"]
End = Literal["settling", "rolling", "leaving", "top", "cycle"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BounceBrief:
    """What a bouncing-ball brief asks for beyond the common part."""

    exercise: ClassVar[str] = "bounce"

    material: Material = choice(
        "soft",
        ("hard", "Hard"),
        ("firm", "Firm"),
        ("soft", "Soft"),
        label="Material",
        help="Hard keeps its shape, firm nearly, soft must show it.",
        group="thing",
        meaning="how much of its shape it may and must change",
    )
    hops: int | None = whole(
        None,
        1,
        200,
        label="Contacts asked for",
        help="Empty: any number.",
        group="asked",
        meaning="how many contacts are asked for",
    )
    restitution: tuple[float, float] | None = span(
        label="Keeps at least",
        help="Share of speed, 0 to 1. Empty: any.",
        group="asked",
        meaning="the share of speed that a contact may keep",
    )
    diameter_m: float | None = number(
        None,
        0.001,
        100.0,
        label="Real size (m)",
        help="Across. Given, its weight is judged too.",
        group="thing",
        meaning="the ball's real size, m; given, gravity is checked",
    )

    def contradictions(self) -> dict[str, str]:
        """What is asked that cannot be so at once, by key: nothing."""
        return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Feel:
    """How the ideal bounce of the guide goes. Lengths in px of the brief's frame.

    ``start_x`` None: so that the whole stands in the middle. ``contacts`` None: as many as it has in it. ``hop_s``
    None: from the ball's real size. Of a ball that leaves only the sign of its ``distance`` counts.
    """

    diameter: float = number(60.0, 8, 2000, px="fit", label="Ball across (px)", group="thing", meaning="the drawn ball")
    height: float = number(
        320.0,
        1,
        MAX_SIDE,
        px="fit",
        label="First top (px)",
        help="Under the ball, above the ground.",
        group="thing",
        meaning="its underside above the ground at the first top",
    )
    distance: float = number(
        600.0,
        -MAX_SIDE,
        MAX_SIDE,
        px="fit",
        label="Goes across (px)",
        help="0: in place. Below 0: to the left.",
        group="way",
        meaning="how far it gets across; 0 in place, below 0 to the left",
    )
    start_x: float | None = number(
        None,
        -MAX_SIDE,
        2 * MAX_SIDE,
        px="fit",
        label="Begins at (px)",
        help="From the left. Empty: so that all stands in the middle.",
        group="way",
        meaning="where it begins; null: so that all stands in the middle",
    )
    ground_y: float = number(
        450.0, 1, MAX_SIDE, px="y", label="Ground (px from the top)", group="still", meaning="the ground"
    )
    start: Start = choice(
        "dropped",
        ("dropped", "let go at the top"),
        ("thrown", "thrown in"),
        label="It begins",
        group="way",
        meaning="let go at the top, or thrown in, rising",
    )
    end: End = choice(
        "top",
        ("top", "at a top"),
        ("settling", "settling"),
        ("rolling", "rolling on"),
        ("leaving", "leaving the frame"),
        ("cycle", "where it began, in a cycle"),
        label="It ends",
        group="way",
        meaning="how it ends",
    )
    contacts: int | None = whole(
        3,
        1,
        30,
        open=True,
        label="Contacts at most",
        help="Empty: as many as it has in it.",
        group="thing",
        meaning="the most contacts; null: as many as it has in it",
    )
    keeps: float = number(
        0.8,
        0.1,
        1.0,
        label="Keeps of its speed",
        help="Share kept at each contact, 0 to 1.",
        group="thing",
        meaning="share of speed kept at a contact",
    )
    hop_s: float | None = number(
        0.7,
        0.1,
        20.0,
        open=True,
        label="A full hop takes (s)",
        help="Empty: it follows from the real size.",
        group="thing",
        meaning="how long a hop of the full height takes, s; null: from the real size, by 9.81 m/s²",
    )
    stretch: float = number(
        1.3,
        1.0,
        2.0,
        label="Most stretch",
        help="Long over short, in the air.",
        group="way",
        meaning="greatest ratio of the axes in the air (a hard ball has none)",
    )
    squash: float = number(
        1.35,
        1.0,
        2.5,
        label="Most squash",
        help="Long over short, on the ground.",
        group="way",
        meaning="greatest ratio of the axes on the ground (a hard ball has none)",
    )
    hang: int = whole(
        0, 0, 12, label="Hold the tops (frames)", group="thing", meaning="how many frames longer each later top is held"
    )
    ticks: tuple[tuple[int, float], ...] = shares(
        meaning="drawings (from 1) set by hand at a share of the way between their keys"
    )
