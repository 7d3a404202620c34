"""What a findings file tells, read at one door: typed, indexed once, and as the present version says it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from motion.clip import Exposure
from motion.report.upgrade import upgraded

Told = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """From the drawing that begins on ``frame`` to the next, and what the model expects there, if it does."""

    frame: int
    gap: float
    expected: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """A moment by which two clips are laid together, in frames; ``first_frame`` where a drawing shows it."""

    time: float
    first_frame: int | None

    @property
    def frame(self) -> int:
        """The frame on which it is seen, or nearest to it."""
        return self.first_frame or round(self.time)


class Report:
    """A findings file (nettlecap.findings/1), of this version or an older one. ``data`` is all of it."""

    def __init__(self, data: Told) -> None:
        self.data = upgraded(data)

    @property
    def clip(self) -> Told:
        found: Told = self.data["clip"]
        return found

    @property
    def track(self) -> Told:
        found: Told = self.data["track"]
        return found

    @property
    def motion(self) -> Told:
        """The motion as it was read; empty where none could be told."""
        return self.data.get("motion") or {}

    @property
    def frames(self) -> int:
        return int(self.clip["frames"])

    @property
    def width(self) -> int:
        return int(self.clip["width"])

    @property
    def height(self) -> int:
        return int(self.clip["height"])

    @property
    def findings(self) -> list[Told]:
        found: list[Told] = self.data["findings"]
        return found

    @cached_property
    def exposures(self) -> tuple[Exposure, ...]:
        """Which drawing shows when."""
        return tuple(
            Exposure(drawing=e["drawing"], first_frame=e["first_frame"], frames=e["frames"])
            for e in self.clip["exposures"]
        )

    @cached_property
    def shapes(self) -> Mapping[int, Told]:
        """The subject's ellipse by drawing number; drawings in which it was not found are not among them."""
        return {shape["drawing"]: shape for shape in self.track["shapes"]}

    @cached_property
    def path(self) -> list[Told]:
        """The subject's ellipses in playing order."""
        return [self.shapes[e.drawing] for e in self.exposures if e.drawing in self.shapes]

    @property
    def ground(self) -> Told | None:
        return self.track.get("ground")

    @property
    def shifts(self) -> list[list[float]]:
        """How each drawing's picture lay against the first; empty where all lay still."""
        return self.track.get("shifts") or []

    @property
    def size(self) -> float | None:
        """How large the subject is, px."""
        return self.motion.get("size")

    @cached_property
    def gaps(self) -> tuple[Gap, ...]:
        """From each drawing to the next, in ``gap_unit``."""
        return tuple(
            Gap(frame=g["frame"], gap=float(g["gap"]), expected=g["expected"]) for g in self.motion.get("gaps", ())
        )

    @property
    def gap_unit(self) -> str:
        return str(self.motion.get("gap_unit", "px"))

    @cached_property
    def moments(self) -> tuple[Moment, ...]:
        """By what two clips of this motion are laid together, in order."""
        return tuple(Moment(**m) for m in self.motion.get("moments", ()))

    @cached_property
    def called(self) -> Mapping[int, str]:
        """What drawings are called in their motion, by first frame, where it has names for them."""
        return {c["frame"]: c["name"] for c in self.motion.get("called", ())}

    @property
    def keys(self) -> frozenset[int]:
        """First frames of the drawings that are keys."""
        return frozenset(self.motion.get("keys", ()))

    @property
    def breakdowns(self) -> frozenset[int]:
        """First frames of the breakdowns between the keys, where the motion itself tells them."""
        return frozenset(self.motion.get("breakdowns", ()))
