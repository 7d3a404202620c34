"""The seam: what an exercise offers, and the only way in which everything else asks it.

Nothing outside an exercise's own rooms (``motion.exercises.<key>``, ``motion.catalogue.<key>``, its brief, its
generator, its templates) speaks of what moves in it. A new exercise is one ``Exercise`` listed in
``motion.exercises.catalogue``.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Generic, Literal, Protocol, TypeVar

from motion.brief import CANVAS, Asked, Brief, Ideal, declare
from motion.clip import Clip, Exposure
from motion.findings import Finding
from motion.ink import Element
from motion.plan import Plan
from motion.track import Track
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress

P = TypeVar("P", bound=Plan)
Planned_contra = TypeVar("Planned_contra", bound=Plan, contravariant=True)
S = TypeVar("S")
Told = dict[str, Any]
Points = tuple[tuple[int, float], ...]
"""(frame, value), in playing order."""
Place = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Nouns:
    """Words for messages and pages: what is set, what moves, one run of it.

    ``thing`` is what a brief says of what moves, as a heading; ``moment`` is what two clips are laid together by,
    ``still`` what it moves against, ``part`` what lies between two such moments.
    """

    exercise: str
    mover: str
    thing: str
    run: str
    moment: str
    still: str
    part: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """Something to start a brief from, made for frames of 960 × 540 px."""

    key: str
    name: str
    words: str
    asked: Asked
    ideal: Ideal


def start_from(preset: Preset, brief: Brief) -> Brief:
    """The brief with a preset's motion, scaled to its frame; rate, exposure and everything else stay."""
    lengths = declare.rescaled(preset.ideal, CANVAS, brief.frame_size)
    ideal = replace(preset.ideal, **lengths)  # type: ignore[arg-type]
    return replace(brief, asked=preset.asked, guide=ideal, loop=False, ground_y=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Handle:
    """What can be taken hold of on the guide: a point, or a level line across the frame, at ``x``, ``y`` px.

    ``ways`` names the axes along which it goes; ``value`` says where it is, in words.
    """

    name: str
    x: float
    y: float
    ways: str
    label: str
    value: str
    line: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """One of several that are charted together: its name, its values, and the frames to be marked on it."""

    name: str
    values: Points
    marked: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """One measure to chart: its values, the model's where it has any, and the band (low, high) of what is allowed.

    ``curves`` are several of a kind to be compared with each other, charted in place of ``values``, which is the first.
    """

    key: str
    name: str
    unit: str
    values: Points
    model: Points = ()
    band: tuple[float, float] | None = None
    curves: tuple[Curve, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Numbered:
    """A drawing as the guide numbers it: its index from 0, its mark, and whether the sheet shows its shape."""

    index: int
    mark: str
    shaped: bool


class Sketch(Protocol[Planned_contra]):
    """How an exercise's ideal is drawn on a guide sheet; ``scale`` is 1 in a frame 960 px wide."""

    def still(self, group: Element, plan: Planned_contra, scale: float) -> None:
        """What stands still: a ground, a pivot."""

    def paths(self, plan: Planned_contra) -> list[list[Place]]:
        """The path of the centre, as lines of points."""

    def across(self, plan: Planned_contra, index: int) -> Place:
        """The unit direction across the path at a drawing, for its tick."""

    def important(self, plan: Planned_contra, keys: Sequence[int]) -> list[int]:
        """The drawings whose shape the sheet shows."""

    def lines(self, plan: Planned_contra, index: int) -> list[list[Place]]:
        """The middle lines of one drawing's parts, px; none where what moves has no parts."""

    def figure(self, group: Element, plan: Planned_contra, index: int) -> None:
        """The outline of one drawing."""

    def number_places(self, plan: Planned_contra, drawing: Numbered, size: float) -> list[Place]:
        """Where a drawing's number may stand, best first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Guided(Generic[P]):
    """The ideal motion of a brief: as a plan, as a chart, as a sheet, in words, and to take hold of.

    ``frames`` is how many a clip usually has, at least and at most.
    ``keys`` are indices of key drawings, ``shares`` how far each in-between is on its way from the key before to the
    key after, ``by_hand`` those that were set by hand, ``free`` whether a drawing can be; ``slow_first`` tells at which
    end of the stretch between two drawings the slow one lies; ``gaps`` are from each drawing to the next, in
    ``gap_unit``. ``figure_sheet`` draws what is to be drawn, to be given out with the guide, where that needs telling.
    """

    blank: Ideal
    frames: tuple[int, int]
    presets: tuple[Preset, ...]
    plan: Callable[[Brief], P]
    keys: Callable[[P], list[int]]
    shares: Callable[[P], dict[int, float]]
    by_hand: Callable[[P], dict[int, float]]
    free: Callable[[P, int], bool]
    slow_first: Callable[[P, int, int], bool]
    move_name: Callable[[P, int, int], str]
    gaps: Callable[[P], list[float]]
    gap_unit: str
    moments: Callable[[P], list[float]]
    sketch: Sketch[P]
    sentences: Callable[[Brief, P], list[str]]
    lengths: Callable[[Brief, P], str]
    disagreements: Callable[[Brief, P], dict[str, str]]
    handles: Callable[[Brief, P], list[Handle]]
    drag: Callable[[Brief, P, str, Place], dict[str, Any]]
    figure_sheet: Callable[[Brief, P], Element] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Exercise(Generic[P, S]):
    """One exercise.

    ``follow`` finds what moves in a clip, ``nothing`` is the track of one in which nothing was looked for (exposures,
    pictures); ``placed`` is a track with what a person put in place, who may place the shapes and the ``fixture``,
    and the points of each drawing that ``landmarks`` gives from a findings file's track: ``name``, ``label``, ``at`` px
    by drawing number, ``supposed`` the drawings in which that is only where a person may begin, and ``hangs_from`` the
    point above it on its limb, where there is one.
    ``drawn_over`` is what else is laid over a clip, from its findings file: ``parts`` the lines of each drawing (by
    number; ``points`` px, ``kind``), ``marks`` lines that show from a frame to another (``first``, ``last``).
    ``figured`` are the lines of one drawing's figure with some of its landmarks (px, by name) elsewhere, in the same
    form, from a findings file; where an exercise has none, there is no figure to draw anew.
    ``unsure`` are the drawings in which a person should look whether it was found, from a findings file's track;
    ``sides`` tells that it has a near and a far one, which may be taken for each other.
    ``look`` works out once what all checks need, None where the track tells no such motion; ``check`` gives the
    findings; ``lacks`` why there is nothing to judge, or not all, as preflight (code, message), ``lacking`` that code;
    ``told`` is the motion as the findings file tells it, ``track_told`` (with the scene) and ``track_read`` what the
    exercise adds to the track there; ``measures`` are the charts of a findings file; ``truth`` a plan as perfectly
    measured; ``facts`` what is asked (term, words). ``trails`` are the paths (px) by which a clip is known at a glance,
    from a findings file's track, where that is not the path of what moves.
    """

    key: str
    nouns: Nouns
    guided: Guided[P]
    follow: Callable[[Clip, Brief, Placement, Progress | None], Track]
    nothing: Callable[[tuple[Exposure, ...], tuple[int, ...]], Track]
    placed: Callable[[Track, Placement], Track]
    fixture: Literal["ground", "pivot"]
    look: Callable[[Track, Brief, int], S | None]
    check: Callable[[S], list[Finding]]
    lacks: Callable[[S], tuple[str, str] | None]
    told: Callable[[S | None], Told | None]
    track_told: Callable[[Track, S | None], Told]
    landmarks: Callable[[Told], list[Told]]
    drawn_over: Callable[[Told], Told]
    unsure: Callable[[Told], list[int]]
    sides: bool
    track_read: Callable[[Track, Told], Track]
    measures: Callable[[Told, Brief], tuple[Measure, ...]]
    truth: Callable[[P], Track]
    facts: Callable[[Brief], list[tuple[str, str]]]
    lacking: str = ""
    trails: Callable[[Told], list[list[list[float]]]] | None = None
    figured: Callable[[Told, int, Mapping[str, Sequence[float]]], list[Told]] | None = None
