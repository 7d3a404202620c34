"""An ideal motion drawn out, as all that draws or teaches it sees it: one pose a drawing, whatever the exercise."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol


class Pose(Protocol):
    """One drawing of what moves: its ellipse (px, degrees), its exposure in frames, and what it is in the motion."""

    @property
    def x(self) -> float: ...
    @property
    def y(self) -> float: ...
    @property
    def major(self) -> float: ...
    @property
    def minor(self) -> float: ...
    @property
    def angle(self) -> float: ...
    @property
    def frames(self) -> int: ...
    @property
    def role(self) -> str: ...


class Plan(Protocol):
    """The poses of a clip in a frame of ``width`` by ``height`` px, at ``fps`` frames a second."""

    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def fps(self) -> float: ...
    @property
    def poses(self) -> Sequence[Pose]: ...
    @property
    def frames(self) -> int:
        """The clip's length."""
        ...

    def first_frame(self, index: int) -> int:
        """The first frame of the pose at ``index`` (from 0)."""
        ...
