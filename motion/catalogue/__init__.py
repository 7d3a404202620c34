"""What can be wrong: the principles, and each exercise's faults against them, a module an exercise.

Nothing here computes or imports anything else of the core; every name that a person reads of a fault stands here once.
"""

from motion.catalogue import bounce, pendulum, walk
from motion.catalogue.fault import Fault
from motion.catalogue.principles import PRINCIPLE_NAMES, PRINCIPLES, Principle

BY_EXERCISE: dict[str, tuple[Fault, ...]] = {
    "bounce": bounce.FAULTS,
    "pendulum": pendulum.FAULTS,
    "walk": walk.FAULTS,
}
"""Every exercise's faults, in the order in which they are told."""


def faults(exercise: str) -> dict[str, Fault]:
    """An exercise's faults by their codes, in order; none for an exercise that is not known."""
    return {fault.code: fault for fault in BY_EXERCISE.get(exercise, ())}


def name_of(exercise: str, code: str) -> str:
    """A fault in a few words, or its code where the exercise does not know it any more."""
    known = faults(exercise).get(code)
    return known.name if known else code


__all__ = ["BY_EXERCISE", "PRINCIPLES", "PRINCIPLE_NAMES", "Fault", "Principle", "faults", "name_of"]
