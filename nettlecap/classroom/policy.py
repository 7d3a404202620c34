"""Who may do what. The one place that is asked by queries, views and templates; the default is no."""

from __future__ import annotations

from typing import Any

from nettlecap.classroom.models import Brief, Course, Membership, Role
from nettlecap.errors import NotAllowed


def role_in(person: Any, course: Course | int) -> str | None:
    """What the person is in a course, None for nothing."""
    pk = course if isinstance(course, int) else course.pk
    return Membership.objects.filter(person_id=person.pk, course_id=pk).values_list("role", flat=True).first()


def may_mark(person: Any, course: Course | int) -> bool:
    """Whether the person marks in this course."""
    return role_in(person, course) in (Role.INSTRUCTOR, Role.ASSISTANT)


def may_set_briefs(person: Any, course: Course | int) -> bool:
    """Whether the person sets briefs in this course."""
    return role_in(person, course) == Role.INSTRUCTOR


def may_hand_in(person: Any, brief: Brief) -> bool:
    """Whether the person hands in to this brief, which must be published."""
    return brief.published and role_in(person, brief.course_id) == Role.STUDENT


def require(allowed: bool, what: str) -> None:
    """Refuse unless allowed; ``what`` completes “You may not …”."""
    if not allowed:
        raise NotAllowed(f"You may not {what}.")
