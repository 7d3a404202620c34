"""What an instructor does with briefs: set, change, publish, copy, and exchange them as files."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from typing import Any

from django.db import transaction
from django.urls import reverse
from django.utils import timezone

import motion.brief
from motion.errors import BriefError
from motion.guide.guide import checked
from nettlecap.classroom import letters, policy
from nettlecap.classroom.models import Brief, Course, Membership, Person
from nettlecap.errors import Refusal
from nettlecap.guard import told_json

DUE_IN = timedelta(days=7)
DUE_HOUR = 18
LARGEST_FILE = 200_000
UNTITLED = "A brief without a title"


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a brief is to be. ``core`` is a sound brief whose guide, if any, can be drawn."""

    core: motion.brief.Brief
    due_at: datetime


def problems_with(parameters: dict[str, Any]) -> dict[str, str]:
    """What the core has against these parameters, by dotted field name; empty if nothing."""
    try:
        checked(motion.brief.from_json(parameters))
    except BriefError as error:
        return error.problems
    return {}


def set_brief(person: Person, course: Course, wanted: Wanted, *, publish: bool = True) -> Brief:
    """Set a new brief for a course. Raises NotAllowed, BriefError."""
    policy.require(policy.may_set_briefs(person, course), "set briefs in this course")
    with transaction.atomic():
        brief = Brief.objects.create(
            course=course,
            created_by=person,
            due_at=wanted.due_at,
            published_at=timezone.now() if publish else None,
            **_columns(wanted.core),
        )
        if publish:
            _tell(brief)
    return brief


def _tell(brief: Brief) -> None:
    students = Person.objects.filter(memberships__in=Membership.objects.learning().filter(course=brief.course_id))
    letters.write(students, "published", {"brief": brief, "link": reverse("brief", args=[brief.pk])})


def change_brief(person: Person, brief: Brief, wanted: Wanted) -> bool:
    """Change a brief; whether its takes must be looked at again."""
    policy.require(policy.may_set_briefs(person, brief.course), "change this brief")
    changed = wanted.core.what_is_analysed() != brief.core.what_is_analysed()
    columns = _columns(wanted.core)
    for name, value in columns.items():
        setattr(brief, name, value)
    brief.due_at = wanted.due_at
    brief.save(update_fields=["due_at", *columns])
    return changed


def publish(person: Person, brief: Brief, *, show: bool) -> None:
    """Show a brief to the students of its course, or take it back; takes that are handed in stay either way."""
    policy.require(policy.may_set_briefs(person, brief.course), "publish this brief")
    news = show and not brief.published
    brief.published_at = (brief.published_at or timezone.now()) if show else None
    with transaction.atomic():
        brief.save(update_fields=["published_at"])
        if news:
            _tell(brief)


def copy_brief(person: Person, brief: Brief, course: Course) -> Brief:
    """A draft in a course with all that a brief asks for, due in a week."""
    policy.require(policy.may_set_briefs(person, brief.course), "copy this brief")
    return set_brief(person, course, Wanted(core=brief.core, due_at=next_due()), publish=False)


def import_brief(person: Person, course: Course, text: bytes) -> Brief:
    """A draft from a brief file. Raises Refusal with what is wrong with the file; then nothing is set."""
    policy.require(policy.may_set_briefs(person, course), "set briefs in this course")
    if len(text) > LARGEST_FILE:
        raise Refusal(f"This is not a brief: it has more than {LARGEST_FILE // 1000} KB; a brief is a page of text.")
    told = told_json.read(text, dict, words="This is no brief file: it could not be read. Nothing was set.")
    try:
        core = checked(motion.brief.from_json(told))
    except BriefError as error:
        wrong = "; ".join(f"{key or 'file'}: {sentence}" for key, sentence in error.problems.items())
        raise Refusal(f"This brief cannot be taken in, and nothing was set. {wrong}"[:600]) from error
    titled = core if core.title.strip() else replace(core, title=UNTITLED)
    return set_brief(person, course, Wanted(core=titled, due_at=next_due()), publish=False)


def next_due() -> datetime:
    """In a week, in the evening."""
    day = timezone.localdate() + DUE_IN
    return timezone.make_aware(datetime.combine(day, time(DUE_HOUR)))


def _columns(core: motion.brief.Brief) -> dict[str, Any]:
    return {
        "title": core.title,
        "words": core.words,
        "parameters": replace(core, title="", words="").to_json(),
    }
