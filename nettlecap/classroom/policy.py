"""Who may do what. The one place that is asked by queries, views and templates; the default is no."""

from __future__ import annotations

from typing import Any

from nettlecap.classroom.models import Brief, Course, Membership, Role
from nettlecap.errors import NotAllowed


def role_in(person: Any, course: Course | int) -> str | None:
    """What the person is in a course now, None for nothing."""
    pk = course if isinstance(course, int) else course.pk
    return Membership.objects.of(person).current().filter(course_id=pk).values_list("role", flat=True).first()


def may_mark(person: Any, course: Course | int) -> bool:
    """Whether the person marks in this course."""
    return role_in(person, course) in (Role.INSTRUCTOR, Role.ASSISTANT)


def may_change_marks(person: Any, brief: Brief, student_id: int) -> bool:
    """Whether the person changes the marks of this student's clips: an assistant only those of their own share.

    What is in nobody's share is everybody's; and the brief may say that all mark all.
    """
    both = Membership.objects.filter(course=brief.course_id, person__in=(person.pk, student_id))
    known = {m.person_id: m for m in both}
    own, student = known.get(person.pk), known.get(student_id)
    if own is None or own.left_at is not None or own.role not in (Role.INSTRUCTOR, Role.ASSISTANT):
        return False
    if own.role == Role.INSTRUCTOR or brief.core.terms.marked_by == "all":
        return True
    return student is None or student.marker_id in (None, person.pk)


def may_set_briefs(person: Any, course: Course | int) -> bool:
    """Whether the person sets briefs in this course."""
    return role_in(person, course) == Role.INSTRUCTOR


def may_lead(person: Any, course: Course | int) -> bool:
    """Whether the person keeps this course: its days, its people, what goes out of it."""
    return role_in(person, course) == Role.INSTRUCTOR


def may_open_courses(person: Any) -> bool:
    """Whether the person may begin a course: whoever leads one, and whoever keeps the installation."""
    return person.is_staff or Course.objects.led_by(person).exists()


def keeps_house(person: Any) -> bool:
    """Whether the person keeps the installation: its outbox, and people who are in no course."""
    return bool(person.is_staff)


def may_hand_in(person: Any, brief: Brief) -> bool:
    """Whether the person hands in to this brief, which must be published."""
    return brief.published and role_in(person, brief.course_id) == Role.STUDENT


def require(allowed: bool, what: str) -> None:
    """Refuse unless allowed; ``what`` completes “You may not …”."""
    if not allowed:
        raise NotAllowed(f"You may not {what}.")
