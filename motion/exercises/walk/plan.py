"""The ideal walk drawn out: one pose a drawing, each as the figure is on its first frame.

The same plan is the brief's guide, what the generator draws, and what a guide's own checks look at.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from motion.exercises.walk.figure import SIDES, Place, Side
from motion.exercises.walk.ideal import BOTH, Gait, arms, body_at, head_at, landmarks, neck_at

Role = Literal["contact", "down", "passing", "up", "between"]
PHASES: tuple[tuple[Role, float], ...] = (("contact", 0.0), ("down", 0.2), ("passing", 0.5), ("up", 0.75))
"""The drawings of a step that have names, and where in the step they lie."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pose:
    """One drawing: the ellipse of its body, or of a whole figure's head, in px and degrees; every landmark in px.

    ``step`` counts from 0; ``phase`` is how much of it has gone by, 0 to 1. ``support`` names the sides that stand.
    """

    x: float
    y: float
    major: float
    minor: float
    angle: float
    frames: int
    role: Role
    step: int
    phase: float
    landmarks: Mapping[str, Place]
    support: tuple[Side, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Recipe:
    """A walk to plan. Lengths in px, ``facing`` 1 to the right and -1 to the left, ``step_frames`` frames a step.

    ``start_x`` is where the hips are on the first frame; ``across`` whether they travel; ``belt`` by how many px a
    frame the ground passes under them where they do not, below 0 to the left. ``body`` is how high the body of a figure
    on legs is; of a ``whole`` one how long its trunk is, and ``arms`` by how many degrees its arms swing either way.
    """

    gait: Gait
    width: int = 960
    height: int = 540
    fps: float = 24.0
    start_x: float = 480.0
    ground: float = 470.0
    facing: float = 1.0
    across: bool = False
    body: float = 110.0
    whole: bool = False
    arms: float = 0.0
    lean: float = 0.0
    step_frames: float = 12.0
    exposure: int = 1

    @property
    def belt(self) -> float:
        return 0.0 if self.across else -self.facing * self.gait.step / self.step_frames


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """The poses of a clip with what they were made from."""

    recipe: Recipe
    poses: tuple[Pose, ...]

    @property
    def width(self) -> int:
        return self.recipe.width

    @property
    def height(self) -> int:
        return self.recipe.height

    @property
    def fps(self) -> float:
        return self.recipe.fps

    @property
    def floor(self) -> tuple[float, float]:
        """The ground: px from the top, and its slope."""
        return self.recipe.ground, 0.0

    @property
    def frames(self) -> int:
        return sum(p.frames for p in self.poses)

    def first_frame(self, index: int) -> int:
        """The first frame of the pose at ``index`` (from 0)."""
        return 1 + sum(p.frames for p in self.poses[:index])


def pose(recipe: Recipe, time: float, frames: int, role: Role = "between") -> Pose:
    """The drawing at a time in frames from the first contact, at which the near foot lands."""
    mean = time / recipe.step_frames
    step, phase = recipe.gait.step_at(mean)
    model = landmarks(recipe.gait, mean)
    hips = recipe.gait.hips(0.0)[0] if recipe.across else model["hip"][0]
    places = {name: (recipe.start_x + recipe.facing * (x - hips), recipe.ground - y) for name, (x, y) in model.items()}
    lean = recipe.facing * recipe.lean
    if recipe.whole:
        places |= _upper(recipe, places["hip"], step + phase)
        x, y, major, minor, angle = head_at(places["neck"], recipe.gait.leg, lean)
    else:
        x, y, major, minor, angle = body_at(places["hip"], recipe.body, lean)
    landed = SIDES[step % 2]
    support: tuple[Side, ...] = (landed, SIDES[(step + 1) % 2]) if phase <= BOTH else (landed,)
    return Pose(
        x=x,
        y=y,
        major=major,
        minor=minor,
        angle=angle,
        frames=frames,
        role=role,
        step=step,
        phase=phase,
        landmarks=places,
        support=tuple(sorted(support, reverse=True)),
    )


def _upper(recipe: Recipe, hip: Place, steps: float) -> dict[str, Place]:
    """Neck, head, elbows and hands above a hip, px in the frame."""
    neck = neck_at(hip, recipe.body, recipe.facing * recipe.lean)
    hung = arms((0.0, 0.0), steps, recipe.gait.leg, recipe.arms)
    x, y, *_ = head_at(neck, recipe.gait.leg, recipe.facing * recipe.lean)
    return {
        "neck": neck,
        "head": (x, y),
        **{name: (neck[0] + recipe.facing * dx, neck[1] - dy) for name, (dx, dy) in hung.items()},
    }


def role_of(time: float, recipe: Recipe) -> Role:
    """What the drawing at a time (frames) is called: the one nearest to each of a step's named phases."""
    step, share = recipe.gait.step_at(time / recipe.step_frames)
    half = 0.5 * recipe.exposure / (recipe.step_frames * (1 + recipe.gait.limp * (1 if step % 2 == 0 else -1)))
    for role, phase in PHASES:
        off = (share - phase + 0.5) % 1.0 - 0.5
        if -half - 1e-9 <= off < half - 1e-9:
            return role
    return "between"


def keys_of(plan: Plan) -> list[int]:
    """Indices of the key drawings: the contacts, the first and the last."""
    contacts = {i for i, p in enumerate(plan.poses) if p.role == "contact"}
    return sorted({0, len(plan.poses) - 1} | contacts)


def shares_of(plan: Plan) -> dict[int, float]:
    """How far each in-between (index from 0) is on its way from the key before to the key after: in time."""
    shares = dict[int, float]()
    for before, after in itertools.pairwise(keys_of(plan)):
        start, end = plan.first_frame(before), plan.first_frame(after)
        shares |= {i: (plan.first_frame(i) - start) / (end - start) for i in range(before + 1, after)}
    return shares
