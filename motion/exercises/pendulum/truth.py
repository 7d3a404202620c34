"""A plan as the track that perfect measuring would give: for the checks without the pictures."""

from __future__ import annotations

from motion.clip import Exposure
from motion.exercises.pendulum.hung import told
from motion.exercises.pendulum.plan import Plan, Pose
from motion.track import Line, Pivot, Shape, Track

KIND, WEIGHT, LINE = "pendulum", "weight", "line"
END = "end"
"""What the upper end of the line is called where a person places it."""
"""What the track of a pendulum is called, and its parts."""
JOINT = "joint_"
"""... and a joint, followed by its number."""


def track_of(plan: Plan) -> Track:
    """The exact track of a plan, every pose a drawing of its own."""
    exposures = tuple(
        Exposure(drawing=i + 1, first_frame=plan.first_frame(i), frames=pose.frames)
        for i, pose in enumerate(plan.poses)
    )
    x, y = plan.recipe.pivot
    return of_parts(
        exposures,
        tuple(_shape(n, pose, plan) for n, pose in enumerate(plan.poses, start=1)),
        tuple(
            Line(
                drawing=n,
                points=told(pose, plan.recipe),
                confidence=0.99,
                wide=plan.recipe.wide or None,
                apart=dict(pose.apart),
                hook=pose.base if pose.base != pose.top else None,
            )
            for n, pose in enumerate(plan.poses, start=1)
        ),
        tuple(range(len(plan.poses))),
        Pivot(x=x, y=y, confidence=0.99) if plan.recipe.carriage is None else None,
    )


def of_parts(
    exposures: tuple[Exposure, ...],
    weights: tuple[Shape | None, ...],
    lines: tuple[Line | None, ...],
    pictures: tuple[int, ...],
    pivot: Pivot | None,
    **more: object,
) -> Track:
    """The track of a weight on its line, around a pivot where there is one."""
    return Track(
        kind=KIND,
        subject=WEIGHT,
        exposures=exposures,
        marks={WEIGHT: weights, LINE: lines},
        pictures=pictures,
        fixtures={"pivot": pivot} if pivot else {},
        **more,  # type: ignore[arg-type]
    )


def _shape(drawing: int, pose: Pose, plan: Plan) -> Shape:
    half = pose.major / 2
    inside = half <= pose.x <= plan.width - 1 - half and half <= pose.y <= plan.height - 1 - half
    return Shape(
        drawing=drawing,
        x=pose.x,
        y=pose.y,
        major=pose.major,
        minor=pose.minor,
        angle=pose.angle,
        bottom=pose.y + pose.minor / 2,
        clipped=not inside,
        confidence=0.99,
        bare=plan.recipe.hangs != "bob" and not plan.recipe.weighted,
    )
