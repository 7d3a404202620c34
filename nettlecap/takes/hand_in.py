"""Handing in, in one go: for commands and for what a student has checked already. Pages use ``arrivals``."""

from __future__ import annotations

from django.utils import timezone

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict
from nettlecap.takes.arrivals import arrive_and_read
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.numbering import number_take, numbered
from nettlecap.takes.store import Uploaded


def hand_in(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in one file, or several pictures that make one clip.

    Raises NotAllowed, or Refusal with a sentence about what is wrong with the files or why no further take is taken;
    then nothing is left behind.
    """
    return arrive_and_read(student, brief, files, Arrival.As.TAKE)


def try_out(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in a clip for its student to run the checks on; it is not handed in. Raises as ``hand_in``."""
    return arrive_and_read(student, brief, files, Arrival.As.CHECK)


def make_final(student: Person, trial: Take) -> Take:
    """Hand in a clip on which the checks were tried. Raises NotAllowed, Conflict, or Refusal; nothing changes then."""
    own = trial.student_id == student.pk and policy.may_hand_in(student, trial.brief)
    policy.require(own, "hand in this clip")
    take = Take.everything.select_related("brief", "student").get(pk=trial.pk)

    def record() -> None:
        if not Take.everything.select_for_update().get(pk=trial.pk).trial:
            raise Conflict("This clip is handed in already.")
        if take.to_try is not None:
            raise Conflict("What you put right is still being read. Hand it in when that is done.")
        take.trial, take.handed_in_at = False, timezone.now()
        number_take(take)
        take.save(update_fields=["trial", "handed_in_at", "number"])

    numbered(take, record)
    return take
