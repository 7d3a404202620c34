"""Opening a course, and changing what is said of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import transaction

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course, Membership, Person, Role
from nettlecap.classroom.set_brief import copy_brief

SAID = ("name", "school", "term", "begins_on", "ends_on")


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What a course is called, and when it is."""

    name: str
    school: str = ""
    term: str = ""
    begins_on: date | None = None
    ends_on: date | None = None

    @classmethod
    def of(cls, course: Course) -> Said:
        return cls(**{name: getattr(course, name) for name in SAID})

    @property
    def columns(self) -> dict[str, Any]:
        return {name: getattr(self, name) for name in SAID}


def open_course(person: Person, said: Said, like: Course | None = None) -> Course:
    """Open a course that this person leads; with drafts of the briefs of an earlier one, each due in a week."""
    policy.require(policy.may_open_courses(person), "open a course")
    with transaction.atomic():
        course = Course.objects.create(**said.columns)
        Membership.objects.create(course=course, person=person, role=Role.INSTRUCTOR)
        for brief in like.briefs.all() if like else ():
            copy_brief(person, brief, course)
    return course


def change_course(person: Person, course: Course, said: Said) -> None:
    """Change what is said of a course."""
    policy.require(policy.may_lead(person, course), "change this course")
    Course.objects.filter(pk=course.pk).update(**said.columns)
