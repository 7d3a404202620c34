"""Who sees what was measured in a clip: its markers, and its student once the marks are back, or on an own check."""

from __future__ import annotations

from typing import Any

from nettlecap.classroom import policy
from nettlecap.errors import NotAllowed
from nettlecap.marking.models import MarkSheet
from nettlecap.takes.models import Take

NOT_YET = "What was measured in this clip is shown with its marks, once they are returned."


def may_see_measures(person: Any, take: Take) -> bool:
    """Whether the path, the ground, the shapes and whatever follows from them are shown to this person."""
    if take.trial:
        # A draft is only looked through: the checks are another matter, and counted.
        return not take.draft and take.student_id == person.pk
    if policy.may_mark(person, take.brief.course_id):
        return True
    return MarkSheet.objects.filter(take=take, returned_at__isnull=False).exists()


def require_measures(person: Any, take: Take) -> None:
    """Raises NotAllowed where they are not."""
    if not may_see_measures(person, take):
        raise NotAllowed(NOT_YET)
