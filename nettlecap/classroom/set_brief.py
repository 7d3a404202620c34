"""Setting a brief, or changing one."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

import motion.brief
from motion.errors import BriefError
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Course, Person


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a brief is to be. ``parameters`` is a brief file's object."""

    title: str
    words: str
    parameters: dict[str, Any]
    points: dict[str, float]
    due_at: datetime


def problems_with(parameters: dict[str, Any]) -> dict[str, str]:
    """What the core has against these parameters, by dotted field name; empty if nothing."""
    try:
        motion.brief.from_json(parameters)
    except BriefError as error:
        return error.problems
    return {}


def set_brief(person: Person, course: Course, wanted: Wanted) -> Brief:
    """Set a new brief for a course. Raises NotAllowed, BriefError."""
    policy.require(policy.may_set_briefs(person, course), "set briefs in this course")
    core = motion.brief.from_json(wanted.parameters)
    return Brief.objects.create(
        course=course,
        title=wanted.title,
        words=wanted.words,
        parameters=core.to_json(),
        points=wanted.points,
        due_at=wanted.due_at,
        created_by=person,
    )


def change_brief(person: Person, brief: Brief, wanted: Wanted) -> bool:
    """Change a brief; whether its parameters changed, so that its takes must be looked at again."""
    policy.require(policy.may_set_briefs(person, brief.course), "change this brief")
    asked = motion.brief.from_json(wanted.parameters)
    changed = asked != brief.core
    brief.title, brief.words, brief.due_at = wanted.title, wanted.words, wanted.due_at
    brief.points, brief.parameters = wanted.points, asked.to_json()
    brief.save(update_fields=["title", "words", "due_at", "points", "parameters"])
    return changed
