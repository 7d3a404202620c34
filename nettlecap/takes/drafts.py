"""Drafts: clips that a student looks through and puts right before they are handed in."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from motion import preparation
from motion.errors import MotionError
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes.arrivals import arrive_and_read
from nettlecap.takes.look_again import start_again
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.store import Uploaded


def look_through(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in a clip that its student looks through and puts right first; it is not handed in. Raises as ``hand_in``.

    A single picture is taken for a sheet of frames, with a guess at its grid. An earlier draft is replaced.
    """
    return arrive_and_read(student, brief, files, Arrival.As.DRAFT)


def put_right(student: Person, draft: Take, change: dict[str, Any]) -> None:
    """Change how a draft is read: keys of a preparation, None to take one back. Raises NotAllowed, Conflict, Refusal.

    The worker reads it so; what no longer fits (an end that was trimmed, after the order was changed) is said then,
    and nothing is changed.
    """
    policy.require(draft.student_id == student.pk, "change this clip")
    if not draft.draft:
        raise Conflict(
            "Only a clip that is looked through before it is handed in can be changed; hand in another take."
        )
    if draft.analysis.unfinished:
        raise Conflict("This clip is being looked at. Put it right when that is done.")
    if change.get("order"):
        change = {**change, "order": _reordered(draft, change["order"])}
    prepared = {k: v for k, v in {**draft.prepared, **change}.items() if v is not None}
    try:
        asked = preparation.from_json(prepared)
    except MotionError as error:
        raise Refusal(str(error)) from error
    with transaction.atomic():
        Take.everything.filter(pk=draft.pk).update(to_try=asked.to_json())
        start_again(draft)


def _reordered(draft: Take, order: list[int]) -> list[int]:
    """An order of the pictures as they are played now, told as one of the pictures in the file."""
    if "first" in draft.prepared or "last" in draft.prepared:
        raise Refusal("Take the trimming back first: the order is that of all pictures.")
    now = draft.prepared.get("order") or list(range(1, draft.pictures + 1))
    if sorted(order) != list(range(1, len(now) + 1)):
        raise Refusal("The order must name every picture once. Load the page again.")
    return [now[n - 1] for n in order]
