"""What a brief says: what moves and how, what counts and how much, and on what terms takes are handed in."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from motion.brief import declare
from motion.brief.bounce import BounceBrief, Feel
from motion.brief.pendulum import PendulumBrief, Swing
from motion.brief.walk import Stride, WalkBrief
from motion.catalogue import PRINCIPLES

SCHEMA = "nettlecap.brief/1"
EXPOSURES = ("ones", "twos", "free")
LATE = ("taken", "refused")
MARKED_BY = ("share", "all")
SHOWN = ("all", "path", "ground", "nothing")
STRICTNESS_SCALE = {"gentle": 1.6, "standard": 1.0, "strict": 0.6}
Asked = BounceBrief | PendulumBrief | WalkBrief
"""What each exercise's brief asks for beyond the common part."""
Ideal = Feel | Swing | Stride
"""How each exercise's ideal motion goes."""
EXERCISES: dict[str, tuple[type[Asked], type[Ideal]]] = {
    "bounce": (BounceBrief, Feel),
    "pendulum": (PendulumBrief, Swing),
    "walk": (WalkBrief, Stride),
}
"""What a brief of each exercise holds under the exercise's own name, and under ``guide``."""
CANVAS = (960, 540)
"""The frame that a guide is drawn for where the brief fixes none."""
FULL_POINTS = 10.0

Exposure = Literal["ones", "twos", "free"]
Strictness = Literal["gentle", "standard", "strict"]
MarkedBy = Literal["share", "all"]
Late = Literal["taken", "refused"]
Shown = Literal["all", "path", "ground", "nothing"]


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
    """One exercise as set. ``frames`` is (least, most), ``canvas`` (width, height) in px.

    ``asked`` is what the exercise asks for beyond that, and tells which one it is.
    """

    title: str = ""
    words: str = ""
    fps: float = 24.0
    exposure: Exposure = "free"
    frames: tuple[int, int] | None = None
    loop: bool = False
    canvas: tuple[int, int] | None = None
    strictness: Strictness = "standard"
    ground_y: float | None = None
    asked: Asked = field(default_factory=BounceBrief)
    guide: Ideal | None = None
    marking: Marking = field(default_factory=Marking)
    terms: Terms = field(default_factory=Terms)

    @property
    def exercise(self) -> str:
        """Which exercise is set, by its key."""
        return self.asked.exercise

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
            self.fps,
            self.exposure,
            self.frames,
            self.loop,
            self.canvas,
            self.strictness,
            self.ground_y,
            self.asked,
            self.guide,
        )

    def to_json(self) -> dict[str, Any]:
        """The brief as the JSON object of the file format, every key present."""
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
            self.exercise: declare.to_json(self.asked),
            "guide": declare.to_json(self.guide) if self.guide else None,
            "marking": {"points": dict(self.marking.points), "weights": dict(self.marking.weights)},
            "terms": {name: getattr(self.terms, name) for name in Terms.__dataclass_fields__},
        }
