"""What a brief says: what moves and how, what counts and how much, and on what terms takes are handed in."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from motion.findings import PRINCIPLES

SCHEMA = "nettlecap.brief/1"
EXPOSURES = ("ones", "twos", "free")
MATERIALS = ("hard", "firm", "soft")
STARTS = ("dropped", "thrown")
ENDS = ("settling", "rolling", "leaving", "top", "cycle")
LATE = ("taken", "refused")
MARKED_BY = ("share", "all")
SHOWN = ("all", "path", "ground", "nothing")
STRICTNESS_SCALE = {"gentle": 1.6, "standard": 1.0, "strict": 0.6}
CANVAS = (960, 540)
"""The frame that a guide is drawn for where the brief fixes none."""
FULL_POINTS = 10.0

Exposure = Literal["ones", "twos", "free"]
Material = Literal["hard", "firm", "soft"]
Strictness = Literal["gentle", "standard", "strict"]
Start = Literal["dropped", "thrown"]
End = Literal["settling", "rolling", "leaving", "top", "cycle"]
MarkedBy = Literal["share", "all"]
Late = Literal["taken", "refused"]
Shown = Literal["all", "path", "ground", "nothing"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BounceBrief:
    """What a bouncing-ball brief asks for beyond the common part.

    ``restitution`` is the allowed range of speed after a contact over speed before it, 0 to 1.
    """

    material: Material = "soft"
    hops: int | None = None
    restitution: tuple[float, float] | None = None
    diameter_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Feel:
    """How the ideal bounce of the guide goes. Lengths in px of the brief's frame.

    ``height`` is how high the underside of the ball is above the ground at its first top; ``distance`` how far the
    ball gets across (0 in place, below 0 to the left; for one that leaves only its sign counts); ``start_x`` where
    its centre is on the first drawing, None: so that the whole stands in the middle. ``contacts`` is the most, None:
    as many as it has in it. ``keeps`` is the share of its speed kept at each contact. ``hop_s`` is how many seconds a
    hop of the full height takes, contact to contact; None: from the ball's real size. ``stretch`` and ``squash`` are
    the greatest ratios of the axes in the air and on the ground; ``hang`` how many frames each later top is held;
    ``ticks`` which drawings (from 1) stand at which share of the way between their keys, where that was set by hand.
    """

    diameter: float = 60.0
    height: float = 320.0
    distance: float = 600.0
    start_x: float | None = None
    ground_y: float = 450.0
    start: Start = "dropped"
    end: End = "top"
    contacts: int | None = 3
    keeps: float = 0.8
    hop_s: float | None = 0.7
    stretch: float = 1.3
    squash: float = 1.35
    hang: int = 0
    ticks: tuple[tuple[int, float], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Marking:
    """Points per principle (none for one that is not marked), and weights of single faults where not 1.

    A fault of weight 0 is not marked yet: it is looked for, but costs nothing and is not put to the student.
    """

    points: tuple[tuple[str, float], ...] = tuple((p, FULL_POINTS) for p in PRINCIPLES)
    weights: tuple[tuple[str, float], ...] = ()

    def weight(self, code: str) -> float:
        """How much a fault counts."""
        return dict(self.weights).get(code, 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Terms:
    """On what terms takes are handed in, and what students see of the guide.

    ``takes`` is how many at most, None: any number. ``late`` says whether takes after the due date are taken, and
    ``late_cost`` what share of the points that costs. ``own_checks`` is how often a student may run the checks
    before handing in, None: as often as they like. ``guide`` is what they see of the guide, ``guide_after`` once it
    was due. ``marked_by`` says whether assistants change only the clips of their own share of the marking, or all.
    """

    takes: int | None = None
    late: Late = "taken"
    late_cost: float = 0.0
    own_checks: int | None = 0
    guide: Shown = "all"
    guide_after: Shown = "all"
    marked_by: MarkedBy = "share"


@dataclass(frozen=True, slots=True, kw_only=True)
class Brief:
    """One exercise as set. ``frames`` is (least, most), ``canvas`` (width, height) in px."""

    exercise: Literal["bounce"] = "bounce"
    title: str = ""
    words: str = ""
    fps: float = 24.0
    exposure: Exposure = "free"
    frames: tuple[int, int] | None = None
    loop: bool = False
    canvas: tuple[int, int] | None = None
    strictness: Strictness = "standard"
    ground_y: float | None = None
    bounce: BounceBrief = field(default_factory=BounceBrief)
    guide: Feel | None = None
    marking: Marking = field(default_factory=Marking)
    terms: Terms = field(default_factory=Terms)

    @property
    def leniency(self) -> float:
        """The factor on every tolerance that the strictness stands for."""
        return STRICTNESS_SCALE[self.strictness]

    @property
    def frame_size(self) -> tuple[int, int]:
        """(width, height) px that the guide is drawn for."""
        return self.canvas or CANVAS

    def what_is_analysed(self) -> tuple[Any, ...]:
        """All that bears on what is found in a clip; a change of anything else needs no new analysis."""
        return (
            self.exercise,
            self.fps,
            self.exposure,
            self.frames,
            self.loop,
            self.canvas,
            self.strictness,
            self.ground_y,
            self.bounce,
            self.guide,
        )

    def to_json(self) -> dict[str, Any]:
        """The brief as the JSON object of the file format, every key present."""
        b = self.bounce
        return {
            "schema": SCHEMA,
            "exercise": self.exercise,
            "title": self.title,
            "words": self.words,
            "fps": self.fps,
            "exposure": self.exposure,
            "frames": {"min": self.frames[0], "max": self.frames[1]} if self.frames else None,
            "loop": self.loop,
            "canvas": {"width": self.canvas[0], "height": self.canvas[1]} if self.canvas else None,
            "strictness": self.strictness,
            "ground_y": self.ground_y,
            "bounce": {
                "material": b.material,
                "hops": b.hops,
                "restitution": list(b.restitution) if b.restitution else None,
                "diameter_m": b.diameter_m,
            },
            "guide": feel_to_json(self.guide) if self.guide else None,
            "marking": {"points": dict(self.marking.points), "weights": dict(self.marking.weights)},
            "terms": {name: getattr(self.terms, name) for name in Terms.__dataclass_fields__},
        }


def feel_to_json(feel: Feel) -> dict[str, Any]:
    """A guide's feel as the JSON object ``guide`` of the brief file."""
    values: dict[str, Any] = {name: getattr(feel, name) for name in Feel.__dataclass_fields__}
    return {**values, "ticks": {str(number): share for number, share in feel.ticks}}
