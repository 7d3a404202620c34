"""Changing a brief that may have takes already."""

from __future__ import annotations

from django.db import transaction

from nettlecap.classroom import set_brief
from nettlecap.classroom.models import Brief, Person
from nettlecap.classroom.set_brief import Wanted
from nettlecap.takes.look_at import look_again


def change_brief(person: Person, brief: Brief, wanted: Wanted) -> int:
    """Change a brief; how many takes are looked at again because its parameters changed.

    Raises NotAllowed, BriefError; then nothing is changed.
    """
    with transaction.atomic():
        changed = set_brief.change_brief(person, brief, wanted)
        return look_again(brief) if changed else 0
