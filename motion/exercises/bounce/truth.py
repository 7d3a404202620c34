"""A plan as the track that perfect measuring would give: for the checks without the pictures."""

from __future__ import annotations

import numpy as np

from motion.clip import Exposure
from motion.exercises.bounce.plan import Plan
from motion.track import Ground, Shape, Track, of_shapes
from motion.tracking.ellipse import Ellipse

KIND = "ball"
"""What the track of a bounce is called, and the one part that it has."""


def track_of(plan: Plan) -> Track:
    """The exact track of a plan, every pose a drawing of its own."""
    exposures = tuple(
        Exposure(drawing=i + 1, first_frame=plan.first_frame(i), frames=pose.frames)
        for i, pose in enumerate(plan.poses)
    )
    shapes = []
    for number, pose in enumerate(plan.poses, start=1):
        ellipse = Ellipse(x=pose.x, y=pose.y, major=pose.major, minor=pose.minor, angle=pose.angle)
        shapes.append(
            Shape(
                drawing=number,
                x=pose.x,
                y=pose.y,
                major=pose.major,
                minor=pose.minor,
                angle=pose.angle,
                bottom=ellipse.bottom,
                clipped=_reaches_out(ellipse, plan),
                confidence=0.99,
            )
        )
    width = plan.recipe.width
    return of_shapes(
        exposures=exposures,
        shapes=tuple(shapes),
        pictures=tuple(range(len(shapes))),
        kind=KIND,
        subject=KIND,
        ground=Ground(
            y_left=plan.ground_at(0.0),
            y_right=plan.ground_at(width - 1.0),
            width=width,
            confidence=0.99,
            drawn=True,
        ),
    )


def _reaches_out(ball: Ellipse, plan: Plan) -> bool:
    outline = ball.points(np.linspace(0, 2 * np.pi, 24, endpoint=False))
    return bool((outline < -1).any() or (outline > np.array([plan.recipe.width, plan.recipe.height])).any())
