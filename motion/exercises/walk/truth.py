"""A plan as the track that perfect measuring would give: for the checks without the pictures."""

from __future__ import annotations

from motion.clip import Exposure
from motion.exercises.walk.figure import SIDES
from motion.exercises.walk.plan import Plan, Pose
from motion.track import Figure, Ground, Shape, Track

KIND, BODY, HEAD, FIGURE = "walk", "body", "head", "figure"
"""What the track of a walk is called, and its parts: of a whole figure its head stands for it."""


def track_of(plan: Plan) -> Track:
    """The exact track of a plan, every pose a drawing of its own."""
    exposures = tuple(
        Exposure(drawing=i + 1, first_frame=plan.first_frame(i), frames=pose.frames)
        for i, pose in enumerate(plan.poses)
    )
    ground, slope = plan.floor
    return of_parts(
        exposures,
        tuple(_shape(n, pose, plan) for n, pose in enumerate(plan.poses, start=1)),
        tuple(_figure(n, pose) for n, pose in enumerate(plan.poses, start=1)),
        tuple(range(len(plan.poses))),
        Ground(
            y_left=ground - slope * plan.width / 2,
            y_right=ground + slope * plan.width / 2,
            width=plan.width,
            confidence=0.99,
            drawn=True,
        ),
        whole=plan.recipe.whole,
    )


def of_parts(
    exposures: tuple[Exposure, ...],
    bodies: tuple[Shape | None, ...],
    figures: tuple[Figure | None, ...],
    pictures: tuple[int, ...],
    ground: Ground | None,
    *,
    whole: bool = False,
    **more: object,
) -> Track:
    """The track of a figure over its ground; the ``bodies`` of ``whole`` ones are their heads."""
    subject = HEAD if whole else BODY
    return Track(
        kind=KIND,
        subject=subject,
        exposures=exposures,
        marks={subject: bodies, FIGURE: figures},
        pictures=pictures,
        fixtures={"ground": ground} if ground else {},
        **more,  # type: ignore[arg-type]
    )


def _figure(drawing: int, pose: Pose) -> Figure:
    places = dict(pose.landmarks)
    lows: dict[str, float] = {side: max(places[f"heel_{side}"][1], places[f"toe_{side}"][1]) for side in SIDES}
    soles = [places[f"{end}_{side}"][0] for end in ("heel", "toe") for side in SIDES]
    return Figure(
        drawing=drawing,
        points=places,
        firm=frozenset(places),
        lows=lows,
        low=max(lows.values()),
        span=(min(soles), max(soles)),
        confidence=0.99,
    )


def _shape(drawing: int, pose: Pose, plan: Plan) -> Shape:
    half = pose.major / 2
    inside = half <= pose.x <= plan.width - 1 - half and half <= pose.y <= plan.height - 1 - half
    low = max(pose.landmarks[f"{end}_{side}"][1] for end in ("heel", "toe") for side in SIDES)
    return Shape(
        drawing=drawing,
        x=pose.x,
        y=pose.y,
        major=pose.major,
        minor=pose.minor,
        angle=pose.angle,
        bottom=low,
        clipped=not inside,
        confidence=0.99,
    )
