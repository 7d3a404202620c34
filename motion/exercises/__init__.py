"""The exercises: each in a room of its own behind one seam (``exercise``).

``EXERCISES`` lists them; whoever has a brief asks ``exercise_of``.
"""

from typing import Any

from motion.brief import Brief
from motion.exercises.bounce.exercise import BOUNCE
from motion.exercises.exercise import Exercise
from motion.exercises.pendulum.exercise import PENDULUM
from motion.exercises.walk.exercise import WALK

EXERCISES: dict[str, Exercise[Any, Any]] = {exercise.key: exercise for exercise in (BOUNCE, PENDULUM, WALK)}


def exercise_of(brief: Brief) -> Exercise[Any, Any]:
    """The exercise that a brief sets."""
    return EXERCISES[brief.exercise]
