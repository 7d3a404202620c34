"""Giving a course another measure of what it may take up."""

from __future__ import annotations

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course, Person
from nettlecap.errors import Refusal
from nettlecap.watch.state import GIGABYTE

MOST_GIGABYTES, MOST_WAITING = 100_000.0, 100_000


def give(keeper: Person, course: Course, gigabytes: str, waiting: str) -> None:
    """Set both; nothing in a field goes back to what the settings say. Raises NotAllowed, or Refusal for no number."""
    policy.require(policy.keeps_house(keeper), "say what a course may take up")
    size, count = _number(gigabytes, MOST_GIGABYTES), _number(waiting, MOST_WAITING)
    course.most_bytes = int(size * GIGABYTE) if size is not None else None
    course.most_waiting = int(count) if count is not None else None
    course.save(update_fields=["most_bytes", "most_waiting"])


def _number(text: str, most: float) -> float | None:
    if not text.strip():
        return None
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = 0.0
    if not 0.001 <= value <= most:
        raise Refusal(f"Give a number up to {most:g}, or nothing for the usual measure.")
    return value
