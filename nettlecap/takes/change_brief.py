"""Changing a brief that may have takes already."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction

from nettlecap.classroom import set_brief
from nettlecap.classroom.models import Brief, Person
from nettlecap.classroom.set_brief import Wanted
from nettlecap.takes.look_again import look_again
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequences:
    """What a change of a brief means for what is handed in: counts of takes, students, and returned mark sheets."""

    takes: int
    students: int
    returned: int
    analysed_again: bool
    marked_otherwise: bool

    @property
    def worth_asking(self) -> bool:
        return bool(self.takes) and (self.analysed_again or self.marked_otherwise)


def consequences(brief: Brief, wanted: Wanted) -> Consequences:
    """What would follow from the change; nothing is done yet."""
    takes, before = Take.objects.filter(brief=brief), brief.core
    return Consequences(
        takes=takes.count(),
        students=takes.values("student").distinct().count(),
        returned=takes.filter(sheet__returned_at__isnull=False).count(),
        analysed_again=before.what_is_analysed() != wanted.core.what_is_analysed(),
        marked_otherwise=before.marking != wanted.core.marking or before.terms.late_cost != wanted.core.terms.late_cost,
    )


def change_brief(person: Person, brief: Brief, wanted: Wanted) -> int:
    """Change a brief; how many takes are looked at again because what is looked for changed.

    Raises NotAllowed; then nothing is changed.
    """
    with transaction.atomic():
        changed = set_brief.change_brief(person, brief, wanted)
        return look_again(brief) if changed else 0
